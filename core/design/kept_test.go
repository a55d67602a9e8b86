package design_test

import (
	"slices"
	"testing"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// TestUniquenessIsTriedWithItsConditionKept: a value is only refused as taken where the rule is asked.
func TestUniquenessIsTriedWithItsConditionKept(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("f.yaml", []byte(`form: berth
page: /berth
fields:
  - {name: use, kind: single_choice, options: [{label: Guest, value: guest}, {label: Member, value: member}], rules: [{required: {}}]}
  - {name: number, rules: [{required: {}}, {pattern: {is: "OS-[0-9]{4}"}}, {unique: {column: berths.number, when: use == "member"}}]}
accepted: {status: 303}
stored: [{insert: berths, columns: {number: {from: number}}}]
`))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	all, _ := d.Cases(testcase.Standard)
	at := slices.IndexFunc(all, func(c *testcase.Case) bool { return c.ID == "berth/number.unique.same/http" })
	require.GreaterOrEqual(t, at, 0)
	require.Equal(t, []string{"number.unique"}, all[at].Steps[1].Breaks)
	require.Contains(t, all[at].Steps[1].Inputs, testcase.Input{Field: "use", Recipe: testcase.Recipe{Make: testcase.Fixed, Text: "member"}})
}

// TestAnExampleIsThePatternOfNewValues: of a field whose values must be new it is not the only one.
func TestAnExampleIsThePatternOfNewValues(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("f.yaml", []byte("form: berth\npage: /berth\nfields: [{name: number, example: OS-0042-a, rules: [{required: {}}, {pattern: {is: \"[A-Z]{2}-[0-9]{4}-[a-z]\"}}, {unique: {column: berths.number}}]}]\nstored: [{insert: berths, columns: {number: {from: number}}}]\n"))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	all, _ := d.Cases(testcase.Quick)
	at := slices.IndexFunc(all, func(c *testcase.Case) bool { return c.ID == "berth/form.usual/http" })
	seen := map[string]bool{}
	for try := range 30 {
		values, err := d.Resolve(all[at], 0, &testcase.Env{Now: testcase.ReferenceDay, Run: 7, Try: try, OnPage: map[string]string{}})
		require.NoError(t, err)
		require.Regexp(t, `^[A-Z]{2}-[0-9]{4}-[a-z]$`, values["number"])
		seen[values["number"]] = true
	}
	require.Greater(t, len(seen), 25)
}
