package store_test

import (
	"os"
	"testing"

	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/require"
)

// TestFormerDocumentsAreMigratedAtTheFirstStart: the newest revision gets a new one, older ones are migrated as they are read, and sites and
// edits of cases are in the present keys.
func TestFormerDocumentsAreMigratedAtTheFirstStart(t *testing.T) {
	t.Parallel()
	ctx := t.Context()
	st, dsn, key := open(t)
	f := form(t, st, joinForm)
	require.NoError(t, st.AddUser(ctx, "maud", "heron lantern moss"))
	u, err := st.Authenticate(ctx, "maud", "heron lantern moss")
	require.NoError(t, err)
	edits := []spec.CaseEdit{{Case: "join/a/http", Skip: "later"}, {Case: "join/own.b/http", Added: true, Title: "b", Expect: "rejected", Inputs: map[string]string{"a": "1"}}, {Case: "join/own.c/http", EveryDepth: true}}
	require.NoError(t, st.PutCaseEdits(ctx, f.ID, u.ID, store.AnyVersion, edits, nil))
	provider, err := goose.NewProvider(goose.DialectMySQL, st.DB(), os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 12)
	require.NoError(t, err)
	const former = "form: join\npage: /join   # ours\nfields:\n  - {name: terms, kind: checkbox, rules: [{ticked: {say: Please.}}]}\n"
	_, err = st.DB().Exec("UPDATE revisions SET source = ?", former)
	require.NoError(t, err)
	_, err = st.DB().Exec("INSERT INTO revisions (form_id, number, file, source, saved_at, note) VALUES (?, 2, 'join.yaml', ?, NOW(), '')", f.ID, former+"phases: in order\n")
	require.NoError(t, err)
	_, err = st.DB().Exec(`UPDATE sites SET document = '{"site":"ost","address":"http://127.0.0.1:1","databases":[{"id":"main"}],"pace":7}', source = 'site: ost  # ours\npace: 7\n'`)
	require.NoError(t, err)

	for range 2 { // the second time there is nothing left to do
		again, err := store.Open(ctx, dsn, key)
		require.NoError(t, err)
		list, err := again.Revisions(ctx, f.ID, 10)
		require.NoError(t, err)
		require.Len(t, list, 3)
		require.Equal(t, "migrated to the present keys and values", list[0].Note)
		newest, err := again.RevisionByNumber(ctx, f.ID, 3)
		require.NoError(t, err)
		require.Equal(t, "form: join\npage: /join   # ours\nfields:\n  - {name: terms, kind: checkbox, rules: [{must_be_checked: {id: ticked, message: Please.}}]}\nphases: in_order\n", string(newest.Source))
		for number := range 2 {
			older, err := again.RevisionByNumber(ctx, f.ID, number+1)
			require.NoError(t, err)
			_, err = spec.ReadForm("join.yaml", older.Source)
			require.NoError(t, err)
		}
		var kept string
		require.NoError(t, again.DB().QueryRow("SELECT source FROM revisions WHERE form_id = ? AND number = 1", f.ID).Scan(&kept))
		require.Equal(t, former, kept, "an older revision stays as it was saved")
		one, err := again.SiteDocument(ctx, f.SiteID)
		require.NoError(t, err)
		require.Equal(t, 7, one.MaxParallel)
		source, err := again.SiteSource(ctx, f.SiteID)
		require.NoError(t, err)
		require.Equal(t, "site: ost  # ours\nmax_parallel: 7\n", string(source))
		now, err := again.CaseEdits(ctx, f.ID)
		require.NoError(t, err)
		require.ElementsMatch(t, edits, now)
		require.NoError(t, again.Close())
	}
}
