package values_test

import (
	"testing"

	"oddtick/core/values"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAQuotedTextMatchesItselfAlone(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.Rune(), 0, 8, -1).Draw(t, "text")
		other := rapid.StringOfN(rapid.Rune(), 0, 8, -1).Draw(t, "other")
		auto, err := values.Pattern(values.QuotePattern(text), values.DialectV)
		require.NoError(t, err)
		require.True(t, auto.Matches(text))
		require.Equal(t, other == text, auto.Matches(other))
	})
}

func TestLineEndsMatterWhereADotStands(t *testing.T) {
	for pattern, want := range map[string]bool{"[a-z]+": false, ".*": true, "a(?:b|.)c": true, `\.`: false, "(?=.*a)b": true, "[^]*": false, "(": false} {
		assert.Equal(t, want, values.LineEndsMatter(pattern, values.DialectV), pattern)
	}
}

func TestAMemberMayBeWhatIsNotPrintable(t *testing.T) {
	auto, err := values.Pattern(`[a-z]+\u{0}[a-z]+`, values.DialectV)
	require.NoError(t, err)
	v, ok := values.NewSet(auto).Member(values.Want{Length: -1})
	require.True(t, ok)
	require.True(t, auto.Matches(v), "%q", v)
	none, err := auto.And(values.Only(values.Runes{{Lo: 'a', Hi: 'z'}}))
	require.NoError(t, err)
	_, ok = values.NewSet(none).Member(values.Want{Length: -1})
	require.False(t, ok)
}

// A search without end is given up: the set has members only at lengths that cannot be reached in time, or none.
func TestASearchEnds(t *testing.T) {
	auto, err := values.Pattern("(?:(?:ab|ba|[^ab]{3}){7})*x", values.DialectV)
	require.NoError(t, err)
	set := values.NewSet(auto, values.Limit{Unit: values.Bytes, Min: 900, Max: 901}, values.Limit{Unit: values.Characters, Min: 10, Max: 12})
	_, ok := set.Member(values.Want{Length: -1})
	require.False(t, ok)
}
