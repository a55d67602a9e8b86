package attempt

import (
	"slices"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
)

// addMistake adds to a submission the mistake that is made, and corrected, before it is sent.
func addMistake(a *Attempt, i int, sent *submission.Submission, world *oracle.World) (stop *judge.Judgement) {
	step := design.Mistaken(&a.Case.Steps[i])
	values, err := a.Target.Config.Designer.Resolve(&testcase.Case{ID: a.Case.ID, Steps: []testcase.Step{step}}, 0, &a.Env)
	if err != nil {
		return judge.Unobserved(err.Error())
	}
	rule := a.Target.Form.Rules[slices.IndexFunc(a.Target.Form.Rules, func(r *spec.PreparedRule) bool { return r.ID == step.Mistake.Rule })]
	wrong := a.Target.Config.Designer.Submission(&step, values)
	wrong.Pairs = append(wrong.Pairs, slices.DeleteFunc(slices.Clone(sent.Pairs), func(p submission.Pair) bool { return slices.Contains(a.Target.Names, p.Name) })...) // with the page's tokens
	var ok bool
	if sent.Mistake, ok = oracle.MistakeOf(a.Target.Form, world, wrong, rule); !ok {
		return judge.Unobserved("the generated value does not break " + rule.ID + " alone")
	}
	return nil
}
