package engine_test

import (
	"context"
	"database/sql"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"
	"oddtick/internal/localdb/pgtest"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

// joinColumns are those of the Join form's table.
const joinColumns = "id, login_name, mail, pass_hash, membership, born, plots_wanted, heard_code, agreed, agreed_at, referral, role, confirmed_at"

// holders are the rows of the Join form's table, as texts; nil is NULL.
func holders(t testing.TB, db *sql.DB, after int) [][]*string {
	rows, err := db.Query("SELECT "+joinColumns+" FROM plot_holders WHERE id > ? ORDER BY id", after)
	require.NoError(t, err)
	defer rows.Close()
	var out [][]*string
	for rows.Next() {
		row := make([]*string, 13)
		into := make([]any, len(row))
		for i := range row {
			into[i] = &row[i]
		}
		require.NoError(t, rows.Scan(into...))
		out = append(out, row)
	}
	require.NoError(t, rows.Err())
	return out
}

// mirror copies what the site writes into the same table of another server, before the site answers.
type mirror struct {
	http.Handler
	t      testing.TB
	from   *sql.DB
	insert func(row []any)
	mu     sync.Mutex
	copied int
}

func (m *mirror) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodPost {
		m.Handler.ServeHTTP(w, r)
		return
	}
	m.mu.Lock()
	defer m.mu.Unlock()
	rec := httptest.NewRecorder()
	m.Handler.ServeHTTP(rec, r)
	for _, row := range holders(m.t, m.from, m.copied) {
		values := make([]any, len(row))
		for i, v := range row {
			if v != nil {
				values[i] = *v
			}
		}
		m.insert(values)
		_, err := fmt.Sscan(*row[0], &m.copied)
		require.NoError(m.t, err)
	}
	for name, list := range rec.Header() {
		w.Header()[name] = list
	}
	w.WriteHeader(rec.Code)
	_, _ = w.Write(rec.Body.Bytes())
}

// exporting offers the table as CSV and as JSON.
type exporting struct {
	http.Handler
	t    testing.TB
	from *sql.DB
}

func (e exporting) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	names := strings.Split(joinColumns, ", ")
	switch r.URL.Path {
	case "/export/holders.csv":
		out := csv.NewWriter(w)
		_ = out.Write(names)
		for _, row := range holders(e.t, e.from, 0) {
			line := make([]string, len(row))
			for i, v := range row {
				if v != nil {
					line[i] = *v
				}
			}
			_ = out.Write(line)
		}
		out.Flush()
	case "/export/holders":
		list := []map[string]*string{}
		for _, row := range holders(e.t, e.from, 0) {
			object := map[string]*string{}
			for i, v := range row {
				object[names[i]] = v
			}
			list = append(list, object)
		}
		_ = json.NewEncoder(w).Encode(map[string]any{"rows": list})
	default:
		e.Handler.ServeHTTP(w, r)
	}
}

// onSchema is the Join form's table on another server.
func onSchema(key, stamp string) string {
	return "CREATE TABLE plot_holders (id " + key + ", login_name VARCHAR(20) NOT NULL, mail VARCHAR(190) NOT NULL, pass_hash VARCHAR(200) NOT NULL, membership VARCHAR(10), born DATE NOT NULL, plots_wanted SMALLINT NOT NULL, heard_code VARCHAR(40), agreed SMALLINT NOT NULL, agreed_at " + stamp + " NOT NULL, referral VARCHAR(20) NOT NULL DEFAULT '', role VARCHAR(20) NOT NULL DEFAULT 'holder', confirmed_at " + stamp + ")"
}

// TestTheJoinFormGivesTheSameVerdictsHoweverItsRowsAreRead: by MariaDB's binary log, on PostgreSQL and SQLite, from a JSON endpoint and
// from CSV; without a fault, and with some.
func TestTheJoinFormGivesTheSameVerdictsHoweverItsRowsAreRead(t *testing.T) {
	t.Parallel()
	faults := []string{"username-cut", "born-swapped", "terms-reversed", "membership-zeros", "username-case", "message-misplaced"}
	want := map[string]judge.Verdict{}
	for _, way := range []string{"mariadb", "postgresql", "sqlite", "json", "csv"} {
		for _, on := range [][]string{nil, faults} {
			dsn := dbtest.DSN(t)
			site, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: on, HashCost: 8})
			require.NoError(t, err)
			t.Cleanup(func() { site.Close() })
			from, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			t.Cleanup(func() { from.Close() })
			handler := site.Handler(false)
			watched := spec.Database{ID: "main", DSN: dsn, Kind: "mariadb"}
			switch way {
			case "postgresql", "sqlite":
				watched.Kind, watched.DSN = way, "file:"+filepath.Join(t.TempDir(), "join.db")
				driver, schema, other := "sqlite", onSchema("INTEGER PRIMARY KEY", "TIMESTAMP"), watched.DSN+"?_pragma=busy_timeout(5000)&_pragma=journal_mode(wal)"
				if way == "postgresql" {
					watched.DSN = pgtest.DSN(t)
					driver, schema, other = "pgx", onSchema("INT PRIMARY KEY", "TIMESTAMP(3)"), watched.DSN
				}
				db, err := sql.Open(driver, other)
				require.NoError(t, err)
				t.Cleanup(func() { db.Close() })
				_, err = db.Exec(schema)
				require.NoError(t, err)
				insert := "INSERT INTO plot_holders (" + joinColumns + ") VALUES (" + strings.TrimSuffix(strings.Repeat("?, ", 13), ", ") + ")"
				if way == "postgresql" {
					insert = renumber(insert)
				}
				handler = &mirror{Handler: handler, t: t, from: from, insert: func(row []any) {
					_, err := db.Exec(insert, row...)
					require.NoError(t, err)
				}}
			case "json", "csv":
				e := spec.Export{Table: "plot_holders", From: "/export/holders", Key: spec.Names{"id"}, Rows: "$.rows[*]"}
				if way == "csv" {
					e.From = "/export/holders.csv"
				}
				watched = spec.Database{ID: "main", Kind: "export", Exports: []spec.Export{e}}
				handler = exporting{handler, t, from}
			}
			server := httptest.NewServer(handler)
			t.Cleanup(server.Close)
			got := verdictsOn(t, server.URL, watched)
			odd := 0
			for id, v := range got {
				if known, twice := want[fmt.Sprint(on)+id]; twice {
					require.Equal(t, known, v, "%s by %s with %v", id, way, on)
				}
				want[fmt.Sprint(on)+id] = v
				if v != judge.AsExpected {
					odd++
				}
			}
			require.Equal(t, len(on) > 0, odd > 0, way)
		}
	}
}

// verdictsOn runs the Join form over HTTP, with one database watched.
func verdictsOn(t testing.TB, address string, watched spec.Database) map[string]judge.Verdict {
	d := designerOf(t, joinText(t))
	all, _ := d.Cases(testcase.Standard)
	var cases []*testcase.Case
	for _, c := range all {
		if !c.InBrowser() {
			cases = append(cases, c)
		}
	}
	run, err := target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{watched}}, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	out := map[string]judge.Verdict{}
	for _, c := range cases {
		out[c.ID] = sink.Result(c.ID).Verdict
	}
	return out
}
