// Package submission is what is sent to a form, and what must be looked up of it.
package submission

import (
	"slices"
	"sync"

	"oddtick/core/spec"
)

// Driver is how a submission is made.
type Driver string

// The drivers.
const (
	HTTP    Driver = "http"
	Browser Driver = "browser"
)

// Submission is what is sent: name and value pairs in order, as bytes. A name may be repeated, absent or unknown to the form.
type Submission struct {
	Driver   Driver `json:"driver"`
	Encoding string `json:"encoding"`
	Pairs    []Pair `json:"pairs"`
	// Without are tokens that are left out on purpose. A page that lacks one by itself is none of the submission's doing.
	Without []string `json:"without,omitempty"`
	// Body is sent as it is, in place of the pairs.
	Body *string `json:"body,omitempty"`
	// Replaced is what the browser is given in place of the answer.
	Replaced spec.Replaced `json:"replaced,omitempty"`
	// BackAndForth goes back to the form's first step before it is submitted, and forth again.
	BackAndForth bool `json:"back_and_forth,omitempty"`
	// Mistake is entered first, and corrected before anything is sent.
	Mistake *Mistake `json:"mistake,omitempty"`
	// Altered: a value that the page does not let a visitor change is another.
	Altered bool `json:"altered,omitempty"`
	// Forged is what the request does that no page does.
	Forged Forgery `json:"forged,omitempty"`
	// MayRefuse: nothing is promised of its values, so that a site may refuse them.
	MayRefuse bool `json:"may_refuse,omitempty"`
	// Record is the id of the request about another record, of one that is about one.
	Record string `json:"record,omitempty"`
}

// Mistake is a value that breaks one rule, with the message of the rule and when it must come.
type Mistake struct {
	Name      string            `json:"name"` // request name of the field
	Value     string            `json:"value"`
	Message   Message           `json:"message"`
	MessageOn spec.MessageEvent `json:"comes"`
}

// Forgery is what a request does that the page's own form never does.
type Forgery string

// The forgeries.
const (
	// ForeignToken sends the token of another visitor's session.
	ForeignToken Forgery = "another session's token"
	// OtherMethod sends by GET what is to be sent by POST, and the other way round.
	OtherMethod Forgery = "another method"
	// OtherType says that the body is plain text.
	OtherType Forgery = "another content type"
	// AsLists sends each field's value as a list of one.
	AsLists Forgery = "lists for values"
	// Repeated sends each field's parameter twice.
	Repeated Forgery = "each parameter twice"
	// AsObjects and AsBooleans send each member of a JSON object as an object, and as true; MembersTwice sends each member twice.
	AsObjects    Forgery = "objects for values"
	AsBooleans   Forgery = "truth values for values"
	MembersTwice Forgery = "each member twice"
	// SignedOut sends what somebody who is signed in would send, as somebody who is not.
	SignedOut Forgery = "nobody signed in"
	// TooLarge has a parameter more, of many bytes; Undecodable a value that is not in UTF-8.
	TooLarge    Forgery = "too large"
	Undecodable Forgery = "not in UTF-8"
	// OverridesMethod asks by a parameter to be taken as a request to delete.
	OverridesMethod Forgery = "another method by a parameter"
	// OtherRecord is about another record, or by somebody else: see Submission.Record.
	OtherRecord Forgery = "another record"
)

// Pair is one name and value as they are sent, before the encoding's escapes.
type Pair struct {
	Name  string `json:"name"`
	Value string `json:"value"`
	// File is what an upload sends; Value is then the same in words.
	File *spec.Attachment `json:"file,omitempty"`
	// Null sends JSON's null.
	Null bool `json:"null,omitempty"`
}

// AsNull tells whether JSON's null is sent for a field's value: where it is asked for, and for a number or time that is blank.
func (s *Submission) AsNull(f *spec.PreparedField, pair *Pair) bool {
	if pair.Null || s.Encoding != "json" || pair.Value != "" {
		return pair.Null
	}
	switch f.Kind {
	case spec.Number, spec.Date, spec.Time, spec.DateTime:
		return true
	}
	return false
}

// Value returns the first value sent under a name.
func (s *Submission) Value(name string) (value string, present bool) {
	for i := range s.Pairs {
		if s.Pairs[i].Name == name {
			return s.Pairs[i].Value, true
		}
	}
	return "", false
}

// Of returns the value sent for a field: of those under its name, the one at its place among the fields of that name.
func (s *Submission) Of(f *spec.PreparedField) (value string, present bool) {
	n := f.Nth
	for i := range s.Pairs {
		if s.Pairs[i].Name != f.Name {
			continue
		}
		if n == 0 {
			return s.Pairs[i].Value, true
		}
		n--
	}
	return "", false
}

// AllOf returns all values sent for a field: those under its name, or the one at its place where other fields have that name too.
func (s *Submission) AllOf(f *spec.PreparedField) []string {
	if f.Kind == spec.MultipleChoice {
		return s.Values(f.Name)
	}
	if value, present := s.Of(f); present {
		return []string{value}
	}
	return nil
}

// Values returns all values sent under a name, in their order.
func (s *Submission) Values(name string) []string {
	var out []string
	for i := range s.Pairs {
		if s.Pairs[i].Name == name {
			out = append(out, s.Pairs[i].Value)
		}
	}
	return out
}

// ValuesOf takes every field's value through its normalising, by field index, into a slice that is lent: release gives it back.
func (s *Submission) ValuesOf(p *spec.Prepared) (list []spec.Value, release func()) {
	lent := valueSlices.Get().(*[]spec.Value)
	list = (*lent)[:0]
	at := 0
	for _, f := range p.Fields {
		var sent string
		present := at < len(s.Pairs) && s.Pairs[at].Name == f.Name
		if present { // most are sent in page order
			sent = s.Pairs[at].Value
			at++
		} else {
			sent, present = s.Of(f)
		}
		list = append(list, f.ValueOf(sent, present))
		if s.Encoding == "json" && present && sent == "" {
			i := slices.IndexFunc(s.Pairs, func(p Pair) bool { return p.Name == f.Name })
			list[len(list)-1].Null = s.AsNull(f, &s.Pairs[i])
		}
		if f.Kind == spec.MultipleChoice {
			list[len(list)-1].Choose(s.Values(f.Name))
		}
	}
	return list, func() {
		*lent = list
		valueSlices.Put(lent)
	}
}

var valueSlices = sync.Pool{New: func() any { return new([]spec.Value) }}

// Message is one message that must be seen.
type Message struct {
	Rule   string        `json:"rule"`
	Field  string        `json:"field,omitempty"` // id
	Place  spec.Place    `json:"place"`
	Says   *spec.Message `json:"says,omitempty"` // nil: any text that names what is wrong
	Text   string        `json:"text,omitempty"` // the exact text in the visitor's language, if promised
	Linked bool          `json:"tied,omitempty"`
	// OrBrowsers: the browser's own words will do as well.
	OrBrowsers bool `json:"or_browsers,omitempty"`
}
