package playwright_test

import (
	"bytes"
	"regexp"
	"strings"
	"testing"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/formats/playwright"

	"github.com/stretchr/testify/require"
)

func result(change func(c *testcase.Case, o *observation.Step, e *oracle.Expectation)) *report.Report {
	c := &testcase.Case{ID: "plot/name.valid/http", Title: "a `name`\u2028*/ ${process.exit()}", Covers: []testcase.Cover{{Kind: testcase.CoversRule, Of: "name.required"}}, Steps: []testcase.Step{{Do: testcase.Submit}}}
	o := &observation.Step{
		Sent:    &submission.Submission{Encoding: "urlencoded", Pairs: []submission.Pair{{Name: "token", Value: "0123456789"}, {Name: "name", Value: "heather\"\n`${1}`"}, {Name: "size", Value: "2.50"}}},
		Before:  &observation.Page{URL: "http://127.0.0.1:1/plot?new=1", Form: &observation.Form{Method: "POST", Action: "http://127.0.0.1:1/plots", Encoding: "urlencoded", Controls: []observation.Control{{Name: "token", Type: "hidden", Value: "0123456789"}}}},
		Watched: []string{"plots"},
	}
	e := &oracle.Expectation{Outcome: oracle.Accepted, Reply: "Welcome", Rows: []oracle.Row{{Table: "plots", Columns: []oracle.Column{
		{Name: "name", Source: oracle.HoldsValue, Value: "heather", Kind: "text"},
		{Name: "size", Source: oracle.HoldsValue, Value: "2.50", Kind: "number"},
		{Name: "wet", Source: oracle.HoldsValue, Value: "true", Kind: "checkbox"},
		{Name: "left_at", Source: oracle.HoldsNull},
		{Name: "at", Source: oracle.HoldsNow},
		{Name: "hour", Source: oracle.HoldsValue, Value: "10:00", Kind: "time"},
	}}}}
	if change != nil {
		change(c, o, e)
	}
	return &report.Report{
		Form: "plot", Site: "http://127.0.0.1:1", Unique: []string{"name"}, Cases: []*testcase.Case{c},
		Results: map[string]*report.Result{c.ID: {Case: c.ID, Steps: []report.StepResult{{Observation: o, Expectation: e}}}},
	}
}

func written(t *testing.T, r *report.Report) string {
	var b bytes.Buffer
	require.NoError(t, playwright.Write(&b, r, []string{"plot/name.valid/http"}))
	return b.String()
}

func TestACaseIsWrittenAsItWasSent(t *testing.T) {
	t.Parallel()
	text := written(t, result(nil))
	require.Contains(t, text, `path: "/plot?new=1", send: {"encoding":"urlencoded","method":"POST","to":"/plots"}`)
	require.Contains(t, text, `pairs: [["token","0123456789","held"],["name","heather\"\n`+"`${1}`"+`","new"],["size","2.50","as it is"]]`)
	require.Contains(t, text, `rows: [{"table":"plots","columns":{"left_at":null,"name":"heather","size":2.50,"wet":1}}]`, "what is not known beforehand is not looked at")
	require.Contains(t, text, `test("plot/name.valid/http: a `+"`name`"+`\u2028*/ ${process.exit()}"`, "a title is a literal of its own")
	rejected := written(t, result(func(_ *testcase.Case, _ *observation.Step, e *oracle.Expectation) {
		e.Outcome, e.Messages = oracle.RejectedByServer, []submission.Message{{Text: "Enter a name"}, {}}
	}))
	require.Contains(t, rejected, `messages: ["Enter a name"]`)
	require.Contains(t, rejected, `tables: ["plots"]`)
}

// TestAttackByWhatStandsInComments: no text of a site or document ends the line that it stands in.
func TestAttackByWhatStandsInComments(t *testing.T) {
	t.Parallel()
	for _, end := range []string{"\n", "\r", "\u2028", "\u2029"} {
		r := result(func(_ *testcase.Case, _ *observation.Step, e *oracle.Expectation) {
			e.Outcome = oracle.RejectedByServer
			e.Failing = []oracle.Failure{{Rule: "name.required", Why: prose.Text("Name" + end + "process.exit(7); // is blank.")}}
		})
		r.Form, r.Site = "plot"+end+"process.exit(7); //", "http://127.0.0.1:1/"+end+"process.exit(7); //"
		for _, line := range regexp.MustCompile("[\n\r\u2028\u2029]").Split(written(t, r), -1) {
			require.False(t, strings.HasPrefix(strings.TrimSpace(line), "process.exit"), line)
		}
	}
}

func TestWhatCannotBeWrittenIsSkippedWithTheReason(t *testing.T) {
	t.Parallel()
	for reason, change := range map[string]func(*testcase.Case, *observation.Step, *oracle.Expectation){
		"is not a form that is filled in":                     func(_ *testcase.Case, o *observation.Step, _ *oracle.Expectation) { o.Sent.Encoding = "json" },
		"what it does is not to be done this":                 func(c *testcase.Case, _ *observation.Step, _ *oracle.Expectation) { c.Steps[0].Concurrent = true },
		"its step 1 is not a form that is filled in and sent": func(_ *testcase.Case, o *observation.Step, _ *oracle.Expectation) { o.Before = nil },
	} {
		text := written(t, result(change))
		require.Contains(t, text, "test.skip(")
		require.Contains(t, text, reason)
	}
	secret := result(nil)
	secret.NeedsSecret = true
	require.Contains(t, written(t, secret), "it needs the secret of an account")
	err := playwright.Write(&bytes.Buffer{}, result(nil), []string{"none"})
	require.ErrorContains(t, err, "no case none")
}
