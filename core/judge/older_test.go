package judge_test

import (
	"encoding/json"
	"testing"

	"oddtick/core/judge"

	"github.com/stretchr/testify/require"
)

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
