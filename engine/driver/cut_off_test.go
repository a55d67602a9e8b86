package driver_test

import (
	"bufio"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/engine/driver"
	"oddtick/observe/page"
	"oddtick/observe/web"

	"github.com/stretchr/testify/require"
)

// TestWhatIsCutOffIsSentAgain: a server that refuses a request by its length and reads no more of it may cut its own answer off.
func TestWhatIsCutOffIsSentAgain(t *testing.T) {
	t.Parallel()
	for name, cutOff := range map[string]int{"heard at the third time": 2, "never heard": 1000} {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		t.Cleanup(func() { l.Close() })
		go func() {
			for n := 0; ; n++ {
				c, err := l.Accept()
				if err != nil {
					return
				}
				request, err := http.ReadRequest(bufio.NewReader(c))
				if err == nil && n >= cutOff {
					_, _ = io.Copy(io.Discard, request.Body)
					_, _ = io.WriteString(c, "HTTP/1.1 413 Too Large\r\nContent-Type: text/html\r\nContent-Length: 9\r\nConnection: close\r\n\r\nToo large")
				}
				if n < cutOff {
					_ = c.(*net.TCPConn).SetLinger(0) // which resets the connection
				}
				c.Close()
			}
		}()
		form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /f\nfields: [{name: a}]\nrequests: {too_large: {over: 3000000, status: 413}}\n"))
		require.NoError(t, err)
		prepared, err := form.Prepare()
		require.NoError(t, err)
		client, err := web.NewClient(web.Options{Address: "http://" + l.Addr().String()})
		require.NoError(t, err)
		t.Cleanup(client.Close)
		v := &driver.OverHTTP{Visitor: client.NewVisitor(), Form: prepared, Names: []string{"a"}, Base: "http://" + l.Addr().String(), Pages: &page.Again{}}
		got, err := v.Submit(t.Context(), &observation.Form{Method: "POST", Action: v.Base + "/f", Encoding: "urlencoded"}, &submission.Submission{Forged: submission.TooLarge, Pairs: []submission.Pair{{Name: "a", Value: "x"}}}, false, nil)
		require.NoError(t, err)
		if strings.HasPrefix(name, "never") {
			require.NotEmpty(t, got.Failure)
			continue
		}
		require.Empty(t, got.Failure, name)
		require.Equal(t, 413, got.Exchanges[0].Status)
	}
}
