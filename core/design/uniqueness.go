package design

import (
	"fmt"
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// uniqueness submits a new value twice: the second time the same, and in every form that must count as the same.
func (s *sheet) uniqueness() {
	for _, f := range s.d.p.Fields {
		if r := rule(f, spec.RuleNoOverlap); r != nil {
			s.overlaps(f, r)
		}
		r := rule(f, spec.RuleUnique)
		if r == nil || s.d.sets[f.ID] == nil {
			continue
		}
		if s.d.updates(r) {
			s.one(Quick, f, localID(r)+".own", "one's own", Partitioning, cover(CoversPartition, r.ID, "own"), Recipe{Make: OnPage}, s.textMark(f, "one's own", 5))
			s.one(Quick, f, localID(r)+".anothers", "one that another row holds", Partitioning, cover(CoversPartition, r.ID, "same"), Recipe{Make: OfRow}, s.textMark(f, "another's", 6))
			continue
		}
		s.twice(Standard, f, r, "new", "new", 0, Recipe{Make: Fresh})
		s.twice(Quick, f, r, "same", "same", 1, Recipe{Make: Same, Of: f.ID})
		s.together(f, r)
		if s.survives(f, OtherCase) && (r.IgnoringCase || slices.Contains(f.Sent, "lower") || slices.Contains(f.Sent, "upper")) {
			s.twice(Quick, f, r, "case", "case", 2, Recipe{Make: Same, Of: f.ID, Change: OtherCase})
		}
		if slices.Contains(f.Sent, "trim") {
			s.twice(Standard, f, r, "spaces", "spaces around", 3, Recipe{Make: Same, Of: f.ID, Change: SpacesAround})
		}
	}
}

// updates: acceptance changes a row of the table in which a value is unique, and writes no new one.
func (d *Designer) updates(r *spec.PreparedRule) bool {
	any := false
	for _, st := range d.p.Form.Stored {
		if st.Insert == r.Table {
			return false
		}
		any = any || st.Update == r.Table
	}
	return any
}

// mostTogether is how many submissions are released at the same moment.
const mostTogether = 6

// together submits one new value several times at the same moment, each time by another visitor, where acceptance writes it into a
// new row: just one may get it.
func (s *sheet) together(f *spec.PreparedField, r *spec.PreparedRule) {
	inserts := slices.ContainsFunc(s.d.p.Form.Stored, func(st spec.Stored) bool { return st.Insert == r.Table })
	if !inserts || s.driver != oracle.HTTP {
		return
	}
	kept := s.asked(f, r)
	if kept == nil {
		return // the cases of two visitors say so
	}
	with := func(value Recipe) map[string]Recipe {
		out := maps.Clone(kept)
		out[f.ID] = value
		return out
	}
	steps := []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, with(Recipe{Make: Fresh}))}}
	for i := 1; i < mostTogether; i++ {
		steps = append(steps, Step{Do: Submit, Driver: s.driver, Together: true, Inputs: s.inputs(i, with(Recipe{Make: Same, Of: f.ID}))})
	}
	s.add(Standard, &Case{
		ID: s.id(r.ID + ".together"), Title: fmt.Sprintf("%s: one new value submitted %d times at the same moment", f.Label, mostTogether), Row: RowUniqueness, Technique: ErrorGuessing,
		Covers: cover(CoversPartition, r.ID, "together"), Mark: Mark{f.Label, 9, "together"}, Steps: steps,
	})
}

// overlaps submits a free time, and then one that lies to it in each way two times can lie to each other.
func (s *sheet) overlaps(f *spec.PreparedField, r *spec.PreparedRule) {
	unit := unitOf(f)
	to := r.Other
	at := func(of *spec.PreparedField, units int) Recipe {
		return Recipe{Make: Same, Of: of.ID, Shift: units * unit}
	}
	kept := map[string]Recipe{}
	for _, id := range r.Rule.NoOverlap.Same {
		kept[id] = Recipe{Make: Same, Of: id}
	}
	// the first time takes three units, so that another fits into it
	first := map[string]Recipe{to.ID: {Make: Same, Of: f.ID, Shift: 3 * unit}}
	for i, w := range []struct {
		role, label string
		depth       Depth
		from, to    Recipe
	}{
		{"same", "the same time", Quick, at(f, 0), at(to, 0)},
		{"after", "beginning right after it", Quick, at(to, 1), at(to, 2)},
		{"before", "ending right before it", Standard, at(f, -2), at(f, -1)},
		{"meets_end", "beginning as it ends", Standard, at(to, 0), at(to, 1)},
		{"meets_begin", "ending as it begins", Standard, at(f, -1), at(f, 0)},
		{"within", "within it", Standard, at(f, 1), at(to, -1)},
		{"around", "around it", Standard, at(f, -1), at(to, 1)},
	} {
		second := maps.Clone(kept)
		second[f.ID], second[to.ID] = w.from, w.to
		s.add(w.depth, &Case{
			ID: s.id(r.ID + "." + w.role), Title: f.Label + ", a second time: " + w.label, Row: RowUniqueness, Technique: Boundaries,
			Covers: cover(CoversPartition, r.ID, w.role), Mark: Mark{f.Label, float64(i), w.label},
			Steps: []Step{
				{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, first)},
				{Do: Submit, Driver: s.driver, Inputs: s.inputs(1, second)},
			},
		})
	}
}

// survives tells whether a valid value still keeps the format rules after a change; one that does not says nothing of uniqueness.
func (s *sheet) survives(f *spec.PreparedField, how string) bool {
	v, err := s.d.sets[f.ID].member("", nil, values.Want{Length: -1, Hint: s.d.sets[f.ID].hint(0, -1)})
	return err != nil || passes(f, change(v, how), nil, ReferenceDay)
}

// asked are the recipes of other fields with which a field is filled and a rule of it asked; nil where none are found.
func (s *sheet) asked(f *spec.PreparedField, r *spec.PreparedRule) map[string]Recipe {
	out := map[string]Recipe{}
	names := slices.Clone(f.WhenNames)
	condition := r.Rule.Condition()
	for _, n := range s.d.p.Named(condition) {
		if n != f && !slices.Contains(names, n) {
			names = append(names, n)
		}
	}
	if len(names) == 0 {
		return out
	}
	choices := make([][]Recipe, len(names))
	for i, n := range names {
		choices[i], _ = s.d.candidates(n, f.When, condition)
	}
	at := make([]int, len(choices))
	for more := true; more; more = next(at, choices) {
		replace := map[string]Recipe{f.ID: {Make: Fresh}}
		for i, n := range names {
			replace[n.ID] = choices[i][at[i]]
		}
		probe := &Case{ID: r.ID, Steps: []Step{{Do: Submit, Driver: oracle.HTTP, Inputs: s.inputs(0, replace)}}}
		resolved, err := s.d.Resolve(probe, 0, &Env{Now: ReferenceDay, OnPage: map[string]string{}})
		if err != nil || s.d.leftOut(resolved)[f.ID] {
			continue
		}
		vars := map[string]any{}
		for _, p := range s.d.p.Fields {
			text, present := resolved[p.ID]
			v := p.ValueOf(text, present)
			vars[p.ID] = p.Var(&v)
		}
		if !r.Skipped(vars) {
			delete(replace, f.ID)
			return replace
		}
	}
	return nil
}

func (s *sheet) twice(depth Depth, f *spec.PreparedField, r *spec.PreparedRule, role, label string, at float64, second Recipe) {
	kept := s.asked(f, r)
	if kept == nil {
		s.omitted = append(s.omitted, Omission{About: s.id(r.ID + "." + role), Why: "no values were found that make its condition hold"})
		return
	}
	with := func(value Recipe) map[string]Recipe {
		out := maps.Clone(kept)
		out[f.ID] = value
		return out
	}
	first := Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, with(Recipe{Make: Fresh}))}
	again := Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(1, with(second))}
	s.add(depth, &Case{
		ID: s.id(r.ID + "." + role), Title: f.Label + ", a second time: " + label, Row: RowUniqueness, Technique: Partitioning,
		Covers: cover(CoversPartition, r.ID, role), Mark: Mark{f.Label, at, label}, Steps: []Step{first, again},
	})
}
