package design_test

import (
	"slices"
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// browserCases maps ids of the cases for the browser to what is expected, and whether its own checks are off.
func browserCases(t *testing.T, fields string) map[string]string {
	cases, _ := designer(t, prepared(t, "form: f\npage: /\nfields:\n"+fields)).Cases(testcase.Standard)
	out := map[string]string{}
	for _, c := range cases {
		last := c.Last()
		if id, ok := strings.CutSuffix(c.ID, "/browser"); ok {
			require.Equal(t, submission.Browser, last.Driver, c.ID)
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
      - length: {id: narrow, layers: [browser], max: 9}
      - pattern: {id: shape, layers: [browser], is: '[a-z]*'}
      - required: {id: needed, layers: [browser]}
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

// TestMistakesThatAreCorrected are made where it is promised when a message comes: one for each rule that a value of its field breaks
// alone in the browser, and that a mask lets stand.
func TestMistakesThatAreCorrected(t *testing.T) {
	t.Parallel()
	const fields = `
  - name: plot
    rules:
      - {length: {layers: [browser], max: 9, message: Too long.}}
      - required: {layers: [browser], message_on: submit, message: Name it.}
      - required: {id: again, message_on: blur, message: Name it.}
  - name: phone
    mask: {typed: "01632960123", shown: "01632 960 123", sent: "01632960123"}
    rules:
      - pattern: {is: '[0-9]{11}'}
      - pattern: {id: digits, layers: [browser], is: '[0-9]{11}', message: Eleven digits.}
  - name: code
    rules:
      - required: {layers: [browser], message_on: input, message: Enter it.}
      - length: {layers: [browser], max: 5}
`
	d := designer(t, prepared(t, "form: f\npage: /\nrejected: {status: 422, message_on: blur}\nfields:"+fields))
	cases, omitted := d.Cases(testcase.Standard)
	quick, _ := d.Cases(testcase.Quick)
	require.Len(t, slices.DeleteFunc(quick, func(c *testcase.Case) bool { return c.Last().Mistake == nil }), 1)
	made := map[string]string{}
	for _, c := range cases {
		if m := c.Last().Mistake; m != nil {
			require.Equal(t, oracle.Accepted, c.Last().Expect, c.ID)
			step := design.Mistaken(c.Last())
			values, err := d.Resolve(&testcase.Case{ID: c.ID, Steps: []testcase.Step{step}}, 0, &testcase.Env{Now: testcase.ReferenceDay, OnPage: map[string]string{}})
			require.NoError(t, err)
			made[c.ID] = values[m.Field]
		}
	}
	require.Len(t, made, 3, "%v", made)
	require.Len(t, made["f/plot.length.corrected/browser"], 10)
	require.Contains(t, made, "f/plot.required.corrected/browser")
	require.Regexp(t, `^[0-9]{0,10}$`, made["f/phone.digits.corrected/browser"])
	why := map[string]string{}
	for _, o := range omitted {
		why[o.About] = string(o.Why)
	}
	require.Contains(t, why["f/plot.again.corrected/browser"], "no case breaks this rule alone", "the page's own rule comes before")
	require.Contains(t, why["f/code.required.corrected/browser"], "nothing is typed")
	require.Contains(t, why["f/code.length.corrected/browser"], "gives no text")
}
