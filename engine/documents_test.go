package engine_test

import (
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/testdata/ordinary"
	"oddtick/internal/localdb/mongotest"

	"github.com/stretchr/testify/require"
	"go.mongodb.org/mongo-driver/v2/bson"
)

// TestASiteThatKeepsDocuments is judged by its documents, as another is by its rows.
func TestASiteThatKeepsDocuments(t *testing.T) {
	t.Parallel()
	dsn, db := mongotest.DSN(t)
	_, err := db.Collection("nets").InsertOne(t.Context(), bson.M{"tag": "eel", "mesh": bson.M{"mm": int32(12)}, "tarred": true, "made": bson.NewDateTimeFromTime(time.Now())})
	require.NoError(t, err)
	run := func(fault string) (odd []string, checks map[judge.CheckName]bool) {
		_, err := db.Collection("nets").DeleteMany(t.Context(), bson.M{"tag": bson.M{"$ne": "eel"}}) // short tags are soon all taken
		require.NoError(t, err)
		server := httptest.NewServer(ordinary.Nets(db, fault))
		defer server.Close()
		project, err := spec.ReadProject([]spec.File{{Name: "nets.yaml", Text: ordinary.NetsDocument()}})
		require.NoError(t, err)
		project.Site.Address, project.Site.Databases[0].DSN = server.URL, dsn
		results, checks := runProject(t, project, testcase.Standard, OverHTTP), map[judge.CheckName]bool{}
		for _, r := range results {
			for i, v := range r.Checks {
				checks[judge.Checks[i]] = checks[judge.Checks[i]] || v == judge.Odd
			}
		}
		return oddOnes(results), checks
	}
	for range rounds("ODDTICK_STANDARD", 1) {
		odd, _ := run("")
		require.Empty(t, strings.Join(odd, "\n"))
	}
	for fault, check := range ordinary.NetsFaults {
		odd, checks := run(fault)
		require.True(t, checks[judge.CheckName(check)], "%s: no odd part in %s\n%s", fault, check, strings.Join(odd, "\n"))
	}
}
