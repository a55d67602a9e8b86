package array

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func repeat(groups ...[2]int) []int {
	var out []int
	for _, g := range groups {
		for range g[1] {
			out = append(out, g[0])
		}
	}
	return out
}

func TestSizes(t *testing.T) {
	for _, test := range []struct {
		name     string
		levels   []int
		strength int
		most     int
	}{
		{"3^4", repeat([2]int{3, 4}), 2, 9},
		{"3^13", repeat([2]int{3, 13}), 2, 18},
		{"2^100", repeat([2]int{2, 100}), 2, 12},
		{"10^20", repeat([2]int{10, 20}), 2, 210},
		{"4^15 3^17 2^29", repeat([2]int{4, 15}, [2]int{3, 17}, [2]int{2, 29}), 2, 36},
		{"4 3^39 2^35", repeat([2]int{4, 1}, [2]int{3, 39}, [2]int{2, 35}), 2, 27},
		{"2^10", repeat([2]int{2, 10}), 3, 14},
		{"4^6", repeat([2]int{4, 6}), 3, 110},
	} {
		t.Run(test.name, func(t *testing.T) {
			start := time.Now()
			a, err := Cover(Problem{Levels: test.levels, Strength: test.strength, Effort: Thorough})
			require.NoError(t, err)
			assert.LessOrEqual(t, len(a.Rows), test.most)
			assert.Empty(t, uncovered(test.levels, test.strength, a.Rows, nil))
			t.Logf("%s strength %d: %d rows (at least %d) in %v", test.name, test.strength, len(a.Rows), a.Least, time.Since(start).Round(time.Millisecond))
		})
	}
}

func TestRefusesWhatIsTooLarge(t *testing.T) {
	_, err := Cover(Problem{Levels: repeat([2]int{40, 60}), Strength: 4})
	var large *TooLargeError
	require.True(t, errors.As(err, &large))
	assert.ErrorContains(t, err, "1.25 million million combinations, at least 2.56 million rows")
}

func TestParseLevels(t *testing.T) {
	levels, err := ParseLevels("4·3^2, 2^3")
	require.NoError(t, err)
	assert.Equal(t, []int{4, 3, 3, 2, 2, 2}, levels)
	for _, bad := range []string{"", "x", "3^", "0^4", "3^-1", "2^99999999"} {
		_, err := ParseLevels(bad)
		assert.Error(t, err, bad)
	}
}
