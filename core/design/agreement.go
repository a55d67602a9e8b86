package design

import (
	"oddtick/core/spec"
)

// agreement covers fields that must agree or differ.
func (s *sheet) agreement() {
	for _, f := range s.d.p.Fields {
		if r := rule(f, "agrees"); r != nil {
			s.agrees(f, r)
		}
		if r := rule(f, "differs"); r != nil {
			s.across(Quick, r, "same", f.Label+" is the same as "+r.Other.Label, map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID}}, Mark{r.ID, 1, "same"})
		}
	}
}

func (s *sheet) across(depth Depth, r *spec.PreparedRule, role, title string, replace map[string]Recipe, m Mark) {
	s.add(depth, &Case{
		ID: s.id(r.ID + "." + role), Title: title, Row: RowAcross, Technique: Partitioning, Covers: []string{"partition " + r.ID + " " + role}, Mark: m,
		Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}},
	})
}

func (s *sheet) agrees(f *spec.PreparedField, r *spec.PreparedRule) {
	s.across(Standard, r, "same", f.Label+": the same", nil, Mark{r.ID, 0, "same"})
	s.across(Quick, r, "differs", f.Label+": another value", map[string]Recipe{f.ID: {Make: Fresh}}, Mark{r.ID, 1, "differs"})
	s.across(Standard, r, "case", f.Label+": differs in case only", map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID, Change: OtherCase}}, Mark{r.ID, 2, "case only"})
}
