package mail_test

import (
	"context"
	"net/smtp"
	"strings"
	"testing"
	"time"

	"oddtick/observe/mail"

	"github.com/stretchr/testify/require"
)

func TestMailsAreReceivedAndRead(t *testing.T) {
	t.Parallel()
	r, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	defer r.Close()
	go func() {
		text := "Subject: =?utf-8?q?Caf=C3=A9?=\r\nMIME-Version: 1.0\r\nContent-Type: multipart/alternative; boundary=b\r\n\r\n" +
			"--b\r\nContent-Type: text/plain; charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\nFollow http://s.test/confirm?code=3D7, please.\r\n" +
			"--b\r\nContent-Type: text/html\r\n\r\n<p>Follow <a href=\"http://s.test/confirm?code=7\">this</a><script>x()</script></p>\r\n--b--\r\n"
		_ = smtp.SendMail(r.Address(), nil, "plots@s.test", []string{"moss@bed.test", "fern@bed.test"}, []byte(text))
	}()
	ctx, stop := context.WithTimeout(context.Background(), 10*time.Second)
	defer stop()
	m, ok := r.Wait(ctx, 0, "Fern@bed.test")
	require.True(t, ok)
	require.Equal(t, "Café", m.Subject)
	require.Equal(t, "plots@s.test", m.From)
	require.Equal(t, []string{"http://s.test/confirm?code=7"}, m.Links, "each once, without what follows it")
	require.NotContains(t, m.Text, "x()")
	require.Equal(t, 2, r.Count())
	require.Len(t, r.Since(0, "moss@bed.test"), 1)
	require.Empty(t, r.Since(2, ""))
	soon, stop := context.WithTimeout(context.Background(), 20*time.Millisecond)
	defer stop()
	_, ok = r.Wait(soon, 2, "moss@bed.test")
	require.False(t, ok, "a mail that never comes is not waited for without end")
}

func TestMailsThatCannotBeRead(t *testing.T) {
	t.Parallel()
	require.NotEmpty(t, mail.Read(strings.NewReader("\x00\x01")).Failure)
	require.NotEmpty(t, mail.Read(strings.NewReader("Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\ncut of")).Failure)
	for address, says := range map[string]string{"nowhere": "is not host:port", "192.0.2.1:25": "is not on this machine"} {
		_, err := mail.Listen(address)
		require.ErrorContains(t, err, says)
	}
}
