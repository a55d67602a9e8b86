package server_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"oddtick/core/spec"
	"oddtick/core/wording"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"
	"oddtick/server/api"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

var front = fstest.MapFS{"index.html": {Data: []byte("<meta name=oddtick-nonce content=ODDTICK-NONCE><title>front end</title>")}, "assets/a.js": {Data: []byte("x")}}

// client is a browser that speaks to the API.
type client struct {
	t       testing.TB
	http    *http.Client
	address string
	token   string
	server  *api.Server
	store   *store.Store
}

// start serves the API with the practice site's form on it.
func start(t testing.TB, faults ...string) *client { return startWith(t, api.Options{}, faults...) }

func startWith(t testing.TB, o api.Options, faults ...string) *client {
	ctx := context.Background()
	dsn := dbtest.DSN(t)
	site, err := practice.Open(ctx, practice.Config{DSN: dsn, Faults: faults, HashCost: 8})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	practiceServer := httptest.NewServer(site.Handler(false))
	t.Cleanup(practiceServer.Close)
	st, err := store.Open(ctx, dbtest.DSN(t), filepath.Join(t.TempDir(), "key"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddUser(ctx, "tester", "right"))
	id, err := st.PutSite(ctx, &spec.Site{Site: "ost", Title: "Ostlewick", Address: practiceServer.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, nil)
	require.NoError(t, err)
	text, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	form, err := spec.ReadForm("join.yaml", text)
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: form, File: "join.yaml", Source: text}))
	s, err := api.New(st, front, o)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	api := httptest.NewServer(s)
	t.Cleanup(api.Close)
	jar, _ := cookiejar.New(nil)
	return &client{t: t, http: &http.Client{Jar: jar}, address: api.URL, server: s, store: st}
}

func (c *client) send(method, path string, body any) (int, http.Header, []byte) {
	text, err := json.Marshal(body)
	require.NoError(c.t, err)
	req, err := http.NewRequest(method, c.address+path, bytes.NewReader(text))
	require.NoError(c.t, err)
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	if c.token != "" {
		req.Header.Set("X-Oddtick-Token", c.token)
	}
	res, err := c.http.Do(req)
	require.NoError(c.t, err)
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, res.Header, out
}

func (c *client) get(path string, into any) int {
	status, _, body := c.send(http.MethodGet, path, nil)
	if into != nil && status < 300 {
		require.NoError(c.t, json.Unmarshal(body, into), string(body))
	}
	return status
}

func (c *client) signIn() {
	status, _, body := c.send(http.MethodPost, "/api/session", map[string]string{"name": "tester", "password": "right"})
	require.Equal(c.t, http.StatusOK, status, string(body))
	var session struct{ Token string }
	require.NoError(c.t, json.Unmarshal(body, &session))
	c.token = session.Token
}

type runAnswer struct {
	Run struct {
		Number, Total, Done, Odd, Causes int
		State, Reason                    string
	}
	Marks []struct {
		Seq                             int
		Case, Verdict, Checks, Headline string
	}
	Causes []struct{ Row, Headline string }
	Rows   []struct {
		ID    string
		Cases []string
	}
}

const joinPath = "/api/sites/ost/forms/join"

func (c *client) run(body map[string]any) int {
	status, _, answer := c.send(http.MethodPost, joinPath+"/runs", body)
	require.Equal(c.t, http.StatusCreated, status, string(answer))
	var out struct{ Run int }
	require.NoError(c.t, json.Unmarshal(answer, &out))
	return out.Run
}

func (c *client) ended(number int) runAnswer {
	for range 600 {
		var r runAnswer
		require.Equal(c.t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r))
		if r.Run.State != "running" {
			return r
		}
		time.Sleep(50 * time.Millisecond)
	}
	require.Fail(c.t, "the run does not end")
	return runAnswer{}
}

func TestNothingIsShownToStrangers(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, path := range []string{"/api/session", "/api/sites", joinPath, joinPath + "/cases", joinPath + "/case?id=x", joinPath + "/runs/1", joinPath + "/runs/1/report/csv"} {
		status, header, body := c.send(http.MethodGet, path, nil)
		require.Equal(t, http.StatusUnauthorized, status, path)
		require.Equal(t, "application/problem+json", header.Get("Content-Type"), path)
		require.Contains(t, string(body), "Sign in first.", path)
	}
	for _, path := range []string{"/api/live", "/api/ready"} {
		require.Equal(t, http.StatusNoContent, c.get(path, nil))
	}
}

func TestSigningInAndOut(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, wrong := range []map[string]string{{"name": "tester", "password": "wrong"}, {"name": "nobody", "password": "right"}} {
		status, _, body := c.send(http.MethodPost, "/api/session", wrong)
		require.Equal(t, http.StatusUnauthorized, status)
		require.Contains(t, string(body), "The name or the password is wrong.")
	}
	status, _, body := c.send(http.MethodPost, "/api/session", map[string]any{"name": 7})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Contains(t, string(body), "body.name")
	status, header, _ := c.send(http.MethodPost, "/api/session", map[string]string{"name": "tester", "password": "right"})
	require.Equal(t, http.StatusOK, status)
	cookie := header.Get("Set-Cookie")
	require.Contains(t, cookie, "HttpOnly")
	require.Contains(t, cookie, "SameSite=Strict")
	c.signIn()
	base, _ := url.Parse(c.address)
	kept := c.http.Jar.Cookies(base)
	require.Equal(t, http.StatusOK, c.get("/api/session", nil))
	status, _, _ = c.send(http.MethodDelete, "/api/session", nil)
	require.Equal(t, http.StatusNoContent, status)
	c.http.Jar.SetCookies(base, kept)
	require.Equal(t, http.StatusUnauthorized, c.get("/api/session", nil), "the session has ended on the server too")
}

func TestEveryChangeNeedsTheToken(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	right := c.token
	for _, token := range []string{"", "x" + right[1:]} {
		c.token = token
		for _, try := range [][2]string{{http.MethodPost, joinPath + "/runs"}, {http.MethodPost, joinPath + "/runs/1/stop"}, {http.MethodDelete, "/api/session"}} {
			status, _, body := c.send(try[0], try[1], map[string]string{"depth": "quick"})
			require.Equal(t, http.StatusForbidden, status, try)
			require.Contains(t, string(body), "token")
		}
	}
}

func TestAFormAndItsCases(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	var sites []struct {
		ID    string
		Forms []struct {
			ID, Strip string
			Cases     int
			Run       *struct{}
		}
	}
	require.Equal(t, http.StatusOK, c.get("/api/sites", &sites))
	require.Equal(t, strings.Repeat(".", sites[0].Forms[0].Cases), sites[0].Forms[0].Strip, "nothing was run yet")
	require.Nil(t, sites[0].Forms[0].Run)
	var form struct {
		Fields []struct {
			ID, Name string
			Columns  []string
			Rules    []struct{ ID, Words, Message string }
		}
		Rejected, Accepted []string
	}
	require.Equal(t, http.StatusOK, c.get(joinPath, &form))
	require.Equal(t, "e_mail", form.Fields[1].Name)
	require.Equal(t, []string{"plot_holders.mail"}, form.Fields[1].Columns)
	require.Equal(t, "3 to 20 characters", form.Fields[0].Rules[1].Words)
	require.Contains(t, form.Accepted, "redirects to /waiting-list")
	var cases struct {
		Order []string
		Rows  []struct{ ID string }
		Cases map[string]struct{ Expect, Verdict string }
	}
	for depth, least := range map[string]int{"quick": 50, "standard": 100, "thorough": 110} {
		require.Equal(t, http.StatusOK, c.get(joinPath+"/cases?depth="+depth, &cases))
		require.Greater(t, len(cases.Order), least)
		require.Equal(t, len(cases.Order), len(cases.Cases))
		cases.Cases = nil
	}
	for path, status := range map[string]int{joinPath + "/cases?depth=deep": 422, joinPath + "/cases?run=7": 404, joinPath + "/case?id=none": 404, joinPath + "/case": 422, "/api/sites/ost/forms/none": 404, "/api/sites/none/forms/join": 404, joinPath + "/runs/3": 404, "/api/none": 404} {
		require.Equal(t, status, c.get(path, nil), path)
	}
}

func TestARunFromStartToReport(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut", "plots-five")
	c.signIn()
	number := c.run(map[string]any{"depth": "quick"})
	status, _, body := c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick"})
	if status != http.StatusCreated { // the first may have ended by now
		require.Equal(t, http.StatusConflict, status)
		require.Contains(t, string(body), "A run of Ostlewick is in progress")
	}
	r := c.ended(number)
	require.Equal(t, "finished", r.Run.State)
	require.Equal(t, r.Run.Total, r.Run.Done)
	require.Equal(t, 2, r.Run.Odd)
	require.Equal(t, 2, r.Run.Causes)
	for i, m := range r.Marks {
		require.Equal(t, i+1, m.Seq)
		require.Len(t, m.Checks, 7)
	}
	var one struct {
		Result struct {
			Verdict, Headline string
			Steps             []struct {
				Observation struct {
					Changes []struct{ Table, Kind string }
				}
			}
		}
		Also []string
	}
	require.Equal(t, http.StatusOK, c.get(joinPath+"/case?id="+url.QueryEscape("join/username.length.max+1/http"), &one))
	require.Equal(t, "Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters", one.Result.Headline)
	require.Equal(t, "inserted", one.Result.Steps[0].Observation.Changes[0].Kind)
	for format, begins := range map[string]string{"html": "<!doctype html>", "markdown": "# Join", "xlsx": "PK", "playwright": "// Cases of the form \"join\"", "junit": "<?xml", "csv": "\ufeffcase,title", "json": "{"} {
		status, header, body := c.send(http.MethodGet, fmt.Sprintf("%s/runs/%d/report/%s", joinPath, number, format), nil)
		require.Equal(t, http.StatusOK, status, format)
		require.Contains(t, header.Get("Content-Disposition"), "attachment; filename=", format)
		require.True(t, strings.HasPrefix(string(body), begins), format)
	}
	require.Equal(t, 422, c.get(fmt.Sprintf("%s/runs/%d/report/doc", joinPath, number), nil))
	status, _, body = c.send(http.MethodPost, fmt.Sprintf("%s/runs/%d/stop", joinPath, number), nil)
	require.Equal(t, http.StatusConflict, status)
	require.Contains(t, string(body), "not in progress")
}

func TestOnlyChosenCasesAreRun(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	status, _, body := c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick", "cases": []string{"join/none/http"}})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Contains(t, string(body), "body.cases")
	r := c.ended(c.run(map[string]any{"depth": "quick", "cases": []string{"join/plots.range.max/http", "join/plots.range.max+1/http"}}))
	require.Equal(t, 2, r.Run.Total)
	require.Equal(t, "plots", r.Rows[0].ID)
}

// events reads a run's events until it ends or as many marks as wanted have come.
func (c *client) events(number int, lastID string, most int) (seqs []int, ended bool) {
	req, err := http.NewRequest(http.MethodGet, fmt.Sprintf("%s%s/runs/%d/events", c.address, joinPath, number), nil)
	require.NoError(c.t, err)
	if lastID != "" {
		req.Header.Set("Last-Event-ID", lastID)
	}
	ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
	defer cancel()
	res, err := c.http.Do(req.WithContext(ctx))
	require.NoError(c.t, err)
	defer res.Body.Close()
	require.Equal(c.t, "text/event-stream", res.Header.Get("Content-Type"))
	kind := ""
	lines := bufio.NewScanner(res.Body)
	for lines.Scan() {
		line := lines.Text()
		if k, ok := strings.CutPrefix(line, "event: "); ok {
			kind = k
		}
		data, ok := strings.CutPrefix(line, "data: ")
		switch {
		case !ok:
		case kind == "end":
			return seqs, true
		case kind == "mark":
			var m struct{ Seq int }
			require.NoError(c.t, json.Unmarshal([]byte(data), &m))
			if seqs = append(seqs, m.Seq); len(seqs) == most {
				return seqs, false
			}
		}
	}
	return seqs, false
}

func TestEventsResumeAfterALostConnection(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	number := c.run(map[string]any{"depth": "quick"})
	first, ended := c.events(number, "", 3) // the connection is lost after three
	require.False(t, ended)
	require.Equal(t, []int{1, 2, 3}, first)
	rest, ended := c.events(number, "3", 10_000)
	require.True(t, ended)
	r := c.ended(number)
	require.Equal(t, r.Run.Total, 3+len(rest), "none is lost and none comes twice")
	for i, seq := range rest {
		require.Equal(t, 4+i, seq)
	}
	all, ended := c.events(number, "", 10_000)
	require.True(t, ended)
	require.Len(t, all, r.Run.Total, "a run that has ended is told whole")
}

func TestARunCanBeStopped(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	number := c.run(map[string]any{"depth": "thorough"})
	status, _, _ := c.send(http.MethodPost, fmt.Sprintf("%s/runs/%d/stop", joinPath, number), nil)
	require.Equal(t, http.StatusNoContent, status)
	r := c.ended(number)
	require.Equal(t, "stopped", r.Run.State)
	require.Less(t, r.Run.Done, r.Run.Total)
	require.Equal(t, "finished", c.ended(c.run(map[string]any{"depth": "quick"})).Run.State, "another can begin")
}

// TestARunGoesOnAfterTheServerEnded, unless its tester has stopped it.
func TestARunGoesOnAfterTheServerEnded(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	stopped := c.run(map[string]any{"depth": "thorough", "max_per_minute": 1200})
	status, _, _ := c.send(http.MethodPost, fmt.Sprintf("%s/runs/%d/stop", joinPath, stopped), nil)
	require.Equal(t, http.StatusNoContent, status)
	require.Equal(t, "stopped", c.ended(stopped).Run.State)
	number := c.run(map[string]any{"depth": "standard", "driver": "http", "max_per_minute": 2400})
	require.Eventually(t, func() bool {
		var r runAnswer
		c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r)
		return r.Run.Done > 3
	}, 20*time.Second, 20*time.Millisecond)
	c.server.Close()
	status, _, _ = c.send(http.MethodPost, joinPath+"/runs", map[string]any{"depth": "quick"})
	require.GreaterOrEqual(t, status, 400, "none begins while the server ends")

	next, err := api.New(c.store, front, api.Options{})
	require.NoError(t, err)
	t.Cleanup(next.Close)
	api := httptest.NewServer(next)
	t.Cleanup(api.Close)
	base, _ := url.Parse(c.address)
	again, _ := url.Parse(api.URL)
	c.http.Jar.SetCookies(again, c.http.Jar.Cookies(base))
	c.address = api.URL
	var r runAnswer
	require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r))
	require.Equal(t, "running", r.Run.State)
	require.Less(t, r.Run.Done, r.Run.Total)
	require.NoError(t, next.ResumeInterrupted(t.Context()))
	r = c.ended(number)
	require.Equal(t, "finished", r.Run.State)
	require.Equal(t, r.Run.Total, r.Run.Done)
	require.Zero(t, r.Run.Odd)
	require.Equal(t, "stopped", c.ended(stopped).Run.State)
}

func TestTheFrontEndIsServed(t *testing.T) {
	t.Parallel()
	c := start(t)
	for _, path := range []string{"/", "/sites/ost/forms/join/cases", "/../index.html"} {
		status, header, body := c.send(http.MethodGet, path, nil)
		require.Equal(t, http.StatusOK, status)
		require.Contains(t, string(body), "front end")
		require.Contains(t, header.Get("Content-Security-Policy"), "default-src 'self'")
	}
	_, header, body := c.send(http.MethodGet, "/assets/a.js", nil)
	require.Equal(t, "x", string(body))
	require.Contains(t, header.Get("Cache-Control"), "immutable")
}

func TestTheAPIsDocumentIsUpToDate(t *testing.T) {
	t.Parallel()
	want, err := api.OpenAPI()
	require.NoError(t, err)
	got, err := os.ReadFile("../api/openapi.yaml")
	require.NoError(t, err)
	require.Equal(t, string(want), string(got), "api/openapi.yaml is stale: run make generate")
	words, err := os.ReadFile("../web/src/api/words.gen.ts")
	require.NoError(t, err)
	require.Equal(t, string(wording.TypeScript()), string(words), "web/src/api/words.gen.ts is stale: run make generate")
}
