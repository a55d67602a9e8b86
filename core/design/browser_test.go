package design_test

import (
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"

	"github.com/stretchr/testify/require"
)

// browserCases maps ids of the cases for the browser to what is expected, and whether its own checks are off.
func browserCases(t *testing.T, fields string) map[string]string {
	cases, _ := designer(t, prepared(t, "form: f\npage: /\nfields:\n"+fields)).Cases(design.Standard)
	out := map[string]string{}
	for _, c := range cases {
		last := c.Last()
		if id, ok := strings.CutSuffix(c.ID, "/browser"); ok {
			require.Equal(t, oracle.Browser, last.Driver, c.ID)
			words := string(last.Expect) + " " + strings.Join(last.Breaks, ",")
			if last.Unchecked {
				words += " unchecked"
			}
			out[strings.TrimPrefix(id, "f/")] = words
		}
	}
	return out
}

func TestRulesOfTheBrowserAreBrokenByTyping(t *testing.T) {
	t.Parallel()
	all := browserCases(t, `  - name: plot
    rules:
      - {length: {max: 20}}
      - length: {id: narrow, layer: browser, max: 9}
      - pattern: {id: shape, layer: browser, is: '[a-z]*'}
      - required: {id: needed, layer: browser}
`)
	require.Equal(t, "rejected by the browser plot.needed", all["plot.needed.blank"])
	require.Equal(t, "rejected by the browser plot.narrow", all["plot.narrow.max+1"])
	require.Equal(t, "accepted ", all["plot.narrow.max"])
	shaped := 0
	for id, words := range all {
		if strings.HasPrefix(id, "plot.shape.") {
			shaped++
			require.Equal(t, "rejected by the browser plot.shape", words, id)
		}
	}
	require.Positive(t, shaped)
}

func TestEachRuleOfTheServerIsSeenInTheBrowserOnce(t *testing.T) {
	t.Parallel()
	all := browserCases(t, `  - {name: plot, rules: [{required: {}}, {length: {min: 3, max: 9}}]}
  - {name: beds, kind: number, rules: [{range: {min: 1, max: 4}}]}
`)
	require.Equal(t, map[string]string{
		"plot.blank":        "rejected by the server plot.required unchecked",
		"plot.length.min-1": "rejected by the server plot.length unchecked",
		"beds.range.min-1":  "rejected by the server beds.range unchecked",
	}, all, "what cannot be typed into a number's control is not tried")
}
