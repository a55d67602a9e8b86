package judge_test

import (
	"encoding/json"
	"os"
	"testing"

	"oddtick/core/judge"

	"github.com/stretchr/testify/require"
)

// TestOlderCausesAreReadAsTheyWereMeant: each of these was written by format 1, and is written so again as the older name needs it.
func TestOlderCausesAreReadAsTheyWereMeant(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("testdata/older_causes.json")
	require.NoError(t, err)
	var older []judge.OlderCause
	require.NoError(t, json.Unmarshal(text, &older))
	require.Greater(t, len(older), 60)
	for _, o := range older {
		line, err := json.Marshal(o)
		require.NoError(t, err)
		var c judge.Cause
		require.NoError(t, json.Unmarshal(line, &c))
		require.NotEmpty(t, c.Subject.Aspect, "%s", line)
		require.NotEmpty(t, c.Difference, "%s", line)
		require.Equal(t, o, c.Older(), "%+v", c)
		// and it is read as it is written now
		now, err := json.Marshal(c)
		require.NoError(t, err)
		var again judge.Cause
		require.NoError(t, json.Unmarshal(now, &again))
		require.Equal(t, c, again)
	}
}

// TestAnOlderResultIsRead with its parts as data, and the words in which it was written.
func TestAnOlderResultIsRead(t *testing.T) {
	t.Parallel()
	var c judge.Check
	require.NoError(t, json.Unmarshal([]byte(`{"check": "Messages", "verdict": "odd", "parts": [
		{"name": "message born.range: place", "verdict": "odd", "kind": "at another place", "expected": "at Date of birth", "observed": "at the control plots"},
		{"name": "no other message", "verdict": "does not apply", "why": "the site failed"}]}`), &c))
	require.Equal(t, judge.Messages, c.Check)
	require.Equal(t, judge.Subject{Aspect: judge.MessagePlace, Rule: "born.range", Field: "born"}, c.Parts[0].Subject)
	require.Equal(t, judge.OtherPlace, c.Parts[0].Difference)
	require.EqualValues(t, "at the control plots", c.Parts[0].Words.Observed)
	require.Equal(t, judge.Value{Is: judge.Because, Text: "the site failed"}, c.Parts[1].Why)
	require.Error(t, json.Unmarshal([]byte(`{"check": "Messages", "parts": [{"name": 3}]}`), &c))
}

// TestTheSetsAreClosed: each constant is in its set once.
func TestTheSetsAreClosed(t *testing.T) {
	t.Parallel()
	for name, values := range map[string][]string{"Aspect": judge.Aspect("").Values(), "Difference": judge.Difference("").Values(), "Term": judge.Term("").Values(), "CheckName": judge.CheckName("").Values()} {
		require.ElementsMatch(t, constants(t, name), values, name)
	}
}
