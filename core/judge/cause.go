package judge

import (
	"slices"
	"strings"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/prose"
)

// Cause names what a case's odd parts have in common with those of other cases: the check, what of it, and the kind of difference of the
// most telling odd part. Two cases with the same cause are likely to show the same fault.
type Cause struct {
	// Row is set where the part alone does not tell what it is about: of an outcome, of a row that should not be there.
	Row string `json:"row,omitempty"`
	// Rule is the broken rule in spite of which it was accepted, or the one by which it was refused though it is kept; Variant which end
	// of its range or which of its variants: max, case.
	Rule    string    `json:"rule,omitempty"`
	Variant string    `json:"variant,omitempty"`
	Check   CheckName `json:"check" enum:"outcome,response,messages,refilled_values,stored_data,secrets,session"`
	Subject Subject   `json:"subject"`
	// Difference is its kind. Expected and Observed tell apart differences of one kind by their terms, such as two outcomes; Of and Beside
	// what they are of, such as the kind of a hash and the column that holds its salt.
	Difference Difference `json:"difference"`
	Expected   string     `json:"expected,omitempty"`
	Observed   string     `json:"observed,omitempty"`
	Of         string     `json:"of,omitempty"`
	Beside     string     `json:"beside,omitempty"`
	// Detail tells apart what is one finding all the same, such as the messages of several rules in another language: who knows of one
	// does not know of the other.
	Detail string `json:"detail,omitempty"`
}

// The aspects that only causes have: what is one thing of several parts.
const (
	FarTooLong         Aspect = "outcome_far_too_long"
	AllValues          Aspect = "all_values"
	SchemaWhenAccepted Aspect = "answer_schema_accepted"
	MessagesCome       Aspect = "messages_come"
	MessagesGo         Aspect = "messages_go"
	MessagesLanguage   Aspect = "messages_language"
	MessagesOfBlank    Aspect = "messages_of_blank"
	MessagesOfField    Aspect = "messages_of_field"
	PlaceOfField       Aspect = "messages_of_field_place"
	VisibleOfField     Aspect = "messages_of_field_visible"
	LinkedOfField      Aspect = "messages_of_field_linked"
)

// Merged is the cause without its detail.
func (c Cause) Merged() Cause {
	c.Detail = ""
	return c
}

// telling are the checks, that which tells most of what went wrong first.
var telling = []CheckName{Secrets, StoredData, Outcome, RefilledValues, Messages, Response, Session}

// Reason is a cause with its words.
type Reason struct {
	Cause
	Headline prose.Text `json:"headline"` // core/wording writes it
	// Odd is the part that shows it; nil of a result that was read.
	Odd *OddPart `json:"-"`
}

// ReasonsOf are the causes of a case, the most telling first; none where nothing is odd.
func ReasonsOf(c *design.Case, steps []*Step) []Reason {
	var out []Reason
	for _, name := range telling {
		for i, s := range steps {
			for n := range s.odd {
				odd := &s.odd[n]
				if odd.Check != name {
					continue
				}
				r := Reason{Cause: causeBy(c, odd), Odd: odd}
				if r.Row != "" && odd.Ended == oracle.Accepted && !inColumn(&odd.Part) {
					r.Rule, r.Variant = brokenBy(c, i)
				}
				if odd.refused != nil {
					odd.refused.cause(c, &r.Cause)
				}
				if !slices.ContainsFunc(out, func(o Reason) bool { return o.Cause == r.Cause }) {
					out = append(out, r)
				}
			}
		}
	}
	return out
}

// causeBy is the cause that an odd part of a step gives.
func causeBy(c *design.Case, odd *OddPart) Cause {
	p := &odd.Part
	cause := Cause{Check: odd.Check, Subject: p.Subject, Difference: p.Difference, Detail: p.At}
	switch odd.Check {
	case Outcome:
		cause.Row = c.Row
		if p.Difference == OtherOutcome {
			cause.Expected, cause.Observed = p.Expected.Of, p.Observed.Of
		}
		if cause.Observed == string(oracle.Failed) && farBeyond(c) {
			cause.Row, cause.Subject.Aspect = "", FarTooLong // whichever field it is sent in
		}
	case StoredData:
		if p.Difference == CutShort || p.Aspect == OtherRows && odd.outcome == Odd {
			cause.Row = c.Row // of a row that is there as it was accepted, the part says no more
		}
	case RefilledValues:
		if odd.AllLost {
			cause.Subject = of(AllValues)
		}
	case Messages:
		cause.ofMessage(p)
	case Secrets:
		cause.Subject.Field = ownField(p)
		if p.Difference == StoredOtherwise {
			cause.Observed, cause.Of = string(p.Observed.Is), p.Observed.Of
			if p.Observed.Is == FastHashSalted {
				cause.Beside = p.Observed.Text
			}
		}
	case Response:
		if p.Difference == AgainstSchema && odd.Ended == oracle.Accepted {
			cause.Subject.Aspect = SchemaWhenAccepted
		}
	}
	return cause
}

// ownField is the field of a secret's part, where no column tells which it is.
func ownField(p *Part) string {
	if p.Column != "" {
		return ""
	}
	return p.Field
}

// brokenBy is the only rule that a step of a case breaks, and at which end or in which variant, as the case covers it; "" where it breaks
// none or several.
func brokenBy(c *design.Case, step int) (rule, variant string) {
	if step >= len(c.Steps) || len(c.Steps[step].Breaks) != 1 {
		return "", ""
	}
	rule = c.Steps[step].Breaks[0]
	for _, what := range slices.Concat(c.Covers, c.Twin) {
		switch {
		case what.Of != rule:
		case what.Kind == design.CoversBoundary && (strings.HasPrefix(what.Point, string(design.Lower)) || what.Point == "negative"):
			return rule, string(design.Lower)
		case what.Kind == design.CoversBoundary:
			return rule, string(design.Upper)
		case what.Kind == design.CoversPartition && what.Point != design.BrokenPoint:
			return rule, what.Point
		}
	}
	return rule, ""
}

// plainVariant of a rule of uniqueness is the very same value once more.
const plainVariant = "same"

// plainly is the cause as its rule's plain variant shows it: who takes the same value takes it in another case, too.
func (c Cause) plainly() Cause {
	c.Variant = plainVariant
	return c
}

// bare is the cause without which of its rule's bounds or variants it is.
func (c Cause) bare() Cause {
	c.Variant = ""
	return c
}

// ofMessage leaves out which rule a message is of where that does not matter: where and how a field's messages stand is one thing of
// all of them, and so is the language of all.
func (c *Cause) ofMessage(p *Part) {
	c.Observed = "" // of another rule's message it is the rule
	if p.Difference == OtherRule {
		c.Observed = p.Observed.Of
	}
	if p.Rule == "" {
		return
	}
	c.Subject.Place = "" // which is promised may change
	field := p.Field
	switch {
	case p.Aspect == MessageComes:
		c.Subject = of(MessagesCome)
	case p.Aspect == MessageGoes:
		c.Subject = of(MessagesGo)
	case p.Difference == OtherLanguage:
		c.Subject = of(MessagesLanguage)
	case field != "" && p.Aspect == MessageVisible:
		c.Subject = ofField(VisibleOfField, field)
	case field != "" && p.Aspect == MessagePlace:
		c.Subject = ofField(PlaceOfField, field)
	case field != "" && p.Aspect == MessageLinked:
		c.Subject = ofField(LinkedOfField, field)
	case p.Difference == OtherBlank:
		c.Subject = of(MessagesOfBlank)
	case field != "" && p.Difference == OtherRule:
		c.Subject = ofField(MessagesOfField, field)
	default:
		return
	}
	c.Detail = p.Rule
}

// farBeyond: the case is about a length far beyond a bound.
func farBeyond(c *design.Case) bool {
	_, ofLength := c.Mark.Length()
	return slices.ContainsFunc(c.Covers, func(what design.Cover) bool {
		return what.Kind == design.CoversBoundary && what.Point == design.MaxFarPoint && ofLength
	})
}

// allLost: several values were to be filled in again, and not one was.
func allLost(check *Check) bool {
	lost := 0
	for i := range check.Parts {
		switch p := &check.Parts[i]; {
		case p.Verdict == Odd && p.Difference == NotRefilled:
			lost++
		case p.Verdict == AsExpected && p.Expected.Is != Blank && p.Expected.Is != NotTicked && (p.Expected.Is != AsText || strings.TrimSpace(p.Expected.Text) != ""):
			return false
		}
	}
	return lost > 1
}
