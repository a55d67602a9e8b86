package database_test

import (
	"context"
	"errors"
	"testing"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// TestAnExportIsComparedByItsKey, as CSV and as JSON.
func TestAnExportIsComparedByItsKey(t *testing.T) {
	t.Parallel()
	pages := map[string]string{"/trips.csv": "\ufeffid,quay,from,to\r\n1,\"east, upper\",2026-05-01,2026-05-03\r\n", "/people": `{"rows": [{"nick": "moss", "age": 7, "left": null, "tags": ["a"]}]}`}
	fetch := func(_ context.Context, path string) (string, error) {
		text, ok := pages[path]
		if !ok {
			return "", errors.New("it answers with status 404")
		}
		return text, nil
	}
	x, err := database.OpenExports(context.Background(), []spec.Export{{Table: "trips", From: "/trips.csv", Key: spec.Names{"id"}}, {Table: "people", From: "/people", Key: spec.Names{"nick"}, Rows: "$.rows[*]"}}, fetch)
	require.NoError(t, err)
	require.Equal(t, []string{"trips", "people"}, x.Tables())
	require.NoError(t, x.Begin(context.Background()))
	require.NoError(t, x.Require("trips", "quay"))
	require.EqualError(t, x.Require("trips", "pier"), "the database has no column trips.pier; there are: id, quay, from, to")
	require.ErrorContains(t, x.Require("none"), "no exported table none")

	pages["/trips.csv"] = "id,quay,from,to\n1,west,2026-05-01,2026-05-03\n2,,2026-06-01,2026-06-02\n"
	pages["/people"] = `{"rows": []}`
	changes, err := x.Changes(context.Background())
	require.NoError(t, err)
	require.Equal(t, []observation.Change{
		{Table: "people", Kind: observation.Deleted, Key: "moss", Before: []observation.Cell{{Column: "age", Value: "7"}, {Column: "left", Null: true}, {Column: "nick", Value: "moss"}, {Column: "tags", Value: `["a"]`}}},
		{
			Table: "trips", Kind: observation.Changed, Key: "1",
			Before: []observation.Cell{{Column: "id", Value: "1"}, {Column: "quay", Value: "east, upper"}, {Column: "from", Value: "2026-05-01"}, {Column: "to", Value: "2026-05-03"}},
			After:  []observation.Cell{{Column: "id", Value: "1"}, {Column: "quay", Value: "west"}, {Column: "from", Value: "2026-05-01"}, {Column: "to", Value: "2026-05-03"}},
		},
		{Table: "trips", Kind: observation.Inserted, Key: "2", After: []observation.Cell{{Column: "id", Value: "2"}, {Column: "quay", Either: true}, {Column: "from", Value: "2026-06-01"}, {Column: "to", Value: "2026-06-02"}}},
	}, changes)
	same := func(a, b string) bool { return a == b }
	for _, c := range []struct {
		look submission.Lookup
		want bool
	}{
		{submission.Lookup{Table: "trips", Column: "quay", Value: "west"}, true},
		{submission.Lookup{Table: "trips", Column: "quay", Value: ""}, false},
		{submission.Lookup{Table: "trips", Column: "quay", Value: "west", Same: map[string]string{"from": "2026-05-01"}}, true},
		{submission.Lookup{Table: "trips", Column: "quay", Value: "west", Same: map[string]string{"from": "1999-01-01"}}, false},
		{submission.Lookup{Table: "trips", Column: "from", Span: &submission.Span{From: "2026-05-03", To: "2026-05-09", Ends: "to"}, Same: map[string]string{"quay": "west"}}, true},
		{submission.Lookup{Table: "trips", Column: "from", Span: &submission.Span{From: "2026-05-03", To: "2026-05-09", Ends: "to"}, Same: map[string]string{"quay": "east"}}, false},
	} {
		got, err := x.LookUp(context.Background(), c.look, same)
		require.NoError(t, err)
		require.Equal(t, c.want, got, c.look)
	}
	rows, err := x.Rows(context.Background(), "trips", []string{"quay", "id"}, 10)
	require.NoError(t, err)
	require.Equal(t, [][]string{{"", "2"}, {"west", "1"}}, rows)

	for body, want := range map[string]string{
		"id,quay\n1,a\n1,b\n":    "two rows have the key 1",
		"no,quay\n1,a\n":         "a row has no column id; its columns are: no, quay",
		"id,quay\n1,a,b\n":       "wrong number of fields",
		"":                       "the line with the names is missing",
		`[{"id": 1}, 5]`:         "a row is not an object; correct the query under rows",
		`[{"id": 1`:              "unexpected EOF",
		"id,quay\n1,\"open\n2,b": `extraneous or missing "`,
	} {
		pages["/trips.csv"] = body
		_, err := x.Changes(context.Background())
		require.ErrorContains(t, err, want, body)
	}
	delete(pages, "/trips.csv")
	_, err = x.Changes(context.Background())
	require.EqualError(t, err, "the export of trips at /trips.csv: it answers with status 404")
}
