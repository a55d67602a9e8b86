package design_test

import (
	"slices"
	"strings"
	"testing"

	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// TestWhatWasSavedIsChangedAgain: both ways for what is chosen, and blank after filled in; nothing of what is not updated.
func TestWhatWasSavedIsChangedAgain(t *testing.T) {
	t.Parallel()
	all, _ := casesOf(t, `form: own
page: /own
before: {signed_in: keeper}
fields:
  - {id: news, name: news, kind: checkbox}
  - {id: rules, name: rules, kind: checkbox, rules: [{must_be_checked: {}}]}
  - {id: way, name: way, kind: single_choice, options: [{value: post}, {value: mail}, {value: call}]}
  - {id: days, name: days, kind: multiple_choice, options: [{value: mo}, {value: tu}]}
  - {id: note, name: note, rules: [{length: {max: 20}}]}
  - {id: name, name: name, rules: [{required: {}}, {length: {max: 20}}]}
  - {id: other, name: other, rules: [{length: {max: 20}}]}
stored:
  - {update: keepers, row: signed_in, columns: {news: {from: news}, rules: {from: rules}, way: {from: way}, days: {from: days}, note: {from: note}, name: {from: name}}}
`, &spec.Site{Accounts: []spec.Account{{ID: "keeper"}}})
	sent := func(id string) (first, second testcase.Recipe) {
		c := all[id]
		require.NotNil(t, c, id)
		require.Len(t, c.Steps, 2)
		of := func(s testcase.Step) testcase.Recipe {
			i := slices.IndexFunc(s.Inputs, func(in testcase.Input) bool { return in.Field == c.Row })
			return s.Inputs[i].Recipe
		}
		return of(c.Steps[0]), of(c.Steps[1])
	}
	first, second := sent("own/news.changed.off/http")
	require.Equal(t, []testcase.Make{testcase.Fixed, testcase.Absent}, []testcase.Make{first.Make, second.Make})
	first, second = sent("own/way.changed.to_first/http")
	require.Equal(t, []string{"call", "post"}, []string{first.Text, second.Text})
	first, second = sent("own/note.changed.blank/http")
	require.Equal(t, []testcase.Make{testcase.Fresh, testcase.Fixed}, []testcase.Make{first.Make, second.Make})
	sent("own/days.changed.fewer/http")
	for id := range all {
		for _, field := range []string{"rules", "name", "other"} {
			require.False(t, strings.HasPrefix(id, "own/"+field+".changed"), id)
		}
	}
}
