package main

import (
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestHelpFollowsTheOrderOfWork: the groups of commands are listed in the order of work, and the help of each command has an example and
// exit codes.
func TestHelpFollowsTheOrderOfWork(t *testing.T) {
	t.Parallel()
	code, out, _ := oddtick(t)
	require.Zero(t, code)
	at := 0
	for _, group := range []string{"Learn and write", "Design", "Run", "Investigate", "Report", "Serve"} {
		i := strings.Index(out, "\n"+group+"\n")
		require.Greater(t, i, at, group)
		at = i
	}
	for _, name := range []string{"schema", "migrate", "learn", "design", "explain", "covering-array", "run", "clean-up", "investigate", "find-limit", "report", "compare", "demo", "serve", "user", "key", "practice"} {
		require.Contains(t, out, "\n  "+name+" ", name)
		code, help, _ := oddtick(t, name, "--help")
		require.Zero(t, code, name)
		require.Contains(t, help, "\nExample\n", name)
		require.Contains(t, help, "\nExit codes\n  0  ", name)
		require.Contains(t, help, "  oddtick "+name, name)
	}
}

// TestRetiredPhrasesAreNotPrinted: no line, clause or option of the help of any command is a phrase or an option that was replaced.
func TestRetiredPhrasesAreNotPrinted(t *testing.T) {
	t.Parallel()
	list, err := os.ReadFile("../../internal/words/testdata/retired.txt")
	require.NoError(t, err)
	old := map[string]bool{"--anyway": true, "--at-most": true, "--part": true, "--pick": true}
	for line := range strings.Lines(string(list)) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
			old[line] = true
		}
	}
	ends := regexp.MustCompile(`[.;:,]\s|\n\n|\s{2,}`)
	seen := 0
	for _, name := range []string{"", "schema", "migrate", "learn", "design", "explain", "covering-array", "run", "clean-up", "investigate", "find-limit", "report", "compare", "demo", "serve", "user", "user add", "user password", "key", "key rotate", "practice"} {
		code, help, _ := oddtick(t, append(strings.Fields(name), "--help")...)
		require.Zero(t, code, name)
		for _, clause := range ends.Split(strings.ReplaceAll(help, "\n   ", "\n"), -1) {
			clause = strings.Trim(strings.Join(strings.Fields(clause), " "), ".")
			seen++
			require.False(t, old[clause], "oddtick %s --help says %q", name, clause)
		}
		for word := range strings.FieldsSeq(help) {
			require.False(t, old[word] && strings.HasPrefix(word, "--"), "oddtick %s --help names %s", name, word)
		}
	}
	require.Greater(t, seen, 400)
}

func TestUnknownCommandsAndOptionsSayWhatToDo(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		says string
		args []string
	}{
		{`there is no command "cases"; the commands are clean-up, compare, covering-array, demo,`, []string{"cases"}},
		{`there is no command "desing"; did you mean design?`, []string{"desing"}},
		{`"further" is now called "investigate"`, []string{"further", "x", "y"}},
		{"--anyway is now called --ignore-contradictions", []string{"run", "x", "--anyway"}},
		{"oddtick run has no option --deep; see oddtick run --help", []string{"run", "x", "--deep"}},
	} {
		code, _, errs := oddtick(t, c.args...)
		require.Equal(t, 2, code)
		require.Contains(t, errs, c.says)
	}
}
