package contradiction

import (
	"fmt"
	"time"

	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Kind names a kind of contradiction.
type Kind string

// The kinds of contradictions.
const (
	MinimumAboveMaximum Kind = "minimum above maximum"
	NothingMatches      Kind = "pattern that nothing of the allowed length matches"
	InitialRejected     Kind = "initial value that is rejected"
	ExampleRejected     Kind = "example that is rejected"
	RulesExclude        Kind = "rules that exclude each other"
	MessageShared       Kind = "message that rules share"
	ReplyUnreachable    Kind = "success reply that no input reaches"
	StateUnreachable    Kind = "state that no path reaches"
	ColumnShorter       Kind = "column shorter than the rule"
	NotNullOptional     Kind = "NOT NULL on an optional field"
	NotNullUnfilled     Kind = "NOT NULL without control or default"
	ColumnMissing       Kind = "column that does not exist"
	ControlUnnamed      Kind = "control without a request name"
	OtherTarget         Kind = "another form target than said"
	MarkDiffers         Kind = "required mark that differs from the rule"
	BrowserStricter     Kind = "browser rule stricter than the server's"
	UnitsDiffer         Kind = "length counted in different units"
	NoLimit             Kind = "field with no limit anywhere"
)

// Contradiction is two places that cannot hold together, with the proof.
type Contradiction struct {
	Kind Kind `json:"kind"`
	// Field is the id of the field it is about, "" for none.
	Field string `json:"field,omitempty"`
	// Path is its place in the document, Other the second place: another path, a column, or something on the page.
	Path  string     `json:"path"`
	Other prose.Text `json:"other,omitempty"`
	// Words say it in a sentence; Proof is the value or the bounds that show it; Remedy what to do.
	Words  prose.Text `json:"words"`
	Proof  prose.Text `json:"proof"`
	Remedy prose.Text `json:"remedy"`
	// Undecided: neither automata nor exhaustion could tell; within so many tries nothing was found.
	Undecided bool `json:"undecided,omitempty"`
	// Note: nothing is wrong, and it is only worth knowing.
	Note bool `json:"note,omitempty"`
}

// Against is what a form is held against besides itself; any of it may be missing.
type Against struct {
	Site   *spec.Site
	Page   *observation.FormOnPage
	Schema *schema.Database
	Now    time.Time
}

// Find computes all contradictions of a form, in the order of its fields.
func Find(p *spec.Prepared, a Against) []Contradiction {
	f := &finder{p: p, a: a, out: []Contradiction{}, never: map[*spec.PreparedRule]bool{}}
	for i := range p.Fields {
		field := newField(p.Fields[i])
		f.field(field)
		f.browserStricter(field)
		f.fieldOnPage(field)
		f.columns(field)
		f.limits(field)
	}
	f.messages()
	f.across()
	f.replies()
	f.page()
	f.tables()
	f.states()
	return f.out
}

type finder struct {
	p   *spec.Prepared
	a   Against
	out []Contradiction
	// never are the rules over fields that are found never to hold: what follows from that is not told again.
	never map[*spec.PreparedRule]bool
	// usualVars are the values that cases begin with, once usualMade.
	usualVars map[string]any
	usualMade bool
}

// Impassable tells that some field has no value that passes, or that the document gives a wrong one: what such a form is judged by is
// worth mending first.
func (c *Contradiction) Impassable() bool {
	switch c.Kind {
	case MinimumAboveMaximum, NothingMatches, RulesExclude, ExampleRejected:
		return !c.Undecided
	}
	return false
}

// add keeps a contradiction, in the words of a clash with its places filled in. A proof that is given is not made of the clash.
func (f *finder) add(c Contradiction, says *phrases.Clash, places ...any) {
	c.Words, c.Remedy = says.Words.With(places...), says.Remedy.With(places...)
	if c.Proof == "" {
		c.Proof = says.Proof.With(places...)
	}
	f.out = append(f.out, c)
}

// Problem is a contradiction as a problem of its document, for those who read files.
func (c Contradiction) Problem(form *spec.Form) spec.Problem {
	return form.Problem(c.Path, fmt.Sprint(c.Remedy), "%s", phrases.Drifting.With("what", c.Words, "proof", c.Proof))
}

func quoted(v string) prose.Text {
	runes := []rune(v)
	if len(runes) > 40 {
		return phrases.BeginningOfValue.With("beginning", string(runes[:24]), "n", len(runes))
	}
	return phrases.WholeValue.With("value", v)
}
