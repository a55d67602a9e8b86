package values_test

import (
	"testing"
	"time"

	"oddtick/core/values"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTimesAreReadAsHTMLHasThem(t *testing.T) {
	t.Parallel()
	for _, good := range []string{"00:00", "23:59", "09:30:15", "09:30:15.5", "09:30:15.125"} {
		_, err := values.ParseTime(good)
		require.NoError(t, err, good)
	}
	for _, bad := range []string{"", "9:30", "24:00", "09:60", "09:30:60", "09:30 ", "0930", "09:30:15.1234"} {
		_, err := values.ParseTime(bad)
		require.ErrorContains(t, err, "write hours and minutes like 09:30", bad)
	}
	for _, good := range []string{"2026-02-28T09:30", "2024-02-29 00:00:01"} {
		_, err := values.ParseDateTime(good)
		require.NoError(t, err, good)
	}
	for _, bad := range []string{"2026-02-29T09:30", "2026-02-28", "09:30", "2026-02-28T9:30"} {
		_, err := values.ParseDateTime(bad)
		require.Error(t, err, bad)
	}
}

func TestMomentBounds(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 6, 15, 12, 30, 0, 0, time.UTC)
	for text, want := range map[string]string{"09:30": "0001-01-01 09:30", "2026-04-01T09:30": "2026-04-01 09:30", "now": "2026-06-15 12:30", "now - 2 hours": "2026-06-15 10:30", "now + 1 day - 30 minutes": "2026-06-16 12:00"} {
		b, err := values.ParseMomentBound(text)
		require.NoError(t, err, text)
		require.Equal(t, want, b.On(now).Format("2006-01-02 15:04"))
		require.Equal(t, text[:3] == "now", b.Relative())
	}
	for _, bad := range []string{"", "soon", "now - two hours", "now -", "now * 2 hours", "now - 2 fortnights"} {
		_, err := values.ParseMomentBound(bad)
		require.Error(t, err, bad)
	}
}

func TestADayAndATimeComeBackAsTheyWere(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		at := time.Unix(rapid.Int64Range(-1<<33, 1<<34).Draw(t, "at"), 0).UTC()
		text := at.Format("2006-01-02T15:04:05")
		back, err := values.ParseDateTime(text)
		require.NoError(t, err)
		require.True(t, at.Equal(back), text)
	})
}
