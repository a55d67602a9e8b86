package judge_test

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"

	"github.com/stretchr/testify/require"
)

const bedForm = `form: bed
page: /
fields:
  - {id: name, name: name, label: Name, rules: [{required: {message: {en: A name., cy: Enw.}, absent: No name came., "null": null is no name.}}, {length: {max: 9, message: {en: Too long., cy: Rhy hir.}}}, {pattern: {is: '[a-z]+', message: Small letters.}}]}
  - {id: row, name: row, label: Row, rules: [{required: {message: A row.}}]}
across:
  - {id: apart, must_hold: name != row, message: {en: Name and row are one., cy: Yr un.}}
rejected: {status: 422, place: field, values_kept: all_but_secrets, linked: true}
accepted: {status: 303, to: /done}
`

// refusedWith is the judgement of a rejection that says a text at the name.
func refusedWith(t *testing.T, name, text string, change func(*observation.Text)) *judge.Judgement {
	p := prepared(t, bedForm)
	sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: name}, {Name: "row", Value: "same"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Language: "en", Driver: submission.HTTP}, sub)
	require.Equal(t, oracle.RejectedByServer, e.Outcome)
	said := observation.Text{Text: text, Field: "name", Linked: true, Alarm: true}
	if change != nil {
		change(&said)
	}
	form := &observation.Form{Method: "POST", Action: "http://site/", Controls: []observation.Control{{Name: "name", Type: "text", Value: name}, {Name: "row", Type: "text", Value: "same"}}}
	return worded(p, e, &observation.Step{
		At: time.Now(), Sent: sub, Changes: []observation.Change{},
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://site/", Status: 422, Body: "<form>"}},
		Before:    &observation.Page{URL: "http://site/", Form: form},
		After:     &observation.Page{URL: "http://site/", Form: form, Texts: []observation.Text{said}},
	}, nil)
}

// TestTextsInAMessagesPlace are told apart by whose they are, and group accordingly.
func TestTextsInAMessagesPlace(t *testing.T) {
	t.Parallel()
	hidden := func(x *observation.Text) { x.Hidden = true }
	untied := func(x *observation.Text) { x.Linked = false }
	for _, c := range []struct {
		name, text, part, kind, says string
		change                       func(*observation.Text)
	}{
		{"", "Enw.", "language of the messages", "other language", "Message for Name in another language: “Enw.”", nil},
		{"much-too-long", "Rhy hir.", "language of the messages", "other language", "Message for Name in another language: “Rhy hir.”", nil},
		{"", "No name came.", "messages of what is blank, absent or null", "message of another kind of blank", "Name: the message is that of another kind of blank: “No name came.”", nil},
		{"", "Small letters.", "messages of name", "message of name.pattern", "Wrong message for Name: that of the rule “matches [a-z]+”", nil},
		{"", "Something else.", "message name.required: text", "other text", "Wrong message for Name: “Something else.”", nil},
		{"same", "Something else.", "message across.apart: text", "other text", "", nil},
		{"", "A name.", "messages of name: visible", "hidden", "Message for Name is in the page, but hidden", hidden},
		{"A", "Small letters.", "messages of name: tied to its field", "not tied to its field", "Message for Name is not linked to its field (aria-describedby)", untied},
	} {
		s := refusedWith(t, c.name, c.text, c.change)
		reasons := wording.Reasons(prepared(t, bedForm), &testcase.Case{ID: "bed/x/http", Row: "name"}, &report.Result{Steps: []report.StepResult{{Judgement: s}}})
		var found *report.Reason
		for i := range reasons {
			if found == nil && reasons[i].Check == judge.Messages {
				found = &reasons[i]
			}
		}
		require.NotNil(t, found, "%q: %+v", c.text, reasons)
		older := found.Older()
		require.Equal(t, c.part, older.Part, "%q for %q: %s", c.text, c.name, older.Kind)
		if c.says != "" {
			require.Equal(t, c.kind, older.Kind)
			require.Equal(t, c.says, string(found.Headline))
		}
	}
}

// TestARulesEndsAndVariants are causes of their own; but whoever takes the same value once more takes it in another case, too.
func TestARulesEndsAndVariants(t *testing.T) {
	t.Parallel()
	taken := func(rule string) report.Cause {
		rule, variant, _ := strings.Cut(rule, " ")
		return report.Cause{Row: "name", Rule: rule, Variant: variant, Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.OtherRows}, Difference: judge.RowInserted}
	}
	group := func(rules ...string) (out []string) {
		var list []report.Summary
		for _, rule := range rules {
			list = append(list, report.Summary{Case: rule, Row: "name", Reasons: []report.Reason{{Cause: taken(rule)}}})
		}
		for _, g := range report.ByCause(list) {
			require.True(t, g.Has(taken(g.Cases[0])))
			out = append(out, strings.Join(g.Cases, ", "))
		}
		return out
	}
	require.Equal(t, []string{"name.length min", "name.length max"}, group("name.length min", "name.length max"))
	require.Equal(t, []string{"name.unique case", "name.unique together"}, group("name.unique case", "name.unique together"))
	require.Equal(t, []string{"name.unique same, name.unique case, name.unique together"}, group("name.unique same", "name.unique case", "name.unique together"))
	require.Equal(t, []string{"name.unique case, name.unique same", "mail.unique case"}, group("name.unique case", "name.unique same", "mail.unique case"))
	require.Equal(t, []string{"", "name.pattern"}, group("", "name.pattern"))
}

// TestTheBrokenRule is told with its end or variant from what a case is, over HTTP as in the browser.
func TestTheBrokenRule(t *testing.T) {
	t.Parallel()
	p := prepared(t, bedForm)
	for _, c := range []struct{ id, covers, twin, breaks, want string }{
		{"bed/name.length.max+1/http", "boundary name.length max+1", "", "name.length", "name.length max"},
		{"bed/name.length.min-1.trimmed/http", "boundary name.length min-1 trimmed", "", "name.length", "name.length min"},
		{"bed/name.length.max+1@cy/browser", "message name.length in the browser", "boundary name.length max+1", "name.length", "name.length max"},
		{"bed/row.range.negative/http", "boundary row.range negative", "", "row.range", "row.range min"},
		{"bed/name.unique.same/browser", "message name.unique in the browser", "partition name.unique same", "name.unique", "name.unique same"},
		{"bed/name.unique.anothers/http", "partition name.unique same", "", "name.unique", "name.unique same"},
		{"bed/name.unique.case/http", "partition name.unique case", "", "name.unique", "name.unique case"},
		{"bed/name.pattern.miss.dot/http", "partition name.pattern broken", "", "name.pattern", "name.pattern"},
		{"bed/name.blank/http", "partition name blank", "", "name.required", "name.required"},
		{"bed/form.all_blank/http", "partition form blank", "", "", ""},
	} {
		sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: ""}, {Name: "row", Value: "same"}}}
		e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
		s := worded(p, e, &observation.Step{At: time.Now(), Sent: sub, Changes: []observation.Change{}, Exchanges: ledOn("http://site/", "http://site/done"), After: &observation.Page{URL: "http://site/done"}}, nil)
		one := &testcase.Case{ID: c.id, Row: "name", Covers: []testcase.Cover{covering(t, c.covers)}, Steps: []testcase.Step{{}}}
		if c.twin != "" {
			one.Twin = []testcase.Cover{covering(t, c.twin)}
		}
		if c.breaks != "" {
			one.Steps[0].Breaks = []string{c.breaks}
		}
		reasons := report.ReasonsOf(one, []*judge.Judgement{s})
		require.NotEmpty(t, reasons, "%+v", s)
		require.Equal(t, c.want, reasons[0].Older().Rule, c.id)
	}
}

// TestAnotherRowBesideAnotherValue is a reason of its own.
func TestAnotherRowBesideAnotherValue(t *testing.T) {
	t.Parallel()
	s := accepted(t)
	s.cell("heard_code", "od")
	s.o.Changes = append(s.o.Changes, observation.Change{Table: "areas", Kind: observation.Inserted, Key: "east"})
	var parts []string
	for _, r := range report.ReasonsOf(&testcase.Case{}, []*judge.Judgement{s.judge()}) {
		parts = append(parts, r.Older().Part)
	}
	require.Equal(t, []string{"plot_holders.heard_code", "other rows"}, parts)
}

// covering reads what a case covers from a text, as older results hold it.
func covering(t testing.TB, text string) (c testcase.Cover) {
	require.NoError(t, c.UnmarshalJSON([]byte(strconv.Quote(text))))
	return c
}
