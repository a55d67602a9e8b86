package observation_test

import (
	"testing"

	"oddtick/core/observation"

	"github.com/stretchr/testify/require"
)

func TestCookieLinesLoseTheirValues(t *testing.T) {
	t.Parallel()
	for line, want := range map[string]string{
		"sid=abc; theme=dark":                                "sid=…; theme=…",
		"sid=abc; Path=/; HttpOnly; SameSite=Lax; Max-Age=9": "sid=…; Path=/; HttpOnly; SameSite=Lax; Max-Age=9",
		"sid=a=b; Expires=Wed, 25 Nov 2026 10:00:00 GMT":     "sid=…; Expires=Wed, 25 Nov 2026 10:00:00 GMT",
		"": "",
	} {
		require.Equal(t, want, observation.WithoutCookieValues(line))
	}
}

func TestWhatStandsIsHeldAgainstWhatWasTyped(t *testing.T) {
	t.Parallel()
	e := observation.Entered{Typed: "two\r\nlines"}
	e.Stand("two\nlines")
	require.False(t, e.Changed, "line ends may be written either way")
	e.Stand("two")
	require.True(t, e.Changed)
	e.Refuse(false, "it is not shown")
	require.Empty(t, e.Refused, "what is not wanted is not refused")
	e.Refuse(true, "it is not shown")
	require.Equal(t, "it is not shown", e.Refused)
}

// TestNewTextsAreThoseThatCame: a text that stood there before does not count, unless it stands there once more or was hidden.
func TestNewTextsAreThoseThatCame(t *testing.T) {
	t.Parallel()
	text := func(s string) observation.Text { return observation.Text{Text: s} }
	hidden := observation.Text{Text: "Name it.", Hidden: true}
	o := observation.Step{
		Before: &observation.Page{Texts: []observation.Text{text("Name"), hidden, text("Twice")}},
		After:  &observation.Page{Texts: []observation.Text{text("Name"), text("Name it."), text("Twice"), text("Twice"), hidden}},
	}
	require.Equal(t, []observation.Text{text("Name it."), text("Twice"), hidden}, o.NewTexts())
	o.Before = nil
	require.Len(t, o.NewTexts(), 5)
	o.After = nil
	require.Empty(t, o.NewTexts())
	require.Nil(t, o.First())
	require.Nil(t, o.Final())
	require.Nil(t, (*observation.Form)(nil).Control("a"))
	cell, ok := observation.CellOf([]observation.Cell{{Column: "a", Null: true}}, "a")
	require.True(t, ok && cell.Null)
}
