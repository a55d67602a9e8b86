package judge

import (
	"slices"
	"strings"

	"oddtick/core/oracle"
)

// OddPart is an odd part of a step that is no consequence of another, with what is to be said of it.
type OddPart struct {
	Check CheckName
	Part  Part
	// Ended is how the step ended; Reloaded that it submitted nothing.
	Ended    oracle.Outcome
	Reloaded bool
	// Should is the outcome that was expected, where it is another and tells more than the part; "" otherwise.
	Should oracle.Outcome
	// Signals are by what the step's outcome was told.
	Signals []Value
	// AllLost: no value at all is filled in again.
	AllLost bool

	// OutcomeOdd: the step's outcome is odd, too. Refused is what a submission that keeps every rule was refused by; nil where nothing tells.
	OutcomeOdd bool
	Refused    *Refusal

	inColumn bool // a stored value of the check is odd
}

// Odd are the odd parts of a step, those of the check that tells most first. best is the one for a headline; nil where nothing is odd.
func (s *Judgement) Odd() (list []OddPart, best *OddPart) {
	if len(s.odd) == 0 {
		return nil, nil
	}
	return s.odd, &s.odd[s.best]
}

// conclude says of a step how it ended, and finds what is odd of it.
func conclude(j *judging, s *Judgement) {
	s.Ended = j.observed.outcome
	s.Reloaded = j.e.Outcome == oracle.NothingFurther && len(j.e.Failing) == 0
	if s.Verdict == Odd {
		for i := range s.Checks {
			for k := range s.Checks[i].Parts {
				// until it is found to be odd by itself; an outcome always is
				s.Checks[i].Parts[k].Follows = s.Checks[i].Parts[k].Verdict == Odd && s.Checks[i].Check != Outcome
			}
		}
		s.odd = oddParts(j, s)
		s.best = best(s.odd)
	}
}

// oddParts are the odd parts of each check, those of the check that tells most first. Where the outcome is another than the expected one,
// only what tells most of it is left, what becomes of secrets, and what was seen before anything was sent: the rest follows from it.
func oddParts(j *judging, s *Judgement) []OddPart {
	var out []OddPart
	other := s.Checks[0].Verdict == Odd
	refused := other && (j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.RejectedByBrowser)
	followed := false
	for _, name := range CheckPriority {
		for i := range s.Checks {
			c := &s.Checks[i]
			if c.Check != name || c.Verdict != Odd || refused && lacksRows(c) {
				continue
			}
			told := other && name != Secrets && followed
			followed = followed || name != Secrets
			for n, at := range tellingParts(c) {
				if (told || n > 0 && other && name != Secrets) && !ofMoment(&c.Parts[at]) {
					continue
				}
				out = append(out, oddPart(j, s, c, at))
			}
		}
	}
	return out
}

func oddPart(j *judging, s *Judgement, c *Check, at int) OddPart {
	odd := OddPart{Check: c.Check, Part: c.Parts[at], Ended: s.Ended, Reloaded: s.Reloaded, AllLost: c.Check == RefilledValues && allLost(c), OutcomeOdd: s.Checks[0].Verdict == Odd, Signals: j.observed.signals}
	odd.inColumn = c.Check == StoredData && slices.ContainsFunc(c.Parts, func(p Part) bool { return p.OddColumn() })
	if c.Check != Secrets && !odd.Part.OddColumn() && j.observed.outcome != j.e.Outcome && j.e.Outcome != oracle.NothingFurther {
		odd.Should = j.e.Outcome
	}
	c.Parts[at].Follows = odd.Should != "" && c.Check != Outcome
	if c.Check == Outcome {
		odd.Refused = refusedBy(j)
	}
	return odd
}

// lacksRows: all that is odd of what is stored is that there is no row, which follows from a refusal.
func lacksRows(c *Check) bool {
	return c.Check == StoredData && !slices.ContainsFunc(c.Parts, func(p Part) bool { return p.Verdict == Odd && p.Difference != NoRow })
}

// tellingParts are the odd parts of a check, by their indexes: a stored value tells more than that there is a row, values that are all
// lost are one thing, so is a secret that two fields hold, and a message too many is told where none of the promised ones is odd.
func tellingParts(c *Check) []int {
	var out, columns, messages []int
	for i := range c.Parts {
		p := &c.Parts[i]
		switch {
		case p.Verdict != Odd, c.Check == Secrets && p.Column == "" && toldBefore(c.Parts, out, p):
		case c.Check == StoredData && p.OddColumn():
			columns = append(columns, i)
		case c.Check == Messages && p.Aspect != NoOtherMessage:
			messages = append(messages, i)
		default:
			out = append(out, i)
		}
	}
	switch {
	case len(columns) > 0: // and rows beside them, which are another difference
		return append(columns, slices.DeleteFunc(out, func(i int) bool { return c.Parts[i].Aspect != OtherRows })...)
	case len(messages) > 0:
		return messages
	case c.Check == RefilledValues && allLost(c), c.Check == StoredData:
		return out[:1]
	}
	return out
}

// toldBefore: one of the parts at the indexes says the same of another field's secret.
func toldBefore(parts []Part, at []int, p *Part) bool {
	return slices.ContainsFunc(at, func(i int) bool { return parts[i].Difference == p.Difference && parts[i].Observed.same(&p.Observed) })
}

// OddColumn: what is odd is a stored value.
func (p *Part) OddColumn() bool { return p.Verdict == Odd && p.Column != "" }

// best is what a step's headline says, by its index: what is stored otherwise tells most, then whatever comes first among the checks.
func best(list []OddPart) int {
	best := 0
	for i := range list {
		if list[i].inColumn {
			return i
		}
		if slices.Index(Checks, list[i].Check) < slices.Index(Checks, list[best].Check) {
			best = i
		}
	}
	return best
}

// CheckPriority are the checks, that which tells most of what went wrong first.
var CheckPriority = []CheckName{Secrets, StoredData, Outcome, RefilledValues, Response, Messages, Session}

// allLost: several values were to be filled in again, and not one was.
func allLost(check *Check) bool {
	lost := 0
	for i := range check.Parts {
		switch p := &check.Parts[i]; {
		case p.Verdict == Odd && p.Difference == NotRefilled:
			lost++
		case p.Verdict == AsExpected && p.Expected.Is != Blank && p.Expected.Is != NotChecked && (p.Expected.Is != AsText || strings.TrimSpace(p.Expected.Text) != ""):
			return false
		}
	}
	return lost > 1
}
