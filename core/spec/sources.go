package spec

import "strings"

// SourceKind is where a stored column's value comes from, by its key in documents.
type SourceKind string

// The kinds of sources.
const (
	SourceFrom       SourceKind = "from"           // a field, as the server's steps leave it
	SourceSecret     SourceKind = "secret"         // the hash of a secret field
	SourceNow        SourceKind = "now"            // the time of storing
	SourceConstant   SourceKind = "is"             // a constant
	SourceNull       SourceKind = "null"           // NULL
	SourceAny        SourceKind = "any"            // anything
	SourceExpression SourceKind = "cel"            // what an expression computes
	SourceKeyOf      SourceKind = "key_of"         // the key of a row that the same case writes
	SourceSignedIn   SourceKind = "signed_in"      // the signed-in user's key
	SourceGenerated  SourceKind = "generated"      // an identifier made by site or server
	SourceClient     SourceKind = "client_address" // the visitor's address
	SourceDefault    SourceKind = "default"        // the column's default
	SourceUnchanged  SourceKind = "unchanged"      // what it held before
)

// sourceKinds are the kinds in the order in which documents list them, with how a source of each is known. A new kind is a member of Source and
// an entry here; core/oracle says what it must hold, and core/wording/promise how it is said.
var sourceKinds = []struct {
	kind SourceKind
	set  func(s *Source) bool
}{
	{SourceFrom, func(s *Source) bool { return s.From != "" }},
	{SourceSecret, func(s *Source) bool { return s.Secret != "" }},
	{SourceNow, func(s *Source) bool { return s.Now != nil }},
	{SourceConstant, func(s *Source) bool { return s.Is != nil }},
	{SourceNull, func(s *Source) bool { return s.Null }},
	{SourceAny, func(s *Source) bool { return s.Any }},
	{SourceExpression, func(s *Source) bool { return s.Cel != "" }},
	{SourceKeyOf, func(s *Source) bool { return s.KeyOf != "" }},
	{SourceSignedIn, func(s *Source) bool { return s.SignedIn }},
	{SourceGenerated, func(s *Source) bool { return s.Generated != "" }},
	{SourceClient, func(s *Source) bool { return s.Client }},
	{SourceDefault, func(s *Source) bool { return s.Default }},
	{SourceUnchanged, func(s *Source) bool { return s.Unchanged }},
}

// Kind is the source's kind, "" where none is set; the first where several are, which no form that was read has.
func (s *Source) Kind() SourceKind {
	for i := range sourceKinds {
		if sourceKinds[i].set(s) {
			return sourceKinds[i].kind
		}
	}
	return ""
}

// count is how many kinds are set.
func (s *Source) count() (n int) {
	for i := range sourceKinds {
		if sourceKinds[i].set(s) {
			n++
		}
	}
	return n
}

// Values lists the kinds.
func (SourceKind) Values() []string {
	out := make([]string, len(sourceKinds))
	for i := range sourceKinds {
		out[i] = string(sourceKinds[i].kind)
	}
	return out
}

// writeOneSource is what to do where a column has none, or several.
func writeOneSource() string { return "write one of: " + strings.Join(SourceKind("").Values(), ", ") }
