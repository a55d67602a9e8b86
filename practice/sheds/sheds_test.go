package sheds_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"oddtick/internal/localdb/dbtest"
	"oddtick/practice/sheds"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// visit is a site with some faults on, and a function that asks it.
func visit(t *testing.T, faults ...string) func(method, path, token, body string) (*http.Response, map[string]any) {
	site, err := sheds.Open(t.Context(), sheds.Config{DSN: dbtest.DSN(t), Faults: faults})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(true))
	t.Cleanup(server.Close)
	return func(method, path, token, body string) (*http.Response, map[string]any) {
		r, err := http.NewRequestWithContext(t.Context(), method, server.URL+path, strings.NewReader(body))
		require.NoError(t, err)
		if token != "" {
			r.Header.Set("Authorization", "Bearer "+token)
		}
		answer, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		var got map[string]any
		_ = json.Unmarshal(text, &got) // a page is none
		return answer, got
	}
}

func keyRequest(email string) string {
	day := time.Now().AddDate(0, 0, 5).Format(time.DateOnly)
	return `{"fullName":"Fern","email":"` + email + `","plot":"b04","keys":2,"collectOn":"` + day + `","reason":"","rules":true}`
}

// TestARequestForAKey: taken once for an address, whatever its capitals; what is wrong is said at its member.
func TestARequestForAKey(t *testing.T) {
	t.Parallel()
	ask := visit(t)
	answer, got := ask("POST", "/api/keys", "", keyRequest("fern@shed.test"))
	require.Equal(t, 201, answer.StatusCode)
	require.NotZero(t, got["id"])
	answer, got = ask("POST", "/api/keys", "", keyRequest("Fern@shed.test"))
	require.Equal(t, 422, answer.StatusCode)
	require.Equal(t, "application/problem+json", answer.Header.Get("Content-Type"))
	require.Equal(t, []any{map[string]any{"name": "email", "detail": "This address already has a key."}}, got["errors"])
	_, got = ask("GET", "/api/keys/free?email=FERN@shed.test", "", "")
	require.Equal(t, false, got["free"])
	answer, _ = ask("POST", "/api/keys", "", "[")
	require.Equal(t, 400, answer.StatusCode)
	answer, _ = ask("GET", "/api/keys", "", "")
	require.Equal(t, 405, answer.StatusCode)
	require.Equal(t, "POST", answer.Header.Get("Allow"))
}

// TestATokenOpensWhatIsGuarded, and another is had for the one that renews it, which opens nothing itself.
func TestATokenOpensWhatIsGuarded(t *testing.T) {
	t.Parallel()
	ask := visit(t)
	answer, _ := ask("GET", "/api/me", "", "")
	require.Equal(t, 401, answer.StatusCode)
	answer, _ = ask("POST", "/api/session", "", `{"email":"alder@shed.test","password":"alder-shed-31"}`)
	require.Equal(t, 401, answer.StatusCode)
	_, tokens := ask("POST", "/api/session", "", `{"email":"alder@shed.test","password":"Alder-shed-31"}`)
	access, refresh := tokens["access"].(string), tokens["refresh"].(string)
	answer, me := ask("GET", "/api/me", access, "")
	require.Equal(t, 200, answer.StatusCode)
	require.Equal(t, "Alder", me["shownName"])
	require.NotContains(t, me, "hash")
	answer, _ = ask("GET", "/api/me", refresh, "")
	require.Equal(t, 401, answer.StatusCode)
	_, again := ask("POST", "/api/session/refresh", "", `{"refresh":"`+refresh+`"}`)
	answer, _ = ask("GET", "/api/me", again["access"].(string), "")
	require.Equal(t, 200, answer.StatusCode)
	answer, _ = ask("POST", "/api/sheds", "", "")
	require.Equal(t, 401, answer.StatusCode)
	answer, _ = ask("POST", "/api/sheds", access, "")
	require.Equal(t, 415, answer.StatusCode)
}

// TestThePageIsServedAtItsOwnAddresses, and says which faults its scripts have.
func TestThePageIsServedAtItsOwnAddresses(t *testing.T) {
	t.Parallel()
	ask := visit(t, "keys-twice")
	for _, path := range []string{"/", "/keys", "/sheds/new"} {
		answer, _ := ask("GET", path, "", "")
		require.Equal(t, 200, answer.StatusCode)
	}
	answer, _ := ask("GET", "/api/nothing", "", "")
	require.Equal(t, 404, answer.StatusCode)
	answer, _ = ask("POST", "/keys", "", "")
	require.Equal(t, 405, answer.StatusCode)
	_, err := sheds.Open(t.Context(), sheds.Config{DSN: "root@tcp(127.0.0.1:1)/x", Faults: []string{"no-such"}})
	require.ErrorContains(t, err, `there is no fault "no-such"`)
}

// TestFaultsAreSwitchedWhileItRuns: the page's scripts have them when it is loaded again.
func TestFaultsAreSwitchedWhileItRuns(t *testing.T) {
	t.Parallel()
	site, err := sheds.Open(t.Context(), sheds.Config{DSN: dbtest.DSN(t)})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(true))
	t.Cleanup(server.Close)
	read := func(answer *http.Response, err error) string {
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return string(text)
	}
	require.NotContains(t, read(http.Get(server.URL+"/switches")), " checked")
	page := read(http.PostForm(server.URL+"/switches", url.Values{"fault": {"keys-twice", "build-name-case"}}))
	require.Equal(t, 2, strings.Count(page, " checked"))
	require.Contains(t, read(http.Get(server.URL+"/keys")), `data-switches="keys-twice build-name-case"`)
	hidden := httptest.NewServer(site.Handler(false))
	t.Cleanup(hidden.Close)
	require.NotContains(t, read(http.Get(hidden.URL+"/switches")), "checked")
}
