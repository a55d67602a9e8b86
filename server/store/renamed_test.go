package store_test

import (
	"testing"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// TestWhatWasSaidOfAFindingIsFoundUnderItsNewName: results of format 1 tell which name is which.
func TestWhatWasSaidOfAFindingIsFoundUnderItsNewName(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, dsn, key := open(t)
	id, err := st.PutSite(ctx, &spec.Site{Site: "ost", Address: "http://127.0.0.1:1"}, nil)
	require.NoError(t, err)
	form, err := spec.ReadForm("shed.yaml", []byte("form: shed\npage: /shed\n"))
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: form, File: "shed.yaml", Source: []byte("form: shed\npage: /shed\n")}))
	f, err := st.Form(ctx, "ost", "shed")
	require.NoError(t, err)
	require.NoError(t, st.AddUser(ctx, "tester", "x"))
	u, err := st.Authenticate(ctx, "tester", "x")
	require.NoError(t, err)
	run, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Seed: 1, Depth: "standard", Cases: []string{"a"}})
	require.NoError(t, err)
	r := result("a", judge.Odd)
	r.Cause = &report.Cause{}
	_, err = st.AddResult(ctx, run.ID, 1, "name", r)
	require.NoError(t, err)
	// as earlier versions wrote it
	_, err = st.DB().Exec(`UPDATE results SET cause = '[{"check": "Stored data", "part": "sheds.name", "kind": "other case", "detail": "", "headline": "x"}]'`)
	require.NoError(t, err)
	name := finding.NameOf(f.Ident, report.Cause{Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "sheds", Column: "name"}, Difference: judge.OtherCapitals})
	require.NoError(t, st.AddTriage(ctx, f.ID, u.ID, 0, &store.Triage{Finding: name.Older, State: "known"}))
	require.NoError(t, st.AddTriage(ctx, f.ID, u.ID, 0, &store.Triage{Finding: "zzzzzzzz", State: "known"}))
	require.NoError(t, st.PutSiteReport(ctx, f.SiteID, "", store.FurtherKind(f.Ident, name.Older), map[string]int{"looked": 1}))
	_, err = st.DB().Exec("UPDATE forms SET names_from_codes = FALSE")
	require.NoError(t, err)
	for range 2 { // the second time there is nothing left to do
		again, err := store.Open(ctx, dsn, key)
		require.NoError(t, err)
		words, err := again.Triages(ctx, f.ID)
		require.NoError(t, err)
		require.Equal(t, []string{"zzzzzzzz", name.ID}, []string{words[0].Finding, words[1].Finding}, "what nothing shows keeps its name")
		var report map[string]int
		require.NoError(t, again.SiteReport(ctx, f.SiteID, "", store.FurtherKind(f.Ident, name.ID), &report))
		require.Equal(t, map[string]int{"looked": 1}, report)
		marks, err := again.Marks(ctx, run.ID, 0)
		require.NoError(t, err)
		reasons, err := marks[0].Reasons()
		require.NoError(t, err)
		require.Equal(t, judge.OtherCapitals, reasons[0].Difference)
		require.NoError(t, again.Close())
	}
}
