package observation

import (
	"strings"
	"testing"
	"testing/quick"

	"github.com/stretchr/testify/require"
)

func TestSquashIsFieldsJoined(t *testing.T) {
	for _, s := range []string{"", " ", "a", " a", "a ", "a b", "a  b", "a\tb", "a\n", "a\u00a0b", "é  è", "\u2003a"} {
		require.Equal(t, strings.Join(strings.Fields(s), " "), Squash(s), "%q", s)
	}
	letters := []rune("ab  \t\u00a0é")
	require.NoError(t, quick.Check(func(picks []byte) bool {
		var b strings.Builder
		for _, p := range picks {
			b.WriteRune(letters[int(p)%len(letters)])
		}
		return Squash(b.String()) == strings.Join(strings.Fields(b.String()), " ")
	}, nil))
}
