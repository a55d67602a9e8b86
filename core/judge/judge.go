package judge

import (
	"slices"
	"strings"

	"oddtick/core/hashed"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// Judge compares one step. earlier are the case's steps before it.
func Judge(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, earlier []*observation.Step) *Judgement {
	return Judging{Verify: hashed.Verify, VerifyOther: hashed.Verify}.Step(p, e, o, earlier)
}

// Judging says how steps are judged.
type Judging struct {
	// Verify tells whether a stored hash is of a text, as hashed.Verify does; it may take a while.
	Verify func(stored, text string) (bool, error)
	// VerifyOther is the same of a text that was not sent, asked where the one that was does not fit; it may give up.
	VerifyOther func(stored, text string) (bool, error)
}

// Step compares one step. earlier are the case's steps before it.
func (how Judging) Step(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, earlier []*observation.Step) *Judgement {
	j := &judging{p: p, e: e, o: o, earlier: earlier, verify: how.Verify, verifyOther: how.VerifyOther}
	j.texts = o.NewTexts(earlier...)
	j.trace = InternalsIn(o)
	j.observed = j.outcome()
	if e.Outcome == oracle.Answered {
		return j.only(j.outcomeCheck(), is(NoPageSendsIt))
	}
	if j.unreadable() {
		return j.only(j.refused(RefusedUnreadable), is(HoldsNUL))
	}
	if e.MayRefuse && len(o.Changes) == 0 && !(e.OnSite && j.leaves() != "") && (j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.Silent) {
		return j.only(j.refused(RefusedOrWithout), is(WasRefused))
	}
	s := &Judgement{Checks: []Check{j.outcomeCheck(), j.response(), j.messages(), j.refilled(), j.stored(), j.secrets(), session(j)}}
	list := make([]Verdict, len(s.Checks))
	for i := range s.Checks {
		list[i] = s.Checks[i].Verdict
	}
	s.Verdict = worstOf(list)
	conclude(j, s)
	return s
}

// refused is the outcome of a request that is refused for a reason of its own.
func (j *judging) refused(expected Term) Check {
	c := Check{Check: Outcome}
	c.asExpected(of(OutcomeAspect), is(expected), outcomeValue(j.observed.outcome))
	c.Parts[0].Signals = j.observed.signals
	return c.finish()
}

// unreadable: a NUL was answered as a bad request (RFC 9110, 400), before any rule was looked at.
func (j *judging) unreadable() bool {
	first := j.o.First()
	if first == nil || first.Status != 400 || j.o.Sent == nil || len(j.o.Changes) > 0 {
		return false
	}
	return slices.ContainsFunc(j.o.Sent.Pairs, func(p submission.Pair) bool { return strings.ContainsRune(p.Value, 0) })
}

// only judges nothing but the outcome, and says why.
func (j *judging) only(outcome Check, why Value) *Judgement {
	s := &Judgement{Checks: []Check{outcome}}
	for _, name := range Checks[1:] {
		c := Check{Check: name}
		c.notApplicable(of(Whole), why)
		s.Checks = append(s.Checks, c.finish())
	}
	s.Verdict = s.Checks[0].Verdict
	conclude(j, s)
	return s
}

type judging struct {
	p       *spec.Prepared
	e       *oracle.Expectation
	o       *observation.Step
	earlier []*observation.Step
	// verify and verifyOther are those of Judging.
	verify, verifyOther func(stored, text string) (bool, error)
	texts               []observation.Text // that came with the answer
	trace               string             // of the site's inside that stands in an answer
	observed            observedOutcome
	sought              *forms   // of the last secret
	replies             []string // filled in, nil until they are looked for
	promised            []oracle.Row
}

// Unobserved is a step that could not be made, with the reason: every check that would apply is not observed.
func Unobserved(because string) *Judgement {
	why := withText(Because, because)
	s := &Judgement{Verdict: NotObserved, Why: why}
	for _, name := range Checks {
		c := Check{Check: name}
		c.unobserved(of(Whole), why)
		s.Checks = append(s.Checks, c.finish())
	}
	return s
}

// Inapplicable is a step that the page does not let a visitor make, with the reason.
func Inapplicable(because string) *Judgement {
	why := withText(Because, because)
	s := &Judgement{Verdict: DoesNotApply, Why: why}
	for _, name := range Checks {
		c := Check{Check: name}
		c.notApplicable(of(Whole), why)
		s.Checks = append(s.Checks, c.finish())
	}
	return s
}

// Case folds the verdicts of a case's steps.
func Case(steps []*Judgement) Verdict {
	list := make([]Verdict, len(steps))
	for i, s := range steps {
		list[i] = s.Verdict
	}
	return worstOf(list)
}

// CaseChecks folds each check over a case's steps, in the order of Checks.
func CaseChecks(steps []*Judgement) []Verdict {
	out := make([]Verdict, len(Checks))
	for i := range Checks {
		list := make([]Verdict, len(steps))
		for k, s := range steps {
			list[k] = s.Checks[i].Verdict
		}
		out[i] = worstOf(list)
	}
	return out
}

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
