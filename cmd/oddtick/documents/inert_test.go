package documents

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestAttackByWhatATerminalObeys(t *testing.T) {
	t.Parallel()
	for _, pieces := range [][]string{{"a\x1b[31mb\x07\x7f\u009bc é ü\t\r\n"}, {"a\x1b", "[31mb\x07\x7f\xc2", "\x9bc \xc3", "\xa9 ü\t\r\n"}} {
		var out strings.Builder
		w := &Inert{W: &out}
		for _, text := range pieces {
			n, err := w.Write([]byte(text))
			require.NoError(t, err)
			require.Equal(t, len(text), n)
		}
		require.Equal(t, "a\uFFFD[31mb\uFFFD\uFFFD\uFFFDc é ü\t\r\n", out.String())
	}
}
