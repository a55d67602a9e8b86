package design

import (
	"slices"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// uniqueness submits a new value twice: the second time the same, and in every form that must count as the same.
func (s *sheet) uniqueness() {
	for _, f := range s.d.p.Fields {
		r := rule(f, "unique")
		if r == nil || s.d.sets[f.ID] == nil {
			continue
		}
		s.twice(Standard, f, r, "new", "new", 0, Recipe{Make: Fresh})
		s.twice(Quick, f, r, "same", "same", 1, Recipe{Make: Same, Of: f.ID})
		if s.survives(f, OtherCase) && (r.IgnoringCase || slices.Contains(f.Sent, "lower") || slices.Contains(f.Sent, "upper")) {
			s.twice(Quick, f, r, "case", "case", 2, Recipe{Make: Same, Of: f.ID, Change: OtherCase})
		}
		if slices.Contains(f.Sent, "trim") {
			s.twice(Standard, f, r, "spaces", "spaces around", 3, Recipe{Make: Same, Of: f.ID, Change: SpacesAround})
		}
	}
}

// survives tells whether a valid value still keeps the format rules after a change; one that does not says nothing of uniqueness.
func (s *sheet) survives(f *spec.PreparedField, how string) bool {
	v, err := s.d.sets[f.ID].member("", nil, values.Want{Length: -1, Hint: s.d.sets[f.ID].hint(0, -1)})
	return err != nil || passes(f, change(v, how), nil, ReferenceDay)
}

func (s *sheet) twice(depth Depth, f *spec.PreparedField, r *spec.PreparedRule, role, label string, at float64, second Recipe) {
	first := Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, map[string]Recipe{f.ID: {Make: Fresh}})}
	again := Step{Do: Submit, Driver: s.driver, Inputs: s.inputs(1, map[string]Recipe{f.ID: second})}
	s.add(depth, &Case{
		ID: s.id(r.ID + "." + role), Title: f.Label + ", a second time: " + label, Row: RowUniqueness, Technique: Partitioning,
		Covers: []string{"partition " + r.ID + " " + role}, Mark: Mark{f.Label, at, label}, Steps: []Step{first, again},
	})
}
