package engine_test

import (
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"path/filepath"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/testcase"
	"oddtick/internal/localdb/pgtest"

	"github.com/stretchr/testify/require"

	_ "modernc.org/sqlite"
)

// numbered is a database whose placeholders are numbered.
type numbered struct{ *sql.DB }

func (n numbered) Exec(query string, args ...any) (sql.Result, error) {
	return n.DB.Exec(renumber(query), args...)
}

func (n numbered) QueryRow(query string, args ...any) *sql.Row {
	return n.DB.QueryRow(renumber(query), args...)
}

func renumber(query string) string {
	for i := 1; strings.Contains(query, "?"); i++ {
		query = strings.Replace(query, "?", fmt.Sprint("$", i), 1)
	}
	return query
}

// TestOtherServersGiveTheSameVerdicts: the same sites on PostgreSQL and on SQLite, without faults and with one.
func TestOtherServersGiveTheSameVerdicts(t *testing.T) {
	t.Parallel()
	for name, open := range map[string]func(t *testing.T) (dsn string, db table){
		"postgresql": func(t *testing.T) (string, table) {
			dsn := pgtest.DSN(t)
			db, err := sql.Open("pgx", dsn)
			require.NoError(t, err)
			t.Cleanup(func() { db.Close() })
			return dsn, numbered{db}
		},
		"sqlite": func(t *testing.T) (string, table) {
			file := filepath.Join(t.TempDir(), "site.db")
			db, err := sql.Open("sqlite", "file:"+file+"?_pragma=busy_timeout(5000)&_pragma=journal_mode(wal)")
			require.NoError(t, err)
			t.Cleanup(func() { db.Close() })
			return "file:" + file, db
		},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			dsn, db := open(t)
			exec := func(statement string) {
				_, err := db.Exec(statement)
				require.NoError(t, err, statement)
			}
			key := map[string]string{"postgresql": "id INT GENERATED ALWAYS AS IDENTITY PRIMARY KEY", "sqlite": "id INTEGER PRIMARY KEY"}[name]
			exec("CREATE TABLE boats (" + key + ", name VARCHAR(12) NOT NULL, owner VARCHAR(40), metres NUMERIC(6,2), quay SMALLINT, arrives DATE, has_tools BOOLEAN, seen TIMESTAMP DEFAULT CURRENT_TIMESTAMP)")
			exec("CREATE TABLE accounts (nick VARCHAR(20) PRIMARY KEY, mail VARCHAR(100), secret VARCHAR(100), created TIMESTAMP)")
			for form, site := range map[string]http.Handler{mooringsForm: moorings(t, db), lanternsForm: lanterns(t, db)} {
				server := httptest.NewServer(site)
				t.Cleanup(server.Close)
				require.Empty(t, strings.Join(oddOnes(runAll(t, form, server.URL, dsn, testcase.Thorough)), "\n"))
			}
			// a fault on the way to the row
			server := httptest.NewServer(moorings(t, shouting{db}))
			defer server.Close()
			var odd int
			for _, r := range runAll(t, mooringsForm, server.URL, dsn, testcase.Standard) {
				if r.Checks[4] == judge.Odd {
					odd++
				}
			}
			require.Positive(t, odd)
		})
	}
}

// shouting writes every name in capitals.
type shouting struct{ table }

func (s shouting) Exec(query string, args ...any) (sql.Result, error) {
	args[0] = strings.ToUpper(fmt.Sprint(args[0]))
	return s.table.Exec(query, args...)
}
