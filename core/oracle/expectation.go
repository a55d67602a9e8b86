package oracle

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/spec"
)

// Outcome is how a submission ends.
type Outcome string

// The outcomes; an expectation holds one of the first six.
const (
	Accepted          Outcome = "accepted"
	RejectedByBrowser Outcome = "rejected by the browser"
	RejectedByServer  Outcome = "rejected by the server"
	// NothingFurther is expected of steps that submit nothing, such as a reload after a redirect.
	NothingFurther Outcome = "nothing further"
	// Answered: whatever the site makes of it, it does not fail. So much is expected of requests that no page sends.
	Answered Outcome = "answered"
	// NotAnswered: no usable answer came, and the page copes with it.
	NotAnswered   Outcome = "not answered"
	Failed        Outcome = "failed"
	Silent        Outcome = "silent"
	Contradictory Outcome = "contradictory"
)

// Expectation is what a submission must lead to, check by check.
type Expectation struct {
	// Language is what the visitor asks for.
	Language string    `json:"language,omitempty"`
	Outcome  Outcome   `json:"outcome"`
	Failing  []Failure `json:"failing,omitempty"`
	// Status is the first response's; 0 is not promised. To is the redirect's target, "" when not promised.
	Status   int       `json:"status,omitempty"`
	To       string    `json:"to,omitempty"`
	Messages []Message `json:"messages,omitempty"`
	Reply    string    `json:"reply,omitempty"`
	Shown    []Shown   `json:"shown,omitempty"`
	// Gone is a text that must not be seen any more.
	Gone     string     `json:"gone,omitempty"`
	Refilled []Refilled `json:"refilled,omitempty"`
	// Focus says where the focus goes after a rejection: first wrong field or summary; "" when not promised.
	Focus string `json:"focus,omitempty"`
	// Form is what the form is after acceptance: gone, blank, filled or initial; "" when not promised.
	Form string `json:"form,omitempty"`
	Rows []Row  `json:"rows,omitempty"`
	// Secrets are the fields whose values must not be seen anywhere.
	Secrets []string `json:"secrets,omitempty"`
	// SessionRenewed asks for a new session id.
	SessionRenewed bool `json:"session_renewed,omitempty"`
	// SignedIn: the visitor is signed in afterwards. OthersEnd: the account's other sessions are no more.
	SignedIn  bool `json:"signed_in,omitempty"`
	OthersEnd bool `json:"others_end,omitempty"`
	// OnSite: no redirect leads to another host, whatever address the submission names.
	OnSite bool `json:"on_site,omitempty"`
	// MayRefuse: a refusal that changes nothing will do as well.
	MayRefuse bool `json:"may_refuse,omitempty"`
}

// Failure is one rule that fails.
type Failure struct {
	Rule  string `json:"rule"`
	Phase string `json:"phase"`
	Why   string `json:"why"`
}

// Breaks tells whether a rule of a field fails.
func (e *Expectation) Breaks(p *spec.Prepared, f *spec.PreparedField) bool {
	return slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return r.Field == f && slices.ContainsFunc(e.Failing, func(x Failure) bool { return x.Rule == r.ID })
	})
}

// Message is one message that must be seen.
type Message struct {
	Rule  string        `json:"rule"`
	Field string        `json:"field,omitempty"` // id
	Place spec.Place    `json:"place"`
	Says  *spec.Message `json:"says,omitempty"` // nil: any text that names what is wrong
	Text  string        `json:"text,omitempty"` // the exact text in the visitor's language, if promised
	Tied  bool          `json:"tied,omitempty"`
}

// Shown is a saved value that must be seen on a page.
type Shown struct {
	Page string `json:"page"`
	At   string `json:"at,omitempty"`
	Text string `json:"text"`
}

// Refilled is what one control must hold after a rejection.
type Refilled struct {
	Field string `json:"field"` // id
	// Sent and Normal may both stand in the control; Blank asks for an empty one.
	Sent   string `json:"sent,omitempty"`
	Normal string `json:"normal,omitempty"`
	Ticked bool   `json:"ticked,omitempty"`
	Blank  bool   `json:"blank,omitempty"`
}

// Row is one row that must be inserted or updated.
type Row struct {
	Table   string `json:"table"`
	Updates bool   `json:"updates,omitempty"`
	// Key is that of the row that is updated, where it is known, and KeyColumn the column that holds it, where it is not the table's key.
	Key       string `json:"key,omitempty"`
	KeyColumn string `json:"key_column,omitempty"`
	// Each is the field of several choices for one of whose values the row is.
	Each    string   `json:"each,omitempty"`
	Columns []Column `json:"columns"`
}

// Column is what one column must hold.
type Column struct {
	Name   string     `json:"name"`
	Source ColumnKind `json:"source"`
	Value  string     `json:"value,omitempty"`
	// Kind is the kind of the field the value comes from; it says how values are compared.
	Kind  spec.Kind `json:"kind,omitempty"`
	Field string    `json:"field,omitempty"` // id
	// As are the kinds of hash allowed for a secret.
	As []string `json:"as,omitempty"`
	// Pepper: the site adds a secret of its own before hashing.
	Pepper bool `json:"pepper,omitempty"`
	// Within is the tolerance around the time of submitting, in nanoseconds.
	Within time.Duration `json:"within,omitempty"`
}

// ColumnKind is what a column's value is compared with.
type ColumnKind string

// The kinds of columns.
const (
	HoldsValue   ColumnKind = "value"
	HoldsNull    ColumnKind = "null"
	HoldsHash    ColumnKind = "hash"
	HoldsNow     ColumnKind = "now"
	HoldsDefault ColumnKind = "default"
	HoldsAny     ColumnKind = "any"
	HoldsUUID    ColumnKind = "uuid"
	// HoldsSequence is a number that the server counts up; HoldsKeyOf the key of the row written in the table that Value names;
	// HoldsAddress the visitor's.
	HoldsSequence ColumnKind = "sequence"
	HoldsKeyOf    ColumnKind = "key of"
	HoldsAddress  ColumnKind = "client address"
	// HoldsUntouched: the column's default on insert, what it held before on update.
	HoldsUntouched ColumnKind = "untouched"
	// HoldsUnknown: the promise is known, but what it comes to is not.
	HoldsUnknown ColumnKind = "unknown"
)

// Reason says in a sentence why the outcome is expected.
func (e *Expectation) Reason() string {
	switch {
	case e.Outcome == NotAnswered:
		return "The answer is replaced; the values stay, and the form can be sent again."
	case e.Outcome == Answered:
		return "No page sends this; the site may refuse it or take it, and does not fail."
	case e.Outcome == NothingFurther && len(e.Failing) == 0:
		return "A reload after a redirect only reads."
	case len(e.Failing) == 0:
		return "Every rule is kept."
	}
	parts := make([]string, len(e.Failing))
	for i, f := range e.Failing {
		parts[i] = f.Why
	}
	return strings.Join(parts, " ")
}

// why words a failing rule.
func why(r *spec.PreparedRule, v *spec.Value) string {
	label := r.Kind
	if r.Field != nil {
		label = r.Field.Label
	}
	switch r.Kind {
	case "required":
		return fmt.Sprintf("%s is required and blank.", label)
	case "ticked":
		return fmt.Sprintf("%s must be ticked.", label)
	case "length":
		n := r.Limit.Unit.Length(v.Normal)
		if n < r.Limit.Min {
			return fmt.Sprintf("%s has %d %s, at least %d are asked for.", label, n, r.Limit.Unit, r.Limit.Min)
		}
		return fmt.Sprintf("%s has %d %s, at most %d are allowed.", label, n, r.Limit.Unit, r.Limit.Max)
	case "pattern", "characters":
		return fmt.Sprintf("%s does not match the pattern.", label)
	case "url":
		return fmt.Sprintf("%s is no valid URL.", label)
	case "decimals":
		return fmt.Sprintf("%s has more than %d decimals.", label, r.Rule.Decimals.Max)
	case "time":
		return fmt.Sprintf("%s is not a time.", label)
	case "no overlap":
		return fmt.Sprintf("%s to %s shares a time with a row of %s.", label, r.Other.Label, r.Table)
	case "refers":
		return fmt.Sprintf("%s is in no row of %s.%s.", label, r.Table, r.Column)
	case "email":
		return fmt.Sprintf("%s is no valid e-mail address.", label)
	case "number":
		return fmt.Sprintf("%s is not a number.", label)
	case "date":
		return fmt.Sprintf("%s is not a date.", label)
	case "range":
		return fmt.Sprintf("%s lies outside its range.", label)
	case "step":
		return fmt.Sprintf("%s lies between two steps.", label)
	case "listed":
		return fmt.Sprintf("%s is not one of the options.", label)
	case "agrees":
		return fmt.Sprintf("%s differs from %s.", label, r.Other.Label)
	case "differs":
		return fmt.Sprintf("%s is the same as %s.", label, r.Other.Label)
	case "unique":
		return fmt.Sprintf("%s is already in %s.%s.", label, r.Table, r.Column)
	case "across":
		return fmt.Sprintf("%s does not hold.", r.Expression)
	}
	return label + " is wrong."
}
