package mail_test

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"oddtick/observe/mail"

	"github.com/stretchr/testify/require"
)

func put(t *testing.T, name, to string) {
	t.Helper()
	require.NoError(t, os.WriteFile(name, []byte("From: Plots <plots@s.test>\r\nTo: "+to+"\r\nSubject: Bed 7\r\n\r\nYours."), 0o600))
}

func TestMailsOfAFolder(t *testing.T) {
	t.Parallel()
	folder := t.TempDir()
	for _, part := range []string{"new", "cur"} {
		require.NoError(t, os.Mkdir(filepath.Join(folder, part), 0o700))
	}
	put(t, filepath.Join(folder, "new", "1.old"), "fern@s.test")
	r, err := mail.In(folder)
	require.NoError(t, err)
	again, err := mail.In(folder)
	require.NoError(t, err)
	require.Same(t, r, again, "a folder is looked at once")
	ctx, stop := context.WithTimeout(t.Context(), 10*time.Second)
	defer stop()
	put(t, filepath.Join(folder, "new", "2.one"), "Fern <fern@s.test>, moss@s.test")
	require.True(t, r.WaitFor(ctx, 0, "fern@s.test", 1))
	require.True(t, r.WaitFor(ctx, 0, "moss@s.test", 1))
	require.NoError(t, os.Rename(filepath.Join(folder, "new", "2.one"), filepath.Join(folder, "cur", "2.one:2,S")))
	put(t, filepath.Join(folder, "three.EML"), "moss@s.test")
	require.NoError(t, os.Symlink(filepath.Join(folder, "three.EML"), filepath.Join(folder, "new", "4.link")))
	require.True(t, r.WaitFor(ctx, 0, "moss@s.test", 2))
	require.NoError(t, again.Close())
	put(t, filepath.Join(folder, "five.eml"), "moss@s.test")
	require.True(t, r.WaitFor(ctx, 0, "moss@s.test", 3), "one user closing it takes it from no other")
	require.Equal(t, "Bed 7", r.Since(0, "fern@s.test")[0].Subject)
	require.Equal(t, "plots@s.test", r.Since(0, "")[0].From)
	require.Equal(t, 4, r.Count(), fmt.Sprint(r.Since(0, "")), "the old one, the one that was read and the link are no new mails")
	require.NoError(t, r.Close())
	_, err = mail.In(filepath.Join(folder, "none"))
	require.ErrorContains(t, err, "cannot be read")
}
