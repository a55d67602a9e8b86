package browser_test

import (
	"context"
	"encoding/pem"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"sync/atomic"
	"testing"

	"oddtick/observe/browser"

	"github.com/stretchr/testify/require"
)

const sendingPage = `<!doctype html><title>Ferry</title><form id=f><input name=a><button>Send</button><p role=alert id=said></p></form><script>
document.getElementById("f").addEventListener("submit", async (e) => {
  e.preventDefault()
  const say = (t) => { document.getElementById("said").textContent = t }
  try {
    const answer = await fetch("/send", { method: "POST", body: "a" })
    say(answer.ok ? "Sent." : "status " + answer.status)
  } catch { say("lost") }
})</script>`

// TestAnswersAreReplaced: what a page submits does not reach the site, and what it asks for otherwise does.
func TestAnswersAreReplaced(t *testing.T) {
	t.Parallel()
	var sent, read atomic.Int32
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			sent.Add(1)
			return
		}
		read.Add(1)
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, sendingPage)
	}))
	defer server.Close()
	b := startOn(t, server.URL)
	for _, c := range []struct {
		by, said string
		sent     int32
	}{{"network_lost", "lost", 0}, {"server_error", "status 500", 0}, {"unauthorized", "status 401", 0}, {"", "Sent.", 1}, {"slow", "Sent.", 3}} {
		v, err := b.NewVisitor(context.Background())
		require.NoError(t, err)
		_, err = v.Open(context.Background(), "/", formOf("a"))
		require.NoError(t, err)
		seen, err := v.Submit(context.Background(), server.URL+"/send", []browser.Entry{{Name: "a", Values: []string{"x"}}}, browser.How{Replaced: c.by}, never)
		require.NoError(t, err, c.by)
		require.Contains(t, seen.HTML, ">"+c.said+"<", c.by)
		require.Equal(t, c.sent, sent.Load(), "%s: what was replaced is not sent; a slow answer is waited for with the button pressed twice", c.by)
		require.False(t, seen.Drawn.Stuck)
		v.Close()
	}
	require.Positive(t, read.Load())
}

// TestCertificatesOfASitesOwnAuthorityAreTrusted, and no others.
func TestCertificatesOfASitesOwnAuthorityAreTrusted(t *testing.T) {
	t.Parallel()
	server := httptest.NewTLSServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, "<form><input name=a></form>")
	}))
	defer server.Close()
	u, err := url.Parse(server.URL)
	require.NoError(t, err)
	allowed := func(host string) bool { return host == u.Host }
	authority := string(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: server.Certificate().Raw}))
	for given, refused := range map[string]bool{"": true, authority: false} {
		b, err := browser.Start(browser.Options{Address: server.URL, Allowed: allowed, Authority: given})
		require.NoError(t, err)
		v, err := b.NewVisitor(context.Background())
		require.NoError(t, err)
		seen, err := v.Open(context.Background(), "/", formOf("a"))
		require.NoError(t, err)
		require.Equal(t, refused, seen.Failure != "", seen.Failure)
		if refused {
			require.Contains(t, seen.Failure, "ERR_CERT_AUTHORITY_INVALID")
		}
		v.Close()
		b.Close()
	}
}
