package server_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"

	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"

	_ "github.com/go-sql-driver/mysql"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/require"
)

type previewSeen struct {
	Cases, Writing, Left int
	Address, Account     string
	Writes               []struct {
		Table             string
		Inserted, Changed int
	}
	Environments []struct{ ID, Title string }
	Confirm      bool
	WritesNever  bool `json:"writes_never"`
}

// withEnvironments adds to the site a protected environment with its own copy of the practice site, and one that nothing may write to. The
// database is that of both.
func withEnvironments(t *testing.T, c *client, faults ...string) (*spec.Site, *sqlx.DB) {
	ctx := context.Background()
	dsn := dbtest.DSN(t)
	other, err := practice.Open(ctx, practice.Config{DSN: dsn, Faults: faults, HashCost: 8, Accounts: true})
	require.NoError(t, err)
	t.Cleanup(func() { other.Close() })
	live := httptest.NewServer(other.Handler(false))
	t.Cleanup(live.Close)
	sites, err := c.store.Sites(ctx)
	require.NoError(t, err)
	document, err := c.store.SiteDocument(ctx, sites[0].ID)
	require.NoError(t, err)
	document.Environments = []spec.Environment{
		{ID: "live", Title: "Production", Address: live.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}}, Protected: spec.Confirm, Accounts: []spec.Account{{ID: "maple", Name: "maple", Password: "Maple-live-1"}}},
		{ID: "looked_at", Address: live.URL, Protected: spec.NoWrites},
	}
	_, err = c.store.PutSite(ctx, document, nil)
	require.NoError(t, err)
	db, err := sqlx.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return document, db
}

// TestSubmissionsByHandInAnEnvironment: a protected one asks for its id, one that nothing may write to takes none, and the rows are written
// where they should be; a finding is investigated where its run was made.
func TestSubmissionsByHandInAnEnvironment(t *testing.T) {
	t.Parallel()
	c := wholeSite(t)
	_, db := withEnvironments(t, c, "username-cut")
	values := map[string]any{"values": map[string][]string{"username": {"maple-row-1"}, "email": {"a@example.test"}, "password": {"brook-side-42"}, "again": {"brook-side-42"}, "born": {"1974-03-07"}, "plots": {"2"}, "terms": {"yes"}, "membership": {""}, "heard": {"nb"}}}
	for path, body := range map[string]any{"/try": values, "/trace": values, "/limit": map[string]any{"rule": "username.length", "end": "max"}} {
		require.Contains(t, c.post(joinPath+path+"?environment=live", body, http.StatusUnprocessableEntity, nil), "type its id, live, to run there", path)
		require.Contains(t, c.post(joinPath+path+"?environment=looked_at&confirmed=looked_at", body, http.StatusUnprocessableEntity, nil), "permits only cases that should write nothing", path)
		require.Contains(t, c.post(joinPath+path+"?environment=gone", body, http.StatusUnprocessableEntity, nil), "no such environment", path)
	}
	rows := func() (n int) {
		require.NoError(t, db.Get(&n, "SELECT COUNT(*) FROM plot_holders WHERE login_name = 'maple-row-1'"))
		return n
	}
	require.Zero(t, rows())
	require.Contains(t, c.post(joinPath+"/try?environment=live&confirmed=live", values, http.StatusOK, nil), `"headline":"Accepted, as expected"`)
	require.Equal(t, 1, rows())

	c.ended(c.run(map[string]any{"depth": "quick", "environment": "live", "confirmed": "live"}))
	found := c.findings(1).Findings
	require.NotEmpty(t, found)
	at := joinPath + "/runs/1/findings/" + found[0].ID
	var detail struct {
		Environment struct{ ID, Protected string }
	}
	require.Equal(t, http.StatusOK, c.get(at, &detail))
	require.Equal(t, "live", detail.Environment.ID)
	require.Equal(t, "confirm", detail.Environment.Protected)
	require.Contains(t, c.post(at+"/investigation", map[string]any{}, http.StatusUnprocessableEntity, nil), "type its id, live, to run there")
	require.Contains(t, c.post(at+"/investigation?confirmed=live", map[string]any{}, http.StatusOK, nil), "Reproduced 5 of 5 times")
}

// TestARunNamesItsEnvironment: what it will write is told before, a protected one is asked about, and its report names its address.
func TestARunNamesItsEnvironment(t *testing.T) {
	t.Parallel()
	c := wholeSite(t)
	document, _ := withEnvironments(t, c)
	live := document.Environments[0].Address

	const runs = "/api/sites/ost/forms/join/runs"
	preview := func(environment string) (v previewSeen) {
		c.post(runs+"/preview", map[string]any{"depth": "quick", "environment": environment}, http.StatusOK, &v)
		return v
	}
	own := preview("")
	require.Equal(t, document.Address, own.Address)
	require.False(t, own.Confirm)
	require.Len(t, own.Environments, 2)
	require.Equal(t, "Production", own.Environments[0].Title)
	require.Len(t, own.Writes, 1)
	require.Equal(t, "plot_holders", own.Writes[0].Table)
	require.Equal(t, own.Writing, own.Writes[0].Inserted)
	require.Positive(t, own.Writing)
	there := preview("live")
	require.True(t, there.Confirm)
	require.Equal(t, live, there.Address)
	seen := preview("looked_at")
	require.True(t, seen.WritesNever)
	require.Zero(t, seen.Writing)
	require.Empty(t, seen.Writes[0].Inserted)
	require.Equal(t, own.Cases-own.Writing, seen.Cases)

	require.Contains(t, c.post(runs, map[string]any{"depth": "quick", "environment": "live"}, http.StatusUnprocessableEntity, nil), "type its id, live, to run there")
	require.Contains(t, c.post(runs, map[string]any{"depth": "quick", "environment": "gone"}, http.StatusUnprocessableEntity, nil), "has no environment")
	c.ended(c.run(map[string]any{"depth": "quick"}))
	number := c.run(map[string]any{"depth": "quick", "environment": "live", "confirmed": "live"})
	c.ended(number)
	var v struct {
		Run  struct{ Environment string }
		Runs []struct{ Environment string }
	}
	require.Equal(t, http.StatusOK, c.get(runs+"/2", &v))
	require.Equal(t, "live", v.Run.Environment)
	require.Equal(t, "live", v.Runs[0].Environment)
	require.Empty(t, v.Runs[1].Environment)
	var report struct{ Site string }
	require.Equal(t, http.StatusOK, c.get(runs+"/2/report/json", &report))
	require.Equal(t, live, report.Site)

	// the faults are at the site's own address
	var compared struct {
		Compared struct {
			NoLongerOdd []struct{ ID string } `json:"no_longer_odd"`
		}
	}
	require.Equal(t, http.StatusOK, c.get(runs+"/2/findings?with=1", &compared))
	require.NotEmpty(t, compared.Compared.NoLongerOdd)
	require.Equal(t, 1, c.readiness("?site=ost&form=join").Sites[0].Parts[0].Run, "the latest run at the site's own address")

	_, _, settings := c.send(http.MethodGet, "/api/sites/ost/settings", nil)
	require.NotContains(t, string(settings), "Maple-live-1")
	require.Contains(t, string(settings), live)
}
