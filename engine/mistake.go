package engine

import (
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/page"
)

// mistake adds to a submission the mistake that is made, and corrected, before it is sent.
func (a *attempt) mistake(i int, sent *oracle.Submission, world *oracle.World) (stop *judge.Step) {
	step := a.c.Steps[i].Mistaken()
	values, err := a.r.c.Designer.Resolve(&design.Case{ID: a.c.ID, Steps: []design.Step{step}}, 0, &a.env)
	if err != nil {
		return judge.Unobserved(err.Error())
	}
	rule := a.r.p.Rules[slices.IndexFunc(a.r.p.Rules, func(r *spec.PreparedRule) bool { return r.ID == step.Mistake.Rule })]
	wrong := a.r.c.Designer.Submission(&step, values)
	wrong.Pairs = append(wrong.Pairs, slices.DeleteFunc(slices.Clone(sent.Pairs), func(p oracle.Pair) bool { return slices.Contains(a.r.names, p.Name) })...) // with the page's tokens
	var ok bool
	if sent.Mistake, ok = oracle.MistakeOf(a.r.p, world, wrong, rule); !ok {
		return judge.Unobserved("the value made does not break " + rule.ID + " alone")
	}
	return nil
}

// correction sees what comes and goes while a mistake is made and corrected.
type correction struct {
	m     *oracle.Mistake
	names []string
	seen  observation.Correction
}

func (v *inBrowser) correctionOf(m *oracle.Mistake) *correction {
	return &correction{m: m, names: v.names, seen: observation.Correction{Name: m.Name}}
}

// notMade says why a control did not let a mistake be made, "" where it did.
func notMade(p *spec.Prepared, wrong *observation.Entered) string {
	switch {
	case wrong == nil:
		return "the field was not come to"
	case wrong.Refused != "":
		return wrong.Refused
	case remade(fieldNamed(p, wrong.Name), wrong):
		return madeOf(wrong)
	}
	return ""
}

// How long what is promised is waited for, as it may be the server that is asked; and what is not promised, as scripts often check a
// little after the last key.
const (
	promisedWithin = 2 * time.Second
	otherwise      = 400 * time.Millisecond
)

// see keeps what stands at a moment, and tells how long another look is worth it.
func (c *correction) see(moment browser.Moment, html, address string) (within time.Duration) {
	p, err := page.ReadDrawn(html, address, c.names)
	if err != nil {
		return 0
	}
	texts := []observation.Text{}
	said := false
	for _, t := range p.Texts {
		if t.At(c.m.Name) || t.Alarm {
			texts = append(texts, t)
			said = said || judge.SaidOf(c.m, &t)
		}
	}
	promised := c.m.Comes == spec.OnTyping
	switch moment {
	case browser.Typed:
		c.seen.Typed = texts
	case browser.Left:
		c.seen.Left, promised = texts, c.m.Comes != spec.OnSubmitting
	case browser.LeftAgain:
		c.seen.LeftAgain, said, promised = texts, !said, true // that it is no longer said
	}
	switch {
	case said:
		return 0
	case promised:
		return promisedWithin
	}
	return otherwise
}
