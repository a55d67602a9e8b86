package server_test

import (
	"fmt"
	"net/http"
	"testing"

	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/stretchr/testify/require"
)

// TestAFormIsCopiedMovedAndDeleted, with all that hangs on it, and nothing else.
func TestAFormIsCopiedMovedAndDeleted(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut")
	c.signIn()
	number := c.run(map[string]any{"depth": "quick"})
	require.Contains(t, c.remove(joinPath, http.StatusConflict), "A run is in progress")
	require.Contains(t, c.remove(fmt.Sprintf("%s/runs/%d", joinPath, number), http.StatusConflict), "A run is in progress")
	c.ended(number)
	var v struct{ Findings []struct{ ID string } }
	require.Equal(t, http.StatusOK, c.get(fmt.Sprintf("%s/runs/%d/findings", joinPath, number), &v))
	at := fmt.Sprintf("%s/runs/%d/findings/%s", joinPath, number, v.Findings[0].ID)
	c.change(at, at+"/triage", map[string]any{"state": "fixed"}, http.StatusOK)
	c.editCases(map[string]any{"edits": []any{map[string]any{"case": "join/terms.unticked/http", "skip": "not now"}}}, http.StatusOK)

	// a copy has the rules, and nothing that was run
	c.post(joinPath+"/duplicate", map[string]any{"id": "join_again", "title": "Join again"}, http.StatusCreated, nil)
	require.Contains(t, c.post(joinPath+"/duplicate", map[string]any{"id": "join_again", "title": "Join again"}, http.StatusConflict, nil), "has a form join_again already")
	var copied, kept store.Holdings
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/forms/join_again/holdings", &copied))
	require.Equal(t, store.Holdings{Forms: 1, Revisions: 1}, copied)
	require.Equal(t, http.StatusOK, c.get(joinPath+"/holdings", &kept))
	require.Equal(t, 1, kept.Runs)
	require.Equal(t, 1, kept.Triages)
	require.NotZero(t, kept.CaseEdits)

	// it moves with all of that
	c.post("/api/sites", map[string]any{"id": "other", "title": "Other", "address": "http://127.0.0.1:1"}, http.StatusOK, nil)
	c.post(joinPath+"/move", map[string]any{"to": "other"}, http.StatusNoContent, nil)
	require.Equal(t, http.StatusNotFound, c.get(joinPath, nil))
	var moved store.Holdings
	require.Equal(t, http.StatusOK, c.get("/api/sites/other/forms/join/holdings", &moved))
	require.Equal(t, kept, moved)
	require.Contains(t, c.post("/api/sites/ost/forms/join_again/move", map[string]any{"to": "none"}, http.StatusNotFound, nil), "There is no site none")
	c.post("/api/sites/other/forms/join/duplicate", map[string]any{"id": "join_again", "title": "Join again"}, http.StatusCreated, nil)
	require.Contains(t, c.post("/api/sites/ost/forms/join_again/move", map[string]any{"to": "other"}, http.StatusConflict, nil), "has a form join_again already")

	// a run goes alone, a form with all of its own, a site with its forms
	c.remove(fmt.Sprintf("/api/sites/other/forms/join/runs/%d", number), http.StatusNoContent)
	require.Equal(t, http.StatusNotFound, c.get(fmt.Sprintf("/api/sites/other/forms/join/runs/%d", number), nil))
	c.remove(fmt.Sprintf("/api/sites/other/forms/join/runs/%d", number), http.StatusNotFound)
	c.remove("/api/sites/other/forms/join", http.StatusNoContent)
	require.Equal(t, http.StatusNotFound, c.get("/api/sites/other/forms/join", nil))
	var whole store.Holdings
	require.Equal(t, http.StatusOK, c.get("/api/sites/other/holdings", &whole))
	require.Equal(t, store.Holdings{Forms: 1, Revisions: 1}, whole)
	c.remove("/api/sites/other", http.StatusNoContent)
	require.Equal(t, http.StatusNotFound, c.get("/api/sites/other/settings", nil))
	require.Equal(t, http.StatusOK, c.get("/api/sites/ost/forms/join_again", nil), "the copy on the first site is untouched")
	for table, left := range map[string]int{"runs": 0, "results": 0, "evidence": 0, "attempts": 0, "finding_triage": 0, "case_edits": 0, "sites": 1, "forms": 1} {
		var n int
		require.NoError(t, c.store.DB().QueryRow("SELECT COUNT(*) FROM "+table).Scan(&n))
		require.Equal(t, left, n, table)
	}
}

// TestAFormOfAJourneyStays: the journey would lead nowhere without it.
func TestAFormOfAJourneyStays(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	ctx := t.Context()
	sites, err := c.store.Sites(ctx)
	require.NoError(t, err)
	document, err := c.store.SiteDocument(ctx, sites[0].ID)
	require.NoError(t, err)
	document.Journeys = []spec.Journey{{ID: "joining", Title: "Joining", Steps: []spec.JourneyStep{{Submit: "join"}}}}
	_, err = c.store.PutSite(ctx, document, nil)
	require.NoError(t, err)
	require.Contains(t, c.remove(joinPath, http.StatusConflict), "The journey “Joining” submits this form.")
}

func (c *client) remove(path string, status int) string {
	is, _, body := c.send(http.MethodDelete, path, nil)
	require.Equal(c.t, status, is, "%s: %s", path, body)
	return string(body)
}
