package runner

import (
	"context"
	"path/filepath"
	"testing"

	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// TestARunThatHasEndedMeanwhileIsNotTakenUp, though it was under way when it was read; what it would touch is free again.
func TestARunThatHasEndedMeanwhileIsNotTakenUp(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	st, err := store.Open(ctx, dbtest.DSN(t), filepath.Join(t.TempDir(), "key"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddUser(ctx, "tester", "right"))
	u, err := st.Authenticate(ctx, "tester", "right")
	require.NoError(t, err)
	site := &spec.Site{Site: "ost", Address: "http://127.0.0.1:1"}
	id, err := st.PutSite(ctx, site, nil)
	require.NoError(t, err)
	text := []byte("form: join\npage: /join\n")
	form, err := spec.ReadForm("join.yaml", text)
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: form, File: "join.yaml", Source: text}))
	f, err := st.Form(ctx, "ost", "join")
	require.NoError(t, err)
	read, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: u.ID, Seed: 42, Depth: "quick", Cases: []string{"a"}})
	require.NoError(t, err)
	require.NoError(t, st.EndRun(ctx, read.ID, store.Finished, "", 0))
	r := New(st)
	require.ErrorIs(t, r.Resume(ctx, &Plan{Site: site, Form: f}, read), ErrMoved)
	now, err := st.Run(ctx, read.ID)
	require.NoError(t, err)
	require.Equal(t, store.Finished, now.State)
	held, err := r.Hold(ctx, site)
	require.NoError(t, err)
	held.Free()
}
