package server_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/server/api"
	"oddtick/server/gate"

	"github.com/stretchr/testify/require"
)

// ask sends a request with headers of its own; Host too.
func (c *client) ask(method, path, body string, header map[string]string) *http.Response {
	req, err := http.NewRequest(method, c.address+path, strings.NewReader(body))
	require.NoError(c.t, err)
	if body != "" {
		req.Header.Set("Content-Type", "application/json")
	}
	if c.token != "" {
		req.Header.Set("X-Oddtick-Token", c.token)
	}
	for name, value := range header {
		req.Header.Set(name, value)
	}
	if host := header["Host"]; host != "" {
		req.Host = host
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	c.t.Cleanup(func() { res.Body.Close() })
	return res
}

func (c *client) other() *client {
	jar, _ := cookiejar.New(nil)
	return &client{t: c.t, http: &http.Client{Jar: jar}, address: c.address, server: c.server, store: c.store}
}

const signIn = `{"name": "tester", "password": "right"}`

func TestAttackUnderAnotherName(t *testing.T) {
	t.Parallel()
	public, _ := url.Parse("https://oddtick.example")
	c := startWith(t, api.Options{Gate: gate.Options{Public: public}})
	for host, want := range map[string]int{"": 200, "localhost:4640": 200, "[::1]:4640": 200, "oddtick.example": 200, "evil.example": 421, "127.0.0.1.evil.example": 421, "oddtick.example.evil.example": 421, "localhost.evil.example:80": 421} {
		require.Equal(t, want, c.ask("POST", "/api/session", signIn, map[string]string{"Host": host}).StatusCode, host)
		require.Equal(t, want, c.ask("GET", "/", "", map[string]string{"Host": host}).StatusCode, host)
	}
}

func TestAttackFromAnotherPage(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, header := range []map[string]string{{"Origin": "http://evil.example"}, {"Origin": "null"}, {"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"}, {"Origin": strings.Replace(c.address, "http:", "https:", 1)}} {
		require.Equal(t, 403, c.ask("POST", "/api/session", signIn, header).StatusCode, header)
	}
	require.Equal(t, 415, c.ask("POST", "/api/session", signIn, map[string]string{"Content-Type": "text/plain"}).StatusCode)
	require.Equal(t, 415, c.ask("POST", "/api/session", "name=tester&password=right", map[string]string{"Content-Type": "application/x-www-form-urlencoded"}).StatusCode)
	require.Equal(t, 200, c.ask("POST", "/api/session", signIn, map[string]string{"Origin": c.address, "Sec-Fetch-Site": "same-origin"}).StatusCode)
}

func TestAttackTheCookie(t *testing.T) {
	t.Parallel()
	c := startWith(t, api.Options{Gate: gate.Options{Proxies: []string{"127.0.0.0/8", "::1"}}})
	c.http.Jar.SetCookies(&url.URL{Scheme: "http", Host: strings.TrimPrefix(c.address, "http://")}, []*http.Cookie{{Name: "oddtick", Value: "chosen-by-somebody"}})
	res := c.ask("POST", "/api/session", signIn, nil)
	plain := res.Cookies()[0]
	require.Equal(t, "oddtick", plain.Name)
	require.NotEqual(t, "chosen-by-somebody", plain.Value)
	require.False(t, plain.Secure)
	require.Empty(t, res.Header.Get("Strict-Transport-Security"))

	behind := map[string]string{"X-Forwarded-Proto": "https", "Origin": strings.Replace(c.address, "http:", "https:", 1)}
	res = c.other().ask("POST", "/api/session", signIn, behind)
	cookie := res.Cookies()[0]
	require.Equal(t, "__Host-oddtick", cookie.Name)
	require.True(t, cookie.Secure && cookie.HttpOnly && cookie.SameSite == http.SameSiteStrictMode && cookie.Path == "/" && cookie.Domain == "")
	require.NotEmpty(t, res.Header.Get("Strict-Transport-Security"))
	asks := c.other()
	require.Equal(t, 200, asks.ask("GET", "/api/session", "", map[string]string{"X-Forwarded-Proto": "https", "Cookie": "__Host-oddtick=" + cookie.Value}).StatusCode)
	require.Equal(t, 401, asks.ask("GET", "/api/session", "", map[string]string{"X-Forwarded-Proto": "https", "Cookie": "oddtick=" + plain.Value}).StatusCode, "a cookie that any neighbour could have set")

	far := start(t) // no proxy is trusted
	require.Equal(t, "oddtick", far.ask("POST", "/api/session", signIn, map[string]string{"X-Forwarded-Proto": "https"}).Cookies()[0].Name)
	for _, wrong := range []string{"proxy.example", "10.0.0.0/99"} {
		_, err := api.New(far.store, front, api.Options{Gate: gate.Options{Proxies: []string{wrong}}})
		require.ErrorContains(t, err, wrong)
	}
}

func TestAttackHeadersOfEveryAnswer(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, path := range []string{"/", "/api/sites", "/api/none", "/assets/a.js"} {
		h := c.ask("GET", path, "", nil).Header
		for name, want := range map[string]string{"Content-Security-Policy": "default-src 'self'", "X-Content-Type-Options": "nosniff", "Cross-Origin-Opener-Policy": "same-origin", "Permissions-Policy": "camera=()", "Referrer-Policy": "same-origin"} {
			require.Contains(t, h.Get(name), want, path)
		}
	}
}

func TestAttackWithoutASession(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, try := range [][2]string{
		{"GET", "/api/sites"},
		{"GET", joinPath + "/cases?depth=deep"},
		{"GET", joinPath + "/runs/1/events"},
		{"GET", joinPath + "/runs/x"},
		{"GET", "/api/none"},
		{"PUT", "/api/sites/ost/settings"},
		{"POST", "/api/sites"},
		{"PATCH", "/api/sites"},
		{"OPTIONS", "/api/sites"},
		{"TRACE", "/api/sites"},
		{"DELETE", "/api/session"},
		{"PUT", "/api/session/password"},
		{"GET", "/api/sites/x'%20or%201=1--/settings"},
		{"GET", "/api/sites/ost%00/settings"},
		{"GET", "/api/openapi.json"},
	} {
		body := ""
		if try[0] == "PUT" || try[0] == "POST" {
			body = `{"not": "looked at"`
		}
		res := c.ask(try[0], try[1], body, nil)
		require.Equal(t, 401, res.StatusCode, try)
		text, _ := io.ReadAll(res.Body)
		require.JSONEq(t, `{"title": "Unauthorized", "status": 401, "detail": "Sign in first."}`, string(text), try)
	}
	for _, path := range []string{"/api/../../../../etc/passwd", "/..%2f..%2fetc/passwd", "/assets/..%2f..%2f..%2fetc%2fpasswd", "//evil.example/", "/%2e%2e/%2e%2e/etc/passwd", "/.git/config"} {
		res := c.ask("GET", path, "", nil)
		text, _ := io.ReadAll(res.Body)
		require.NotContains(t, string(text), "root:", path)
		require.Less(t, res.StatusCode, 500)
	}
	require.Equal(t, 413, c.ask("POST", "/api/session", `{"name": "`+strings.Repeat("x", 2<<20)+`"}`, nil).StatusCode)
	for _, odd := range []string{`{"name": {"$ne": 1}, "password": "right"}`, `{"name": "tester", "password": "` + strings.Repeat("x", 201) + `"}`} {
		require.Equal(t, 422, c.ask("POST", "/api/session", odd, nil).StatusCode)
	}
	require.Equal(t, 401, c.ask("POST", "/api/session", `{"name": "tester' or '1'='1", "password": "right"}`, nil).StatusCode)
}

func TestAttackByGuessing(t *testing.T) {
	t.Parallel()
	c := startWith(t, api.Options{Gate: gate.Options{Proxies: []string{"127.0.0.1"}}})
	wrong := `{"name": "tester", "password": "wrong"}`
	from := func(address, body string) *http.Response {
		return c.ask("POST", "/api/session", body, map[string]string{"X-Forwarded-For": address})
	}
	// held tries until it is held up, which must come after so many attempts, and a further one for each time that has passed meanwhile.
	held := func(after int, every time.Duration, try func(i int) *http.Response) *http.Response {
		begun := time.Now()
		for i := 0; ; i++ {
			res := try(i)
			if res.StatusCode == 429 {
				require.GreaterOrEqual(t, i, after)
				return res
			}
			require.Equal(t, 401, res.StatusCode)
			require.LessOrEqual(t, i, after+1+int(time.Since(begun)/every), "it goes on and on")
		}
	}
	res := held(5, 10*time.Second, func(int) *http.Response { return from("192.0.2.1", wrong) })
	require.Regexp(t, `^\d+$`, res.Header.Get("Retry-After"))
	require.Equal(t, 429, from("192.0.2.1", signIn).StatusCode, "the right password too, or guessing goes on")
	require.Equal(t, 429, from("192.0.2.1", strings.Replace(wrong, "tester", "TESTER", 1)).StatusCode, "in other capitals it is the same name")
	require.Equal(t, 200, from("192.0.2.2", signIn).StatusCode, "from elsewhere they can still sign in")
	held(15, 5*time.Second, func(i int) *http.Response { return from(fmt.Sprintf("198.51.100.%d", i), wrong) }) // of the 20 that a name has, five are used up
	held(20, 3*time.Second, func(i int) *http.Response {
		return from("203.0.113.1", fmt.Sprintf(`{"name": "user%d", "password": "x"}`, i))
	})
}

func TestSignInsAtOnceAreAllTaken(t *testing.T) {
	t.Parallel()
	c := start(t)
	var wait sync.WaitGroup
	for range 24 {
		wait.Go(func() {
			res, err := http.Post(c.address+"/api/session", "application/json", strings.NewReader(signIn))
			if err == nil {
				res.Body.Close()
			}
			if err != nil || res.StatusCode != 200 {
				t.Errorf("%v %v", err, res)
			}
		})
	}
	wait.Wait()
}

func TestAPasswordIsChanged(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	elsewhere := c.other()
	elsewhere.signIn()
	stream := elsewhere.stream(c.run(map[string]any{"depth": "standard", "max_per_minute": 300}))
	put := func(present, fresh string) (int, string) {
		status, _, body := c.send(http.MethodPut, "/api/session/password", map[string]string{"present": present, "new": fresh})
		var problem struct{ Detail, Token string }
		require.NoError(t, json.Unmarshal(body, &problem))
		if problem.Token != "" {
			c.token = problem.Token
		}
		return status, problem.Detail
	}
	for _, wrong := range [][3]string{{"left", "heron lantern moss", "not your current password"}, {"right", "password1234", "easy to guess"}, {"right", "short", "5 characters"}, {"right", "right", "same as the current one"}} {
		status, says := put(wrong[0], wrong[1])
		require.Equal(t, 422, status)
		require.Contains(t, says, wrong[2])
	}
	require.Equal(t, 200, elsewhere.get("/api/session", nil))
	status, _ := put("right", "heron lantern moss")
	require.Equal(t, 200, status)
	require.Equal(t, 200, c.get("/api/session", nil), "this session goes on")
	status, _ = put("heron lantern moss", "kettle wren bridge")
	require.Equal(t, 200, status, "with the token of the new session")
	require.Equal(t, 401, elsewhere.get("/api/session", nil), "all others have ended")
	require.Equal(t, 401, c.ask("POST", "/api/session", signIn, nil).StatusCode)
	followed, err := io.ReadAll(stream)
	require.NoError(t, err)
	require.NotContains(t, string(followed), "event: end", "the stream ends with its session, not with the run")
}

// stream follows a run, and returns when the first news has come.
func (c *client) stream(run int) io.Reader {
	res := c.ask("GET", fmt.Sprintf("%s/runs/%d/events", joinPath, run), "", nil)
	require.Equal(c.t, 200, res.StatusCode)
	lines := bufio.NewReader(res.Body)
	_, err := lines.ReadString('\n')
	require.NoError(c.t, err)
	return lines
}

func TestASessionEndsWhenItIsNotUsed(t *testing.T) {
	t.Parallel()
	c := startWith(t, api.Options{Gate: gate.Options{Idle: time.Hour, Lifetime: 2 * time.Hour}})
	c.signIn()
	left := func() (d time.Duration) {
		var at time.Time
		require.NoError(t, c.store.DB().QueryRow("SELECT expiry FROM sessions").Scan(&at))
		return time.Until(at)
	}
	require.InDelta(t, 60, left().Minutes(), 2)
	_, err := c.store.DB().Exec("UPDATE sessions SET expiry = UTC_TIMESTAMP() + INTERVAL 1 MINUTE")
	require.NoError(t, err)
	require.Equal(t, 200, c.get("/api/sites", nil))
	require.InDelta(t, 60, left().Minutes(), 2, "a session that is used goes on")
	_, err = c.store.DB().Exec("UPDATE sessions SET expiry = UTC_TIMESTAMP() - INTERVAL 1 SECOND")
	require.NoError(t, err)
	require.Equal(t, 401, c.get("/api/sites", nil))
}

func TestTheFirstUserComesByALink(t *testing.T) {
	t.Parallel()
	c := start(t)
	link, err := c.store.Invite(t.Context(), time.Now().Add(time.Hour))
	require.NoError(t, err)
	post := func(path string, body map[string]string) (int, string) {
		status, _, text := c.other().send(http.MethodPost, path, body)
		return status, string(text)
	}
	status, _ := post("/api/first-user/link", map[string]string{"link": link})
	require.Equal(t, 204, status)
	status, _ = post("/api/first-user/link", map[string]string{"link": "another"})
	require.Equal(t, 404, status)
	for _, wrong := range [][2]string{{"", "heron lantern moss"}, {strings.Repeat("n", 61), "heron lantern moss"}, {"a\u0007b", "heron lantern moss"}, {"keeper", "brook"}, {"tester", "heron lantern moss"}} {
		status, says := post("/api/first-user", map[string]string{"link": link, "name": wrong[0], "password": wrong[1]})
		require.Equal(t, 422, status, says)
	}
	status, says := post("/api/first-user", map[string]string{"link": link, "name": " keeper ", "password": "heron lantern moss"})
	require.Equal(t, 200, status, says)
	status, _ = post("/api/first-user", map[string]string{"link": link, "name": "second", "password": "heron lantern moss"})
	require.Equal(t, 404, status, "it works once")
	_, err = c.store.Authenticate(t.Context(), "keeper", "heron lantern moss")
	require.NoError(t, err)
}

func TestAUserSeesTheirSessionsAndEndsOne(t *testing.T) {
	t.Parallel()
	c := start(t)
	require.NoError(t, c.store.AddUser(t.Context(), "somebody_else", "right"))
	c.signIn()
	second, third, stranger := c.other(), c.other(), c.other()
	second.signIn()
	third.signIn()
	status, _, body := stranger.send("POST", "/api/session", map[string]string{"name": "somebody_else", "password": "right"})
	require.Equal(t, 200, status, string(body))
	var is struct{ Token string }
	require.NoError(t, json.Unmarshal(body, &is))
	stranger.token = is.Token
	sessions := func(c *client) []openSession {
		var out []openSession
		require.Equal(t, 200, c.get("/api/sessions", &out))
		return out
	}
	all := sessions(c)
	require.Len(t, all, 3, "and nobody else's")
	require.Len(t, sessions(stranger), 1)
	for _, one := range all {
		require.WithinDuration(t, time.Now(), one.Begun, time.Minute)
		require.Equal(t, "127.0.0.1", one.Address)
		require.Contains(t, one.Agent, "Go-http-client")
	}
	here := func(of []openSession) int {
		return slices.IndexFunc(of, func(o openSession) bool { return o.Here })
	}
	own, others := all[here(all)], sessions(second)
	end := func(by *client, id, password string) int {
		status, _, _ := by.send("POST", "/api/sessions/"+id+"/end", map[string]string{"present": password})
		return status
	}
	ended := others[here(others)].ID
	require.Equal(t, 422, end(c, ended, "wrong"))
	require.Equal(t, 404, end(c, own.ID, "right"), "one's own is left by signing out")
	require.Equal(t, 404, end(stranger, ended, "right"), "nobody ends another's")
	require.Equal(t, 200, second.get("/api/sites", nil))
	require.Equal(t, 204, end(c, ended, "right"))
	require.Equal(t, 401, second.get("/api/sites", nil))
	require.Equal(t, 200, third.get("/api/sites", nil))
	require.Len(t, sessions(c), 2)
}

type openSession struct {
	ID, Address, Agent string
	Begun              time.Time
	Here               bool
}

func TestOtherSessionsAreEnded(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	elsewhere := c.other()
	elsewhere.signIn()
	status, _, body := c.send("POST", "/api/sessions/end-others", map[string]string{"present": "wrong"})
	require.Equal(t, 422, status)
	require.Contains(t, string(body), "not your current password")
	require.Equal(t, 200, elsewhere.get("/api/sites", nil))
	status, _, body = c.send("POST", "/api/sessions/end-others", map[string]string{"present": "right"})
	require.Equal(t, 200, status, string(body))
	require.Equal(t, 401, elsewhere.get("/api/sites", nil))
	require.Equal(t, 200, c.get("/api/sites", nil), "one's own goes on")
}
