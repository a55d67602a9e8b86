package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

const barge = `form: barge
submit: {to: /api/barges, encoding: json}
fields: [{name: name, rules: [{required: {message: Name it.}}]}]
rejected: {status: 422, answer: {has: [$.errors.name]}}
accepted:
  status: 201
  answer:
    schema: {type: object, required: [id, seen], properties: {id: {type: integer}, seen: {type: string}}}
    has: [$.name]
    lacks: [$..password]
    equal: {$.id: barges.id, $.name: barges.name, $.seen: barges.seen, $.tags: barges.tags, $.metres: barges.metres}
stored: [{insert: barges, columns: {name: {from: name}}}]
`

// answered judges an answer of the endpoint, and returns its odd parts with what was observed.
func answered(t testing.TB, name string, status int, body string, row []observation.Cell) map[string]string {
	p := prepared(t, barge)
	sub := &submission.Submission{Driver: submission.HTTP, Encoding: "json", Pairs: []submission.Pair{{Name: "name", Value: name}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
	o := &observation.Step{
		Sent: sub, At: time.Now().UTC(), Watched: []string{"barges"}, Before: &observation.Page{}, After: &observation.Page{},
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://s/api/barges", Status: status, Body: body}},
	}
	if row != nil {
		o.Changes = []observation.Change{{Table: "barges", Kind: observation.Inserted, Key: "7", After: row}}
	}
	if status == 422 {
		o.After.Texts = []observation.Text{{Text: "Name it.", Field: "name", Alarm: true}}
	}
	out := map[string]string{}
	for _, part := range worded(p, e, o, nil).Checks[1].Parts {
		if part.Verdict == judge.Odd {
			out[part.Subject.Older()] = string(part.Words.Observed)
		}
	}
	return out
}

func TestAnAnswerIsComparedWithItsSchemaItsMembersAndTheRow(t *testing.T) {
	t.Parallel()
	row := []observation.Cell{{Column: "id", Value: "7"}, {Column: "name", Value: "Moss"}, {Column: "seen", Value: "2026-05-01 10:00:00.000"}, {Column: "tags", Value: `["a", "b"]`}, {Column: "metres", Value: "2.50"}}
	const right = `{"id": 7, "name": "Moss", "seen": "2026-05-01T12:00:00+02:00", "tags": ["a","b"], "metres": 2.5}`
	require.Empty(t, answered(t, "Moss", 201, right, row), "values are compared by their meaning")
	for _, c := range []struct {
		body string
		want map[string]string
	}{
		{`{"id": "7", "name": "Moss", "seen": "2026-05-01T10:00:00Z", "tags": ["a","b"], "metres": 2.5}`, map[string]string{"answer: schema": "/id: got string, want integer"}},
		{`{"id": 7, "seen": "2026-05-01T10:00:00Z", "tags": ["a","b"], "metres": 2.5}`, map[string]string{`answer: has $.name`: "none", `answer: $.name`: "0 members"}},
		{`{"id": 7, "name": "Moss", "seen": "2026-05-01T11:00:00Z", "tags": ["b","a"], "metres": 2.51, "inner": {"password": "x"}}`, map[string]string{
			`answer: lacks $..password`: "x", `answer: $.seen`: "2026-05-01T11:00:00Z", `answer: $.tags`: `["b","a"]`, `answer: $.metres`: "2.51",
		}},
		{`<p>Thanks</p>`, map[string]string{"answer": "<p>Thanks</p>"}},
	} {
		require.Equal(t, c.want, answered(t, "Moss", 201, c.body, row), c.body)
	}
	require.Empty(t, answered(t, "", 422, `{"errors": {"name": ["Name it."]}}`, nil))
	require.Equal(t, map[string]string{`answer: has $.errors.name`: "none"}, answered(t, "", 422, `{"errors": ["Name it."]}`, nil))
}
