package judge

import (
	"slices"
	"strings"

	"oddtick/core/design"
	"oddtick/core/oracle"
)

// Cause names what a case's odd parts have in common with those of other cases: the check, the part and the kind of difference
// of the most telling odd part. Two cases with the same cause are likely to show the same fault.
type Cause struct {
	// Row is set where the part alone does not tell what it is about: of an outcome, of a row that should not be there.
	Row string `json:"row,omitempty"`
	// Rule is the broken rule in spite of which it was accepted, or the one by which it was refused though it is kept, and which end of
	// its range or which of its variants: "username.length max", "username.unique case".
	Rule  string `json:"rule,omitempty"`
	Check string `json:"check"`
	Part  string `json:"part"`
	Kind  string `json:"kind"`
	// Detail tells apart what is one finding all the same, such as the messages of several rules in another language: who knows of one
	// does not know of the other.
	Detail string `json:"detail,omitempty"`
}

// Whole is the cause without its detail.
func (c Cause) Whole() Cause {
	c.Detail = ""
	return c
}

// telling are the checks, that which tells most of what went wrong first.
var telling = []string{Secrets, StoredData, Outcome, RefilledValues, Messages, Response, Session}

// Reason is a cause with its words.
type Reason struct {
	Cause
	Headline string `json:"headline"`
}

// ReasonsOf are the causes of a case, the most telling first; none where nothing is odd.
func ReasonsOf(c *design.Case, steps []*Step) []Reason {
	var out []Reason
	for _, name := range telling {
		for i, s := range steps {
			for _, odd := range s.odd {
				if odd.check.Check != name {
					continue
				}
				r := Reason{causeBy(c, s, odd.check, odd.part), odd.says}
				if odd.part.Kind == againstItsSchema && odd.outcome == oracle.Accepted {
					r.Part += " when accepted"
				}
				if r.Row != "" && odd.outcome == oracle.Accepted && !inColumn(odd.part) {
					r.Rule = brokenBy(c, i)
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
func causeBy(c *design.Case, s *Step, check *Check, p Part) Cause {
	cause := Cause{Check: check.Check, Part: p.Name, Kind: p.Kind, Detail: p.At}
	switch check.Check {
	case Outcome:
		cause.Row = c.Row
		if strings.HasSuffix(p.Kind, ", failed") && farBeyond(c) {
			cause.Row, cause.Part = "", "outcome of what is far too long" // whichever field it is sent in
		}
	case StoredData:
		if p.Kind == "cut short" || p.Name == otherRows && s.Checks[0].Verdict == Odd {
			cause.Row = c.Row // of a row that is there as it was accepted, the part says no more
		}
	case RefilledValues:
		if allLost(check) {
			cause.Part = "all values"
		}
	case Messages:
		if cause.ofMessage(p); cause.Part != p.Name {
			cause.Detail = p.Name + ", " + p.Kind
		}
	}
	return cause
}

// brokenBy is the only rule that a step of a case breaks, and at which end or in which variant, which the case's name tells, or else
// its partition; "" where it breaks none or several.
func brokenBy(c *design.Case, step int) string {
	if step >= len(c.Steps) || len(c.Steps[step].Breaks) != 1 {
		return ""
	}
	rule := c.Steps[step].Breaks[0]
	_, role, _ := strings.Cut(c.ID, "/"+rule+".")
	role, _, _ = strings.Cut(role, "/")
	role, _, _ = strings.Cut(role, "@")
	switch {
	case strings.HasPrefix(role, "min"), role == "negative":
		return rule + " min"
	case strings.HasPrefix(role, "max"):
		return rule + " max"
	case role == plainVariant, role == "anothers":
		return rule + " " + plainVariant
	}
	for _, what := range c.Covers {
		if variant, is := strings.CutPrefix(what, "partition "+rule+" "); is && variant != "broken" {
			return rule + " " + variant
		}
	}
	return rule
}

// plainVariant of a rule of uniqueness is the very same value once more.
const plainVariant = "same"

// plainly is the rule of a cause as its plain variant breaks it: who takes the same value takes it in another case, too.
func (c Cause) plainly() Cause {
	rule, _, _ := strings.Cut(c.Rule, " ")
	c.Rule = rule + " " + plainVariant
	return c
}

// ofMessage leaves out which rule a message is of where that does not matter: where and how a field's messages stand is one thing of
// all of them, and so is the language of all.
func (c *Cause) ofMessage(p Part) {
	rule, aspect, _ := strings.Cut(strings.TrimPrefix(p.Name, "message "), ": ")
	field, _, ofField := strings.Cut(rule, ".")
	switch {
	case !strings.HasPrefix(p.Name, "message "):
	case aspect == "comes", aspect == "goes":
		c.Part = "when messages " + map[string]string{"comes": "come", "goes": "go"}[aspect]
	case p.Kind == otherLanguage:
		c.Part = "language of the messages"
	case ofField && (aspect == "visible" || aspect == "place" || strings.HasPrefix(aspect, "tied")):
		c.Part = "messages of " + field + ": " + aspect
	case p.Kind == otherBlank:
		c.Part = "messages of what is blank, absent or null"
	case ofField && strings.HasPrefix(p.Kind, messageOf):
		c.Part = "messages of " + field
	}
}

// farBeyond: the case is about a length far beyond a bound.
func farBeyond(c *design.Case) bool {
	for _, what := range c.Covers {
		if strings.HasPrefix(what, "boundary ") && strings.HasSuffix(what, ".length max far") {
			return true
		}
	}
	return false
}

// allLost: several values were to be filled in again, and not one was.
func allLost(check *Check) bool {
	lost := 0
	for _, p := range check.Parts {
		switch {
		case p.Verdict == Odd && p.Kind == "not refilled":
			lost++
		case p.Verdict == AsExpected && p.Expected != "blank" && p.Expected != ticked(false) && strings.TrimSpace(p.Expected) != "":
			return false
		}
	}
	return lost > 1
}
