package csvfile_test

import (
	"errors"
	"io"
	"testing"

	"oddtick/formats/csvfile"

	"github.com/stretchr/testify/require"
)

func TestAnyUsualDelimiterIsRead(t *testing.T) {
	t.Parallel()
	for _, text := range []string{"a,b\n1,\"x;y\"\n", "\ufeffa;b\r\n1;\"x;y\"\r\n", "a\tb\n1\tx;y\n", "a|b\n1|x;y\n"} {
		f, err := csvfile.Open(text, "sheet")
		require.NoError(t, err, "%q", text)
		require.Equal(t, []string{"a", "b"}, f.Heads)
		row, line, err := f.Next()
		require.NoError(t, err)
		require.Equal(t, []string{"1", "x;y"}, row)
		require.Equal(t, 2, line)
		_, _, err = f.Next()
		require.ErrorIs(t, err, io.EOF)
	}
}

func TestWhatIsNoCSVIsToldWithItsLine(t *testing.T) {
	t.Parallel()
	_, err := csvfile.Open("", "list")
	require.EqualError(t, err, "line 1: the list is empty")
	_, err = csvfile.Open("a\xfc,b\n", "list")
	require.EqualError(t, err, "line 1: the text is not UTF-8; save the list as CSV UTF-8")
	f, err := csvfile.Open("a,b\n1,2\n3,\"4\" x\n", "list")
	require.NoError(t, err)
	_, _, err = f.Next()
	require.NoError(t, err)
	_, _, err = f.Next()
	var wrong *csvfile.Error
	require.True(t, errors.As(err, &wrong))
	require.Equal(t, 3, wrong.Line)
}

func TestNoCellIsAFormula(t *testing.T) {
	t.Parallel()
	for cell, want := range map[string]string{"=1+1": "'=1+1", "+1": "'+1", "-1": "'-1", "@x": "'@x", "\tx": "'\tx", "1=1": "1=1", "": ""} {
		require.Equal(t, want, csvfile.Harmless(cell))
	}
}
