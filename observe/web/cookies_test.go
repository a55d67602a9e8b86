package web_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/observe/web"

	"github.com/stretchr/testify/require"
)

// TestCookiesAreHeldAsTheyWereSet: whatever path they are for, and until they are taken back.
func TestCookiesAreHeldAsTheyWereSet(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/in":
			http.SetCookie(w, &http.Cookie{Name: "yard", Value: "y1", Path: "/yard", HttpOnly: true, SameSite: http.SameSiteStrictMode})
			http.SetCookie(w, &http.Cookie{Name: "theme", Value: "dark"})
			http.SetCookie(w, &http.Cookie{Name: "theme", Value: "light", Path: "/yard"})
		case "/yard/out":
			http.SetCookie(w, &http.Cookie{Name: "yard", Path: "/yard", MaxAge: -1})
		case "/yard/who":
			for _, c := range r.Cookies() {
				_, _ = w.Write([]byte(c.Name + "=" + c.Value + " "))
			}
		}
	}))
	defer server.Close()
	client, err := web.NewClient(web.Options{Address: server.URL, Timeout: time.Second})
	require.NoError(t, err)
	defer client.Close()
	v := client.NewVisitor()
	open := func(v *web.Visitor, path string) string {
		exchanges, err := v.Open(context.Background(), path)
		require.NoError(t, err)
		return exchanges[len(exchanges)-1].Body
	}
	open(v, "/in")
	names := func() (out []string) {
		for _, c := range v.Cookies() {
			out = append(out, c.Name+" "+c.Value+" "+c.Path)
		}
		return out
	}
	require.Equal(t, []string{"theme dark ", "theme light /yard", "yard y1 /yard"}, names())
	require.Empty(t, v.Refused())
	require.Len(t, v.CookieDigests(), 2, "by name")
	require.Equal(t, "y1", v.Cookie("yard"))
	require.Equal(t, http.SameSiteStrictMode, v.Cookies()[2].SameSite)
	other := client.NewVisitor()
	other.SetCookies(v.Cookies())
	require.Contains(t, open(other, "/yard/who"), "yard=y1")
	require.Contains(t, open(other, "/yard/who"), "theme=light")
	open(v, "/yard/out")
	require.Equal(t, []string{"theme dark ", "theme light /yard"}, names())
	require.NotContains(t, open(v, "/yard/who"), "yard=")
}

// TestARedirectLeadsWhereABrowserGoes, however its address is written.
func TestARedirectLeadsWhereABrowserGoes(t *testing.T) {
	t.Parallel()
	for location, to := range map[string]string{
		"/home": "/home", "home?a=b": "/home?a=b", `/\elsewhere.invalid/`: "http://elsewhere.invalid/", `\\elsewhere.invalid`: "http://elsewhere.invalid/",
		"https:elsewhere.invalid": "https://elsewhere.invalid/", "//elsewhere.invalid/x": "http://elsewhere.invalid/x",
	} {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.URL.Path == "/go" {
				w.Header()["Location"] = []string{location}
				w.WriteHeader(http.StatusSeeOther)
			}
		}))
		client, err := web.NewClient(web.Options{Address: server.URL, Timeout: time.Second})
		require.NoError(t, err)
		exchanges, err := client.NewVisitor().Open(context.Background(), "/go")
		require.NoError(t, err, location)
		if to[0] == '/' {
			to = server.URL + to
		} else {
			require.NotEmpty(t, exchanges[0].NotFollowed, location)
		}
		require.Equal(t, to, exchanges[0].Location, location)
		client.Close()
		server.Close()
	}
}

func TestASiteSaysHowLongToWait(t *testing.T) {
	t.Parallel()
	answer := func(value string) *observation.Exchange {
		return &observation.Exchange{ResponseHeader: []observation.Header{{Name: "Retry-After", Value: value}}}
	}
	require.Equal(t, 7*time.Second, web.RetryAfter(answer("7"), 0))
	require.Zero(t, web.RetryAfter(answer("Mon, 02 Jan 2006 15:04:05 GMT"), 3), "a date that is over")
	until := web.RetryAfter(answer(time.Now().Add(time.Minute).UTC().Format(http.TimeFormat)), 0)
	require.InDelta(t, time.Minute.Seconds(), until.Seconds(), 2)
	require.Equal(t, []time.Duration{time.Second, 4 * time.Second}, []time.Duration{web.RetryAfter(answer("soon"), 0), web.RetryAfter(&observation.Exchange{}, 2)}, "longer each time, where it does not say")
}
