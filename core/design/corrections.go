package design

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// corrections break each rule whose message comes at a promised moment, and correct the value before it is sent, so that the message is
// seen to come and to go. The first is made at every depth: what is wrong with one is mostly wrong with all.
func corrections(b *testcase.Builder) {
	if b.Maker.Form.Form.Page == "" {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	depth := testcase.Quick
	for i, r := range b.Maker.Form.Rules {
		if r.Field == nil || r.At != r.Field || r.MessageOn == "" || cannotBeEntered[r.Kind] || r.Kind == spec.RuleUnique || r.Kind == spec.RuleExistsIn || r.Kind == spec.RuleMatchesSecret {
			continue
		}
		id := b.ID(r.ID + ".corrected")
		mistake, why := mistake(b, r)
		if mistake == nil {
			b.OmitCase(r.ID+".corrected", why)
			continue
		}
		b.Add(depth, &testcase.Case{
			ID: id, Title: phrases.OfField.With("label", r.Field.Label, "what", phrases.Mistaken.With("rule", r.Kind)), Row: r.Field.ID, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversMessage, r.ID, "comes"),
			Mark: testcase.Mark{Scale: "corrected", At: float64(i), Label: string(r.Kind)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, nil), Mistake: mistake}},
		})
		depth = testcase.Standard
	}
}

// mistake is a value that some case sends in a rule's field alone and that breaks this rule alone in the browser: one that the field's
// mask lets stand before others. why says why there is none.
func mistake(b *testcase.Builder, r *spec.PreparedRule) (best *testcase.Mistake, why prose.Text) {
	switch {
	case r.Field.Nth > 0:
		return nil, phrases.OtherOfItsName.Text()
	case r.Message == nil:
		return nil, phrases.NoTextOfMessage.Text()
	case r.Kind == spec.RuleRequired && r.MessageOn == spec.OnInput && r.Field.Kind != spec.SingleChoice:
		return nil, phrases.NothingTyped.Text()
	}
	isAbout := func(c *testcase.Case) bool { return slices.Equal(c.Steps[0].Breaks, []string{r.ID}) }
	for _, c := range slices.Concat(slices.DeleteFunc(slices.Clone(b.Cases), func(c *testcase.Case) bool { return !isAbout(c) }), b.Cases) {
		in := lone(b, c, r.Field)
		if in == nil {
			continue
		}
		m := &testcase.Mistake{Rule: r.ID, Input: *in}
		made, said := said(b, m, r)
		switch {
		case !said:
		case r.Field.Mask == nil || r.Field.Mask.Takes(made.Value):
			return m, ""
		case best == nil:
			best = m
		}
	}
	return best, phrases.NoCaseBreaksAlone.Text()
}

// lone is the input of a case of one submission that differs from the usual one in a field alone, nil where it is otherwise.
func lone(b *testcase.Builder, c *testcase.Case, f *spec.PreparedField) *testcase.Input {
	if len(c.Steps) != 1 || c.Row != f.ID || len(c.Steps[0].Inputs) != len(b.Maker.Base) {
		return nil
	}
	var out *testcase.Input
	for i, usual := range b.Inputs(0, nil) {
		in := &c.Steps[0].Inputs[i]
		switch {
		case *in == usual:
		case in.Field != f.ID || in.Recipe.Make == testcase.Absent:
			return nil
		default:
			out = in
		}
	}
	return out
}

// said is a mistake as it is made on the reference day; false where the rule's message is not what comes of it.
func said(b *testcase.Builder, m *testcase.Mistake, r *spec.PreparedRule) (*submission.Mistake, bool) {
	step := testcase.Step{Do: testcase.Submit, Driver: submission.Browser, Inputs: b.Inputs(0, nil), Mistake: m}
	step = Mistaken(&step)
	values, err := b.Maker.Resolve(&testcase.Case{ID: r.ID, Steps: []testcase.Step{step}}, 0, b.Maker.ReferenceEnv(b.Drafts))
	if err != nil {
		return nil, false
	}
	sub := b.Maker.ReferenceSubmission(&step, values)
	return oracle.MistakeOf(b.Maker.Form, b.Maker.ReferenceWorld(sub, nil), sub, r)
}

// Mistaken is a step as it would be sent with its mistake.
func Mistaken(s *testcase.Step) testcase.Step {
	out := *s
	out.Inputs = slices.Clone(s.Inputs)
	for i, in := range out.Inputs {
		if in.Field == s.Mistake.Field {
			out.Inputs[i] = s.Mistake.Input
		}
	}
	return out
}
