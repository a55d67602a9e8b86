package design

import (
	"fmt"
	"strings"

	"oddtick/core/expression"
	"oddtick/core/spec"
)

// agreement covers fields that must agree or differ.
func (s *sheet) agreement() {
	for _, f := range s.d.p.Fields {
		if r := rule(f, spec.RuleAgrees); r != nil {
			s.agrees(f, r)
		}
		if r := rule(f, spec.RuleDiffers); r != nil {
			s.across(Quick, r, "same", f.Label+" is the same as "+r.Other.Label, map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID}}, Mark{r.ID, 1, "same"})
		}
	}
}

// distances are two times as far apart as a rule across fields just lets them be, and just does not.
func (s *sheet) distances() {
	used := map[string]bool{}
	for _, r := range s.d.p.Across {
		for i, from := range r.Names {
			for _, to := range r.Names[i+1:] {
				if from.Kind != to.Kind || from.Kind != spec.Date && from.Kind != spec.DateTime {
					continue
				}
				for k, shift := range apart(to, expression.ConstantsOf(r.Expression)) {
					units := shift / unitOf(to)
					replace := map[string]Recipe{to.ID: {Make: Same, Of: from.ID, Shift: shift}}
					if e, ok := s.expect(replace); !ok || len(e.Failing) > 1 || len(e.Failing) == 1 && e.Failing[0].Rule != r.ID {
						continue
					}
					words := distanceWords(to.Kind, units)
					at := fmt.Sprint(from.ID, to.ID, shift)
					if used[at] {
						continue
					}
					used[at] = true
					s.across(Standard, r, fmt.Sprintf("%s.%s%+d", to.ID, from.ID, units), strings.TrimSpace(to.Label+": "+words+map[bool]string{true: " as "}[units == 0])+" "+from.Label, replace, Mark{r.ID + " distance", float64(units) + float64(k)/100, words})
				}
			}
		}
	}
}

// distanceWords say how far a time lies behind another.
func distanceWords(kind spec.Kind, units int) string {
	unit := map[spec.Kind]string{spec.Date: "day", spec.DateTime: "hour"}[kind]
	switch {
	case units == 0:
		return "the same " + unit
	case units == 1:
		return "a " + unit + " after"
	case units == -1:
		return "a " + unit + " before"
	case units < 0:
		return fmt.Sprintf("%d %ss before", -units, unit)
	}
	return fmt.Sprintf("%d %ss after", units, unit)
}

func (s *sheet) across(depth Depth, r *spec.PreparedRule, role, title string, replace map[string]Recipe, m Mark) {
	s.add(depth, &Case{
		ID: s.id(r.ID + "." + role), Title: title, Row: RowAcross, Technique: Partitioning, Covers: cover(CoversPartition, r.ID, role), Mark: m,
		Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}},
	})
}

func (s *sheet) agrees(f *spec.PreparedField, r *spec.PreparedRule) {
	s.across(Standard, r, "same", f.Label+": the same", nil, Mark{r.ID, 0, "same"})
	s.across(Quick, r, "differs", f.Label+": another value", map[string]Recipe{f.ID: {Make: Fresh}}, Mark{r.ID, 1, "differs"})
	s.across(Standard, r, "case", f.Label+": differs in case only", map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID, Change: OtherCase}}, Mark{r.ID, 2, "case only"})
}
