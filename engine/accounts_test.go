package engine_test

import (
	"context"
	"net/http/httptest"
	"os"
	"path/filepath"
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
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

// ostlewickProject is the practice site's project, with the site running, its accounts and some faults.
func ostlewickProject(t testing.TB, faults ...string) *spec.Project {
	return ostlewickWith(t, "", faults...)
}

// ostlewickWith gives the site's mails to a receiver.
func ostlewickWith(t testing.TB, mails string, faults ...string) *spec.Project {
	return ostlewickBy(t, practice.Config{Mail: mails, Faults: faults})
}

func ostlewickBy(t testing.TB, c practice.Config) *spec.Project {
	dsn := dbtest.DSN(t)
	server := httptest.NewUnstartedServer(nil)
	c.DSN, c.HashCost, c.Accounts, c.Public = dsn, 8, true, "http://"+server.Listener.Addr().String()
	site, err := practice.Open(context.Background(), c)
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server.Config.Handler = site.Handler(false)
	server.Start()
	t.Cleanup(server.Close)
	names, err := filepath.Glob("../examples/ostlewick/*.yaml")
	require.NoError(t, err)
	var files []spec.File
	for _, name := range names {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		files = append(files, spec.File{Name: filepath.Base(name), Text: text})
	}
	project, err := spec.ReadProject(files)
	require.NoError(t, err)
	project.Site.Address, project.Site.Databases[0].DSN = server.URL, dsn
	return project
}

// runForm runs some of the cases of a project's form, until one gives what is looked for.
func runForm(t testing.TB, project *spec.Project, form string, depth testcase.Depth, pick func(*testcase.Case) bool, found func(*report.Result) bool) map[string]*report.Result {
	var d *design.Designer
	for _, f := range project.Forms {
		if f.Form != form {
			continue
		}
		p, err := f.Prepare()
		require.NoError(t, err)
		d, err = design.New(p, project.Site)
		require.NoError(t, err)
	}
	require.NotNil(t, d, form)
	all, omitted := d.Cases(depth)
	for _, o := range omitted {
		if strings.HasSuffix(o.About, ".corrected/browser") {
			continue // a rule without a text has none to be told by
		}
		require.Equal(t, "sign_in/form.lock_released/http", o.About, "the lock of the practice site lasts longer than a run waits")
	}
	var cases []*testcase.Case
	for _, c := range all {
		if pick(c) {
			cases = append(cases, c)
		}
	}
	run, err := target.Open(context.Background(), target.Config{Site: project.Site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	sink := &schedule.Collected{}
	sink.OnDone = func(r *report.Result) {
		if found(r) {
			stop()
		}
	}
	if err := schedule.Execute(ctx, run, sink, nil); err != nil {
		require.ErrorIs(t, err, context.Canceled)
	}
	results := map[string]*report.Result{}
	for _, c := range cases {
		if r := sink.Result(c.ID); r != nil {
			results[c.ID] = r
		}
	}
	return results
}

func never(*report.Result) bool { return false }

// accountForms are the forms of the practice site that belong to accounts.
var accountForms = []string{"sign_in", "me", "password", "wishes"}

func TestFormsOfAccountsGiveNoOddTick(t *testing.T) {
	t.Parallel()
	for _, form := range accountForms {
		t.Run(form, func(t *testing.T) {
			t.Parallel()
			project := ostlewickProject(t)
			for range 2 { // the second finds what the first has left
				results := runForm(t, project, form, testcase.Thorough, func(c *testcase.Case) bool { return !c.InBrowser() }, never)
				require.Empty(t, strings.Join(oddOnes(results), "\n"))
				for id, r := range results {
					require.NotEqual(t, judge.NotObserved, r.Verdict, "%s: %s", id, r.Headline)
				}
			}
		})
	}
}

// TestAnAccountIsLetInAgain waits as long as a lock is promised to last.
func TestAnAccountIsLetInAgain(t *testing.T) {
	t.Parallel()
	for lasts, want := range map[time.Duration]judge.Verdict{time.Second: judge.AsExpected, time.Hour: judge.Odd} {
		project := ostlewickBy(t, practice.Config{LockFor: lasts})
		for _, f := range project.Forms {
			if f.Form == "sign_in" {
				f.Accepted.Session.Lock.Released = "1s"
				f.Accepted.Session.Lock.Message = nil
			}
		}
		results := runForm(t, project, "sign_in", testcase.Standard, func(c *testcase.Case) bool { return c.ID == "sign_in/form.lock_released/http" }, never)
		require.Len(t, results, 1)
		for _, r := range results {
			require.Equal(t, want, r.Verdict, r.Headline)
		}
	}
}
