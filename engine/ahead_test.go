package engine

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/internal/localdb/dbtest"

	_ "github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
)

// asked is a database that tells of each look-up.
type asked struct {
	Database
	lookedUp chan string
	all      atomic.Int32
}

func (d *asked) LookUp(ctx context.Context, l oracle.LookUp, same func(a, b string) bool) (bool, error) {
	d.all.Add(1)
	found, err := d.Database.LookUp(ctx, l, same)
	select {
	case d.lookedUp <- l.Value:
	default:
	}
	return found, err
}

// TestValuesAreLookedUpWhileThePageOpens: this site's page waits for it. Nothing is looked up twice but what is tried again.
func TestValuesAreLookedUpWhileThePageOpens(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE boats (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40))")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	lookedUp := make(chan string, 1)
	lookedUp <- "" // a run opens the page once before it begins
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		name := r.PostFormValue("name")
		var held int
		switch {
		case r.Method == http.MethodGet:
			select {
			case <-lookedUp:
			case <-time.After(10 * time.Second):
				t.Error("nothing was looked up while the page was on its way")
			}
			fmt.Fprint(w, "<form method=post><label>Name <input name=name></label></form>")
		case db.QueryRow("SELECT COUNT(*) FROM boats WHERE name = ?", name).Scan(&held) != nil || held > 0:
			fmt.Fprintf(w, "<form method=post><label>Name <input name=name value=%q></label><p class=error>A boat of this name is moored here.</p></form>", name)
		default:
			if _, err := db.Exec("INSERT INTO boats (name) VALUES (?)", name); err != nil {
				t.Error(err)
			}
			fmt.Fprint(w, "<p role=status>Moored.</p>")
		}
	}))
	defer server.Close()
	form, err := spec.ReadForm("boat.yaml", []byte("form: boat\npage: /\nfields: [{name: name, rules: [{unique: {column: boats.name, say: A boat of this name is moored here.}}]}]\naccepted: {status: 200, reply: Moored.}\nrejected: {status: 200}\nstored: [{insert: boats, columns: {name: {from: name}}}]\n"))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	cases, _ := d.Cases(design.Standard)
	var twice *design.Case
	for _, c := range cases {
		if c.ID == "boat/name.unique.same/http" {
			twice = c
		}
	}
	require.NotNil(t, twice)
	run, err := Open(t.Context(), Config{Site: &spec.Site{Address: server.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	counted := &asked{Database: run.dbs[0], lookedUp: lookedUp}
	run.dbs[0] = counted
	require.NoError(t, run.dbs.begin(t.Context()))
	counted.all.Store(0)

	result := run.perform(t.Context(), twice, 1, true)
	require.Equal(t, judge.AsExpected, result.Verdict, result.Headline)
	require.Len(t, result.Steps, 2, "the value once, and once more, which is found in the table")
	require.EqualValues(t, 2, counted.all.Load())
}
