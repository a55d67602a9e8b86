package attempt

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// asked is a database that tells of each look-up.
type asked struct {
	target.Database
	lookedUp chan string
	all      atomic.Int32
}

func (d *asked) LookUp(ctx context.Context, l submission.Lookup, same func(a, b string) bool) (bool, error) {
	d.all.Add(1)
	found, err := d.Database.LookUp(ctx, l, same)
	select {
	case d.lookedUp <- l.Value:
	default:
	}
	return found, err
}

// boats is a run of a small site where a name can be taken once, and the case that sends a name twice. page is called before the form is
// shown; what it moors is told by sent.
func boats(t *testing.T, refuses bool, page func()) (run *target.Target, twice *testcase.Case, sent *atomic.Int32) {
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE boats (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40))")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	sent = &atomic.Int32{}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodGet {
			page()
			fmt.Fprint(w, "<form method=post><label>Name <input name=name></label></form>")
			return
		}
		sent.Add(1)
		name := r.PostFormValue("name")
		var held int
		if refuses || db.QueryRow("SELECT COUNT(*) FROM boats WHERE name = ?", name).Scan(&held) != nil || held > 0 {
			fmt.Fprintf(w, "<form method=post><label>Name <input name=name value=%q></label><p class=error>A boat of this name is moored here.</p></form>", name)
			return
		}
		if _, err := db.Exec("INSERT INTO boats (name) VALUES (?)", name); err != nil {
			t.Error(err)
		}
		fmt.Fprint(w, "<p role=status>Moored.</p>")
	}))
	t.Cleanup(server.Close)
	form, err := spec.ReadForm("boat.yaml", []byte("form: boat\npage: /\nfields: [{name: name, rules: [{unique: {column: boats.name, message: A boat of this name is moored here.}}]}]\naccepted: {status: 200, reply: Moored.}\nrejected: {status: 200}\nstored: [{insert: boats, columns: {name: {from: name}}}]\n"))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	cases, _ := d.Cases(testcase.Standard)
	at := slices.IndexFunc(cases, func(c *testcase.Case) bool { return c.ID == "boat/name.unique.same/http" })
	require.GreaterOrEqual(t, at, 0)
	run, err = target.Open(t.Context(), target.Config{Site: &spec.Site{Address: server.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	t.Cleanup(run.Close)
	return run, cases[at], sent
}

// TestValuesAreLookedUpWhileThePageOpens: this site's page waits for it. Nothing is looked up twice but what is tried again.
func TestValuesAreLookedUpWhileThePageOpens(t *testing.T) {
	t.Parallel()
	lookedUp := make(chan string, 2)
	lookedUp <- "" // a run opens the page twice before it begins
	lookedUp <- ""
	run, twice, _ := boats(t, false, func() {
		select {
		case <-lookedUp:
		case <-time.After(10 * time.Second):
			t.Error("nothing was looked up while the page was on its way")
		}
	})
	counted := &asked{Database: run.Databases[0], lookedUp: lookedUp}
	run.Databases[0] = counted
	require.NoError(t, run.Databases.Begin(t.Context()))
	counted.all.Store(0)

	result := perform(t.Context(), run, twice, 1, true)
	require.Equal(t, judge.AsExpected, result.Verdict, result.Headline)
	require.Len(t, result.Steps, 2, "the value once, and once more, which is found in the table")
	require.EqualValues(t, 2, counted.all.Load())
}

// TestNothingIsSentThatHasNothingToStandOn: where the first name is refused, it says nothing that the second is too. This is known
// whether the first is judged while the second page opens, or before.
func TestNothingIsSentThatHasNothingToStandOn(t *testing.T) {
	t.Parallel()
	run, twice, sent := boats(t, true, func() {})
	require.NoError(t, run.Databases.Begin(t.Context()))
	for i, watched := range []bool{true, false} {
		result := perform(t.Context(), run, twice, 1+i, watched)
		require.Equal(t, judge.Odd, result.Verdict, result.Headline)
		require.Len(t, result.Steps, 1)
		require.NotNil(t, result.Steps[0].Observation.After, "the answer was read")
		require.EqualValues(t, 1+i, sent.Load())
	}
}
