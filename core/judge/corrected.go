package judge

import (
	"slices"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// SaidOf tells whether a text is the message of a mistake, can be seen, and stands at its field where that is promised.
func SaidOf(m *submission.Mistake, t *observation.Text) bool {
	return !t.Hidden && (m.Message.Place != spec.AtField || t.At(m.Name)) && isOf(&m.Message, m.Name, t)
}

// ofMoment tells whether a part is of when a message comes and goes while the form is filled in, before anything is sent.
func ofMoment(p *Part) bool {
	return p.Difference == TooLate || p.Difference == TooEarly || p.Difference == Stays
}

// moments are when a message is seen first, in their order.
var moments = []Term{WhileTyping, OnLeaving, OnSubmitting}

// corrected: the message of a mistake comes when it is promised, and goes when the mistake is corrected.
func corrected(j *judging, c *Check) {
	if j.o.Sent == nil || j.o.Sent.Mistake == nil {
		return
	}
	m := j.o.Sent.Mistake
	comes, goes := ofMessage(MessageComes, &m.Message), ofMessage(MessageGoes, &m.Message)
	if j.o.Drawn == nil || j.o.Drawn.Correction == nil {
		c.unobserved(comes, is(NoMistakeMade))
		return
	}
	seen := j.o.Drawn.Correction
	if seen.Refused != "" {
		c.notApplicable(comes, withText(MistakeImpossible, seen.Refused))
		return
	}
	said := func(texts []observation.Text) bool {
		return slices.ContainsFunc(texts, func(t observation.Text) bool { return SaidOf(m, &t) })
	}
	first := 2
	switch {
	case said(seen.Typed):
		first = 0
	case said(seen.Left):
		first = 1
	}
	promised := slices.Index([]spec.MessageEvent{spec.OnInput, spec.OnBlur, spec.OnSubmit}, m.MessageOn)
	kind := TooLate
	if first < promised {
		kind = TooEarly
	}
	// a choice is made in one move: its change and leaving it come to the same
	same := first == promised || first == 0 && promised == 1 && isChoice(j, m.Name)
	c.compare(same, comes, kind, is(moments[promised]), is(moments[first]))
	if first < 2 && !j.remade(m.Name) { // or else it is not the right value that stands there
		c.compare(!said(seen.LeftAgain), goes, Stays, is(GoneOnceCorrected), either(said(seen.LeftAgain), ItStays, Gone))
	}
}

// isChoice tells whether a field, by its request name, is chosen and not typed.
func isChoice(j *judging, name string) bool {
	f := fieldOf(j, name)
	return f != nil && (f.Kind == spec.SingleChoice || f.Kind == spec.MultipleChoice || f.Kind == spec.Checkbox)
}
