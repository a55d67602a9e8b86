package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestMigratedDocumentsHaveTheSameCases: documents as they were before their keys were renamed, and the ids of the cases that were computed
// of them then.
func TestMigratedDocumentsHaveTheSameCases(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	former, err := filepath.Glob("testdata/former/*.yaml")
	require.NoError(t, err)
	require.Len(t, former, 5)
	for _, file := range former {
		text, err := os.ReadFile(file)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, filepath.Base(file)), text, 0o600))
	}
	code, _, errs := oddtick(t, "design", dir)
	require.Equal(t, 2, code)
	require.Contains(t, errs, `the key "sent" is now called "normalize"`)

	code, out, _ := oddtick(t, "migrate", "--check", dir)
	require.Equal(t, 1, code)
	require.Contains(t, out, "join.yaml: has to be migrated")
	code, out, errs = oddtick(t, "migrate", dir)
	require.Zero(t, code, errs)
	require.Contains(t, out, "join.yaml: migrated")
	code, out, _ = oddtick(t, "migrate", "--check", dir)
	require.Zero(t, code)
	require.Contains(t, out, "join.yaml: nothing to change")

	designed := filepath.Join(dir, "cases.out")
	code, _, errs = oddtick(t, "design", dir, "--json", designed)
	require.Zero(t, code, errs)
	text, err := os.ReadFile(designed)
	require.NoError(t, err)
	var forms []struct {
		Form  string
		Cases []struct{ ID string }
	}
	require.NoError(t, json.Unmarshal(text, &forms))
	require.Len(t, forms, 4)
	for _, f := range forms {
		want, err := os.ReadFile("testdata/former/" + f.Form + ".cases.txt")
		require.NoError(t, err)
		var ids []string
		for _, c := range f.Cases {
			ids = append(ids, c.ID)
		}
		require.Equal(t, strings.Fields(string(want)), ids)
	}
}

// TestMigrateWritesNothingWhereAFileCannotBeRead: all files are read before the first is written.
func TestMigrateWritesNothingWhereAFileCannotBeRead(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	good, bad := filepath.Join(dir, "a.yaml"), filepath.Join(dir, "b.yaml")
	require.NoError(t, os.WriteFile(good, []byte("form: a\npage: /\nphases: in order\n"), 0o600))
	require.NoError(t, os.WriteFile(bad, []byte("form: [\n"), 0o600))
	code, _, errs := oddtick(t, "migrate", good, bad)
	require.Equal(t, 2, code)
	require.Contains(t, errs, "b.yaml:1")
	text, err := os.ReadFile(good)
	require.NoError(t, err)
	require.Contains(t, string(text), "in order")
}
