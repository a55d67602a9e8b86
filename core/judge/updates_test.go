package judge_test

import (
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

const details = `
form: me
page: /me
fields: [{name: shown, normalize: [trim], rules: [{length: {max: 40}}]}]
accepted: {status: 303, to: /me}
stored:
  - update: people
    columns: {shown: {from: shown}, member_no: {unchanged: true}, token: {generated: uuid}, owner: {signed_in: true}}
`

// stored judges what an accepted submission of the details form left in the table.
func stored(t testing.TB, changes ...observation.Change) judge.Check {
	p := prepared(t, details)
	sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "shown", Value: " Moss "}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
	o := &observation.Step{
		Sent: sub, At: time.Now().UTC(), Watched: []string{"people"}, Changes: changes,
		Exchanges: ledOn("http://s/me", "http://s/me"),
		Before:    &observation.Page{URL: "http://s/me"}, After: &observation.Page{URL: "http://s/me"},
	}
	for _, c := range worded(p, e, o, nil).Checks {
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
		out[p.Subject.Older()] = p.Verdict
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

	p := prepared(t, "form: f\npage: /\nfields: [{name: a}]\naccepted: {status: 303}\nstored: [{insert: beds, columns: {a: {from: a}, no: {generated: sequence}, plant: {key_of: plants}, by: {client_address: true}, kind: {default: true}}}, {insert: plants, columns: {a: {from: a}}}]\n")
	sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "a", Value: "x"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
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
			Exchanges: ledOn("http://127.0.0.1/", "http://127.0.0.1/d"),
			Before:    &observation.Page{}, After: &observation.Page{},
		}
		odd := ""
		for _, check := range worded(p, e, o, nil).Checks {
			for _, part := range check.Parts {
				if part.Verdict == judge.Odd {
					odd += part.Subject.Older()
				}
			}
		}
		require.Equal(t, c.odd, odd)
	}
}

const mooringForm = `form: mooring
page: /
fields:
  - {id: name, name: name, rules: [{required: {}}]}
  - {id: services, name: "services[]", kind: multiple_choice, options: [{label: Water, value: w}, {label: Power, value: p}]}
accepted: {status: 303, to: /done}
stored:
  - {insert: moorings, columns: {name: {from: name}}}
  - {insert: mooring_services, each: services, columns: {mooring_id: {key_of: moorings}, service: {from: services, option: label}}}
`

// TestARowForEachChoice: as many rows as are chosen, in whatever order, each with its own value.
func TestARowForEachChoice(t *testing.T) {
	t.Parallel()
	p := prepared(t, mooringForm)
	row := func(table, key string, cells ...observation.Cell) observation.Change {
		return observation.Change{Table: table, Kind: observation.Inserted, Key: key, After: cells}
	}
	service := func(key, mooring, name string) observation.Change {
		return row("mooring_services", key, observation.Cell{Column: "mooring_id", Value: mooring}, observation.Cell{Column: "service", Value: name})
	}
	mooring := row("moorings", "7", observation.Cell{Column: "name", Value: "heron"})
	for name, c := range map[string]struct {
		chosen string
		rows   []observation.Change
		odd    []string
	}{
		"both, in another order": {"w p w", []observation.Change{mooring, service("1", "7", "Power"), service("2", "7", "Water")}, nil},
		"none":                   {"", []observation.Change{mooring}, nil},
		"one is lost":            {"w p", []observation.Change{mooring, service("1", "7", "Power")}, []string{"row in mooring_services: no row, 1 new row for Water"}},
		"one too many":           {"w", []observation.Change{mooring, service("1", "7", "Water"), service("2", "7", "Power")}, []string{"other rows: another row inserted, unchanged"}},
		"another's key":          {"w", []observation.Change{mooring, service("1", "8", "Water")}, []string{"mooring_services.mooring_id: another key, the key of the row in moorings: 7"}},
		"the value for the label": {
			"w",
			[]observation.Change{mooring, service("1", "7", "w")},
			[]string{"row in mooring_services: no row, 1 new row for Water", "other rows: another row inserted, unchanged"},
		},
	} {
		sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name", Value: "heron"}}}
		for _, v := range strings.Fields(c.chosen) {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: "services[]", Value: v})
		}
		e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
		require.Equal(t, oracle.Accepted, e.Outcome, name)
		s := worded(p, e, &observation.Step{
			At: time.Now(), Sent: sub, Watched: []string{"moorings", "mooring_services"}, Changes: c.rows,
			Exchanges: ledOn("http://site/", "http://site/done"),
			After:     &observation.Page{URL: "http://site/done"},
		}, nil)
		var odd []string
		for _, check := range s.Checks {
			for _, part := range check.Parts {
				if part.Verdict == judge.Odd {
					odd = append(odd, part.Subject.Older()+": "+kindOf(&part)+", "+string(part.Words.Expected))
				}
			}
		}
		require.Equal(t, c.odd, odd, name)
	}
	for text, says := range map[string]string{
		"each: name":                  "of the field name no several values are chosen",
		"each: berth":                 "berth",
		"each: services, update: x":   "a row is either inserted or updated",
		"each: services, insertt: xx": "insertt",
	} {
		f, err := spec.ReadForm("mooring.yaml", []byte(strings.Replace(mooringForm, "each: services", text, 1)))
		if err == nil {
			_, err = f.Prepare()
		}
		require.ErrorContains(t, err, says)
	}
}
