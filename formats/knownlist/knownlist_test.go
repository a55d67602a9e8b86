package knownlist_test

import (
	"testing"
	"time"

	"oddtick/formats/knownlist"

	"github.com/stretchr/testify/require"
)

func TestAListIsReadAsItIsWritten(t *testing.T) {
	t.Parallel()
	l := &knownlist.List{Known: []knownlist.Finding{
		{Finding: "vf5ginfe", Until: "2027-01-31", Link: "https://tracker.example/7?a=1&b='2'", Why: "two lines,\n\"quoted\": yes # no comment"},
		{Finding: "22222222"},
	}}
	text, err := l.Text()
	require.NoError(t, err)
	back, err := knownlist.Read(text)
	require.NoError(t, err)
	require.Equal(t, l, back)
	require.False(t, back.Known[0].Over(time.Date(2027, 1, 31, 23, 0, 0, 0, time.UTC)))
	require.True(t, back.Known[0].Over(time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC)))
	require.False(t, back.Known[1].Over(time.Now()))
	for text, says := range map[string]string{
		"known: [{until: 2027-01-31}]":             "entry 1 under known: names no finding",
		"known: [{finding: a, until: soon}]":       `the finding a is known until "soon"; write the day like 2027-01-31`,
		"known: [{finding: a, until_when: never}]": `unknown field "until_when"`,
		"known: 3": "int was used where sequence is expected",
	} {
		_, err := knownlist.Read([]byte(text))
		require.ErrorContains(t, err, says)
	}
	empty, err := knownlist.Read(nil)
	require.NoError(t, err)
	require.Empty(t, empty.Known)
}
