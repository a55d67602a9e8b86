package oracle_test

import (
	"testing"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

const lodge = `form: lodge
page: /lodge
submit: {to: /api/lodge, encoding: json}
fields:
  - {id: name, name: name, rules: [{required: {message: Blank., absent: Absent., "null": Null.}}]}
  - {id: guests, name: guests, kind: number, rules: [{required: {message: How many?, "null": Guests are null.}}]}
  - {id: from, name: from, kind: date, rules: [{no_overlap: {to: to, table: stays, begins: a, ends: z, same: {house: name}, message: Taken.}}]}
  - {id: to, name: to, kind: date}
  - {id: word, name: word, kind: password}
rejected: {status: 422, unreadable: {status: 400, message: No JSON.}}
accepted: {status: 201}
on_failure: {network_lost: Try again., server_error: {part: again}}
`

func lodging(t testing.TB) *spec.Prepared {
	f, err := spec.ReadForm("lodge.yaml", []byte(lodge))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func stay(pairs ...submission.Pair) *submission.Submission {
	return &submission.Submission{Driver: submission.Browser, Encoding: "json", Pairs: pairs}
}

func inBrowser() *oracle.World { return &oracle.World{Now: time.Now(), Driver: submission.Browser} }

func TestAnAnswerThatIsReplacedLeavesTheFormAsItWas(t *testing.T) {
	t.Parallel()
	p := lodging(t)
	s := stay(submission.Pair{Name: "name", Value: "Moss"}, submission.Pair{Name: "guests", Value: "2"}, submission.Pair{Name: "word", Value: "s3cret"})
	s.Replaced = spec.NetworkLost
	e := oracle.Expect(p, inBrowser(), s)
	require.Equal(t, oracle.NotAnswered, e.Outcome)
	require.Equal(t, "Try again.", e.Messages[0].Text)
	require.Empty(t, e.Rows)
	held := map[string]string{}
	for _, r := range e.Refilled {
		require.False(t, r.Blank, "the page was not loaded anew, so that even secrets stay")
		held[r.Field] = r.Sent
	}
	require.Equal(t, map[string]string{"name": "Moss", "guests": "2", "from": "", "to": "", "word": "s3cret"}, held)
	s.Replaced = spec.ServerError
	require.Equal(t, "again", oracle.Expect(p, inBrowser(), s).Messages[0].Says.Part)
	s.Replaced = spec.Slow
	require.Equal(t, oracle.Accepted, oracle.Expect(p, inBrowser(), s).Outcome, "only the time is another")
	s.Pairs[0].Value, s.Replaced = "", spec.NetworkLost
	require.Equal(t, oracle.RejectedByServer, oracle.Expect(p, inBrowser(), s).Outcome)
}

func TestHowAValueIsMissingIsToldApart(t *testing.T) {
	t.Parallel()
	p := lodging(t)
	said := func(s *submission.Submission) map[string]string {
		out := map[string]string{}
		for _, m := range oracle.Expect(p, inBrowser(), s).Messages {
			out[m.Field] = m.Text
		}
		return out
	}
	require.Equal(t, map[string]string{"name": "Absent.", "guests": "How many?"}, said(stay()))
	require.Equal(t, map[string]string{"name": "Blank.", "guests": "Guests are null."}, said(stay(submission.Pair{Name: "name"}, submission.Pair{Name: "guests"})), "a blank number is sent as null")
	require.Equal(t, map[string]string{"name": "Null."}, said(stay(submission.Pair{Name: "name", Null: true}, submission.Pair{Name: "guests", Value: "1"})))
	body := "{"
	e := oracle.Expect(p, inBrowser(), &submission.Submission{Driver: submission.HTTP, Body: &body})
	require.Equal(t, oracle.RejectedByServer, e.Outcome)
	require.Equal(t, 400, e.Status)
	require.Equal(t, "No JSON.", e.Messages[0].Text)
}

func TestTimesAreLookedUp(t *testing.T) {
	t.Parallel()
	p := lodging(t)
	s := stay(submission.Pair{Name: "name", Value: "east"}, submission.Pair{Name: "guests", Value: "1"}, submission.Pair{Name: "from", Value: "2026-05-01"}, submission.Pair{Name: "to", Value: "2026-05-03"})
	needs := oracle.Needs(p, s)
	require.Len(t, needs, 1)
	require.Equal(t, &submission.Span{From: "2026-05-01", To: "2026-05-03", Ends: "z"}, needs[0].Span)
	require.Equal(t, map[string]string{"house": "east"}, needs[0].Same)
	w := inBrowser()
	w.LookupResults = map[string]bool{"from.no_overlap": true}
	require.Equal(t, "Taken.", oracle.Expect(p, w, s).Messages[0].Text)
	s.Pairs[3].Value = "soon"
	require.Empty(t, oracle.Needs(p, s), "what is not a day shares none")
	for _, c := range []struct {
		from, to, house string
		overlaps        bool
	}{
		{"2026-05-03", "2026-05-09", "east", true},
		{"2026-04-01", "2026-05-01", "east", true},
		{"2026-05-02", "2026-05-02", "east", true},
		{"2026-05-04", "2026-05-09", "east", false},
		{"2026-04-01", "2026-04-30", "east", false},
		{"2026-05-02", "2026-05-02", "west", false},
	} {
		require.Equal(t, c.overlaps, needs[0].Meets(&submission.Lookup{Rule: "from.no_overlap", Table: needs[0].Table, Span: &submission.Span{From: c.from, To: c.to}, Same: map[string]string{"house": c.house}}), c)
	}
}
