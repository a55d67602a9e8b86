// Package testcase holds cases: their ids and steps, recipes of values and what they stand for, and the builder that techniques add cases to.
//
//	case.go, cover.go   a case, and what it covers
//	recipe.go           how a value is made when the case is submitted, and the resolving of recipes
//	maker.go            a form made ready: its usual values, and the reference day
//	sets.go             the sets of values of a field: all rules kept, or exactly one broken
//	candidates.go       values between which an expression may change
//	builder.go          collects cases, and asks the oracle what each leads to
//	reader.go           what cases send
package testcase

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/values"
)

// Depth is how many cases are computed.
type Depth string

// The depths. Each holds the cases of the ones before it.
const (
	Quick    Depth = "quick"
	Standard Depth = "standard"
	Thorough Depth = "thorough"
)

// Depths lists the depths, least first.
var Depths = []Depth{Quick, Standard, Thorough}

// Technique is a test design technique by its name in ISO/IEC/IEEE 29119-4.
type Technique string

// The techniques.
const (
	Partitioning  Technique = "equivalence partitioning"
	Boundaries    Technique = "boundary value analysis"
	DecisionTable Technique = "decision table"
	Combination   Technique = "combinatorial"
	Transitions   Technique = "state transition"
	Syntax        Technique = "syntax testing"
	Random        Technique = "random"
	EachChoice    Technique = "each choice"
	ErrorGuessing Technique = "error guessing"
)

// The rows below the fields.
const (
	RowAcross     = "across"
	RowUniqueness = "uniqueness"
	RowForm       = "form"
	RowOwn        = "own"
)

// Case is one test case. Its id names what it is about by roles, never by position, value or expectation.
type Case struct {
	ID        string     `json:"id"`
	Title     prose.Text `json:"title"`
	Row       string     `json:"row"` // a field's id, or one of the rows below the fields
	Technique Technique  `json:"technique"`
	// Covers are the rules, partitions and boundaries that it puts to the test.
	Covers []Cover `json:"covers"`
	// Twin are those of the case that it makes in another language, or in the browser.
	Twin  []Cover `json:"twin,omitempty"`
	Steps []Step  `json:"steps"`
	// Language is what the visitor asks for (a language tag, BCP 47), where it is not the usual one of the site.
	Language string `json:"language,omitempty"`
	// ChosenBy is how the visitor chooses it.
	ChosenBy spec.ChosenBy `json:"chosen_by,omitempty"`
	// JudgesPage: the page of the form is judged too.
	JudgesPage bool `json:"judges_page,omitempty"`
	Mark       Mark `json:"mark"`
	// Edit is what testers changed about it, nil for nothing.
	Edit *spec.CaseEdit `json:"edit,omitempty"`
	// Browsing is the way in which its browser is used, "" for a wide screen with keyboard and mouse.
	Browsing spec.Browsing `json:"browsing,omitempty"`
	// LockableAccount: it is made with an account that may be locked.
	LockableAccount bool `json:"spare,omitempty"`
	// Level is the place of the case's depth among Depths.
	Level int `json:"-"`
	// Name is what the id is made of.
	Name Name `json:"-"`
}

// By is the id of the case with the same input by a driver; "" for a case that a tester wrote.
func (c *Case) By(driver submission.Driver) string {
	if c.Name.Form == "" {
		return ""
	}
	other := c.Name
	other.Driver = driver
	return other.id()
}

// CoversThis tells whether something is among what it covers.
func (c *Case) CoversThis(kind CoverKind, of, point string) bool {
	return slices.Contains(c.Covers, Cover{kind, of, point})
}

// Off tells whether the case is switched off.
func (c *Case) Off() bool { return c.Edit != nil && c.Edit.Skip != "" }

// InBrowser tells whether the case's steps are made in a browser.
func (c *Case) InBrowser() bool {
	return slices.ContainsFunc(c.Steps, func(s Step) bool { return s.Driver == submission.Browser })
}

// SendsTooMany tells whether one of the case's steps is to be refused for how many there were.
func (c *Case) SendsTooMany() bool {
	return slices.ContainsFunc(c.Steps, func(s Step) bool { return s.TooMany })
}

// Depth is the least depth that holds the case.
func (c *Case) Depth() Depth { return Depths[c.Level] }

// Step is one thing a visitor does.
type Step struct {
	Do     Action  `json:"do"`
	Inputs []Input `json:"inputs,omitempty"`
	// Extra are surplus parameters; Without are names left out of the page's own controls.
	Extra   []submission.Pair `json:"extra,omitempty"`
	Without []string          `json:"without,omitempty"`
	Driver  submission.Driver `json:"driver"`
	// Body is sent as it is, in place of the inputs.
	Body *string `json:"body,omitempty"`
	// Replaced is what the browser is given in place of the site's answer.
	Replaced spec.Replaced `json:"replaced,omitempty"`
	// BackAndForth goes back to the form's first step before it is submitted, and forth again.
	BackAndForth bool `json:"back_and_forth,omitempty"`
	// Mistake is entered first in one field, which is left, and then corrected.
	Mistake *Mistake `json:"mistake,omitempty"`
	// Unchecked switches the browser's own checks off, so that the server's answer is seen.
	Unchecked bool `json:"unchecked,omitempty"`
	// Concurrent: it is released at the same moment as the step before it, by a visitor of its own.
	Concurrent bool `json:"together,omitempty"`
	// OnResultPage: it is filled in on the page that the step before led to, not on one opened anew.
	OnResultPage bool `json:"onward,omitempty"`
	// Back: it is sent from the page that the step before was sent from, as after going back.
	Back bool `json:"back,omitempty"`
	// Altered: it changes a value that the page does not let a visitor change.
	Altered bool `json:"altered,omitempty"`
	// MayRefuse: nothing is promised of its values, so that a site may refuse them.
	MayRefuse bool `json:"may_refuse,omitempty"`
	// SetupOnly: it is made for the steps after it, and judged no further than that it is answered. AccountLocked: the account is locked by then.
	SetupOnly     bool `json:"aside,omitempty"`
	AccountLocked bool `json:"locked,omitempty"`
	// TooMany: as many as are accepted within a minute were.
	TooMany bool `json:"too_many,omitempty"`
	// Wait is how long is waited before it, in seconds.
	Wait float64 `json:"wait,omitempty"`
	// WithSecondSession: another session of the account stands by.
	WithSecondSession bool `json:"beside,omitempty"`
	// Forged is what a request does that no page does.
	Forged submission.Forgery `json:"forged,omitempty"`
	// Record is the id of the request about another record that it is.
	Record string `json:"record,omitempty"`
	// Expect is the outcome the oracle gives on the reference day, and Breaks the rules that fail then. When the case is
	// submitted the oracle is asked anew.
	Expect oracle.Outcome `json:"expect"`
	Breaks []string       `json:"breaks,omitempty"`
}

// Action is what a step does.
type Action string

// The actions.
const (
	Submit Action = "submit"
	Reload Action = "reload"
)

// Input is one field with the recipe of its value.
type Input struct {
	Field  string `json:"field"`
	Recipe Recipe `json:"recipe"`
}

// Mistake is an input that breaks one rule.
type Mistake struct {
	Rule string `json:"rule"`
	Input
}

// Mark is where a case's tick lies: on which scale of its row, in which order, under which label.
type Mark struct {
	Scale string `json:"scale"`
	// Name is what the scale is called, where Scale is the id of a rule or a table.
	Name string `json:"name,omitempty"`
	// At orders the ticks and, for a numeric scale, is the place: a length, a number, days relative to the bound.
	At float64 `json:"at"`
	// Label is a value, or the code of a word (core/wording/phrases). Given: it stands in the document, such as the value of an option, and
	// is no code, whatever it reads. Variant tells apart two values of one label: a length of characters
	// beyond ASCII (wide), or with spaces around it (trimmed).
	Label   string `json:"label"`
	Given   bool   `json:"given,omitempty"`
	Variant string `json:"variant,omitempty" enum:"wide,trimmed"`
}

// Writes tells whether any step is expected to change a table.
func (c *Case) Writes() bool {
	for _, s := range c.Steps {
		if s.Expect == oracle.Accepted || s.Expect == oracle.Answered || s.Forged != "" {
			return true
		}
	}
	return false
}

// Last is the step the case is about.
func (c *Case) Last() *Step { return &c.Steps[len(c.Steps)-1] }

// About is the number of the last submission, which the case is about.
func (c *Case) About() int {
	at := len(c.Steps) - 1
	for at > 0 && c.Steps[at].Do != Submit {
		at--
	}
	return at
}

// Length is the unit of a mark on a scale of lengths.
func (m Mark) Length() (unit values.Unit, is bool) {
	unit, is = lengths[m.Scale]
	return unit, is
}

// Measured tells whether a mark lies on a scale of lengths, sizes, numbers or days.
func (m Mark) Measured() bool {
	_, length := m.Length()
	return length || m.Ordered() || m.Scale == Sizes
}

// Ordered tells whether a mark lies on a scale of numbers or days.
func (m Mark) Ordered() bool { return m.Scale == "value" || m.Scale == "date" }

// The variants of marks.
const (
	WideMark    = "wide"
	TrimmedMark = "trimmed"
)

// Sizes is the scale of the sizes of files.
const Sizes = "size, bytes"

// lengths are the units of the scales of lengths, which is what they are called.
var lengths = map[string]values.Unit{
	scaleOfLengths(values.Characters): values.Characters, scaleOfLengths(values.UTF16): values.UTF16, scaleOfLengths(values.Bytes): values.Bytes,
	scaleOfLengths(values.Graphemes): values.Graphemes,
}

func scaleOfLengths(unit values.Unit) string { return "length, " + string(unit) }

// ScaleOf names a field's main scale.
func ScaleOf(f *spec.PreparedField) string {
	switch f.Kind {
	case spec.Number:
		return "value"
	case spec.Date:
		return "date"
	case spec.Time, spec.DateTime:
		return "time"
	case spec.SingleChoice, spec.MultipleChoice:
		return "choice"
	case spec.Checkbox:
		return "state"
	}
	if r := RuleOf(f, spec.RuleLength); r != nil {
		return scaleOfLengths(r.Limit.Unit)
	}
	return "text"
}

// Strength is that of the combinations it covers first, 0 where it covers none.
func (c *Case) Strength() int {
	for strength, kind := range CombinedKinds {
		if strength > 0 && slices.ContainsFunc(c.Covers, func(about Cover) bool { return about.Kind == kind }) {
			return strength
		}
	}
	return 0
}
