package main

import (
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"oddtick/cmd/oddtick/running"

	"github.com/stretchr/testify/require"
)

func countOf(t testing.TB, dsn, table string) (n int) {
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
	return n
}

func TestOneCaseIsRun(t *testing.T) {
	t.Parallel()
	address, dsn := site(t, "username-cut")
	at := []string{"--site", address, "--database", dsn}
	code, out, errs := oddtick(t, append([]string{"run", join, "--case", "join/username.length.max+1/http", "--max-per-minute", "6000"}, at...)...)
	require.Equal(t, 1, code, errs)
	require.Contains(t, out, "join: 1 case, 0 as expected, 1 odd, 0 not observed")
	code, _, errs = oddtick(t, append([]string{"run", join, "--case", "join/none/http"}, at...)...)
	require.Equal(t, 2, code)
	require.Contains(t, errs, `there is no case "join/none/http"`)
	code, _, errs = oddtick(t, append([]string{"run", join, "--max-per-minute", "-3"}, at...)...)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "is not a rate")
}

// TestWhatARunDidIsTakenBack: from its result, and from the journal that a killed run leaves beside where its result would be.
func TestWhatARunDidIsTakenBack(t *testing.T) {
	t.Parallel()
	address, dsn := site(t)
	const folder = "../../examples/ostlewick"
	file := filepath.Join(t.TempDir(), "join.json")
	before := countOf(t, dsn, "plot_holders")
	code, out, errs := oddtick(t, "run", join, "--site", address, "--database", dsn, "--depth", "quick", "--json", file)
	require.Zero(t, code, out+errs)
	require.Greater(t, countOf(t, dsn, "plot_holders"), before)
	require.NoFileExists(t, file+running.JournalEnding, "the result tells of the same")
	code, out, errs = oddtick(t, "clean-up", file, folder, "--database", dsn)
	require.Zero(t, code, out+errs)
	require.Contains(t, out, "all as before")
	require.Equal(t, before, countOf(t, dsn, "plot_holders"))

	killed := filepath.Join(t.TempDir(), "killed.json")
	cmd := command("run", join, "--site", address, "--database", dsn, "--json", killed, "--max-per-minute", "1200")
	require.NoError(t, cmd.Start())
	require.Eventually(t, func() bool {
		text, _ := os.ReadFile(killed + running.JournalEnding)
		return strings.Count(string(text), "\n") > 5
	}, 60*time.Second, 20*time.Millisecond)
	require.NoError(t, cmd.Process.Signal(syscall.SIGKILL))
	_ = cmd.Wait() // it was killed
	require.NoFileExists(t, killed)
	after := countOf(t, dsn, "plot_holders")
	require.Greater(t, after, before)
	code, out, errs = oddtick(t, "clean-up", killed, folder, "--database", dsn)
	require.Zero(t, code, out+errs)
	require.LessOrEqual(t, countOf(t, dsn, "plot_holders"), before+1, "at most the case under way is not in the journal")

	nothing := filepath.Join(t.TempDir(), "nothing.json")
	require.NoError(t, os.WriteFile(nothing, []byte("no result\n"), 0o600))
	code, _, errs = oddtick(t, "clean-up", nothing, folder, "--database", dsn)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "neither a result nor the journal of a run")
}
