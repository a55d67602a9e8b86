package report_test

import (
	"encoding/json"
	"os"
	"testing"

	"oddtick/core/report"

	"github.com/stretchr/testify/require"
)

// TestOlderCausesAreReadAsTheyWereMeant: each of these was written by format 1, and is written so again as the older name needs it.
func TestOlderCausesAreReadAsTheyWereMeant(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("testdata/older_causes.json")
	require.NoError(t, err)
	var older []report.OlderCause
	require.NoError(t, json.Unmarshal(text, &older))
	require.Greater(t, len(older), 60)
	for _, o := range older {
		line, err := json.Marshal(o)
		require.NoError(t, err)
		var c report.Cause
		require.NoError(t, json.Unmarshal(line, &c))
		require.NotEmpty(t, c.Subject.Aspect, "%s", line)
		require.NotEmpty(t, c.Difference, "%s", line)
		require.Equal(t, o, c.Older(), "%+v", c)
		// and it is read as it is written now
		now, err := json.Marshal(c)
		require.NoError(t, err)
		var again report.Cause
		require.NoError(t, json.Unmarshal(now, &again))
		require.Equal(t, c, again)
	}
}
