package oracle_test

import (
	"testing"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

func shed(t testing.TB) *spec.Prepared {
	t.Helper()
	form, err := spec.ReadForm("f.yaml", []byte(`form: shed
page: /sheds/1/edit
fields:
  - {name: name, normalize: [trim], rules: [{length: {max: 4, message: Short names only., messages: [{when: 'kind == "hut"', message: Huts have short names.}]}}, {unique: {column: sheds.name, also: [old_sheds.name]}}]}
  - {name: kind, kind: single_choice, options: [{value: hut}, {value: barn}]}
  - {name: roof, when: 'kind == "barn"'}
  - {name: website, kind: honeypot}
accepted: {mails: [{to: desk@s.test, when: 'kind == "barn"'}]}
requests: {records: [{id: gone, to: /sheds/9, refused: {status: 404}}, {id: moved, to: /sheds/8, refused: {status: 302}}], too_large: {over: 10, status: 413}}
stored: [{update: sheds, where: {id: "1", owner: "{signed_in}"}, columns: {name: {from: name}, roof: {from: roof, blank: null}, made: {now: {within: 5s, zone: UTC}}}}]
`))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	return p
}

func sends(pairs ...string) *submission.Submission {
	s := &submission.Submission{Driver: submission.HTTP}
	for i := 0; i < len(pairs); i += 2 {
		s.Pairs = append(s.Pairs, submission.Pair{Name: pairs[i], Value: pairs[i+1]})
	}
	return s
}

func TestMessagesUnderConditions(t *testing.T) {
	t.Parallel()
	p, w := shed(t), &oracle.World{Driver: submission.HTTP}
	require.Equal(t, "Huts have short names.", oracle.Expect(p, w, sends("name", "Toolshed", "kind", "hut")).Messages[0].Text)
	require.Equal(t, "Short names only.", oracle.Expect(p, w, sends("name", "Toolshed", "kind", "barn")).Messages[0].Text)
}

func TestUniqueOverSeveralTables(t *testing.T) {
	t.Parallel()
	p := shed(t)
	needs := oracle.Needs(p, sends("name", " Nook "))
	require.Len(t, needs, 2)
	require.Equal(t, []string{"sheds", "old_sheds"}, []string{needs[0].Table, needs[1].Table})
	require.Equal(t, "Nook", needs[1].Value)
}

func TestStaleValuesAndHoneypots(t *testing.T) {
	t.Parallel()
	p, w := shed(t), &oracle.World{Driver: submission.HTTP, SignedIn: "7"}
	e := oracle.Expect(p, w, sends("name", "Nook", "kind", "hut", "roof", "tin"))
	require.Equal(t, oracle.Accepted, e.Outcome)
	require.Equal(t, oracle.HoldsNull, e.Rows[0].Columns[2].Source, "what is not asked for is not stored")
	require.Equal(t, "UTC", e.Rows[0].Columns[0].Zone)
	require.True(t, e.NoMail, "its condition does not hold")
	require.Equal(t, []string{"desk@s.test"}, e.Recipients)
	e = oracle.Expect(p, w, sends("name", "Nook", "kind", "barn", "website", "http://s.test/"))
	require.Equal(t, oracle.NothingFurther, e.Outcome)
	require.Equal(t, oracle.HoneypotFilled, e.Failing[0].Cause)
	require.Empty(t, e.Rows)
	require.Len(t, oracle.Expect(p, w, sends("name", "Nook", "kind", "barn")).Mails, 1)
}

func TestTheRowThatIsUpdated(t *testing.T) {
	t.Parallel()
	p := shed(t)
	require.Equal(t, []oracle.Condition{{Column: "id", Value: "1"}, {Column: "owner", Value: "7"}}, oracle.Updated(p, &oracle.World{SignedIn: "7"}, sends("name", "Nook"), "sheds"))
	require.Nil(t, oracle.Updated(p, &oracle.World{}, sends("name", "Nook"), "sheds"), "whose it is is not known")
	require.Nil(t, oracle.Updated(p, &oracle.World{SignedIn: "7"}, sends("name", "Nook"), "plots"))
}

func TestRequestsAboutRecords(t *testing.T) {
	t.Parallel()
	p, w := shed(t), &oracle.World{Driver: submission.HTTP}
	for _, c := range []struct {
		record  string
		forged  submission.Forgery
		outcome oracle.Outcome
		status  int
	}{
		{"gone", submission.OtherRecord, oracle.RejectedByServer, 404},
		{"moved", submission.OtherRecord, oracle.NothingFurther, 302},
		{"", submission.TooLarge, oracle.RejectedByServer, 413},
		{"", submission.Undecodable, oracle.NothingFurther, 0},
		{"", submission.OverridesMethod, oracle.Accepted, 0},
	} {
		s := sends("name", "Nook", "kind", "hut")
		s.Forged, s.Record = c.forged, c.record
		e := oracle.Expect(p, w, s)
		require.Equal(t, c.outcome, e.Outcome, c)
		require.Equal(t, c.status, e.Status, c)
		require.Equal(t, c.forged == submission.OverridesMethod, e.MayRefuse, c)
	}
}
