package design

import (
	"fmt"
	"strconv"

	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// How many random cases there are of each field and of the whole form.
const (
	randomOfField = 3
	randomOfForm  = 10
)

// random takes valid values of no particular look, other ones in each run. Which they are follows from the run's number.
func random(b *testcase.Builder, f *spec.PreparedField) {
	if b.Maker.Sets[f.ID] == nil || testcase.RuleOf(f, spec.RuleSameAs) != nil || !b.Maker.Sets[f.ID].Usable("", nil) || f.Kind == spec.Email || f.Kind == spec.URL {
		return // few sites take every address of HTML's definition
	}
	for i := range randomOfField {
		b.AddFieldCase(testcase.Thorough, f, fmt.Sprintf("random.%d", i+1), phrases.AnyValue.Text(), testcase.Random, testcase.Covering(testcase.CoversRandom, f.ID, strconv.Itoa(i+1)), testcase.Recipe{Make: testcase.Any}, testcase.Mark{Scale: "random", At: float64(i), Label: fmt.Sprint(i + 1)})
	}
}

// randomForm fills the whole form at random.
func randomForm(b *testcase.Builder) {
	replace := map[string]testcase.Recipe{}
	for _, f := range b.Maker.Form.Fields {
		if b.Maker.Sets[f.ID] != nil && testcase.RuleOf(f, spec.RuleSameAs) == nil && f.Kind != spec.Email && f.Kind != spec.URL && b.Maker.Base[f.Index].Recipe.Make == testcase.Fresh {
			replace[f.ID] = testcase.Recipe{Make: testcase.Any}
		}
	}
	if len(replace) < 2 {
		return
	}
	for i := range randomOfForm {
		b.Add(testcase.Thorough, &testcase.Case{
			ID: b.ID(fmt.Sprintf("form.random.%d", i+1)), Title: phrases.AnyValues.Text(), Row: testcase.RowForm, Technique: testcase.Random, Covers: testcase.Covering(testcase.CoversRandom, "form", strconv.Itoa(i+1)),
			Mark: testcase.Mark{Scale: "random", At: float64(i), Label: fmt.Sprint(i + 1)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}},
		})
	}
}
