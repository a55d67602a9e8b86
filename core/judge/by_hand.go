package judge

import (
	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// ByHand judges a step that a person made: what they saw stands under Outcome, and rows and stored secrets are judged as ever.
func ByHand(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, seen Verdict, note string) *Judgement {
	if seen == NotObserved {
		return Unobserved(note) // it may not have been submitted at all
	}
	j := &judging{p: p, e: e, o: o, verify: hashed.Verify, verifyOther: hashed.Verify}
	j.observed = ended(e.Outcome, is(SeenByHand))
	outcome := &Check{Check: Outcome}
	part := Part{Subject: of(ByHandAspect), Verdict: seen, Expected: outcomeValue(e.Outcome), Observed: asText(note, SeenByHand)}
	if seen == Odd {
		part.Difference = OddByHand
	}
	outcome.add(part)
	s := &Judgement{ByHand: true, Checks: []Check{outcome.finish()}}
	for _, name := range []CheckName{Response, Messages, RefilledValues} {
		c := &Check{Check: name}
		c.notApplicable(of(ByHandAspect), is(JudgedByHand))
		s.Checks = append(s.Checks, c.finish())
	}
	s.Checks = append(s.Checks, j.stored(), j.secrets())
	session := &Check{Check: Session}
	session.notApplicable(of(ByHandAspect), is(JudgedByHand))
	s.Checks = append(s.Checks, session.finish())
	list := make([]Verdict, len(s.Checks))
	for i := range s.Checks {
		list[i] = s.Checks[i].Verdict
	}
	s.Verdict = worstOf(list)
	conclude(j, s)
	return s
}
