package wording_test

import (
	"regexp"
	"slices"
	"testing"

	"oddtick/core/wording/phrases"

	"github.com/stretchr/testify/require"
)

var placed = regexp.MustCompile(`\{[a-z_]+\}`)

// TestEveryPhraseIsTranslated: each language has a text for each phrase, and for nothing else, with the same places.
func TestEveryPhraseIsTranslated(t *testing.T) {
	t.Parallel()
	require.Equal(t, []string{"en", "de"}, phrases.Languages())
	for _, language := range phrases.Languages()[1:] {
		texts, err := phrases.Texts(language)
		require.NoError(t, err)
		known := map[string]bool{}
		for _, p := range phrases.All() {
			known[p.Code] = true
			text, translated := texts[p.Code]
			require.True(t, translated, "%s lacks %s: %s", language, p.Code, p.English)
			require.Equal(t, sorted(placed.FindAllString(p.English, -1)), sorted(placed.FindAllString(text, -1)), "%s: %s", language, p.Code)
		}
		for code := range texts {
			require.True(t, known[code], "%s has %s, which is no phrase", language, code)
		}
	}
	_, err := phrases.Texts("tlh")
	require.ErrorContains(t, err, `the language "tlh" is not known; write one of: en, de`)
}

func sorted(list []string) []string {
	slices.Sort(list)
	return slices.Compact(list)
}
