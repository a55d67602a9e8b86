package store_test

import (
	"os"
	"testing"

	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/require"
)

// TestTablesWithOlderNamesAreBroughtUpToDate: what was kept under the older names of columns and tables is there under the plain ones, and
// a case that a tester wrote for the browser says so.
func TestTablesWithOlderNamesAreBroughtUpToDate(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, dsn, key := open(t)
	f := form(t, st, joinForm)
	require.NoError(t, st.AddUser(ctx, "maud", "heron lantern moss"))
	u, err := st.Authenticate(ctx, "maud", "heron lantern moss")
	require.NoError(t, err)
	require.NoError(t, st.AddTriage(ctx, f.ID, u.ID, 0, &store.Triage{Finding: "aaaaaaaa", State: "known"}))
	run, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Depth: "quick", Cases: []string{"join/a/http"}, Left: 3, Options: "{}"})
	require.NoError(t, err)
	own := spec.CaseEdit{Case: "join/own.b/browser", Added: true, Title: "b", Inputs: map[string]string{"a": "1"}}
	plain := spec.CaseEdit{Case: "join/own.c/http", Added: true, Title: "c", Inputs: map[string]string{"a": "1"}}
	tagged := spec.CaseEdit{Case: "join/a/browser", Tags: []string{"x"}}
	require.NoError(t, st.PutCaseEdits(ctx, f.ID, u.ID, store.AnyVersion, []spec.CaseEdit{own, plain, tagged}, nil))
	provider, err := goose.NewProvider(goose.DialectMySQL, st.DB(), os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 11)
	require.NoError(t, err)

	again, err := store.Open(ctx, dsn, key)
	require.NoError(t, err)
	defer again.Close()
	own.Driver = "browser"
	edits, err := again.CaseEdits(ctx, f.ID)
	require.NoError(t, err)
	require.Equal(t, []spec.CaseEdit{own, plain, tagged}, edits)
	triages, err := again.Triages(ctx, f.ID)
	require.NoError(t, err)
	require.Len(t, triages, 1)
	back, err := again.Run(ctx, run.ID)
	require.NoError(t, err)
	require.Equal(t, 3, back.NotSelected)
}
