package design_test

import (
	"testing"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

func TestCasesOfFurtherKindsOfFields(t *testing.T) {
	t.Parallel()
	all, _ := outcomes(t, `  - {name: at, kind: time, rules: [{required: {}}, {range: {min: "08:00", max: "20:00"}}]}
  - {name: extras, kind: multiple_choice, options: [{value: oil}, {value: gloves}]}
  - {name: site, kind: url, rules: [{url: {}}, {length: {max: 60}}]}
  - {name: picture, kind: file}
  - {name: steward, kind: readonly}
`, testcase.Standard)
	require.Equal(t, map[string]string{"words": "rejected"}, pick(all, "at.time."))
	require.Equal(t, "rejected", all["at.blank"])
	require.Equal(t, map[string]string{"oil": "accepted", "gloves": "accepted"}, pick(all, "extras.option."))
	require.Equal(t, "rejected", all["extras.listed.not_offered"])
	require.Equal(t, map[string]string{"max-1": "accepted", "max": "accepted", "max+1": "rejected", "max.far": "rejected"}, pick(all, "site.length."))
	require.NotEmpty(t, pick(all, "site.url."))
	require.Equal(t, map[string]string{"blank": "accepted", "valid": "accepted"}, pick(all, "picture."))
	require.Equal(t, map[string]string{"altered": "accepted"}, pick(all, "steward."), "what cannot be typed is only forged")
}

func TestAHiddenKeyIsAlteredAlsoWithoutWhatIsReadOnly(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /
fields:
  - {name: plot_key, kind: hidden}
  - {name: steward, kind: readonly}
  - {name: kept, kind: readonly}
stored: [{insert: plots, columns: {kept: {from: kept}}}]
`))
	cases, _ := d.Cases(testcase.Standard)
	sent := map[string]map[string]bool{}
	for _, c := range cases {
		if !c.Steps[0].Altered {
			continue
		}
		r, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: time.Now(), OnPage: map[string]string{"plot_key": "12", "steward": "Moss", "kept": "yes"}})
		require.NoError(t, err, c.ID)
		sub := d.Submission(&c.Steps[0], r)
		sent[c.ID] = map[string]bool{}
		for name, shown := range map[string]string{"plot_key": "12", "steward": "Moss", "kept": "yes"} {
			if value, is := sub.Value(name); is {
				sent[c.ID][name] = value == shown
			}
		}
	}
	require.Equal(t, map[string]map[string]bool{ // of what is sent, whether it is as the page holds it
		"f/plot_key.altered/http":       {"plot_key": false, "steward": true, "kept": true},
		"f/plot_key.altered_alone/http": {"plot_key": false, "kept": true},
		"f/steward.altered/http":        {"plot_key": true, "steward": false, "kept": true},
	}, sent)
}

func TestAConditionalFieldIsFilledOnlyWhereItsConditionHolds(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /
fields:
  - {name: bees, kind: checkbox, value: "yes"}
  - {name: hive, when: bees, rules: [{required: {}}, {length: {max: 4}}]}
`))
	cases, _ := d.Cases(testcase.Standard)
	for _, c := range cases {
		r, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: time.Now(), OnPage: map[string]string{}})
		require.NoError(t, err, c.ID)
		sub := d.Submission(&c.Steps[0], r)
		_, bees := sub.Value("bees")
		_, hive := sub.Value("hive")
		stale := len(c.Steps[0].Extra) > 0 && c.Steps[0].Extra[0].Name == "hive"
		require.Equal(t, bees || stale, hive, c.ID)
		require.True(t, !stale || c.Steps[0].Expect == oracle.Accepted, "what is not asked for is not judged: %s", c.ID)
	}
	values := d.Sample(1, time.Now())
	require.Empty(t, values["bees"])
	require.NotContains(t, values, "hive")
}

func TestASampleKeepsEveryRule(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: f
page: /
fields:
  - {name: a, rules: [{required: {}}, {pattern: {is: "[A-Z]{2}[0-9]{4}"}}]}
  - {name: b, kind: date, rules: [{range: {max: "today - 18 years"}}]}
  - {name: c, kind: number, rules: [{range: {min: 5, max: 9}}]}
  - {name: again, rules: [{same_as: {field: a}}]}
  - {name: h, kind: hidden}
`)
	d := designer(t, p)
	one, two := d.Sample(1, time.Now()), d.Sample(2, time.Now())
	require.Equal(t, one["a"], one["again"])
	require.NotEqual(t, one["a"], two["a"], "new each time")
	require.NotContains(t, one, "h")
	for _, f := range p.Fields {
		for _, text := range one[f.ID] {
			v := f.ValueOf(text, true)
			for _, r := range f.Rules {
				require.True(t, r.Passes(&v, time.Now()), "%s: %q", r.ID, text)
			}
		}
	}
}

// TestAFieldThatNoValuePassesCanStillBeRun: every case is expected to be rejected, none is left out.
func TestAFieldThatNoValuePassesCanStillBeRun(t *testing.T) {
	t.Parallel()
	all, _ := outcomes(t, "  - {name: a, rules: [{required: {}}, {length: {min: 9, max: 3}}]}\n  - {name: b, rules: [{length: {max: 5}}]}\n", testcase.Standard)
	require.NotEmpty(t, all)
	for id, outcome := range all {
		if outcome == "answered" || id == "form.other_method" {
			continue // requests that no page sends
		}
		require.Equal(t, "rejected", outcome, id)
	}
}

func TestUniquenessInAnotherCaseIsNoCaseWhereThePatternForbidsIt(t *testing.T) {
	t.Parallel()
	all, _ := outcomes(t, `  - {name: a, rules: [{pattern: {is: "OS-[0-9]{6}"}}, {unique: {column: t.a, ignoring: [case]}}]}
  - {name: b, rules: [{pattern: {is: "[A-Za-z]{3,9}"}}, {unique: {column: t.b, ignoring: [case]}}]}
`, testcase.Standard)
	require.Contains(t, all, "a.unique.same")
	require.NotContains(t, all, "a.unique.case")
	require.Contains(t, all, "b.unique.case")
}
