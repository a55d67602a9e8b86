package server_test

import (
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"testing"
	"time"

	"oddtick/core/spec"
	"oddtick/server/api"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// beside is a second server on the same database, with a session of its own.
func (c *client) beside() *client {
	s, err := api.New(c.store, front, api.Options{})
	require.NoError(c.t, err)
	c.t.Cleanup(s.Close)
	api := httptest.NewServer(s)
	c.t.Cleanup(api.Close)
	jar, _ := cookiejar.New(nil)
	other := &client{t: c.t, http: &http.Client{Jar: jar}, address: api.URL, server: s, store: c.store}
	other.signIn()
	return other
}

func (c *client) done(number, most int) {
	require.Eventually(c.t, func() bool {
		var r runAnswer
		c.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r)
		return r.Run.Done > most
	}, 20*time.Second, 20*time.Millisecond)
}

func readForm(t testing.TB, rev *store.Revision) *spec.Form {
	form, err := spec.ReadForm(rev.File, rev.Source)
	require.NoError(t, err)
	return form
}

func TestAttackTwoServersOnOneDatabase(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	other := c.beside()
	number := c.run(map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 2400})
	c.done(number, 2)
	require.NoError(t, other.server.ResumeInterrupted(t.Context()), "the second one takes nothing up")
	status, _, body := other.send("POST", joinPath+"/runs", map[string]any{"depth": "quick"})
	require.Equal(t, 409, status, string(body))
	seqs, ended := other.events(number, "", 1000)
	require.True(t, ended)
	r := c.ended(number)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, r.Run.Total, r.Run.Done)
	require.Zero(t, r.Run.Odd)
	require.Len(t, seqs, r.Run.Total, "each result once, also by the server that does not drive the run")

	number = other.run(map[string]any{"depth": "thorough", "driver": "http", "max_per_minute": 1200})
	status, _, body = c.send("POST", fmt.Sprintf("%s/runs/%d/stop", joinPath, number), nil)
	require.Equal(t, 204, status, string(body))
	require.Equal(t, "stopped", c.ended(number).Run.State, "it is stopped by whichever server is asked")
	status, _, _ = c.send("POST", fmt.Sprintf("%s/runs/%d/stop", joinPath, number), nil)
	require.Equal(t, 409, status)
}

// TestAttackARunOfAServerThatWasKilled is taken up by another one as soon as its lease has ended, and not before.
func TestAttackARunOfAServerThatWasKilled(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	number := c.run(map[string]any{"depth": "quick", "driver": "http", "max_per_minute": 2400})
	c.done(number, 2)
	c.server.Close() // its run goes on
	form, err := c.store.Form(t.Context(), "ost", "join")
	require.NoError(t, err)
	run, err := c.store.RunByNumber(t.Context(), form.ID, number)
	require.NoError(t, err)
	require.Equal(t, store.Running, run.State)
	require.NoError(t, c.store.TakeLeases(t.Context(), "the killed one", "a run", []string{fmt.Sprintf("run %d of form %d", run.Seed, form.ID)}, 5*time.Second))
	other := c.beside()
	require.NoError(t, other.server.ResumeInterrupted(t.Context()))
	var r runAnswer
	require.Equal(t, 200, other.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r))
	require.Equal(t, "running", r.Run.State)
	done := r.Run.Done
	time.Sleep(300 * time.Millisecond)
	require.Equal(t, 200, other.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r))
	require.Equal(t, done, r.Run.Done, "while it is held, nobody else makes its cases")
	require.Eventually(t, func() bool {
		if err := other.server.ResumeInterrupted(t.Context()); err != nil {
			return false
		}
		other.get(fmt.Sprintf("%s/runs/%d", joinPath, number), &r)
		return r.Run.Done > done
	}, 20*time.Second, 200*time.Millisecond)
	r = other.ended(number)
	require.Equal(t, "finished", r.Run.State, r.Run.Reason)
	require.Equal(t, r.Run.Total, r.Run.Done)
	require.Zero(t, r.Run.Odd)
}

func TestAttackTwoSitesWithOneDatabase(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	site, err := c.store.Site(t.Context(), "ost")
	require.NoError(t, err)
	first, err := c.store.SiteDocument(t.Context(), site.ID)
	require.NoError(t, err)
	form, err := c.store.Form(t.Context(), "ost", "join")
	require.NoError(t, err)
	rev, err := c.store.Revision(t.Context(), form.RevisionID)
	require.NoError(t, err)
	read := readForm(t, rev)
	for ident, second := range map[string]*spec.Site{
		"same_database": {Site: "same_database", Address: "http://localhost:1", Databases: first.Databases},
		"same_address":  {Site: "same_address", Address: first.Address},
	} {
		id, err := c.store.PutSite(t.Context(), second, nil)
		require.NoError(t, err)
		require.NoError(t, c.store.PutForm(t.Context(), id, store.Save{Form: read, File: rev.File, Source: rev.Source}), ident)
	}
	number := c.run(map[string]any{"depth": "thorough", "driver": "http", "max_per_minute": 1200})
	for _, ident := range []string{"same_database", "same_address"} {
		status, _, body := c.send("POST", "/api/sites/"+ident+"/forms/join/runs", map[string]any{"depth": "quick"})
		require.Equal(t, 409, status, string(body))
		require.Contains(t, string(body), "A run of Ostlewick is in progress")
	}
	status, _, _ := c.send("POST", fmt.Sprintf("%s/runs/%d/stop", joinPath, number), nil)
	require.Equal(t, 204, status)
	c.ended(number)
}
