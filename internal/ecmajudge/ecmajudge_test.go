package ecmajudge_test

import (
	"strings"
	"testing"

	"oddtick/internal/ecmajudge"

	"github.com/stretchr/testify/require"
)

func TestAPatternThatBacktracksForTooLongIsNotJudged(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	ok, valid := j.Matches("(?:a|b)+", "u", []string{"ab", "ac"})
	require.True(t, valid)
	require.Equal(t, []bool{true, false}, ok)
	_, valid = j.Matches("(?:a+)+", "u", []string{strings.Repeat("a", 5000) + "b"})
	require.False(t, valid)
	require.True(t, j.Slow())
	ok, valid = j.Matches("a", "u", []string{"a"})
	require.True(t, valid)
	require.Equal(t, []bool{true}, ok)
	require.False(t, j.Slow())
}
