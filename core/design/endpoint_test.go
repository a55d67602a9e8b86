package design_test

import (
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"

	"github.com/stretchr/testify/require"
)

const stays = `form: stays
submit: {to: /api/stays, encoding: json}
fields:
  - {id: house, name: house, kind: single_choice, options_from: {table: houses, value: code}, rules: [{required: {message: Which?, absent: Missing.}}]}
  - {id: guest, name: guest, rules: [{exists_in: {column: people.nick}}, {length: {min: 2, max: 8}}]}
  - {id: from, name: from, kind: date, rules: [{range: {min: today}}, {no_overlap: {to: to, table: stays, begins: a, ends: z, same: {house: house}, message: Taken.}}]}
  - {id: to, name: to, kind: date}
across: [{id: week, must_hold: 'timestamp(to + "T00:00:00Z") - timestamp(from + "T00:00:00Z") <= duration("168h")', message: A week at most.}]
rejected: {status: 422}
accepted: {status: 201}
on_failure: {network_lost: Lost., slow: true}
`

func stayCases(t testing.TB, text string) (*design.Designer, map[string]*testcase.Case) {
	f, err := spec.ReadForm("stays.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	list, omitted := d.Cases(testcase.Standard)
	require.Empty(t, omitted)
	out := map[string]*testcase.Case{}
	for _, c := range list {
		out[strings.TrimPrefix(c.ID, "stays/")] = c
	}
	return d, out
}

// TestTimesLieToEachOtherInEveryWay: a second time shares a day with the first, or just does not.
func TestTimesLieToEachOtherInEveryWay(t *testing.T) {
	t.Parallel()
	d, cases := stayCases(t, stays)
	for role, want := range map[string]oracle.Outcome{
		"same": oracle.RejectedByServer, "meets_end": oracle.RejectedByServer, "meets_begin": oracle.RejectedByServer, "within": oracle.RejectedByServer, "around": oracle.RejectedByServer,
		"after": oracle.Accepted, "before": oracle.Accepted,
	} {
		c := cases["from.no_overlap."+role+"/http"]
		require.NotNil(t, c, role)
		require.Equal(t, oracle.Accepted, c.Steps[0].Expect, role)
		require.Equal(t, want, c.Steps[1].Expect, role)
		env := &testcase.Env{Run: 3, Now: time.Now(), Rows: map[string][]string{"house": {"east", "west"}, "guest": {"fern", "moss"}}}
		first, err := d.Resolve(c, 0, env)
		require.NoError(t, err)
		env.Earlier = append(env.Earlier, first)
		second, err := d.Resolve(c, 1, env)
		require.NoError(t, err)
		require.Equal(t, first["house"], second["house"], "the rows that count are the same")
		span := func(r testcase.Resolved) *submission.Span { return &submission.Span{From: r["from"], To: r["to"]} }
		require.Equal(t, want == oracle.RejectedByServer, span(first).Overlaps(span(second)), "%s: %v %v", role, first, second)
	}
	require.Equal(t, oracle.Accepted, cases["across.week.to.from+7/http"].Last().Expect)
	require.Equal(t, []string{"across.week"}, cases["across.week.to.from+8/http"].Last().Breaks)
	require.NotNil(t, cases["across.week.to.from+6/http"])
}

// TestNewTimesDifferFromTryToTry, so that one is found that no row spans.
func TestNewTimesDifferFromTryToTry(t *testing.T) {
	t.Parallel()
	d, cases := stayCases(t, stays)
	seen := map[string]bool{}
	for try := range 20 {
		r, err := d.Resolve(cases["form.usual/http"], 0, &testcase.Env{Run: 1, Try: try, Now: time.Now(), Rows: map[string][]string{"house": {"east"}, "guest": {"moss"}}})
		require.NoError(t, err)
		seen[r["from"]] = true
		day, err := values.ParseDate(r["from"])
		require.NoError(t, err)
		require.True(t, day.After(time.Now()))
		require.Equal(t, "moss", r["guest"], "what must be in a row is taken from one")
	}
	require.Greater(t, len(seen), 15)
	_, err := d.Resolve(cases["form.usual/http"], 0, &testcase.Env{Run: 1, Now: time.Now(), Rows: map[string][]string{}})
	require.ErrorContains(t, err, "no row is known that it could refer to")
}

func TestWhatAnEndpointIsSent(t *testing.T) {
	t.Parallel()
	d, cases := stayCases(t, stays)
	for _, id := range []string{"form.cut_off", "form.no_object", "form.empty_body"} {
		c := cases[id+"/http"]
		require.NotNil(t, c, id)
		require.NotNil(t, d.Submission(c.Last(), testcase.Resolved{}).Body)
		require.Equal(t, oracle.RejectedByServer, c.Last().Expect)
	}
	require.Equal(t, []string{"house.required"}, cases["house.guess.absent/http"].Last().Breaks, "told apart, so tried at standard depth")
	require.Nil(t, cases["house.guess.null/http"])
	thorough, _ := d.Cases(testcase.Thorough)
	found := false
	for _, c := range thorough {
		found = found || c.ID == "stays/house.guess.null/http"
	}
	require.True(t, found)
	require.Equal(t, []string{"house.listed"}, cases["house.listed.no_row/http"].Last().Breaks)
	require.Equal(t, []string{"guest.exists_in"}, cases["guest.exists_in.no_row/http"].Last().Breaks)
	for id := range cases {
		require.True(t, strings.HasSuffix(id, "/http"), "an endpoint without a page is not opened in a browser: %s", id)
	}
}

func TestAnswersAreReplacedWhereThatIsPromised(t *testing.T) {
	t.Parallel()
	_, cases := stayCases(t, strings.Replace(stays, "submit:", "page: /stays\nsubmit:", 1))
	require.Equal(t, oracle.NotAnswered, cases["form.network_lost/browser"].Last().Expect)
	require.Equal(t, oracle.Accepted, cases["form.slow/browser"].Last().Expect)
	require.Nil(t, cases["form.server_error/browser"])
}
