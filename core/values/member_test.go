package values

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// TestSeedsGiveAllValuesAlike: of a pattern whose digits are told apart, as "OS-" and a number that begins with 0, seeds give one of its 999
// values as likely as another, though the hint fits nowhere.
func TestSeedsGiveAllValuesAlike(t *testing.T) {
	pattern, err := Pattern(`OS-0(?:[1-9][0-9]{2}|0[1-9][0-9]|00[1-9])`, DialectV)
	require.NoError(t, err)
	set := NewSet(pattern)
	seen := map[string]bool{}
	for seed := range 400 {
		v, ok := set.Member(Want{Length: -1, Seed: Seed(uint64(seed), "seen"), Hint: "bcdfgh", LeadingZeros: true})
		require.True(t, ok)
		seen[v] = true
	}
	require.Greater(t, len(seen), 280, "of 400 draws from 999 values some 330 are to differ")
}
