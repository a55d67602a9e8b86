package server_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"testing"

	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"
	"oddtick/server/api"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// accountsSite is a server with the practice site, its accounts, and a site document of states, pages and a journey.
func accountsSite(t testing.TB, faults ...string) (*client, *store.Store) {
	ctx := context.Background()
	dsn := dbtest.DSN(t)
	site, err := practice.Open(ctx, practice.Config{DSN: dsn, Faults: faults, HashCost: 8, Accounts: true})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	practiceServer := httptest.NewServer(site.Handler(false))
	t.Cleanup(practiceServer.Close)
	st, err := store.Open(ctx, dbtest.DSN(t), filepath.Join(t.TempDir(), "key"))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddUser(ctx, "tester", "right"))
	project, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte(`site: ost
title: Ostlewick
sign_in: {page: /sign-in, name: login, password: secret}
visitors: {table: plot_holders, key: id, name: login_name}
accounts: [{id: maple, name: maple, password: Maple-plot-21}, {id: stella, name: stella, password: Stella-plot-25}]
pages: [{id: home, path: /}, {id: stewards, path: /stewards}]
states:
  - {id: guest, title: Guest, when: "!signed_in", may_open: [home], denied: /sign-in}
  - {id: steward, when: 'signed_in && role == "steward"', may_open: [home, stewards]}
  - {id: holder, when: signed_in, may_open: [home], denied: forbidden}
journeys: [{id: look, title: A look, steps: [{open: home}, {sign_in: maple, then: holder}]}, {id: mails, steps: [{wait_for: mail}]}]
`)}})
	require.NoError(t, err)
	project.Site.Address, project.Site.Databases = practiceServer.URL, []spec.Database{{ID: "main", DSN: dsn}}
	_, err = st.PutSite(ctx, project.Site, nil)
	require.NoError(t, err)
	s, err := api.New(st, front, api.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	api := httptest.NewServer(s)
	t.Cleanup(api.Close)
	c := start(t)
	c.address, c.server, c.store = api.URL, s, st
	c.signIn()
	return c, st
}

type accessSeen struct {
	States   []struct{ ID, Title string }
	Pages    []struct{ ID string }
	Expected []struct{ State, Page, Expected string }
	Report   *struct {
		Visitors []struct{ Account, State string }
		Openings []struct{ Account, Page, Observed, Verdict, Why string }
		Sessions []struct{ What, Verdict, Why string }
		Lacking  []string
	}
}

func TestWhoMayOpenWhatIsKept(t *testing.T) {
	t.Parallel()
	c, _ := accountsSite(t, "stewards-open")
	var before accessSeen
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/access", &before))
	require.Nil(t, before.Report, "nobody has looked yet")
	require.Len(t, before.Expected, 6)
	require.Equal(t, "holder", before.States[2].Title, "a state without a title is called by its id")
	var after accessSeen
	c.post("/api/sites/ost/access", nil, http.StatusOK, &after)
	require.Len(t, after.Report.Openings, 6)
	odd := 0
	for _, o := range after.Report.Openings {
		if o.Verdict == "odd" {
			odd++
			require.Equal(t, "maple stewards opens", o.Account+" "+o.Page+" "+o.Observed)
			require.Contains(t, o.Why, "as if steward were signed_in")
		}
	}
	require.Equal(t, 1, odd)
	var again accessSeen
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/access", &again))
	require.Equal(t, after.Report, again.Report)
	require.Equal(t, http.StatusNotFound, c.get("/api/sites/none/access", nil))
}

func TestASiteWithoutStates(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	var v accessSeen
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/access", &v))
	require.Empty(t, v.States)
	require.Contains(t, c.post("/api/sites/ost/access", nil, http.StatusUnprocessableEntity, nil), "has no states or no pages")
	require.Contains(t, c.post("/api/sites/ost/journeys/x", nil, http.StatusUnprocessableEntity, nil), "has no journeys")
}

func TestJourneysAreWalkedAndKept(t *testing.T) {
	t.Parallel()
	c, _ := accountsSite(t)
	type seen struct {
		Mail     string
		Journeys []struct {
			ID     string
			Steps  []struct{ Words, Then string }
			Report *struct {
				Walks []struct {
					Verdict, Headline string
					Stations          []struct{ Words, Verdict, Headline string }
				}
			}
		}
	}
	var v seen
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/journeys", &v))
	require.Len(t, v.Journeys, 2)
	require.Equal(t, "sign in as maple", v.Journeys[0].Steps[1].Words)
	require.Nil(t, v.Journeys[0].Report)
	c.post("/api/sites/ost/journeys/look", nil, http.StatusOK, &v)
	require.Len(t, v.Journeys[0].Report.Walks, 1)
	require.Equal(t, "as expected", v.Journeys[0].Report.Walks[0].Verdict, v.Journeys[0].Report.Walks[0].Headline)
	c.post("/api/sites/ost/journeys/mails", nil, http.StatusOK, &v)
	require.Equal(t, "not observed", v.Journeys[1].Report.Walks[0].Verdict)
	require.Contains(t, v.Journeys[1].Report.Walks[0].Headline, "no mail is received; write mail:")
	require.Contains(t, c.post("/api/sites/ost/journeys/none", nil, http.StatusNotFound, nil), "The site has no journey none.")
}

// TestAccessAndJourneysInAnEnvironment: each has a report of its own; a protected environment asks for its id, or takes no journey.
func TestAccessAndJourneysInAnEnvironment(t *testing.T) {
	t.Parallel()
	c, st := accountsSite(t)
	ctx := t.Context()
	known, err := st.Site(ctx, "ost")
	require.NoError(t, err)
	site, err := st.SiteDocument(ctx, known.ID)
	require.NoError(t, err)
	for _, e := range []spec.Environment{{ID: "live", Title: "Production", Protected: spec.Confirm}, {ID: "seen", Protected: spec.NoWrites}} {
		e.Address, e.Databases, e.Accounts = site.Address, site.Databases, site.Accounts
		site.Environments = append(site.Environments, e)
	}
	_, err = st.PutSite(ctx, site, nil)
	require.NoError(t, err)
	var v struct {
		accessSeen
		Environments []struct{ ID, Title, Protected string }
	}
	require.Contains(t, c.post("/api/sites/ost/access?environment=live", nil, http.StatusUnprocessableEntity, nil), "type its id, live")
	require.Contains(t, c.post("/api/sites/ost/access?environment=none", nil, http.StatusUnprocessableEntity, nil), "it has live, seen")
	c.post("/api/sites/ost/access?environment=live&confirmed=live", nil, http.StatusOK, &v)
	require.NotNil(t, v.Report)
	require.Len(t, v.Environments, 2)
	require.Equal(t, "Production", v.Environments[0].Title)
	v.Report = nil
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/access", &v))
	require.Nil(t, v.Report, "at its own address nobody has looked yet")
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/access?environment=live", &v))
	require.NotNil(t, v.Report)
	c.post("/api/sites/ost/access?environment=seen", nil, http.StatusOK, nil)
	require.Contains(t, c.post("/api/sites/ost/journeys/look?environment=seen", nil, http.StatusUnprocessableEntity, nil), "permits only cases that should write nothing")
	c.post("/api/sites/ost/journeys/look?environment=live&confirmed=live", nil, http.StatusOK, nil)
	require.Contains(t, c.post("/api/sites/ost/run?environment=live", nil, http.StatusUnprocessableEntity, nil), "type its id, live")
	var run struct {
		Environment string
		Parts       []struct{ Kind string }
	}
	c.post("/api/sites/ost/run?environment=seen", nil, http.StatusCreated, &run)
	require.Equal(t, "seen", run.Environment)
	for _, p := range run.Parts {
		require.NotEqual(t, "journey", p.Kind, "journeys write")
	}
}
