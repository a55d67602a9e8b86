package design_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// stricterPage is a form whose page, or table, permits less than its server.
const stricterPage = `
form: walk
page: /walk
fields:
  - {name: age, label: Age, kind: number, rules: [{required: {}}, {range: {min: 0, max: 120}}, {range: {min: 16, max: 99, layers: [browser]}}]}
  - {name: weight, label: Weight, kind: number, rules: [{range: {min: 1, max: 90}}, {step: {by: 5, from: 20}}, {range: {min: 30, layers: [browser]}}]}
  - {name: day, label: Day, kind: date, rules: [{range: {min: 1900-01-01}}, {range: {min: 2041-06-01, max: 2041-07-01, layers: [browser]}}]}
  - {name: at, label: At, kind: time, rules: [{range: {min: "06:00"}}, {range: {min: "09:30", layers: [browser]}}]}
  - {name: nick, label: Nick, rules: [{length: {max: 30}}, {length: {min: 8, layers: [browser]}}, {pattern: {is: "[a-z]+", layers: [browser]}}, {length: {max: 12, layers: [database]}}]}
  - {name: terms, label: Terms, kind: checkbox, rules: [{must_be_checked: {layers: [browser]}}]}
  - {name: code, label: Code, rules: [{unique: {column: walkers.code}}, {required: {layers: [browser]}}]}
`

// TestUsualValuesPassTheRulesOfEveryLayer: else every case would be rejected for another field than its own.
func TestUsualValuesPassTheRulesOfEveryLayer(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, stricterPage))
	usual := map[string]string{}
	probe := &testcase.Case{ID: "usual", Steps: []testcase.Step{{Do: testcase.Submit, Driver: submission.Browser, Inputs: d.Maker.Base}}}
	resolved, err := d.Maker.Resolve(probe, 0, d.Maker.ReferenceEnv(nil))
	require.NoError(t, err)
	for _, f := range d.Prepared().Fields {
		usual[f.ID] = resolved[f.ID]
		text, present := resolved[f.ID]
		v := f.ValueOf(text, present)
		for _, r := range f.Rules {
			if !v.Blank || r.Kind == "required" || r.Kind == "must_be_checked" {
				require.True(t, r.Passes(&v, testcase.ReferenceDay), "%s with %q, rule %s", f.ID, resolved[f.ID], r.ID)
			}
		}
	}
	require.Equal(t, "17", usual["age"])
	require.Equal(t, "85", usual["weight"])
	require.NotEmpty(t, usual["terms"])
	require.NotEmpty(t, usual["code"])

	set := d.Design(design.Plan{Depth: testcase.Standard})
	for _, c := range set.Cases {
		if s := c.Last(); s.Expect == oracle.RejectedByBrowser {
			for _, broken := range s.Breaks {
				require.Equal(t, d.Prepared().Rule(s.Breaks[0]).Field, d.Prepared().Rule(broken).Field, "%s is rejected for one field", c.ID)
			}
		}
	}
	violated := map[string]bool{}
	for _, c := range set.Cases {
		if s := c.Last(); len(s.Breaks) == 1 {
			violated[s.Breaks[0]] = true
		}
	}
	for _, r := range d.Prepared().Rules {
		if r.Layer == spec.InBrowser {
			require.True(t, violated[r.ID], "a case violates %s alone", r.ID)
		}
	}
}
