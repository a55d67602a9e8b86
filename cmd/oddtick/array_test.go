package main

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

func TestArrayPrintsRowsAndSize(t *testing.T) {
	code, out, errs := oddtick(t, "covering-array", "3^4")
	require.Equal(t, 0, code, errs)
	require.Len(t, strings.Split(strings.TrimSpace(out), "\n"), 9)
	require.Contains(t, errs, "9 rows, at least 9 are needed; 54 combinations of strength 2")
}

func TestArrayRefusesWithTheEstimate(t *testing.T) {
	code, out, errs := oddtick(t, "covering-array", "40^60", "--strength", "4")
	require.Equal(t, 2, code)
	require.Empty(t, out)
	require.Contains(t, errs, "1.25 million million combinations, at least 2.56 million rows")
	code, _, errs = oddtick(t, "covering-array", "3^4", "--strength", "5")
	require.Equal(t, 2, code)
	require.Contains(t, errs, "from 1 to the number of factors, 4")
}

// TestAttackArraysWithoutEnd are refused before anything is computed.
func TestAttackArraysWithoutEnd(t *testing.T) {
	for _, levels := range []string{"2147483647^5", "1000^300", "99999999999999999999^2"} {
		began := time.Now()
		code, out, errs := oddtick(t, "covering-array", levels)
		require.Equal(t, 2, code, levels)
		require.Empty(t, out)
		require.NotEmpty(t, errs)
		require.Less(t, time.Since(began), 5*time.Second)
	}
}
