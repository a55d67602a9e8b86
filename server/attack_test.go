package server_test

import (
	"bufio"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// TestAttackAddressesThatLeadOut: whatever an address says, nothing but the front end and the API is served.
func TestAttackAddressesThatLeadOut(t *testing.T) {
	t.Parallel()
	c := start(t)
	u, err := url.Parse(c.address)
	require.NoError(t, err)
	for _, path := range []string{
		"/../../etc/passwd", "/api/../../etc/passwd", "/..%2f..%2f..%2fetc/passwd", "/assets/..%2f..%2f..%2fetc%2fpasswd", "/assets/../../etc/passwd", "//evil.example/", "/%2e%2e/%2e%2e/etc/passwd",
		"/api//session", "/.git/config", "/assets/", "/assets/%00", `/assets/..\..\etc\passwd`,
	} {
		conn, err := net.DialTimeout("tcp", u.Host, 5*time.Second)
		require.NoError(t, err)
		_, err = fmt.Fprintf(conn, "GET %s HTTP/1.1\r\nHost: %s\r\nConnection: close\r\n\r\n", path, u.Host)
		require.NoError(t, err)
		res, err := http.ReadResponse(bufio.NewReader(conn), nil)
		require.NoError(t, err, path)
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err, path)
		conn.Close()
		require.NotContains(t, string(body), "root:", path)
		require.NotContains(t, string(body), "[core]", path)
		require.Empty(t, res.Header.Get("Location"), path)
		if res.StatusCode == http.StatusOK {
			require.Contains(t, string(body), "front end", path)
		}
	}
}

func TestAttackNamesThatAreSQL(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, name := range []string{"' OR 1=1 -- ", "tester' -- ", `tester\`, "tester\x00", "%", "tester%"} {
		status, _, body := c.send("POST", "/api/session", map[string]string{"name": name, "password": "right"})
		require.Contains(t, []int{401, 422}, status, string(body))
	}
	c.signIn()
	for _, path := range []string{"/api/sites/x'%20or%201=1--/settings", "/api/sites/ost%00/settings", "/api/sites/ost'--/forms/join", "/api/sites/ost/forms/join'%20or%20'1'='1", "/api/sites/%25/settings", joinPath + "/runs/0/report/..%2f..%2fetc", joinPath + "/case?id=%27%20or%201=1--"} {
		require.Equal(t, 404, c.get(path, nil), path)
	}
	require.Equal(t, 200, c.get("/api/sites", nil))
}

func TestAttackBodiesWithoutEnd(t *testing.T) {
	t.Parallel()
	c := start(t)
	status, _, _ := c.send("POST", "/api/session", map[string]string{"name": "tester", "password": strings.Repeat("x", 2<<20)})
	require.Equal(t, 413, status)
	status, _, _ = c.send("POST", "/api/session", map[string]string{"name": "tester", "password": strings.Repeat("x", 100_000)})
	require.Equal(t, 422, status)
	nested := strings.Repeat(`{"a":`, 20_000) + "1" + strings.Repeat("}", 20_000)
	require.Contains(t, []int{400, 422}, c.ask("POST", "/api/session", nested, nil).StatusCode)
	require.Equal(t, 422, c.ask("POST", "/api/session", `{"name": {"$gt": ""}, "password": "x"}`, nil).StatusCode)
}

// TestAttackABodyThatComesSlowly: a byte now and then keeps no connection.
func TestAttackABodyThatComesSlowly(t *testing.T) {
	t.Parallel()
	c := start(t)
	conn, err := net.Dial("tcp", strings.TrimPrefix(c.address, "http://"))
	require.NoError(t, err)
	defer conn.Close()
	began := time.Now()
	fmt.Fprintf(conn, "POST /api/session HTTP/1.1\r\nHost: %s\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{", strings.TrimPrefix(c.address, "http://"))
	go func() {
		for range 100 {
			if _, err := conn.Write([]byte(" ")); err != nil {
				return
			}
			time.Sleep(200 * time.Millisecond)
		}
	}()
	require.NoError(t, conn.SetReadDeadline(began.Add(30*time.Second)))
	_, err = io.Copy(io.Discard, conn)
	require.NotErrorIs(t, err, os.ErrDeadlineExceeded)
	require.Less(t, time.Since(began), 13*time.Second)
}

// TestAttackASessionOfBefore: who signs in gets another session than whatever the browser had, and the one before is of no use.
func TestAttackASessionOfBefore(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	base, _ := url.Parse(c.address)
	before := c.http.Jar.Cookies(base)
	c.signIn()
	require.NotEqual(t, before, c.http.Jar.Cookies(base))
	require.Equal(t, 200, c.get("/api/session", nil))
	c.http.Jar.SetCookies(base, before)
	require.Equal(t, 401, c.get("/api/session", nil))
}

func TestAttackStylesOfSomebodyElse(t *testing.T) {
	t.Parallel()
	c := start(t)
	nonce := regexp.MustCompile(`style-src 'self' 'nonce-([A-Z2-7]{20,})'$`)
	seen := map[string]bool{}
	for range 3 {
		res := c.ask("GET", "/sites", "", nil)
		found := nonce.FindStringSubmatch(res.Header.Get("Content-Security-Policy"))
		require.NotNil(t, found, res.Header.Get("Content-Security-Policy"))
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.Contains(t, string(body), found[1], "the page knows the word")
		seen[found[1]] = true
	}
	require.Len(t, seen, 3, "each page has another")
}

// TestAttackAFailureInside: whoever meets it gets a reference, and nothing of what is inside.
func TestAttackAFailureInside(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	_, err := c.store.DB().Exec("RENAME TABLE case_edits TO case_edits_away")
	require.NoError(t, err)
	status, _, body := c.send("GET", joinPath+"/cases", nil)
	require.Equal(t, 500, status)
	require.Regexp(t, `under the reference [A-Z2-7]{10}\.`, string(body))
	for _, inside := range []string{"case_edits", "Error 1146", "SELECT", ".go"} {
		require.NotContains(t, string(body), inside)
	}
}
