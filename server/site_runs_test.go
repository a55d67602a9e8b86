package server_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"os"
	"testing"
	"time"

	"oddtick/core/spec"
	"oddtick/server/api"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

type siteRunSeen struct {
	Running, Stopping bool
	Parts             []struct {
		Kind, ID, State, Problem string
		Run, Done, Total         int
	}
}

type readinessSeen struct {
	Verdict struct{ State, Headline string }
	Sites   []struct {
		ID      string
		Verdict struct{ State, Headline string }
		Parts   []struct {
			Kind, ID string
			Verdict  struct {
				State, Headline string
				Reasons         []struct {
					Code, Severity string
					Count          int
				}
			}
			Run, Ran, Newest int
			Findings         []struct {
				ID, Headline, Until, Comment string
				Accepted                     bool
			}
			Requirements []struct {
				ID, State string
				Findings  []string
			}
			Coverage []struct{ Total, Observed int }
			Tally    struct{ Total, Odd int }
		}
	}
}

// wholeSite has a form with a fault, access and two journeys, and asks for runs at quick depth.
func wholeSite(t testing.TB) *client {
	c, st := accountsSite(t, "username-cut")
	ctx := context.Background()
	sites, err := st.Sites(ctx)
	require.NoError(t, err)
	document, err := st.SiteDocument(ctx, sites[0].ID)
	require.NoError(t, err)
	document.ReadyWhen = &spec.ReadyWhen{Depth: "quick"}
	id, err := st.PutSite(ctx, document, nil)
	require.NoError(t, err)
	text, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	form, err := spec.ReadForm("join.yaml", text)
	require.NoError(t, err)
	require.NoError(t, st.PutForm(ctx, id, store.Save{Form: form, File: "join.yaml", Source: text}))
	return c
}

func (c *client) siteRunEnded() siteRunSeen {
	var v siteRunSeen
	require.Eventually(c.t, func() bool {
		v = siteRunSeen{}
		require.Equal(c.t, http.StatusOK, c.get("/api/sites/ost/run", &v))
		return !v.Running
	}, 3*time.Minute, 100*time.Millisecond)
	return v
}

func (c *client) readiness(query string) readinessSeen {
	var v readinessSeen
	require.Equal(c.t, http.StatusOK, c.get("/api/readiness"+query, &v))
	return v
}

// TestAWholeSiteIsRun by one request: forms, access and journeys one after the other; and what then stands in the way of shipping.
func TestAWholeSiteIsRun(t *testing.T) {
	t.Parallel()
	c := wholeSite(t)
	before := c.readiness("")
	require.Equal(t, "not_known", before.Verdict.State)
	require.Len(t, before.Sites[0].Parts, 4)
	require.Equal(t, "not known whether it may ship: 4 of 4 parts not fully tested", before.Sites[0].Verdict.Headline)
	require.Equal(t, http.StatusNotFound, c.get("/api/readiness?site=none", nil))
	require.Equal(t, http.StatusNotFound, c.get("/api/readiness?site=ost&form=none", nil))
	var none siteRunSeen
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/run", &none))
	require.Empty(t, none.Parts)

	c.post("/api/sites/ost/run", nil, http.StatusCreated, nil)
	require.Contains(t, c.post("/api/sites/ost/run", nil, http.StatusConflict, nil), "in progress already")
	v := c.siteRunEnded()
	var states []string
	for _, p := range v.Parts {
		states = append(states, p.Kind+" "+p.ID+" "+p.State)
	}
	require.Equal(t, []string{"form join done", "access  done", "journey look done", "journey mails done"}, states, v)
	require.Equal(t, v.Parts[0].Total, v.Parts[0].Done)

	after := c.readiness("?site=ost")
	require.Equal(t, "not_ready", after.Verdict.State)
	join := after.Sites[0].Parts[0]
	require.Equal(t, "not ready to ship: 1 major finding", join.Verdict.Headline)
	require.Equal(t, 1, join.Run)
	require.Empty(t, join.Coverage, "it is told for one form")
	require.Equal(t, "not ready to ship: 1 of 9 checks not observed", after.Sites[0].Parts[1].Verdict.Headline)
	require.Equal(t, "ready", after.Sites[0].Parts[2].Verdict.State)
	require.Equal(t, "not ready to ship: 1 of 1 checks not observed", after.Sites[0].Parts[3].Verdict.Headline)

	// a finding that is accepted stands in the way no more, but for as long as it is
	path := joinPath + "/runs/1/findings/" + join.Findings[0].ID
	c.change(path, path+"/triage", map[string]any{"state": "known", "until": "2999-12-31", "comment": "wontfix"}, http.StatusOK)
	one := c.readiness("?site=ost&form=join").Sites[0].Parts[0]
	require.Equal(t, "ready to ship, 1 finding accepted", one.Verdict.Headline)
	require.Equal(t, "2999-12-31", one.Findings[0].Until)
	require.NotEmpty(t, one.Coverage)

	// a later run of some cases does not stand for the whole
	c.ended(c.run(map[string]any{"depth": "quick", "cases": []string{"join/username.length.max+1/http"}}))
	require.Equal(t, 1, c.readiness("?site=ost&form=join").Sites[0].Parts[0].Run)
}

// TestARunOfAWholeSiteIsStopped, and one that the server's end interrupts goes on at the next start.
func TestARunOfAWholeSiteIsStopped(t *testing.T) {
	t.Parallel()
	c := wholeSite(t)
	status, _, _ := c.send(http.MethodDelete, "/api/sites/ost/run", nil)
	require.Equal(t, http.StatusConflict, status, "none is in progress")
	c.post("/api/sites/ost/run", nil, http.StatusCreated, nil)
	status, _, _ = c.send(http.MethodDelete, "/api/sites/ost/run", nil)
	require.Equal(t, http.StatusNoContent, status)
	for _, p := range c.siteRunEnded().Parts {
		require.Equal(t, "stopped", p.State, p)
	}

	c.post("/api/sites/ost/run", nil, http.StatusCreated, nil)
	var v siteRunSeen
	require.Eventually(t, func() bool {
		require.Equal(t, http.StatusOK, c.get("/api/sites/ost/run", &v))
		return v.Parts[0].Done > 3
	}, time.Minute, 20*time.Millisecond)
	c.server.Close()
	s, err := api.New(c.store, front, api.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	next := httptest.NewServer(s)
	t.Cleanup(next.Close)
	c.address = next.URL
	c.signIn()
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	go s.ResumeRuns(ctx)
	for _, p := range c.siteRunEnded().Parts {
		require.Equal(t, "done", p.State, p)
	}
	var last struct{ Run struct{ Number int } }
	require.Equal(t, http.StatusOK, c.get(joinPath+"/runs/0", &last))
	require.LessOrEqual(t, last.Run.Number, 2, "the run that was interrupted went on")
}
