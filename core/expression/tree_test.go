package expression_test

import (
	"testing"
	"time"

	"oddtick/core/expression"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestConstantsOfExpressions(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]struct {
		texts, numbers []string
		durations      []time.Duration
	}{
		`plots <= 2 && plots != -3`:                       {numbers: []string{"2", "-3"}},
		`plots-5 > 2.50 || plots == 7u`:                   {numbers: []string{"5", "2.5", "7"}},
		`tool == "spade 4" || tool == 'it\'s'`:            {texts: []string{"spade 4", "it's"}},
		`tool == "a \"b\" c" ? plots > 1 : plots>1`:       {texts: []string{`a "b" c`}, numbers: []string{"1"}},
		`until - from <= duration("36h")`:                 {durations: []time.Duration{36 * time.Hour}},
		`tags.exists_one(t, t == "x") && size(tags) > 2`:  {texts: []string{"x"}, numbers: []string{"2"}},
		`tool in ["spade", "rake"] && {"k": 3}["k"] == 4`: {texts: []string{"spade", "rake", "k"}, numbers: []string{"3", "4"}},
		`tool ==`: {},
	} {
		got := expression.ConstantsOf(text)
		var numbers []string
		for _, n := range got.Numbers {
			numbers = append(numbers, n.String())
		}
		require.Equal(t, want.texts, got.Texts, text)
		require.Equal(t, want.numbers, numbers, text)
		require.Equal(t, want.durations, got.Durations, text)
	}
	both := expression.ConstantsOf(`plots > 2`, `plots > 2 && tool == "x"`)
	require.Equal(t, []string{"x"}, both.Texts)
	require.Len(t, both.Numbers, 1, "each once")
}

// TestFieldsThatAnExpressionNames: a word within a text is none, and neither is the name of a list's element.
func TestFieldsThatAnExpressionNames(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: f
page: /
fields:
  - {name: tool}
  - {name: spade}
  - {name: plots, kind: number}
  - {name: tags, kind: multiple_choice, options: [{value: spade}, {value: rake}]}
`)
	for text, want := range map[string][]string{
		`tool == "spade"`: {"tool"},
		`tool == 'a spade, not a rake' && plots > 1`: {"tool", "plots"},
		`tags.exists(tool, tool == "spade")`:         {"tags"},
		`tags.exists(t, t == tool)`:                  {"tool", "tags"},
		`size(spade) > 0 ? plots > 1 : true`:         {"spade", "plots"},
		`tool ==`:                                    nil,
	} {
		var got []string
		for _, f := range p.Named(text) {
			got = append(got, f.ID)
		}
		require.Equal(t, want, got, text)
	}
}

// TestNumbersOfEitherKindAreCompared: a field's number may be whole or a decimal, whichever the expression is written with.
func TestNumbersOfEitherKindAreCompared(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: f
page: /
fields:
  - {name: plots, kind: number}
  - {name: hours, kind: number}
  - {name: tool}
across:
  - {id: enough, must_hold: 'plots * 2 <= hours + 1 || tool == "2 spades"', message: Too few hours.}
`)
	for _, c := range []struct {
		plots, hours any
		tool         string
		holds        bool
	}{
		{int64(2), int64(3), "", true}, {int64(2), int64(2), "", false}, {2.5, int64(4), "", true}, {int64(2), 2.5, "", false}, {2.5, 2.5, "2 spades", true},
	} {
		require.Equal(t, c.holds, p.Across[0].Holds(map[string]any{"plots": c.plots, "hours": c.hours, "tool": c.tool}), c)
	}
}

func prepared(t testing.TB, text string) *spec.Prepared {
	f, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err, text)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}
