package values_test

import (
	"strconv"
	"testing"

	"oddtick/core/values"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The nearest floating-point number is that which reading the digits gives.
func TestFloatIsTheNearest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`-?[0-9]{1,22}(\.[0-9]{1,24})?`).Draw(t, "number")
		d, err := values.ParseDecimal(text)
		require.NoError(t, err)
		want, err := strconv.ParseFloat(text, 64)
		require.NoError(t, err)
		require.InDelta(t, want, d.Float(), 0, text)
	})
}
