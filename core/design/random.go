package design

import (
	"fmt"
	"strconv"

	"oddtick/core/spec"
)

// How many random cases there are of each field and of the whole form.
const (
	randomOfField = 3
	randomOfForm  = 10
)

// random takes valid values of no particular look, other ones in each run. Which they are follows from the run's number.
func (s *sheet) random(f *spec.PreparedField) {
	if s.d.sets[f.ID] == nil || rule(f, spec.RuleAgrees) != nil || !s.d.sets[f.ID].usable("", nil) || f.Kind == spec.Email || f.Kind == spec.URL {
		return // few sites take every address of HTML's definition
	}
	for i := range randomOfField {
		s.one(Thorough, f, fmt.Sprintf("random.%d", i+1), "any value", Random, cover(CoversRandom, f.ID, strconv.Itoa(i+1)), Recipe{Make: Any}, Mark{"random", float64(i), fmt.Sprint(i + 1)})
	}
}

// randomForm fills the whole form at random.
func (s *sheet) randomForm() {
	replace := map[string]Recipe{}
	for _, f := range s.d.p.Fields {
		if s.d.sets[f.ID] != nil && rule(f, spec.RuleAgrees) == nil && f.Kind != spec.Email && f.Kind != spec.URL && s.d.base[f.Index].Recipe.Make == Fresh {
			replace[f.ID] = Recipe{Make: Any}
		}
	}
	if len(replace) < 2 {
		return
	}
	for i := range randomOfForm {
		s.add(Thorough, &Case{
			ID: s.id(fmt.Sprintf("form.random.%d", i+1)), Title: "any values", Row: RowForm, Technique: Random, Covers: cover(CoversRandom, "form", strconv.Itoa(i+1)),
			Mark: Mark{"random", float64(i), fmt.Sprint(i + 1)}, Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}},
		})
	}
}
