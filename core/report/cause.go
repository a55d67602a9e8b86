package report

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/testcase"
)

// Cause names what a case's odd parts have in common with those of other cases: the check, what of it, and the kind of difference of the
// most telling odd part. Two cases with the same cause are likely to show the same fault.
type Cause struct {
	// Row is set where the part alone does not tell what it is about: of an outcome, of a row that should not be there.
	Row string `json:"row,omitempty"`
	// Rule is the broken rule in spite of which it was accepted, or the one by which it was refused though it is kept; Variant which end
	// of its range or which of its variants: max, case.
	Rule    string          `json:"rule,omitempty"`
	Variant string          `json:"variant,omitempty"`
	Check   judge.CheckName `json:"check" enum:"outcome,response,messages,refilled_values,stored_data,secrets,session"`
	Subject judge.Subject   `json:"subject"`
	// Difference is its kind. Expected and Observed tell apart differences of one kind by their terms, such as two outcomes; Of and Beside
	// what they are of, such as the kind of a hash and the column that holds its salt.
	Difference judge.Difference `json:"difference"`
	Expected   string           `json:"expected,omitempty"`
	Observed   string           `json:"observed,omitempty"`
	Of         string           `json:"of,omitempty"`
	Beside     string           `json:"beside,omitempty"`
	// Detail tells apart what is one finding all the same, such as the messages of several rules in another language: who knows of one
	// does not know of the other.
	Detail string `json:"detail,omitempty"`
}

// ID is a short name for a cause among those of a run, made of all its codes.
func (c *Cause) ID() string {
	codes, err := json.Marshal(c)
	if err != nil {
		panic("report: a cause cannot be written: " + err.Error()) // it is plain data
	}
	sum := sha256.Sum256(codes)
	return hex.EncodeToString(sum[:6])
}

// Merged is the cause without its detail.
func (c Cause) Merged() Cause {
	c.Detail = ""
	return c
}

// Reason is a cause with its words.
type Reason struct {
	Cause
	Headline prose.Text `json:"headline"` // core/wording writes it
	// Sentence is the headline as data; nil of results of earlier versions.
	Sentence *prose.Sentence `json:"sentence,omitempty"`
	// Odd is the part that shows it; nil of a result that was read.
	Odd *judge.OddPart `json:"-"`
	// Step is the index of the step that shows it.
	Step int `json:"-"`
}

// ReasonsOf are the causes of a case, the most telling first; none where nothing is odd.
func ReasonsOf(c *testcase.Case, steps []*judge.Judgement) []Reason {
	var out []Reason
	for _, name := range judge.CheckPriority {
		for i, s := range steps {
			list, _ := s.Odd()
			for n := range list {
				odd := &list[n]
				if odd.Check != name {
					continue
				}
				r := Reason{Cause: causeBy(c, odd), Odd: odd, Step: i}
				if r.Row != "" && odd.Ended == oracle.Accepted && !odd.Part.OddColumn() {
					r.Rule, r.Variant = BrokenBy(c, i)
				}
				if odd.Refused != nil {
					r.refusedBy(c, odd.Refused)
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
func causeBy(c *testcase.Case, odd *judge.OddPart) Cause {
	p := &odd.Part
	cause := Cause{Check: odd.Check, Subject: p.Subject, Difference: p.Difference, Detail: p.At}
	switch odd.Check {
	case judge.Outcome:
		cause.Row = c.Row
		if p.Difference == judge.OtherOutcome {
			cause.Expected, cause.Observed = p.Expected.Of, p.Observed.Of
		}
		if cause.Observed == string(oracle.Failed) && farBeyond(c) {
			cause.Row, cause.Subject.Aspect = "", judge.FarTooLong // whichever field it is sent in
		}
	case judge.StoredData:
		if p.Difference == judge.CutShort || p.Aspect == judge.OtherRows && odd.OutcomeOdd {
			cause.Row = c.Row // of a row that is there as it was accepted, the part says no more
		}
	case judge.RefilledValues:
		if odd.AllLost {
			cause.Subject = judge.Subject{Aspect: judge.AllValues}
		}
	case judge.Messages:
		cause.ofMessage(p)
	case judge.Secrets:
		cause.Subject.Field = ownField(p)
		if p.Difference == judge.StoredOtherwise {
			cause.Observed, cause.Of = string(p.Observed.Is), p.Observed.Of
			if p.Observed.Is == judge.FastHashSalted {
				cause.Beside = p.Observed.Text
			}
		}
	case judge.Response:
		if p.Difference == judge.AgainstSchema && odd.Ended == oracle.Accepted {
			cause.Subject.Aspect = judge.SchemaWhenAccepted
		}
	}
	return cause
}

// ownField is the field of a secret's part, where no column tells which it is.
func ownField(p *judge.Part) string {
	if p.Column != "" {
		return ""
	}
	return p.Field
}

// BrokenBy is the only rule that a step of a case breaks, and at which end or in which variant, as the case covers it; "" where it breaks
// none or several.
func BrokenBy(c *testcase.Case, step int) (rule, variant string) {
	if step >= len(c.Steps) || len(c.Steps[step].Breaks) != 1 {
		return "", ""
	}
	rule = c.Steps[step].Breaks[0]
	for _, what := range slices.Concat(c.Covers, c.Twin) {
		switch {
		case what.Of != rule:
		case what.Kind == testcase.CoversBoundary && (strings.HasPrefix(what.Point, string(testcase.Lower)) || what.Point == "negative"):
			return rule, string(testcase.Lower)
		case what.Kind == testcase.CoversBoundary:
			return rule, string(testcase.Upper)
		case what.Kind == testcase.CoversPartition && what.Point != testcase.BrokenPoint:
			return rule, what.Point
		}
	}
	return rule, ""
}

// plainVariant of a rule of uniqueness is the very same value once more.
const plainVariant = "same"

// baseVariant is the cause as its rule's plain variant shows it: who takes the same value takes it in another case, too.
func (c Cause) baseVariant() Cause {
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
func (c *Cause) ofMessage(p *judge.Part) {
	c.Observed = "" // of another rule's message it is the rule
	if p.Difference == judge.OtherRule {
		c.Observed = p.Observed.Of
	}
	if p.Rule == "" {
		return
	}
	c.Subject.Place = "" // which is promised may change
	field := p.Field
	switch {
	case p.Aspect == judge.MessageComes:
		c.Subject = judge.Subject{Aspect: judge.MessagesCome}
	case p.Aspect == judge.MessageGoes:
		c.Subject = judge.Subject{Aspect: judge.MessagesGo}
	case p.Difference == judge.OtherLanguage:
		c.Subject = judge.Subject{Aspect: judge.MessagesLanguage}
	case field != "" && p.Aspect == judge.MessageVisible:
		c.Subject = judge.Subject{Aspect: judge.VisibleOfField, Field: field}
	case field != "" && p.Aspect == judge.MessagePlace:
		c.Subject = judge.Subject{Aspect: judge.PlaceOfField, Field: field}
	case field != "" && p.Aspect == judge.MessageLinked:
		c.Subject = judge.Subject{Aspect: judge.LinkedOfField, Field: field}
	case p.Difference == judge.OtherBlank:
		c.Subject = judge.Subject{Aspect: judge.MessagesOfBlank}
	case field != "" && p.Difference == judge.OtherRule:
		c.Subject = judge.Subject{Aspect: judge.MessagesOfField, Field: field}
	default:
		return
	}
	c.Detail = p.Rule
}

// farBeyond: the case is about a length far beyond a bound.
func farBeyond(c *testcase.Case) bool {
	_, ofLength := c.Mark.Length()
	return slices.ContainsFunc(c.Covers, func(what testcase.Cover) bool {
		return what.Kind == testcase.CoversBoundary && what.Point == testcase.MaxFarPoint && ofLength
	})
}

// refusedBy tells a cause of an outcome by the refusal: field and rule, and which bound or, of a guess about the field, which guess.
func (cause *Cause) refusedBy(c *testcase.Case, r *judge.Refusal) {
	if r.Field != "" {
		cause.Row = r.Field
	}
	switch {
	case r.Rule == "":
	case r.Bound != "":
		cause.Rule, cause.Variant = r.Rule, r.Bound
	default:
		cause.Rule, cause.Variant = r.Rule, ""
		for _, what := range c.Covers {
			if what.Kind == testcase.CoversGuess && what.Of == r.Field {
				cause.Variant = what.Point
			}
		}
	}
}
