package engine_test

import (
	"context"
	"maps"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/examples"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice/sheds"

	"github.com/stretchr/testify/require"
)

// shedsProject is the project of the second practice site, with the site running and some faults.
func shedsProject(t testing.TB, faults ...string) *spec.Project {
	dsn := dbtest.DSN(t)
	site, err := sheds.Open(context.Background(), sheds.Config{DSN: dsn, Faults: faults})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(false))
	t.Cleanup(server.Close)
	documents, err := examples.Documents(examples.Sheds)
	require.NoError(t, err)
	var files []spec.File
	for _, name := range slices.Sorted(maps.Keys(documents)) {
		files = append(files, spec.File{Name: name, Text: documents[name]})
	}
	project, err := spec.ReadProject(files)
	require.NoError(t, err)
	project.Site.Address, project.Site.Databases[0].DSN = server.URL, dsn
	return project
}

// TestAFaultlessPageMadeByScriptsGivesNoOddTick: a dialog, steps, controls found by role and label, and JSON with a bearer token.
func TestAFaultlessPageMadeByScriptsGivesNoOddTick(t *testing.T) {
	for _, form := range []string{"keys", "build", "details", "enter"} {
		t.Run(form, func(t *testing.T) {
			t.Parallel()
			results := runForm(t, shedsProject(t), form, testcase.Quick, inBoth, never)
			require.Empty(t, strings.Join(oddOnes(results), "\n"))
			inBrowser := 0
			for id, r := range results {
				require.NotEqual(t, judge.NotObserved, r.Verdict, "%s: %s", id, r.Headline)
				if strings.HasSuffix(id, "/browser") && r.Verdict == judge.AsExpected {
					inBrowser++
				}
			}
			if form == "keys" || form == "build" { // the others' browser cases are of greater depth
				require.NotZero(t, inBrowser)
			}
		})
	}
}

// TestTokensAreNoEvidence: an answer that signs somebody in is kept without what it signs them in with.
func TestTokensAreNoEvidence(t *testing.T) {
	t.Parallel()
	results := runForm(t, shedsProject(t), "enter", testcase.Quick, func(c *testcase.Case) bool { return c.ID == "enter/form.usual/http" }, never)
	r := results["enter/form.usual/http"]
	require.Equal(t, judge.AsExpected, r.Verdict, r.Headline)
	o := r.Steps[0].Observation
	require.Regexp(t, `"access":"•{32}"`, o.Exchanges[0].Body)
	require.Regexp(t, `"refresh":"•{32}"`, o.Exchanges[0].Body)
	for _, text := range o.After.Texts {
		require.NotRegexp(t, `[0-9a-f]{32}`, text.Text)
	}
}

// onlyOnThePage are faults of the page's scripts, which nobody sees over HTTP.
var onlyOnThePage = []string{
	"keys-day-shifted", "keys-taken-silent", "keys-message-stays", "keys-thanks-early", "keys-message-untied", "keys-message-faint", "keys-twice", "keys-network-silent", "keys-button-dead",
	"build-step-lost", "build-back-lost", "build-back-blank", "build-summary-silent", "details-saved-early",
}

// TestEveryFaultOfSheds: with one fault on, the check that its table names is odd.
func TestEveryFaultOfSheds(t *testing.T) {
	slots := make(chan struct{}, 3)
	for _, fault := range sheds.Faults {
		t.Run(fault.Name, func(t *testing.T) {
			t.Parallel()
			slots <- struct{}{}
			defer func() { <-slots }()
			onPage := slices.Contains(onlyOnThePage, fault.Name)
			shows := func(r *report.Result) bool {
				for i, v := range r.Checks {
					if v == judge.Odd && string(judge.Checks[i]) == fault.Check {
						return true
					}
				}
				return false
			}
			found := false
			for _, r := range runForm(t, shedsProject(t, fault.Name), fault.Form, testcase.Standard, func(c *testcase.Case) bool { return c.InBrowser() == onPage }, shows) {
				found = found || shows(r)
			}
			require.True(t, found, "no odd part in %s", fault.Check)
		})
	}
}
