package engine_test

import (
	"database/sql"
	"net/http/httptest"
	"os"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/testcase"
	"oddtick/engine/testdata/skerry"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

func skerryFile(t testing.TB, name string) string {
	text, err := os.ReadFile("testdata/skerry/" + name)
	require.NoError(t, err)
	return string(text)
}

// TestFaultsOfASiteOfOtherConventions: none odd without a fault, each fault odd in its check; only the specification is the site's own.
func TestFaultsOfASiteOfOtherConventions(t *testing.T) {
	t.Parallel()
	forms := map[string]string{}
	for _, name := range []string{"passenger", "crossing", "notice"} {
		forms[name] = skerryFile(t, name+".yaml")
	}
	for fault, c := range map[string]struct {
		form  string
		check judge.CheckName
	}{
		"":                 {},
		"name-long":        {"passenger", judge.Outcome},
		"mail-case":        {"passenger", judge.StoredData},
		"untrimmed":        {"passenger", judge.StoredData},
		"misplaced":        {"passenger", judge.Messages},
		"cabin":            {"passenger", judge.Outcome},
		"no-uuid":          {"passenger", judge.StoredData},
		"taken-fails":      {"passenger", judge.Outcome},
		"status":           {"passenger", judge.Response},
		"pin-plain":        {"passenger", judge.Secrets},
		"no-credentials":   {"passenger", judge.StoredData},
		"seats-none":       {"crossing", judge.Outcome},
		"pointer":          {"crossing", judge.Messages},
		"answer-id":        {"crossing", judge.Response},
		"unreadable-fails": {"crossing", judge.Outcome},
		"inserts":          {"notice", judge.StoredData},
	} {
		t.Run(fault, func(t *testing.T) {
			t.Parallel()
			dsn := dbtest.DSN(t)
			dbtest.Exec(t, dsn, skerryFile(t, "tables.sql"))
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			defer db.Close()
			server := httptest.NewServer(skerry.Site(db, fault))
			defer server.Close()
			if fault == "" {
				for _, form := range forms {
					require.Empty(t, strings.Join(oddOnes(runSome(t, form, server.URL, dsn, testcase.Thorough, inBoth)), "\n"))
				}
				return
			}
			found := false
			for _, r := range runAll(t, forms[c.form], server.URL, dsn, testcase.Standard) {
				for i, v := range r.Checks {
					found = found || v == judge.Odd && judge.Checks[i] == c.check
				}
			}
			require.True(t, found, "no odd part in %s", c.check)
		})
	}
}
