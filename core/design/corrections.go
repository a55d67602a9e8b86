package design

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// corrections break each rule whose message comes at a promised moment, and correct the value before it is sent, so that the message is
// seen to come and to go. The first is made at every depth: what is wrong with one is mostly wrong with all.
func (s *sheet) corrections() {
	if s.d.p.Form.Page == "" {
		return
	}
	s.driver = oracle.Browser
	defer func() { s.driver = oracle.HTTP }()
	depth := Quick
	for i, r := range s.d.p.Rules {
		if r.Field == nil || r.Comes == "" || cannotBeEntered[r.Kind] || r.Kind == spec.RuleUnique || r.Kind == spec.RuleRefers || r.Kind == spec.RuleMatches {
			continue
		}
		id := s.id(r.ID + ".corrected")
		mistake, why := s.mistake(r)
		if mistake == nil {
			s.omitted = append(s.omitted, Omission{About: id, Why: why})
			continue
		}
		s.add(depth, &Case{
			ID: id, Title: r.Field.Label + ": a mistake (" + string(r.Kind) + "), corrected before sending", Row: r.Field.ID, Technique: ErrorGuessing, Covers: cover(CoversMessage, r.ID, "comes"),
			Mark: Mark{"corrected", float64(i), string(r.Kind)}, Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, nil), Mistake: mistake}},
		})
		depth = Standard
	}
}

// mistake is a value that some case sends in a rule's field alone and that breaks this rule alone in the browser: one that the field's
// mask lets stand before others. why says why there is none.
func (s *sheet) mistake(r *spec.PreparedRule) (best *Mistake, why string) {
	switch {
	case r.Message == nil:
		return nil, "no text is promised by which its message would be known"
	case r.Kind == spec.RuleRequired && r.Comes == spec.OnTyping && r.Field.Kind != spec.OneChoice:
		return nil, "to leave a field blank nothing is typed"
	}
	isAbout := func(c *Case) bool { return slices.Equal(c.Steps[0].Breaks, []string{r.ID}) }
	for _, c := range slices.Concat(slices.DeleteFunc(slices.Clone(s.cases), func(c *Case) bool { return !isAbout(c) }), s.cases) {
		in := s.lone(c, r.Field)
		if in == nil {
			continue
		}
		m := &Mistake{Rule: r.ID, Input: *in}
		made, said := s.said(m, r)
		switch {
		case !said:
		case r.Field.Mask == nil || r.Field.Mask.Takes(made.Value):
			return m, ""
		case best == nil:
			best = m
		}
	}
	return best, "no case breaks the rule alone by the value of its field alone"
}

// lone is the input of a case of one submission that differs from the usual one in a field alone, nil where it is otherwise.
func (s *sheet) lone(c *Case, f *spec.PreparedField) *Input {
	if len(c.Steps) != 1 || c.Row != f.ID || len(c.Steps[0].Inputs) != len(s.d.base) {
		return nil
	}
	var out *Input
	for i, usual := range s.inputs(0, nil) {
		in := &c.Steps[0].Inputs[i]
		switch {
		case *in == usual:
		case in.Field != f.ID || in.Recipe.Make == Absent:
			return nil
		default:
			out = in
		}
	}
	return out
}

// said is a mistake as it is made on the reference day; false where the rule's message is not what comes of it.
func (s *sheet) said(m *Mistake, r *spec.PreparedRule) (*oracle.Mistake, bool) {
	step := Step{Do: Submit, Driver: oracle.Browser, Inputs: s.inputs(0, nil), Mistake: m}
	step = step.Mistaken()
	values, err := s.d.Resolve(&Case{ID: r.ID, Steps: []Step{step}}, 0, s.d.referenceEnv(s.drafts))
	if err != nil {
		return nil, false
	}
	sub := s.d.referenceSubmission(&step, values)
	return oracle.MistakeOf(s.d.p, s.d.referenceWorld(sub, nil), sub, r)
}

// Mistaken is a step as it would be sent with its mistake.
func (s *Step) Mistaken() Step {
	out := *s
	out.Inputs = slices.Clone(s.Inputs)
	for i, in := range out.Inputs {
		if in.Field == s.Mistake.Field {
			out.Inputs[i] = s.Mistake.Input
		}
	}
	return out
}
