package design_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/require"
)

// TestEachKindOfRuleIsPutInWordsAndTried: a form with one field for each kind of rule has words and a case for each of them.
func TestEachKindOfRuleIsPutInWordsAndTried(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {name: name, rules: [{required: {}}, {length: {max: 20}}, {unique: {column: sheds.name}}]}
  - {name: code, rules: [{pattern: {is: "[A-Z]{2}-[0-9]{3}"}}]}
  - {name: nick, rules: [{characters: {of: a-z0-9}}, {different_from: {field: name}}]}
  - {name: again, rules: [{same_as: {field: name}}]}
  - {name: mail, kind: email, rules: [{email: {}}]}
  - {name: home, kind: url, rules: [{url: {}}]}
  - {name: beds, kind: number, rules: [{range: {min: 1, max: 9}}, {step: {by: 1}}, {decimals: {max: 0}}]}
  - {name: from, kind: date, rules: [{no_overlap: {to: until, table: lets, begins: a, ends: b}}]}
  - {name: until, kind: date}
  - {name: hour, kind: time}
  - {name: roof, kind: single_choice, options: [{value: felt}, {value: slate}]}
  - {name: agreed, kind: checkbox, rules: [{must_be_checked: {}}]}
  - {name: photo, kind: file, rules: [{file: {max: 100000, types: [image/png]}}]}
  - {name: plot, rules: [{exists_in: {column: plots.number}}]}
  - {name: key, kind: password, rules: [{matches_secret: {stored: users.hash}}]}
across: [{id: few, must_hold: "beds <= 8"}]
accepted: {status: 303}
rejected: {status: 422}
`))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	set := d.Design(design.Plan{Depth: testcase.Thorough})
	tried := map[spec.RuleKind]bool{}
	for _, c := range set.Cases {
		for _, about := range c.Covers {
			if r := p.Rule(about.Of); r != nil {
				tried[r.Kind] = true
			}
		}
	}
	for _, o := range set.Omitted {
		if r := p.Rule(o.About); r != nil {
			tried[r.Kind] = true // it is said why not
		}
	}
	rules := p.Rules
	for _, r := range append(rules, p.Across...) {
		require.NotEmpty(t, promise.Rule(r), r.ID)
		require.True(t, tried[r.Kind], "%s is neither tried nor left out", r.ID)
	}
	kinds := map[string]bool{}
	for _, r := range append(rules, p.Across...) {
		kinds[string(r.Kind)] = true
	}
	for _, kind := range spec.RuleKind("").Values() {
		require.True(t, kinds[kind], "the form has no rule of the kind %s", kind)
	}
}
