package localdb_test

import (
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"oddtick/internal/localdb"

	"github.com/stretchr/testify/require"
)

func start(t testing.TB, dir string) *localdb.Server {
	s, err := localdb.Start(context.Background(), dir)
	require.NoError(t, err)
	return s
}

func exec(t testing.TB, s *localdb.Server, statement string) {
	db, err := sql.Open("mysql", s.DSN(""))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(statement)
	require.NoError(t, err)
}

func pidOf(t testing.TB, dir string) int {
	text, err := os.ReadFile(filepath.Join(dir, "server.pid"))
	require.NoError(t, err)
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	require.NoError(t, err)
	return pid
}

// TestRecovering goes through what a start may find: nothing, kept data, a stale pid file, a server left behind, one that was
// killed, a half-made folder.
func TestRecovering(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "db")
	first := start(t, dir)
	exec(t, first, "CREATE DATABASE kept")
	first.Stop()
	require.NoFileExists(t, filepath.Join(dir, "server.pid"))

	require.NoError(t, os.WriteFile(filepath.Join(dir, "server.pid"), []byte(strconv.Itoa(os.Getpid())), 0o600))
	second := start(t, dir) // the pid is this test's own: it must not be ended
	exec(t, second, "USE kept")

	third := start(t, dir) // the second was left behind
	select {
	case <-second.Exited():
	case <-time.After(10 * time.Second):
		require.Fail(t, "the server left behind still runs")
	}
	exec(t, third, "USE kept")

	require.NoError(t, syscall.Kill(pidOf(t, dir), syscall.SIGKILL))
	<-third.Exited()
	fourth := start(t, dir)
	exec(t, fourth, "USE kept")
	fourth.Stop()

	require.NoError(t, os.Remove(filepath.Join(dir, "oddtick-complete")))
	require.NoError(t, os.Remove(filepath.Join(dir, "data", "ibdata1")))
	fifth := start(t, dir) // half made: made anew
	defer fifth.Stop()
	exec(t, fifth, "CREATE DATABASE kept")
}

func TestAServerThatCannotStartSaysWhy(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "oddtick-complete"), nil, 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data"), nil, 0o600)) // a file where the folder should be
	_, err := localdb.Start(context.Background(), dir)
	require.ErrorContains(t, err, "MariaDB ended at once")
}

func TestTwoServersDoNotCollide(t *testing.T) {
	t.Parallel()
	a, b := start(t, filepath.Join(t.TempDir(), "a")), start(t, filepath.Join(t.TempDir(), "b"))
	defer a.Stop()
	defer b.Stop()
	require.NotEqual(t, a.Port, b.Port)
	exec(t, a, "CREATE DATABASE one")
	exec(t, b, "CREATE DATABASE one")
}

// TestAServerThatEndsIsStartedAgain on the same port, as often as it ends, until it is stopped.
func TestAServerThatEndsIsStartedAgain(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "db")
	s := start(t, dir)
	exec(t, s, "CREATE DATABASE kept")
	told := make(chan error, 10)
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		s.KeepUp(t.Context(), func(err error) { told <- err })
	}()
	for range 2 {
		require.NoError(t, syscall.Kill(pidOf(t, dir), syscall.SIGKILL))
		require.NoError(t, <-told)
		exec(t, s, "USE kept")
	}
	s.Stop()
	<-ended
	require.Empty(t, told)
}
