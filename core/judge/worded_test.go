package judge_test

import (
	"cmp"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/wording"
)

// worded judges a step and words it, so that these tests read as a tester does.
func worded(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, earlier []*observation.Step) *judge.Judgement {
	s := judge.Judge(p, e, o, earlier)
	wording.Step(p, e, s)
	return s
}

func byHand(s *scene, seen judge.Verdict, note string) *judge.Judgement {
	step := judge.ByHand(s.p, s.e, s.o, seen, note)
	wording.Step(s.p, s.e, step)
	return step
}

// kindOf is a part's difference by its name of format 1, which stays when the words change; Subject.Older is the like for what it is about.
func kindOf(p *judge.Part) string {
	if p.Difference == judge.OtherOutcome {
		return "expected " + p.Expected.Of + ", " + p.Observed.Of
	}
	return cmp.Or(judge.OlderDifference(p.Difference), string(p.Words.Difference))
}
