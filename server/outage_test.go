package server_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"oddtick/internal/localdb"
	"oddtick/server"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// onOwnDatabase moves a client to a server whose own database runs by itself, so that it can be ended; it is kept up.
func (c *client) onOwnDatabase() (process func() int) {
	dir := filepath.Join(c.t.TempDir(), "own")
	db, err := localdb.Start(context.Background(), dir)
	require.NoError(c.t, err)
	c.t.Cleanup(db.Stop)
	up, stop := context.WithCancel(context.Background())
	c.t.Cleanup(stop)
	go db.KeepUp(up, func(error) {})
	st, err := store.Open(c.t.Context(), db.DSN("own"), filepath.Join(dir, "key"))
	require.NoError(c.t, err)
	c.t.Cleanup(func() { st.Close() })
	require.NoError(c.t, st.AddUser(c.t.Context(), "tester", "right"))
	site, err := c.store.Site(c.t.Context(), "ost")
	require.NoError(c.t, err)
	document, err := c.store.SiteDocument(c.t.Context(), site.ID)
	require.NoError(c.t, err)
	id, err := st.PutSite(c.t.Context(), document, nil)
	require.NoError(c.t, err)
	form, err := c.store.Form(c.t.Context(), "ost", "join")
	require.NoError(c.t, err)
	rev, err := c.store.Revision(c.t.Context(), form.RevisionID)
	require.NoError(c.t, err)
	require.NoError(c.t, st.PutForm(c.t.Context(), id, store.Save{Form: readForm(c.t, rev), File: rev.File, Source: rev.Source}))
	s, err := server.New(st, front, server.Options{})
	require.NoError(c.t, err)
	c.t.Cleanup(s.Close)
	api := httptest.NewServer(s)
	c.t.Cleanup(api.Close)
	c.server, c.store, c.address = s, st, api.URL
	return func() int {
		text, err := os.ReadFile(filepath.Join(dir, "server.pid"))
		require.NoError(c.t, err)
		pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
		require.NoError(c.t, err)
		return pid
	}
}

// TestAttackTheDatabaseIsPausedAndKilledInARun: whoever asks is told in time, and the run has the verdicts of an undisturbed one.
func TestAttackTheDatabaseIsPausedAndKilledInARun(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut")
	process := c.onOwnDatabase()
	c.signIn()
	plan := map[string]any{"depth": "quick", "driver": "http", "most_per_second": 8}
	undisturbed := c.ended(c.run(map[string]any{"depth": "quick", "driver": "http"}))
	require.Equal(t, "finished", undisturbed.Run.State)
	require.Positive(t, undisturbed.Run.Odd)

	number := c.run(plan)
	c.done(number, 2)
	paused := process()
	require.NoError(t, syscall.Kill(paused, syscall.SIGSTOP))
	t.Cleanup(func() { _ = syscall.Kill(paused, syscall.SIGCONT) })
	began := time.Now()
	require.Equal(t, http.StatusNoContent, c.get("/api/live", nil))
	require.Less(t, time.Since(began), time.Second)
	require.Eventually(t, func() bool { // the process stops in its own time
		began = time.Now()
		return c.get("/api/ready", nil) == http.StatusServiceUnavailable
	}, 20*time.Second, 10*time.Millisecond)
	require.Less(t, time.Since(began), 5*time.Second)
	time.Sleep(4 * time.Second)
	require.NoError(t, syscall.Kill(paused, syscall.SIGCONT))
	require.Eventually(t, func() bool { return c.get("/api/ready", nil) == http.StatusNoContent }, 20*time.Second, 100*time.Millisecond)

	require.NoError(t, syscall.Kill(process(), syscall.SIGKILL))
	require.Eventually(t, func() bool { return c.get("/api/ready", nil) == http.StatusNoContent }, 40*time.Second, 200*time.Millisecond)
	var r runAnswer
	require.Eventually(t, func() bool {
		c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r)
		return r.Run.State != "running"
	}, 90*time.Second, 200*time.Millisecond)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, r.Run.Total, r.Run.Done)
	verdicts := func(r runAnswer) map[string]string {
		out := map[string]string{}
		for _, m := range r.Marks {
			out[m.Case] = m.Verdict
		}
		return out
	}
	require.Equal(t, verdicts(undisturbed), verdicts(r))
}
