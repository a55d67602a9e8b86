package browser_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"sync"
	"sync/atomic"
	"testing"

	"oddtick/observe/browser"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// TestAPageIsReadAfterItsScripts: a form that a script draws is read, and nothing outside the allowed hosts is asked for.
func TestAPageIsReadAfterItsScripts(t *testing.T) {
	t.Parallel()
	var asked atomic.Int32
	outside := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { asked.Add(1) }))
	defer outside.Close()
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Header.Get("X-Stage") != "yes" {
			w.WriteHeader(http.StatusForbidden)
			return
		}
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, `<div id=root></div><img src="%[1]s/pixel"><script>
			fetch("%[1]s/data").catch(() => {});
			setTimeout(() => { document.getElementById("root").innerHTML = '<form method=post action=/go><label>Tool <input name=tool required></label><button>Go</button></form>' }, 300)
		</script>`, outside.URL)
	}))
	defer site.Close()
	u, err := url.Parse(site.URL)
	require.NoError(t, err)
	text, err := browser.Drawn(context.Background(), browser.Options{Address: site.URL + "/form", Allowed: func(host string) bool { return host == u.Host }, Headers: map[string]string{"X-Stage": "yes"}}, browser.Before{})
	require.NoError(t, err)
	d, err := page.Describe(text, site.URL+"/form")
	require.NoError(t, err)
	require.Len(t, d.Forms, 1)
	require.Equal(t, "tool", d.Forms[0].Fields[0].Name)
	require.True(t, d.Forms[0].Fields[0].Required)
	require.Zero(t, asked.Load(), "the outside was contacted")
}

func TestWhatTheBrowserCannotReachIsSaid(t *testing.T) {
	t.Parallel()
	var asked atomic.Int32
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		fmt.Fprint(w, "<p>inside</p>")
	}))
	defer server.Close()
	text, err := browser.Drawn(context.Background(), browser.Options{Address: server.URL, Allowed: func(string) bool { return false }}, browser.Before{})
	if err == nil {
		require.Contains(t, text, "is not among the site's allowed addresses")
	}
	require.NotContains(t, text, "inside")
	require.Zero(t, asked.Load())
	ended, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = browser.Drawn(ended, browser.Options{Address: server.URL, Allowed: func(string) bool { return true }}, browser.Before{})
	require.Error(t, err)
}

// TestAPageThatNeverEndsIsCutOff: scripts that go on for ever are stopped by the page's own clock.
func TestAPageThatNeverEndsIsCutOff(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, `<form><input name=a></form><script>setInterval(() => { document.body.dataset.n = 1 + +(document.body.dataset.n ?? 0) }, 50)</script>`)
	}))
	defer server.Close()
	text, err := browser.Drawn(context.Background(), browser.Options{Address: server.URL, Allowed: func(string) bool { return true }, User: "u", Password: "p"}, browser.Before{})
	require.NoError(t, err)
	require.Contains(t, text, `name="a"`)
}

// TestAttackSecretsStayWithTheirHost: a page of another allowed host is drawn without the site's headers and authentication.
func TestAttackSecretsStayWithTheirHost(t *testing.T) {
	t.Parallel()
	var mu sync.Mutex
	got := map[string]http.Header{}
	serve := func(body string) *httptest.Server {
		s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			mu.Lock()
			got[r.URL.Path] = r.Header
			mu.Unlock()
			fmt.Fprint(w, body)
		}))
		t.Cleanup(s.Close)
		return s
	}
	far := serve("ok")
	own := serve("<!doctype html><script>fetch('" + far.URL + "/far', {mode: 'no-cors'}).finally(() => document.title = 'done')</script>")
	_, err := browser.Drawn(t.Context(), browser.Options{Address: own.URL + "/own", Allowed: func(string) bool { return true }, Headers: map[string]string{"X-Key": "k"}, User: "stage", Password: "door"}, browser.Before{})
	require.NoError(t, err)
	mu.Lock()
	defer mu.Unlock()
	require.Equal(t, "k", got["/own"].Get("X-Key"))
	require.NotEmpty(t, got["/own"].Get("Authorization"))
	require.Contains(t, got, "/far")
	require.Empty(t, got["/far"].Get("X-Key"))
	require.Empty(t, got["/far"].Get("Authorization"))
}
