package server_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"

	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"

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

// TestARunNamesItsEnvironment: what it will write is told before, a protected one is asked about, and its report names its address.
func TestARunNamesItsEnvironment(t *testing.T) {
	t.Parallel()
	c := wholeSite(t)
	ctx := context.Background()
	dsn := dbtest.DSN(t)
	other, err := practice.Open(ctx, practice.Config{DSN: dsn, HashCost: 8, Accounts: true})
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
	require.Equal(t, live.URL, there.Address)
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
	require.Equal(t, live.URL, report.Site)

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
	require.Contains(t, string(settings), live.URL)
}
