package testcase

import (
	"slices"

	"oddtick/core/expression"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/values"
)

// Candidates are values of a field between which expressions may change: its options, its bounds, blank, and what the expressions
// themselves compare with, on both sides. whole tells that they are all the values that the field's own rules let pass.
func (m *Maker) Candidates(f *spec.PreparedField, expressions ...string) (out []Recipe, whole bool) {
	constants := expression.ConstantsOf(expressions...)
	out = []Recipe{m.BaseRecipe(f)}
	add := func(r Recipe) {
		if !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	fixed := func(text string) { add(Recipe{Make: Fixed, Text: text}) }
	texts := func() {
		for _, text := range constants.Texts {
			fixed(text)
			fixed(text + "x")
		}
	}
	switch f.Kind {
	case spec.Checkbox:
		whole = true
		fixed(f.Value)
		add(Recipe{Make: Absent})
	case spec.SingleChoice:
		whole = len(f.Options) > 0
		for _, o := range f.Options {
			fixed(o.Value)
		}
	case spec.Number:
		bounds := []values.Decimal{}
		if r := RuleOf(f, spec.RuleRange); r != nil {
			for _, b := range []*values.Decimal{r.MinNumber, r.MaxNumber} {
				if b != nil {
					bounds = append(bounds, *b)
				}
			}
		}
		for _, n := range constants.Numbers {
			bounds = append(bounds, n, n.Add(StepOf(f)), n.Sub(StepOf(f)))
		}
		for _, n := range bounds {
			fixed(n.String())
		}
		var steps []values.Decimal
		if steps, whole = allSteps(f); whole {
			for _, n := range steps {
				fixed(n.String())
			}
		}
	case spec.Date, spec.Time, spec.DateTime:
		if r := RuleOf(f, spec.RuleRange); r != nil {
			for _, end := range []spec.Scalar{r.Rule.Range.Min, r.Rule.Range.Max} {
				if end != "" && f.Kind == spec.Date {
					add(Recipe{Make: Day, Text: string(end), Zone: r.Rule.Range.Zone})
				}
			}
		}
		for _, other := range m.Form.Named(expressions...) {
			if other.Kind == f.Kind && other.Index < f.Index {
				for _, shift := range Apart(f, constants) {
					add(Recipe{Make: Same, Of: other.ID, Shift: shift})
				}
			}
		}
		texts()
	default:
		texts()
	}
	if !f.Required() && f.Kind != spec.Checkbox {
		fixed("")
	}
	return out, whole
}

// Apart are distances between two times at which an expression may change, in minutes: none, and each duration it names, with one
// unit less and more.
func Apart(f *spec.PreparedField, constants *expression.Constants) []int {
	unit := UnitOf(f)
	out := []int{0, -unit, unit}
	for _, d := range constants.Durations {
		minutes := int(d.Minutes())
		out = append(out, minutes, minutes+unit, minutes-unit)
	}
	return out
}

// maxSteps is how many numbers are all tried.
const maxSteps = 60

// allSteps are all numbers of a small range with a step.
func allSteps(f *spec.PreparedField) ([]values.Decimal, bool) {
	r, step := RuleOf(f, spec.RuleRange), RuleOf(f, spec.RuleStep)
	if r == nil || step == nil || r.MinNumber == nil || r.MaxNumber == nil || !r.MinNumber.Fits(step.From, step.By) {
		return nil, false
	}
	var out []values.Decimal
	for n := *r.MinNumber; n.Cmp(*r.MaxNumber) <= 0; n = n.Add(step.By) {
		if out = append(out, n); len(out) > maxSteps {
			return nil, false
		}
	}
	return out, true
}

// UsualVars are the usual values as expressions see them, on the reference day.
func (d *Maker) UsualVars() map[string]any { return d.BaseVars() }

// BaseVars are the base's values as expressions see them.
func (m *Maker) BaseVars() map[string]any {
	probe := &Case{ID: "base", Steps: []Step{{Do: Submit, Driver: submission.HTTP, Inputs: m.Base}}}
	resolved, err := m.Resolve(probe, 0, &Env{Now: ReferenceDay, OnPage: map[string]string{}})
	if err != nil {
		resolved = Resolved{} // a field without any value is as good as blank
	}
	out := map[string]any{}
	for _, f := range m.Form.Fields {
		text, present := resolved[f.ID]
		v := f.ValueOf(text, present)
		out[f.ID] = f.Var(&v)
	}
	return out
}

// ResolveOne makes one field's value; ok tells that the field's own rules let it pass.
func (m *Maker) ResolveOne(f *spec.PreparedField, recipe Recipe) (text string, present, ok bool) {
	probe := &Case{ID: "one", Steps: []Step{{Do: Submit, Driver: submission.HTTP, Inputs: []Input{{f.ID, recipe}}}}}
	resolved, err := m.Resolve(probe, 0, &Env{Now: ReferenceDay, OnPage: map[string]string{}})
	if err != nil {
		return "", false, false
	}
	text, present = resolved[f.ID]
	v := f.ValueOf(text, present)
	if v.Blank {
		return text, present, !f.Required() && RuleOf(f, spec.RuleMustBeChecked) == nil
	}
	return text, present, Passes(f, text, nil, ReferenceDay)
}
