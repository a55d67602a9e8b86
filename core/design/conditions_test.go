package design_test

import (
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// TestValuesAroundWhatConditionsCompareWith are sent where they decide something.
func TestValuesAroundWhatConditionsCompareWith(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /
fields:
  - {name: plots, kind: number, rules: [{required: {}}, {step: {by: 1}}, {range: {min: 1, max: 9}}]}
  - {name: steward, kind: checkbox, value: "yes"}
  - {name: until, kind: date}
  - {name: tools, kind: multiple_choice, options: [{value: spade}, {value: rake}, {value: hoe}, {value: fork}]}
across: [{id: many, must_hold: "plots <= 4 || steward", message: Too many.}, {id: late, must_hold: 'until < "2027-04-01"', message: Too late.}]
accepted: {reply: [{when: "size(tools) > 2", text: Take a barrow.}, {otherwise: Thanks.}]}
`))
	cases, _ := d.Cases(testcase.Standard)
	sent := map[string]map[string]oracle.Outcome{}
	for _, c := range cases {
		if c.Mark.Scale != "conditions" {
			continue
		}
		r, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: testcase.ReferenceDay, OnPage: map[string]string{}})
		require.NoError(t, err)
		if sent[c.Row] == nil {
			sent[c.Row] = map[string]oracle.Outcome{}
		}
		sent[c.Row][r[c.Row]] = c.Steps[0].Expect
	}
	const in, out = oracle.Accepted, oracle.RejectedByServer
	require.Equal(t, map[string]oracle.Outcome{"3": in, "4": in, "5": out}, sent["plots"], "nobody is a steward there")
	require.Equal(t, map[string]oracle.Outcome{"2027-03-31": in, "2027-04-01": out, "2027-04-02": out}, sent["until"])
	require.Len(t, sent["tools"], 3, "one tool, two and three")
}

// TestMessagesUnderConditionsHaveCases: each message that a rule says under a condition is tried.
func TestMessagesUnderConditionsHaveCases(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /
fields:
  - {name: title, rules: [{required: {}}, {length: {max: 5, message: Short., messages: [{when: 'kind == "hut"', message: "Short, for a hut."}, {when: "wide", message: "Short, if wide."}]}}]}
  - {name: kind, kind: single_choice, options: [{value: barn}, {value: hut}], rules: [{required: {}}]}
  - {name: wide, kind: checkbox, value: "yes"}
`))
	cases, _ := d.Cases(testcase.Standard)
	said := map[string]bool{}
	for _, c := range cases {
		if c.Last().Driver != submission.HTTP || len(c.Steps) != 1 || len(c.Last().Breaks) != 1 || c.Last().Breaks[0] != "title.length" {
			continue
		}
		r, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: testcase.ReferenceDay, OnPage: map[string]string{}})
		require.NoError(t, err)
		said[oracle.Expect(d.Prepared(), &oracle.World{Driver: submission.HTTP}, d.Submission(&c.Steps[0], r)).Messages[0].Text] = true
	}
	require.Equal(t, map[string]bool{"Short.": true, "Short, for a hut.": true, "Short, if wide.": true}, said)
}

// TestPagesInEachLanguage: one case for each language and each way of choosing it, and one for a language that nobody speaks.
func TestPagesInEachLanguage(t *testing.T) {
	t.Parallel()
	p := prepared(t, "form: f\npage: /\npage_titles: {en: Plots, cy: Lleiniau}\nfields: [{name: a}]\n")
	site := &spec.Site{Languages: []string{"en", "cy"}, LanguageChoice: &spec.LanguageChoice{AcceptLanguage: true, Query: "lang", Cookie: "lang", Path: "/{language}"}}
	d, err := design.New(p, site)
	require.NoError(t, err)
	cases, _ := d.Cases(testcase.Standard)
	ways := map[string]bool{}
	for _, c := range cases {
		if c.JudgesPage {
			ways[c.Language+" "+string(c.ChosenBy)] = true
		}
	}
	require.Equal(t, map[string]bool{" ": true, "cy ": true, "cy query": true, "cy cookie": true, "cy path": true, "cy weights": true, "en unknown": true}, ways)
}

// TestOwnAndOthersValues: where one row is updated by its columns, its own value and another row's are tried, in other capitals, too.
func TestOwnAndOthersValues(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /sheds/1
fields: [{name: name, rules: [{characters: {of: a-zA-Z}}, {unique: {column: sheds.name, ignoring: [case], also: [old_sheds.name]}}]}]
stored: [{update: sheds, where: {id: "1"}, columns: {name: {from: name}}}]
`))
	cases, _ := d.Cases(testcase.Standard)
	expect := map[string]oracle.Outcome{}
	for _, c := range cases {
		if _, role, found := strings.Cut(c.ID, "name.unique."); found {
			expect[strings.TrimSuffix(role, "/http")] = c.Last().Expect
		}
	}
	for role, want := range map[string]oracle.Outcome{"own": oracle.Accepted, "own_capitals": oracle.Accepted, "anothers": oracle.RejectedByServer, "anothers_capitals": oracle.RejectedByServer, "other_table": oracle.RejectedByServer} {
		require.Equal(t, want, expect[role], role)
	}
}

// TestAReplyUnderAConditionIsReadInEachLanguage also where the usual values do not meet the condition: here that of a mail.
func TestAReplyUnderAConditionIsReadInEachLanguage(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /f
fields:
  - {name: mail, rules: [{required: {message: "?"}}]}
  - {name: copy, kind: checkbox, value: "yes"}
accepted: {mails: [{to: "{mail}", when: copy, subject: {en: Your copy, de: Ihre Kopie}}]}
`))
	cases, _ := d.Cases(testcase.Standard)
	in := 0
	for _, c := range cases {
		if c.Language != "de" {
			continue
		}
		in++
		sent, err := d.Resolve(c, 0, &testcase.Env{Run: 1, Now: testcase.ReferenceDay, OnPage: map[string]string{}})
		require.NoError(t, err)
		require.Equal(t, "yes", sent["copy"], c.ID)
	}
	require.Equal(t, 1, in)
}
