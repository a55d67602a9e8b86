package engine_test

import (
	"context"
	"database/sql"
	"fmt"
	"maps"
	"net/http/httptest"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/engine/testdata/ordinary"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

// ordinarySite serves a family with one fault, and returns its project with where it is.
func ordinarySite(t testing.TB, family *ordinary.Family, fault string) *spec.Project {
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, family.Tables())
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	mails := t.TempDir()
	server := httptest.NewServer(family.Open(db, fault, mails))
	t.Cleanup(server.Close)
	project, err := spec.ReadProject([]spec.File{{Name: family.Name + ".yaml", Text: family.Document()}})
	require.NoError(t, err)
	project.Site.Address = server.URL
	project.Site.Databases[0].DSN = dsn
	if project.Site.Mail != nil {
		project.Site.Mail.Folder = mails
	}
	return project
}

// runProject runs some cases of a project's only form.
func runProject(t testing.TB, project *spec.Project, depth testcase.Depth, pick func(*testcase.Case) bool) map[string]*report.Result {
	p, err := project.Forms[0].Prepare()
	require.NoError(t, err)
	d, err := design.New(p, project.Site)
	require.NoError(t, err)
	all, _ := d.Cases(depth)
	made, _ := target.Drivable(all)
	cases := slices.DeleteFunc(made, func(c *testcase.Case) bool { return !pick(c) })
	run, err := target.Open(context.Background(), target.Config{Site: project.Site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	require.Zero(t, sink.Foreign)
	out := map[string]*report.Result{}
	for _, c := range cases {
		out[c.ID] = sink.Result(c.ID)
		require.NotNil(t, out[c.ID], c.ID)
	}
	return out
}

// rounds is how often each is run; make test runs each once.
func rounds(variable string, usual int) int {
	if n, err := strconv.Atoi(os.Getenv(variable)); err == nil {
		return n
	}
	return usual
}

func OverHTTP(c *testcase.Case) bool { return !c.InBrowser() }

// TestOrdinaryHabitsAreNotOdd: sites that are right in every respect, and unlike the practice site.
func TestOrdinaryHabitsAreNotOdd(t *testing.T) {
	t.Parallel()
	for i := range ordinary.Families {
		family := &ordinary.Families[i]
		t.Run(family.Name, func(t *testing.T) {
			t.Parallel()
			project := ordinarySite(t, family, "")
			for _, way := range []struct {
				name  string
				times int
				depth testcase.Depth
				pick  func(*testcase.Case) bool
			}{
				{"standard", rounds("ODDTICK_STANDARD", 1), testcase.Standard, OverHTTP},
				{"thorough", rounds("ODDTICK_THOROUGH", 0), testcase.Thorough, OverHTTP},
				{"browser", rounds("ODDTICK_BROWSER", 1), testcase.Standard, (*testcase.Case).InBrowser},
			} {
				for range way.times {
					results := runProject(t, project, way.depth, way.pick)
					maps.DeleteFunc(results, func(_ string, r *report.Result) bool { return r.Verdict == judge.DoesNotApply })
					require.Empty(t, strings.Join(oddOnes(results), "\n"))
					t.Logf("%s, %s: %d cases", family.Name, way.name, len(results))
				}
			}
		})
	}
}

// TestFaultsOfOrdinarySites: each of their own faults is odd in its check.
func TestFaultsOfOrdinarySites(t *testing.T) {
	t.Parallel()
	for i := range ordinary.Families {
		family := &ordinary.Families[i]
		for fault, check := range family.Faults {
			t.Run(fmt.Sprint(family.Name, "/", fault), func(t *testing.T) {
				t.Parallel()
				found, driven := false, OverHTTP
				if family.InBrowser {
					driven = (*testcase.Case).InBrowser
				}
				for _, r := range runProject(t, ordinarySite(t, family, fault), testcase.Standard, driven) {
					for i, v := range r.Checks {
						found = found || v == judge.Odd && string(judge.Checks[i]) == check
					}
				}
				require.True(t, found, "no odd part in %s", check)
			})
		}
	}
}

// TestAPageBehindASignInIsReadByWhoSignsIn; who does not is told where it leads.
func TestAPageBehindASignInIsReadByWhoSignsIn(t *testing.T) {
	t.Parallel()
	i := slices.IndexFunc(ordinary.Families, func(f ordinary.Family) bool { return f.Name == "behind" })
	site := ordinarySite(t, &ordinary.Families[i], "").Site
	for _, scripts := range []bool{false, true} {
		text, at, err := target.FetchPage(t.Context(), site, "/yard/boat", "mara", scripts, "", 1<<20)
		require.NoError(t, err)
		require.Equal(t, site.Address+"/yard/boat", at)
		require.Contains(t, text, `name="boat"`)
		require.Contains(t, text, "Tern", "a cookie for one path only is held in the browser too")
	}
	_, _, err := target.FetchPage(t.Context(), site, "/yard/boat", "", false, "", 1<<20)
	require.ErrorContains(t, err, "leads to the sign-in page /in")
	_, _, err = target.FetchPage(t.Context(), site, "/yard/boat", "nobody", false, "", 1<<20)
	require.ErrorContains(t, err, "no account nobody")
}
