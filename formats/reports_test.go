package formats_test

import (
	"bytes"
	"fmt"
	"os/exec"
	"regexp"
	"strings"
	"testing"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/formats/htmlreport"
	"oddtick/formats/markdown"
	"oddtick/formats/steps"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
)

// hostile is what a site or a tester may have put into names and values.
const hostile = "<script>alert(1)</script>|`x`\u202Eabc\u0000\n# head"

// oddReport has one finding of two cases, whose values are hostile.
func oddReport() *report.Report {
	r := sample()
	for _, id := range []string{"join/b/http", "join/c/http"} {
		one := r.Results[id]
		one.Verdict, one.Headline = judge.Odd, "Accepted, and "+hostile
		one.Cause = &report.Cause{Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "people", Column: "name"}, Difference: judge.CutShort, Row: "user"}
		step := &one.Steps[0]
		step.Do = testcase.Submit
		step.Judgement.Checks[0].Parts[0].Verdict = judge.Odd
		step.Observation.Before = &observation.Page{URL: "http://127.0.0.1:1/x/join", Form: &observation.Form{Controls: []observation.Control{{Name: "token", Type: "hidden", Value: "0123456789abcdef0123"}}}}
		step.Observation.Sent = &submission.Submission{Driver: submission.HTTP, Encoding: "urlencoded", Pairs: []submission.Pair{{Name: "token", Value: "0123456789abcdef0123"}, {Name: "user", Value: hostile}, {Name: "quote", Value: "it's $HOME `id`"}, {Name: "pass", Value: "Heather-row-9"}, {Name: "note", Value: ""}}}
		step.Observation.Exchanges = []observation.Exchange{{Method: "POST", URL: "http://127.0.0.1:1/x/join", RequestHeader: []observation.Header{{Name: "Content-Type", Value: "application/x-www-form-urlencoded"}}}}
	}
	return r
}

func TestStepsAreWhatAPersonDoes(t *testing.T) {
	t.Parallel()
	r := oddReport()
	list := steps.Of(r, r.Results["join/b/http"])
	require.Len(t, list, 3)
	require.Equal(t, "Open http://127.0.0.1:1/x/join.", list[0].Do)
	require.Equal(t, "Submit the form (POST /x/join).", list[2].Do)
	require.Equal(t, []steps.Value{{Field: "Login <name>", Text: hostile}, {Field: "quote", Text: "it's $HOME `id`"}, {Field: "pass", Text: "any password of 13 characters", Secret: true}, {Field: "note"}}, list[1].Values, "the page's own token is not entered, and no secret is shown")
	r.Choices = map[string]map[string]string{"quote": {"it's $HOME `id`": "By the gate"}}
	list = steps.Of(r, r.Results["join/b/http"])
	require.Equal(t, "By the gate", list[1].Values[1].Choice)
	require.Equal(t, "By the gate (sent as it's $HOME `id`)", list[1].Values[1].Shown())
	r.Results["join/b/http"].Steps[0].Observation.Sent.Mistake = &submission.Mistake{Name: "pass", Value: "short"}
	list = steps.Of(r, r.Results["join/b/http"])
	require.Len(t, list, 4)
	require.Equal(t, steps.Step{Do: "First enter a mistake, leave the field, and correct it as below.", Values: []steps.Value{{Field: "pass", Text: "any password of 5 characters", Secret: true}}}, list[1])
	require.Equal(t, "‹U+202E›a‹U+0000›b", steps.Visible("\u202Ea\u0000b"))
	require.Equal(t, "␠a b␠", steps.Visible(" a b "))
	require.Equal(t, "‹FF›é", steps.Visible("\xffé"))
	require.Equal(t, strings.Repeat("m", 60)+"… (300 characters)", steps.Visible(strings.Repeat("m", 300)))
	require.Equal(t, "a‹U+000A›‹U+001B›[2Jb ", steps.OneLine("a\n\x1b[2Jb "), "nothing that a terminal would do")
}

// TestCurlSaysToAShellWhatWasSent: a real shell splits the command, and a stand-in for curl prints what it was given.
func TestCurlSaysToAShellWhatWasSent(t *testing.T) {
	t.Parallel()
	r := oddReport()
	r.Results["join/b/http"].Steps[0].Observation.Sent.Pairs[1].Value = "two\nlines"
	command, ok := steps.Curl(r, r.Results["join/b/http"])
	require.True(t, ok)
	require.NotContains(t, command, "Heather-row-9")
	out, err := exec.Command("sh", "-c", `curl() { printf '<%s>' "$@"; }; `+command).Output()
	require.NoError(t, err)
	require.Equal(t, "<-s><-c><cookies.txt><http://127.0.0.1:1/x/join><-i><-b><cookies.txt><--data-urlencode><token=COPIED-FROM-THE-PAGE><--data-urlencode><user=two\nlines><--data-urlencode><quote=it's $HOME `id`><--data-urlencode><pass=SECRET><--data-urlencode><note=><http://127.0.0.1:1/x/join>", string(out))
	_, ok = steps.Curl(r, r.Results["join/a/http"])
	require.False(t, ok, "nothing was sent")
}

func TestMarkdownIsTextOnly(t *testing.T) {
	t.Parallel()
	r := oddReport()
	var all, one, summary bytes.Buffer
	require.NoError(t, markdown.Write(&all, r))
	found := finding.Of(r)
	require.Len(t, found, 1)
	require.NoError(t, markdown.WriteFinding(&one, r, &found[0]))
	require.NoError(t, markdown.WriteSummary(&summary, []*report.Report{r}))
	for _, text := range []string{all.String(), one.String(), summary.String()} {
		require.NotContains(t, text, "Heather-row-9")
		outside := regexp.MustCompile("(?s)```.*?```|``+ ?[^\n]*?``+|`[^`\n]*`").ReplaceAllString(text, "")
		require.NotRegexp(t, `(^|[^\\])<script`, outside, "no markup outside of code")
		require.NotContains(t, outside, "\n# head", "no line of its own")
	}
	require.Contains(t, all.String(), "# Join: not ready to ship: 1 major finding, 1 of 4 cases not run")
	require.Contains(t, one.String(), "`"+found[0].ID+"`")
	require.Contains(t, summary.String(), "| Join | 4 | 1 | 2 | 0 | 0 | 1 | 1.0 |", "what was not run is counted apart")
}

func TestTheHTMLReportNeedsNothingAndRunsNothing(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, htmlreport.Write(&b, oddReport()))
	require.NotContains(t, b.String(), "Heather-row-9")
	root, err := html.Parse(&b)
	require.NoError(t, err)
	ids := map[string]bool{}
	ticks, text := 0, ""
	for n := range root.Descendants() {
		if n.Type == html.TextNode {
			text += n.Data
			continue
		}
		require.NotContains(t, []string{"script", "link", "img", "iframe", "object", "form"}, n.Data)
		for _, a := range n.Attr {
			require.False(t, strings.HasPrefix(a.Key, "on") || a.Key == "src", a.Key)
			switch a.Key {
			case "id":
				require.False(t, ids[a.Val], "the id %s stands twice", a.Val)
				ids[a.Val] = true
			case "href":
				require.True(t, ids[a.Val[1:]] || strings.HasPrefix(a.Val, "#f-"), a.Val)
			case "d":
				ticks++
			}
		}
	}
	require.Contains(t, text, "<script>alert(1)</script>", "shown as text")
	require.Contains(t, text, "4 cases: 1 as expected, 2 odd, 0 not observed, 1 not run")
	require.Positive(t, ticks)
}

// TestALargeReportStaysSmall: twenty thousand cases in less than ten megabytes.
func TestALargeReportStaysSmall(t *testing.T) {
	t.Parallel()
	r := oddReport()
	odd, fine := r.Results["join/b/http"], r.Results["join/a/http"]
	for i := range 20_000 {
		id := fmt.Sprintf("join/f%d.length.max+%d/http", i%40, i)
		r.Cases = append(r.Cases, &testcase.Case{ID: id, Row: fmt.Sprintf("f%d", i%40), Steps: r.Cases[0].Steps, Covers: []testcase.Cover{{Kind: testcase.CoversBoundary, Of: fmt.Sprintf("f%d", i%40), Point: fmt.Sprint(i)}}, Mark: testcase.Mark{Scale: "length, characters", At: float64(i), Label: fmt.Sprint(i)}})
		one := *fine
		if i%100 == 0 {
			one = *odd
		}
		one.Case = id
		r.Results[id] = &one
	}
	var b bytes.Buffer
	require.NoError(t, htmlreport.Write(&b, r))
	require.Less(t, b.Len(), 10<<20)
	require.Contains(t, b.String(), "20004 cases")
}
