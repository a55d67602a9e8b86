package main

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestTitlesAndReportsInAnotherLanguage(t *testing.T) {
	t.Parallel()
	code, english, _ := oddtick(t, "design", "../../examples/ostlewick/join.yaml", "--depth", "quick")
	require.Zero(t, code)
	code, german, errs := oddtick(t, "design", "../../examples/ostlewick/join.yaml", "--depth", "quick", "--language", "de")
	require.Zero(t, code, errs)
	require.Contains(t, english, "left blank")
	require.Contains(t, german, "leer gelassen")
	require.NotContains(t, german, "left blank")
	code, _, errs = oddtick(t, "design", "../../examples/ostlewick/join.yaml", "--language", "tlh")
	require.Equal(t, 2, code)
	require.Contains(t, errs, "write one of: en, de")
	_, help, _ := oddtick(t, "report", "--help")
	require.Contains(t, help, "Options of every command")
	require.Contains(t, help, "--language")
}
