package engine_test

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

func joinText(t testing.TB) string { return exampleText(t, "join") }

func exampleText(t testing.TB, form string) string {
	text, err := os.ReadFile("../examples/ostlewick/" + form + ".yaml")
	require.NoError(t, err)
	return string(text)
}

// ostlewick starts the practice site with faults.
func ostlewick(t testing.TB, faults ...string) (address, dsn string) {
	dsn = dbtest.DSN(t)
	site, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: faults, HashCost: 8})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(false))
	t.Cleanup(server.Close)
	return server.URL, dsn
}

func TestFaultlessSiteGivesNoOddTick(t *testing.T) {
	t.Parallel()
	for _, form := range []string{"join", "harvest", "help", "booking"} {
		t.Run(form, func(t *testing.T) {
			t.Parallel()
			address, dsn := ostlewick(t)
			require.Empty(t, strings.Join(oddOnes(runSome(t, exampleText(t, form), address, dsn, testcase.Thorough, inBoth)), "\n"))
			// a second run must not collide with the first's rows
			require.Empty(t, strings.Join(oddOnes(runAll(t, exampleText(t, form), address, dsn, testcase.Thorough)), "\n"))
		})
	}
}

// TestEveryPlantedFaultIsFound: with one fault on, the check that its table names is odd, and nothing is left unobserved.
func TestEveryPlantedFaultIsFound(t *testing.T) {
	t.Parallel()
	slots := make(chan struct{}, 4)
	for _, fault := range practice.Faults {
		t.Run(fault.Name, func(t *testing.T) {
			t.Parallel()
			if fault.Form == "access" || fault.Form == "confirm" {
				t.Skip("no fault of one form alone: see the tests of access and journeys")
			}
			slots <- struct{}{}
			defer func() { <-slots }()
			shows := func(r *report.Result) bool {
				for i, v := range r.Checks {
					if v == judge.Odd && string(judge.Checks[i]) == fault.Check {
						return true
					}
				}
				return false
			}
			found := false
			pick := func(c *testcase.Case) bool { return !c.InBrowser() }
			if fault.Form == "help" { // what its script does is seen in a browser only
				pick = inBoth
			}
			for _, r := range runForm(t, ostlewickProject(t, fault.Name), fault.Form, testcase.Standard, pick, shows) {
				require.NotEqual(t, judge.NotObserved, r.Verdict, r.Case)
				found = found || shows(r)
			}
			require.True(t, found, "no odd part in %s", fault.Check)
		})
	}
}

// opened is a run that is ready to go, on the practice site.
func opened(t testing.TB, address, dsn, form string, pick func(*testcase.Case) bool) (*target.Target, []*testcase.Case) {
	d := designerOf(t, form)
	designed, _ := d.Cases(testcase.Standard)
	all, _ := target.Drivable(designed)
	var cases []*testcase.Case
	for _, c := range all {
		if pick == nil && !c.InBrowser() || pick != nil && pick(c) {
			cases = append(cases, c)
		}
	}
	run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	t.Cleanup(run.Close)
	return run, cases
}

// diary is a sink that writes down all it is told.
type diary struct {
	mu      sync.Mutex
	begun   []string
	done    map[string][]*report.Result
	foreign []observation.Change
	onBegin func(id string)
}

func (d *diary) Begin(id string, attempt int) error {
	d.mu.Lock()
	d.begun = append(d.begun, fmt.Sprintf("%s %d", id, attempt))
	d.mu.Unlock()
	if d.onBegin != nil {
		d.onBegin(id)
	}
	return nil
}

func (d *diary) Done(r *report.Result) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.done == nil {
		d.done = map[string][]*report.Result{}
	}
	d.done[r.Case] = append(d.done[r.Case], r)
	return nil
}

func (d *diary) Interference(c []observation.Change) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.foreign = append(d.foreign, c...)
}

// TestEveryChangeHasOneCause: cases that should write nothing go in a batch; when one of them writes, all of the batch are made
// again one by one, and only that one shows the row.
func TestEveryChangeHasOneCause(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t, "username-cut")
	run, cases := opened(t, address, dsn, joinText(t), func(c *testcase.Case) bool { return c.Row == "username" && !c.Writes() })
	d := &diary{}
	require.NoError(t, schedule.Execute(context.Background(), run, d, nil))
	wrote := 0
	for _, c := range cases {
		require.Len(t, d.done[c.ID], 1, "each case has one result")
		r := d.done[c.ID][0]
		changes := r.Steps[0].Observation.Changes
		if len(changes) > 0 {
			wrote++
			require.Equal(t, "join/username.length.max+1/http", c.ID)
			require.Len(t, changes, 1)
		}
		require.Contains(t, d.begun, fmt.Sprintf("%s %d", c.ID, r.Attempt), "an attempt is written before its result")
	}
	require.Equal(t, 1, wrote)
	require.Contains(t, d.begun, "join/username.length.max+1/http 2")
	require.Empty(t, d.foreign)
}

func TestRowsByOthersAreInterference(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	run, _ := opened(t, address, dsn, joinText(t), func(c *testcase.Case) bool { return strings.HasPrefix(c.ID, "join/plots.range.m") && c.Writes() })
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("INSERT INTO allotment_areas VALUES ('xtra', 'Another')")
	require.NoError(t, err)
	d := &diary{}
	require.NoError(t, schedule.Execute(context.Background(), run, d, nil))
	require.Len(t, d.foreign, 1)
	for id, results := range d.done {
		require.Equal(t, judge.AsExpected, results[0].Verdict, id)
	}
}

func TestStoppingFinishesWhatIsUnderWay(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	run, cases := opened(t, address, dsn, joinText(t), nil)
	ctx, stop := context.WithCancel(context.Background())
	d := &diary{onBegin: func(id string) {
		if id == "join/username.valid/http" {
			stop()
		}
	}}
	require.ErrorIs(t, schedule.Execute(ctx, run, d, nil), context.Canceled)
	require.Len(t, d.done["join/username.valid/http"], 1, "the case under way has its result")
	require.Less(t, len(d.done), len(cases))
	for _, begun := range d.begun {
		id := strings.Fields(begun)[0]
		require.NotEmpty(t, d.done[id], "%s was begun and has no result", id)
	}
}

func TestCasesAlreadyDoneAreNotSubmittedAgain(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	run, cases := opened(t, address, dsn, joinText(t), func(c *testcase.Case) bool { return c.Row == "plots" })
	done := map[string]bool{}
	for _, c := range cases[1:] {
		done[c.ID] = true
	}
	d := &diary{}
	require.NoError(t, schedule.Execute(context.Background(), run, d, done))
	require.Equal(t, []string{cases[0].ID + " 1"}, d.begun)
}

func TestWhenNoUnusedValueIsLeftItIsSaid(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	dbtest.Exec(t, dsn, "INSERT INTO plot_holders (login_name, mail, pass_hash, membership, born, plots_wanted, agreed, agreed_at) SELECT CONCAT('u', seq), CONCAT('u', seq, '@x.test'), 'x', CONCAT('OS-', LPAD(seq, 4, '0')), '1990-01-01', 1, 1, NOW() FROM seq_0_to_9999")
	run, _ := opened(t, address, dsn, joinText(t), func(c *testcase.Case) bool { return c.ID == "join/membership.valid/http" })
	d := &diary{}
	require.NoError(t, schedule.Execute(context.Background(), run, d, nil))
	r := d.done["join/membership.valid/http"][0]
	require.Equal(t, judge.NotObserved, r.Verdict)
	require.EqualValues(t, "Not observed: no unused value left for Membership number: each of the 40 values tried already exists in plot_holders.membership", r.Headline)
}

func TestASiteThatGoesAwayIsNotCountedAsPassed(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	site, err := practice.Open(context.Background(), practice.Config{DSN: dsn, HashCost: 8})
	require.NoError(t, err)
	defer site.Close()
	server := httptest.NewServer(site.Handler(false))
	run, cases := opened(t, server.URL, dsn, joinText(t), func(c *testcase.Case) bool { return c.Row == "plots" })
	server.Close()
	d := &diary{}
	require.NoError(t, schedule.Execute(context.Background(), run, d, nil))
	for _, c := range cases {
		require.Equal(t, judge.NotObserved, d.done[c.ID][0].Verdict)
		require.Contains(t, d.done[c.ID][0].Headline, "the page cannot be opened")
	}
}

// TestWhatMustHoldBeforehand: each obstacle is named with its place and remedy before anything is submitted.
func TestWhatMustHoldBeforehand(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	nothing := httptest.NewServer(http.NotFoundHandler())
	defer nothing.Close()
	away := httptest.NewServer(http.RedirectHandler("http://elsewhere.invalid/join", http.StatusFound))
	defer away.Close()
	plain := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<p>no form</p>") }))
	defer plain.Close()
	search := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<form><input name=q></form>") }))
	defer search.Close()
	join := joinText(t)
	for name, c := range map[string]struct{ address, form, dsn, says string }{
		"no address":       {"site", join, dsn, `the site's address "site" must begin with http:// or https://`},
		"site down":        {"http://127.0.0.1:1", join, dsn, "does not answer"},
		"no such page":     {nothing.URL, join, dsn, "the page /join answers with status 404; correct page:"},
		"leads away":       {away.URL, join, dsn, "is not among the site's allowed addresses; add the host under allowed:"},
		"no form":          {plain.URL, join, dsn, "the page /join holds no form ("},
		"another form":     {search.URL, join, dsn, "holds no form with these fields; its forms have: q"},
		"field not there":  {address, strings.Replace(join, "name: plots\n", "name: plot_count\n", 1), dsn, "has no control for plots (request name plot_count); its names are: _token, ref, username"},
		"token not there":  {address, strings.Replace(join, "token: _token", "token: csrf", 1), dsn, "has no token named csrf"},
		"no such table":    {address, strings.ReplaceAll(join, "insert: plot_holders", "insert: holders"), dsn, "stored[0]: the database has no watched table holders; there are: allotment_areas, "},
		"no such column":   {address, strings.Replace(join, "role: {is: holder}", "rank: {is: holder}", 1), dsn, "stored[0]: the database has no column plot_holders.rank"},
		"unique elsewhere": {address, strings.Replace(join, "plot_holders.mail", "plot_holders.email", 1), dsn, "the rule email.unique: the database has no column plot_holders.email"},
		"database down":    {address, join, "root@tcp(127.0.0.1:1)/x", "cannot be reached"},
		"wrong password":   {address, join, "nobody:wrong@" + strings.TrimPrefix(dsn, "root@"), "refuses the user or the password; correct them in the DSN"},
		"no such database": {address, join, dsn + "x", "has no database"},
		"no data source":   {address, join, "nonsense", "cannot be read; write it like user:password@tcp"},
	} {
		d := designerOf(t, c.form)
		_, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: c.address, Databases: []spec.Database{{ID: "main", DSN: c.dsn}}}, Designer: d})
		var cannot *target.CannotRunError
		require.ErrorAs(t, err, &cannot, name)
		require.ErrorContains(t, err, c.says, name)
	}
}
