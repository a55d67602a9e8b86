package judge

import (
	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// byHand is the part of the outcome that a person judges.
const byHand = "by hand"

// ByHand judges a step that a person made: what they saw stands under Outcome, and rows and stored secrets are judged as ever.
func ByHand(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, seen Verdict, note string) *Step {
	if seen == NotObserved {
		return Unobserved(note) // it may not have been submitted at all
	}
	j := &judging{p: p, e: e, o: o, verify: hashed.Verify, verifyOther: hashed.Verify}
	j.observed = observedOutcome{e.Outcome, "as a person saw it"}
	outcome := &Check{Check: Outcome}
	part := Part{Name: byHand, Verdict: seen, Expected: string(e.Outcome) + ". " + e.Reason(), Observed: note}
	switch {
	case seen == Odd:
		part.Kind = "odd, as a person saw it"
	case note == "":
		part.Observed = "as expected, as a person saw it"
	}
	outcome.add(part)
	s := &Step{Checks: []Check{outcome.finish()}}
	for _, name := range []string{Response, Messages, RefilledValues} {
		c := &Check{Check: name}
		c.irrelevant("by hand", "judged by a person, under Outcome")
		s.Checks = append(s.Checks, c.finish())
	}
	s.Checks = append(s.Checks, j.stored(), j.secrets())
	session := &Check{Check: Session}
	session.irrelevant("by hand", "judged by a person, under Outcome")
	s.Checks = append(s.Checks, session.finish())
	list := make([]Verdict, len(s.Checks))
	for i := range s.Checks {
		list[i] = s.Checks[i].Verdict
	}
	s.Verdict = fold(list)
	j.word(s)
	if s.Verdict != Odd {
		s.Headline = map[Verdict]string{AsExpected: "As expected, by hand", NotObserved: "Not observed by hand"}[s.Verdict]
	}
	return s
}
