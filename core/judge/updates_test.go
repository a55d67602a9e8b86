package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

const details = `
form: me
page: /me
fields: [{name: shown, sent: [trim], rules: [{length: {max: 40}}]}]
accepted: {status: 303, to: /me}
stored:
  - update: people
    columns: {shown: {from: shown}, member_no: {untouched: true}, token: {generated: uuid}, owner: {signed in: true}}
`

// stored judges what an accepted submission of the details form left in the table.
func stored(t testing.TB, changes ...observation.Change) judge.Check {
	f, err := spec.ReadForm("me.yaml", []byte(details))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	sub := &oracle.Submission{Driver: oracle.HTTP, Pairs: []oracle.Pair{{Name: "shown", Value: " Moss "}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: oracle.HTTP}, sub)
	o := &observation.Step{
		Sent: sub, At: time.Now().UTC(), Watched: []string{"people"}, Changes: changes,
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://s/me", Status: 303, Location: "http://s/me"}, {Method: "GET", URL: "http://s/me", Status: 200}},
		Before:    &observation.Page{URL: "http://s/me"}, After: &observation.Page{URL: "http://s/me"},
	}
	for _, c := range judge.Judge(p, e, o, nil).Checks {
		if c.Check == judge.StoredData {
			return c
		}
	}
	t.Fatal("no such check")
	return judge.Check{}
}

func cells(shown, member, token string) []observation.Cell {
	return []observation.Cell{{Column: "id", Value: "7"}, {Column: "shown", Value: shown}, {Column: "member_no", Value: member}, {Column: "token", Value: token}, {Column: "owner", Value: "7"}}
}

const (
	oldToken = "00000000-0000-4000-8000-000000000000"
	newToken = "6f1ed002-ab59-4a4c-8b1e-6f1ed002ab59"
)

func update(shown, member, token string) observation.Change {
	return observation.Change{Table: "people", Kind: observation.Changed, Key: "7", Before: cells("Old", "OS-1", oldToken), After: cells(shown, member, token)}
}

func partsOf(c judge.Check) map[string]judge.Verdict {
	out := map[string]judge.Verdict{}
	for _, p := range c.Parts {
		out[p.Name] = p.Verdict
	}
	return out
}

func TestAnUpdateChangesOneRowAndOnlyWhatItMay(t *testing.T) {
	t.Parallel()
	require.Equal(t, map[string]judge.Verdict{
		"row in people": judge.AsExpected, "people.shown": judge.AsExpected, "people.member_no": judge.AsExpected, "people.token": judge.AsExpected, "people.owner": judge.NotObserved, "other columns of people": judge.AsExpected, "other rows": judge.AsExpected,
	}, partsOf(stored(t, update("Moss", "OS-1", newToken))))
	require.Equal(t, judge.Odd, partsOf(stored(t, update(" Moss ", "OS-1", newToken)))["people.shown"], "not trimmed")
	require.Equal(t, judge.Odd, partsOf(stored(t, update("Moss", "OS-2", newToken)))["people.member_no"], "touched")
	require.Equal(t, judge.Odd, partsOf(stored(t, update("Moss", "OS-1", "12345")))["people.token"], "no UUID")
	require.Equal(t, judge.Odd, partsOf(stored(t, update("Moss", "OS-1", newToken), update("Moss", "OS-1", newToken)))["other rows"], "a second row")
}

func TestAnUpdateThatInsertsIsOdd(t *testing.T) {
	t.Parallel()
	inserted := observation.Change{Table: "people", Kind: observation.Inserted, Key: "8", After: cells("Moss", "", newToken)}
	got := stored(t, inserted)
	require.Equal(t, judge.Odd, got.Verdict)
	require.Equal(t, judge.Odd, partsOf(got)["row in people"])
}

func TestAnUpdateThatChangesNothingIsNotObserved(t *testing.T) {
	t.Parallel()
	got := stored(t)
	require.Equal(t, judge.NotObserved, partsOf(got)["row in people"], "it may have held the same before")
	require.NotEqual(t, judge.AsExpected, got.Verdict)
}

// TestColumnsThatAreNotNamed hold what they held before, or their default in a new row; what the server fills itself is left out.
func TestColumnsThatAreNotNamed(t *testing.T) {
	t.Parallel()
	touched := update("Moss", "OS-1", newToken)
	touched.After = append(touched.After, observation.Cell{Column: "note", Value: "x"}, observation.Cell{Column: "changed_at", Value: "2026-01-02"})
	touched.Before = append(touched.Before, observation.Cell{Column: "note", Null: true}, observation.Cell{Column: "changed_at", Value: "2026-01-01"})
	touched.Own = []string{"changed_at"}
	parts := partsOf(stored(t, touched))
	require.Equal(t, judge.Odd, parts["people.note"])
	require.NotContains(t, parts, "people.changed_at")
	require.NotContains(t, parts, "other columns of people")

	f, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields: [{name: a}]\naccepted: {status: 303}\nstored: [{insert: beds, columns: {a: {from: a}, no: {generated: sequence}, plant: {key of: plants}, by: {client address: true}, kind: {default: true}}}, {insert: plants, columns: {a: {from: a}}}]\n"))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	sub := &oracle.Submission{Driver: oracle.HTTP, Pairs: []oracle.Pair{{Name: "a", Value: "x"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: oracle.HTTP}, sub)
	for _, c := range []struct {
		no, plant, by, kind, size string
		odd                       string
	}{
		{"7", "3", "127.0.0.1", "usual", "0.00", ""},
		{"x", "3", "127.0.0.1", "usual", "0", "beds.no"},
		{"7", "4", "127.0.0.1", "usual", "0", "beds.plant"},
		{"7", "3", "10.0.0.1", "usual", "0", "beds.by"},
		{"7", "3", "127.0.0.1", "other", "0", "beds.kind"},
		{"7", "3", "127.0.0.1", "usual", "5", "beds.size"},
	} {
		row := []observation.Cell{{Column: "id", Value: "1"}, {Column: "a", Value: "x"}, {Column: "no", Value: c.no}, {Column: "plant", Value: c.plant}, {Column: "by", Value: c.by}, {Column: "kind", Value: c.kind}, {Column: "size", Value: c.size}}
		o := &observation.Step{
			Sent: sub, At: time.Now().UTC(), Watched: []string{"beds", "plants"},
			Changes: []observation.Change{
				{Table: "beds", Kind: observation.Inserted, Key: "1", After: row, Own: []string{"id"}, Defaults: []observation.Cell{{Column: "kind", Value: "usual"}, {Column: "size", Value: "0"}}},
				{Table: "plants", Kind: observation.Inserted, Key: "3", After: []observation.Cell{{Column: "id", Value: "3"}, {Column: "a", Value: "x"}}},
			},
			Exchanges: []observation.Exchange{{Method: "POST", URL: "http://127.0.0.1/", Status: 303, Location: "http://127.0.0.1/d"}, {Method: "GET", URL: "http://127.0.0.1/d", Status: 200}},
			Before:    &observation.Page{}, After: &observation.Page{},
		}
		odd := ""
		for _, check := range judge.Judge(p, e, o, nil).Checks {
			for _, part := range check.Parts {
				if part.Verdict == judge.Odd {
					odd += part.Name
				}
			}
		}
		require.Equal(t, c.odd, odd)
	}
}
