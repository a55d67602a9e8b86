package main

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestDesignTellsCasesAndCoverage(t *testing.T) {
	code, out, errs := oddtick(t, "design", join, "--depth", "quick")
	require.Equal(t, 0, code, errs)
	require.Contains(t, out, "each rule violated by itself       23 of 23")
	require.Contains(t, out, "not covered: Username: 4 characters; join/username.length.min+1/http would")
	require.Contains(t, out, "join: 59 cases")
	code, out, errs = oddtick(t, "design", join, "--max-cases", "25")
	require.Equal(t, 0, code, errs)
	require.Contains(t, out, "join: 25 cases")
}

func TestDesignWritesJSONAndCSV(t *testing.T) {
	folder := t.TempDir()
	code, out, errs := oddtick(t, "design", join, "--strength", "3", "--json", filepath.Join(folder, "join.json"), "--csv", "-")
	require.Equal(t, 0, code, errs)
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	text, err := os.ReadFile(filepath.Join(folder, "join.json"))
	require.NoError(t, err)
	var all []struct {
		Form     string
		Cases    []struct{ ID string }
		Combined struct{ Strength int }
		Coverage []struct{ Kind string }
	}
	require.NoError(t, json.Unmarshal(text, &all))
	require.Len(t, rows, len(all[0].Cases)+1)
	require.Equal(t, 3, all[0].Combined.Strength)
	require.NotEmpty(t, all[0].Coverage)
}

func TestDesignJoinsEditsAndGuesses(t *testing.T) {
	folder := t.TempDir()
	text, err := os.ReadFile(join)
	require.NoError(t, err)
	for name, content := range map[string]string{
		"join.yaml":       string(text),
		"site.yaml":       "site: s\nguesses:\n  - {id: heath, title: the old name, text: heath-row, depth: quick}\n",
		"join.cases.yaml": "cases: join\nedits:\n  - {case: join/terms.unticked/http, skip: later}\n  - {case: join/gone/http, skip: x}\n",
	} {
		require.NoError(t, os.WriteFile(filepath.Join(folder, name), []byte(content), 0o600))
	}
	code, out, errs := oddtick(t, "design", folder, "--depth", "quick")
	require.Equal(t, 0, code, errs)
	require.Contains(t, out, "join/username.guess.heath/http")
	require.Contains(t, out, "skipped: later")
	require.Contains(t, out, "edited, but no longer exists: join/gone/http")
	require.NoError(t, os.WriteFile(filepath.Join(folder, "site.yaml"), []byte("site: s\nguesses:\n  - {id: heath, txt: x}\n"), 0o600))
	code, _, errs = oddtick(t, "design", folder)
	require.Equal(t, 2, code)
	require.Contains(t, errs, `site.yaml:3:17: guesses[0].txt: the key "txt" is not known here; did you mean "text"?`)
}

func TestExplainSaysWhyACaseExists(t *testing.T) {
	code, out, errs := oddtick(t, "explain", join, "join/username.length.max+1/http")
	require.Equal(t, 0, code, errs)
	for _, want := range []string{"technique  boundary value analysis", "expected: rejected by the server, breaks username.length", "untested without this case\n  boundary values            Username: 21 characters", "password             19 characters"} {
		require.Contains(t, out, want)
	}
	code, _, errs = oddtick(t, "explain", join, "join/none/http")
	require.Equal(t, 2, code)
	require.Contains(t, errs, "there is no case join/none/http; oddtick design")
	for _, flag := range [][]string{{"--depth", "deep"}, {"--strength", "9"}, {"--max-cases", "-1"}} {
		code, _, errs = oddtick(t, append([]string{"design", join}, flag...)...)
		require.Equal(t, 2, code, errs)
	}
}

// TestAProjectsFolderMayHoldResults and lists of what is known beside its documents.
func TestAProjectsFolderMayHoldResults(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	form, err := os.ReadFile(join)
	require.NoError(t, err)
	for name, text := range map[string]string{"join.yaml": string(form), "result.json": `{"oddtick_result": 1, "form": "join"}`, "known.yaml": "known:\n  - {finding: rlpomnvc}\n"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte(text), 0o600))
	}
	code, out, errs := oddtick(t, "design", dir)
	require.Zero(t, code, errs)
	require.Contains(t, out, "join/username.length.max+1/http")
	require.NoError(t, os.WriteFile(filepath.Join(dir, "other.json"), []byte(`{"rows": []}`), 0o600))
	code, _, errs = oddtick(t, "design", dir)
	require.NotZero(t, code)
	require.Contains(t, errs, "neither a form nor a site document")
}
