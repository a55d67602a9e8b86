package main

import (
	"bytes"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestEverythingShippedIsNamed in NOTICES.md, with a licence.
func TestEverythingShippedIsNamed(t *testing.T) {
	t.Parallel()
	var now bytes.Buffer
	require.NoError(t, write(&now, "../.."))
	require.Greater(t, strings.Count(now.String(), "\n## "), 100)
	stands, err := os.ReadFile("../../NOTICES.md")
	require.NoError(t, err)
	for line := range strings.Lines(now.String()) {
		if strings.HasPrefix(line, "## ") {
			require.Contains(t, string(stands), line, "NOTICES.md is stale: run make notices")
		}
	}
	folder := t.TempDir()
	_, err = licences(folder)
	require.ErrorContains(t, err, "it has no licence")
	require.NoError(t, os.WriteFile(folder+"/package.json", []byte(`{"license": "MIT"}`), 0o600))
	texts, err := licences(folder)
	require.NoError(t, err)
	require.Equal(t, []string{"Licence: MIT"}, texts)
}
