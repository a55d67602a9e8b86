package server_test

import (
	"net/http"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestPlacesAreListed: sites, forms, fields and the latest findings, each with where it is.
func TestPlacesAreListed(t *testing.T) {
	t.Parallel()
	c := start(t, "username-cut")
	require.Equal(t, http.StatusUnauthorized, c.get("/api/places", nil))
	c.signIn()
	c.keep("form: broken\npage: /x\nfields: [{name: a, kind: number, rules: [{range: {min: 3, max: 1}}]}]\n")
	c.ended(c.run(map[string]any{"depth": "quick"}))
	var all []struct{ Kind, Site, Form, ID, Text, In string }
	require.Equal(t, http.StatusOK, c.get("/api/places", &all))
	kinds := map[string]int{}
	for _, p := range all {
		kinds[p.Kind]++
		if p.Kind == "field" && p.ID == "username" {
			require.Equal(t, "Username, Ostlewick · Join the association", p.Text+", "+p.In)
		}
		if p.Kind == "finding" {
			require.Contains(t, p.Text, "Username of 21 characters accepted")
			require.Equal(t, "join", p.Form)
		}
	}
	require.Equal(t, 1, kinds["site"])
	require.Equal(t, 2, kinds["form"], "one for which no cases can be designed is found too")
	require.Equal(t, 1, kinds["finding"])
	require.GreaterOrEqual(t, kinds["field"], 11)
}
