package report_test

import (
	"encoding/json"
	"os"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/prose"
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

func TestAReasonIsReadAsItWasWritten(t *testing.T) {
	t.Parallel()
	reason := report.Reason{
		Cause:    report.Cause{Row: "name", Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "sheds", Column: "name"}, Difference: judge.CutShort},
		Headline: "Name of 21 characters stored cut to 20 characters",
		Sentence: &prose.Sentence{Code: "cut_short", Places: map[string]string{"n": "20"}, Input: &prose.Sentence{Code: "length", Places: map[string]string{"label": "Name", "n": "21", "unit": "characters"}}},
	}
	text, err := json.Marshal(reason)
	require.NoError(t, err)
	var back report.Reason
	require.NoError(t, json.Unmarshal(text, &back))
	require.Equal(t, reason, back)
}
