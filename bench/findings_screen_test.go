package bench

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/internal/localdb/dbtest"
	"oddtick/server/api"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// keptRun is a server that keeps one run of many cases of the Join form, most of them the tester's own; one in fifty is odd, for
// one of forty causes.
func keptRun(b *testing.B, n int) (c *http.Client, address string) {
	ctx := context.Background()
	st, err := store.Open(ctx, dbtest.DSN(b), filepath.Join(b.TempDir(), "key"))
	require.NoError(b, err)
	b.Cleanup(func() { st.Close() })
	require.NoError(b, st.AddUser(ctx, "tester", "right"))
	site, err := st.PutSite(ctx, &spec.Site{Site: "ost", Title: "Ostlewick", Address: "http://127.0.0.1:4650"}, nil)
	require.NoError(b, err)
	text, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(b, err)
	form, err := spec.ReadForm("join.yaml", text)
	require.NoError(b, err)
	require.NoError(b, st.PutForm(ctx, site, store.Save{Form: form, File: "join.yaml", Source: text}))
	f, err := st.Form(ctx, "ost", "join")
	require.NoError(b, err)
	large := largeResult(n)
	ids := make([]string, n)
	edits := make([]spec.CaseEdit, n)
	for i := range n {
		ids[i] = fmt.Sprintf("join/own.%d/http", i)
		edits[i] = spec.CaseEdit{Case: ids[i], Added: true, Title: fmt.Sprint("visit ", i), Inputs: map[string]string{"username": fmt.Sprint("heather-", i)}}
	}
	require.NoError(b, st.PutCaseEdits(ctx, f.ID, 1, store.AnyVersion, edits, nil))
	run, err := st.AddRun(ctx, store.NewRun{FormID: f.ID, RevisionID: f.RevisionID, UserID: 1, Seed: 1, Depth: string(testcase.Standard), Cases: ids})
	require.NoError(b, err)
	for i, one := range large.Cases {
		r := large.Results[one.ID]
		r.Case = ids[i]
		_, err := st.AddResult(ctx, run.ID, i+1, testcase.RowOwn, r)
		require.NoError(b, err)
	}
	require.NoError(b, st.EndRun(ctx, run.ID, store.Finished, "", 0))
	s, err := api.New(st, fstest.MapFS{"index.html": {Data: []byte("<title>front end</title>")}}, api.Options{})
	require.NoError(b, err)
	b.Cleanup(s.Close)
	api := httptest.NewServer(s)
	b.Cleanup(api.Close)
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	c = &http.Client{Jar: jar}
	res, err := c.Post(api.URL+"/api/session", "application/json", bytes.NewBufferString(`{"name": "tester", "password": "right"}`))
	require.NoError(b, err)
	require.Equal(b, http.StatusOK, res.StatusCode)
	res.Body.Close()
	return c, api.URL + "/api/sites/ost/forms/join/runs/1"
}

// BenchmarkFindingsScreen compares all that the Findings screen waits for, of a run of 20,000 cases, with the whole of the run, which it
// does not wait for.
func BenchmarkFindingsScreen(b *testing.B) {
	const cases = 20_000
	c, run := keptRun(b, cases)
	get := func(address string, into any) float64 {
		var times []float64
		for range 9 {
			started := time.Now()
			res, err := c.Get(address)
			require.NoError(b, err)
			require.Equal(b, http.StatusOK, res.StatusCode)
			require.NoError(b, json.NewDecoder(res.Body).Decode(into))
			res.Body.Close()
			times = append(times, time.Since(started).Seconds())
		}
		return median(times)
	}
	var list struct{ Findings []struct{ Cases []string } }
	var whole struct {
		Marks []struct{ Verdict judge.Verdict }
	}
	findings, all := get(run+"/findings", &list), get(run, &whole)
	require.Len(b, list.Findings, 4, "of forty rows, each fiftieth case falls on four")
	require.Len(b, whole.Marks, cases)
	line("time to the findings of 20,000 kept cases over the whole run of them", findings/all, 2, "below 1")
	line("time to the findings of 20,000 kept cases in milliseconds", findings*1000, 0, "none set")
}
