package server_test

import (
	"context"
	"database/sql"
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
	"oddtick/server/api"
	"oddtick/server/lease"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// onOwnDatabase moves a client to a server whose own database runs by itself, so that it can be ended; it is kept up.
func (c *client) onOwnDatabase(options ...string) (dsn string, process func() int) {
	dir := filepath.Join(c.t.TempDir(), "own")
	db, err := localdb.Start(context.Background(), dir, options...)
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
	s, err := api.New(st, front, api.Options{})
	require.NoError(c.t, err)
	c.t.Cleanup(s.Close)
	api := httptest.NewServer(s)
	c.t.Cleanup(api.Close)
	c.server, c.store, c.address = s, st, api.URL
	return db.DSN("own"), func() int {
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
	_, process := c.onOwnDatabase()
	c.signIn()
	plan := map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 480}
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
	require.Equal(t, undisturbed.verdicts(), r.verdicts())
}

func (r *runAnswer) verdicts() map[string]string {
	out := map[string]string{}
	for _, m := range r.Marks {
		out[m.Case] = m.Verdict
	}
	return out
}

// TestAttackTheDiskIsFullInARun: the run ends with the reason, nobody is shown anything wrong, and once there is room again it goes on to
// the verdicts of an undisturbed one.
func TestAttackTheDiskIsFullInARun(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut")
	dsn, _ := c.onOwnDatabase("--innodb-file-per-table=0", "--innodb-data-file-path=ibdata1:12M:autoextend:max:32M")
	c.signIn()
	undisturbed := c.ended(c.run(map[string]any{"depth": "quick", "driver": "http"}))
	require.Equal(t, "finished", undisturbed.Run.State)
	number := c.run(map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 480})
	c.done(number, 2)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	for _, s := range []string{"CREATE TABLE room (body LONGBLOB)", "CREATE TABLE filling (body LONGBLOB)", "INSERT INTO room VALUES (REPEAT('x', 4000000)), (REPEAT('x', 4000000))"} {
		_, err = db.Exec(s)
		require.NoError(t, err)
	}
	// a database that is full cannot even drop a table: what makes room is begun before, and committed after
	room, err := db.Begin()
	require.NoError(t, err)
	_, err = room.Exec("DELETE FROM room")
	require.NoError(t, err)
	for _, size := range []int{1 << 20, 60_000, 7_000} {
		for err = nil; err == nil; {
			_, err = db.Exec("INSERT INTO filling VALUES (REPEAT('x', ?))", size)
		}
		require.ErrorContains(t, err, "is full")
	}
	failed := c.ended(number)
	require.Equal(t, "failed", failed.Run.State)
	require.Contains(t, failed.Run.Reason, "is full")
	require.Less(t, failed.Run.Done, failed.Run.Total)
	require.Equal(t, http.StatusOK, c.get("/api/sites", nil), "what is there can be looked at")
	require.NoError(t, room.Commit())
	require.Eventually(t, func() bool { // once its end is written down
		status, _, _ := c.send("POST", fmt.Sprintf("%s/runs/%d/resume", joinPath, number), nil)
		return status == http.StatusOK
	}, 30*time.Second, 500*time.Millisecond)
	r := c.ended(number)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, r.Run.Total, r.Run.Done)
	require.Equal(t, undisturbed.verdicts(), r.verdicts())
}

// TestAttackAClockThatGoesBackInARun by an hour: everything that was written before lies in the future then.
func TestAttackAClockThatGoesBackInARun(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut")
	dsn, _ := c.onOwnDatabase()
	c.signIn()
	undisturbed := c.ended(c.run(map[string]any{"depth": "quick", "driver": "http"}))
	require.Equal(t, "finished", undisturbed.Run.State)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	goBack := func() {
		for _, s := range []string{
			"UPDATE leases SET expires_at = expires_at + INTERVAL 1 HOUR", "UPDATE attempts SET begun_at = begun_at + INTERVAL 1 HOUR",
			"UPDATE runs SET started_at = started_at + INTERVAL 1 HOUR, ended_at = ended_at + INTERVAL 1 HOUR", "UPDATE sessions SET expiry = expiry + INTERVAL 1 HOUR",
		} {
			_, err := db.Exec(s)
			require.NoError(t, err, s)
		}
	}
	number := c.run(map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 2400, "clean_up": true})
	c.done(number, 2)
	goBack()
	r := c.ended(number)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, undisturbed.verdicts(), r.verdicts())
	var report struct{ Took int64 }
	require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/report/json", joinPath, number), &report))
	require.Zero(t, report.Took, "no time is less than none")

	// and where its server is killed, nobody waits an hour for its lease to end
	number = c.run(map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 2400, "clean_up": true})
	c.done(number, 2)
	c.server.Close()
	form, err := c.store.Form(t.Context(), "ost", "join")
	require.NoError(t, err)
	run, err := c.store.RunByNumber(t.Context(), form.ID, number)
	require.NoError(t, err)
	require.NoError(t, c.store.TakeLeases(t.Context(), "the killed one", "a run", []string{fmt.Sprintf("run %d of form %d", run.Seed, form.ID)}, lease.Term))
	goBack()
	other := c.beside()
	require.NoError(t, other.server.ResumeInterrupted(t.Context()))
	r = other.ended(number)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, undisturbed.verdicts(), r.verdicts())
	require.NotContains(t, r.Run.Reason, "left", "and what was written before it is taken back too")
}
