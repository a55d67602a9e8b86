package learn

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestTheEdgeIsFound wherever it lies, and soon where it is a likely one.
func TestTheEdgeIsFound(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		limit := rapid.IntRange(-2000, 4095).Draw(t, "limit")
		good := rapid.IntRange(-3000, limit).Draw(t, "good")
		asked := 0
		got, err := edge(good, 4097, likelyNumbers, func(n int) (bool, error) {
			asked++
			return n <= limit, nil
		})
		require.NoError(t, err)
		require.Equal(t, limit, got)
		require.LessOrEqual(t, asked, 20)
	})
	for _, limit := range []int{3, 20, 72, 255, 1000} {
		asked := 0
		got, err := edge(2, 4097, likelyLengths, func(n int) (bool, error) {
			asked++
			return n <= limit, nil
		})
		require.NoError(t, err)
		require.Equal(t, limit, got)
		require.LessOrEqual(t, asked, 8, "limit %d", limit)
	}
	got, err := edge(5, -5000, likelyNumbers, func(n int) (bool, error) { return n >= 1, nil })
	require.NoError(t, err)
	require.Equal(t, 1, got)
	_, err = edge(1, 9, nil, func(int) (bool, error) { return false, errors.New("gone") })
	require.ErrorContains(t, err, "gone")
}
