package database_test

import (
	"context"
	"database/sql"
	"fmt"
	"path/filepath"
	"testing"

	"oddtick/core/submission"
	"oddtick/internal/localdb/pgtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// servers are databases besides MariaDB, each with the same three tables in its own types.
var servers = map[string]struct {
	tables string
	open   func(t *testing.T) (dsn, driver, address string)
	raw    string
}{
	"postgresql": {
		`CREATE TABLE holders (id SERIAL PRIMARY KEY, login VARCHAR(20) UNIQUE, n NUMERIC(8,3) DEFAULT 1.5, born DATE, at TIMESTAMPTZ, agreed BOOLEAN NOT NULL DEFAULT false, raw BYTEA, note JSONB, code CHAR(4));
		CREATE TABLE beds (area TEXT, number INT, holder INT REFERENCES holders (id) ON DELETE CASCADE, PRIMARY KEY (area, number), CHECK (number > 0));
		CREATE TABLE log (line TEXT); CREATE TABLE heap (a INT)`,
		func(t *testing.T) (string, string, string) { dsn := pgtest.DSN(t); return dsn, "pgx", dsn },
		`'\x00ff'`,
	},
	"sqlite": {
		`PRAGMA foreign_keys = on;
		CREATE TABLE holders (id INTEGER PRIMARY KEY, login VARCHAR(20) UNIQUE, n NUMERIC(8,3) DEFAULT 1.5, born DATE, at TEXT, agreed BOOLEAN NOT NULL DEFAULT false, raw BLOB, note TEXT, code CHAR(4));
		CREATE TABLE beds (area TEXT, number INT, holder INT REFERENCES holders (id) ON DELETE CASCADE, PRIMARY KEY (area, number), CHECK (number > 0));
		CREATE TABLE log (line TEXT); CREATE TABLE heap (a INT)`,
		func(t *testing.T) (string, string, string) {
			file := filepath.Join(t.TempDir(), "a.db")
			return "file:" + file, "sqlite", "file:" + file + "?_pragma=foreign_keys(1)&_pragma=busy_timeout(5000)"
		},
		`x'00ff'`,
	},
}

func TestOtherServersAreWatched(t *testing.T) {
	t.Parallel()
	for name, s := range servers {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			ctx := context.Background()
			dsn, driver, address := s.open(t)
			db, err := sql.Open(driver, address)
			require.NoError(t, err)
			defer db.Close()
			exec(t, db, s.tables)
			m, err := database.Open(ctx, name, dsn, []string{"log"})
			require.NoError(t, err)
			defer m.Close()
			require.Equal(t, []string{"beds", "heap", "holders"}, m.Tables())
			require.NoError(t, m.Require("holders", "login"))
			require.ErrorContains(t, m.Require("holders", "logo"), "no column holders.logo; there are: id, login")
			require.NoError(t, m.Begin(ctx))
			require.Empty(t, changes(t, m))

			exec(t, db, "INSERT INTO holders (login, born, agreed, raw, code) VALUES ('Fern', '2001-02-03', true, "+s.raw+", 'ab')")
			exec(t, db, "INSERT INTO log VALUES ('x')")
			list, err := m.Changes(ctx)
			require.NoError(t, err)
			require.Len(t, list, 1)
			row := map[string]string{}
			for _, c := range list[0].After {
				row[c.Column] = c.Value
				if c.Null {
					row[c.Column] = "NULL"
				}
			}
			agreed := map[string]string{"postgresql": "true", "sqlite": "1"}[name]
			number := map[string]string{"postgresql": "1.500", "sqlite": "1.5"}[name]
			require.Equal(t, map[string]string{"id": "1", "login": "Fern", "n": number, "born": "2001-02-03", "at": "NULL", "agreed": agreed, "raw": "0x00ff", "note": "NULL", "code": "ab"}, row)

			exec(t, db, "INSERT INTO beds VALUES ('east', 1, 1), ('east', 2, 1); INSERT INTO heap VALUES (1), (1)")
			require.Equal(t, []string{"beds east, 1 inserted", "beds east, 2 inserted", "heap 1 inserted", "heap 1 again inserted"}, changes(t, m))
			exec(t, db, "UPDATE holders SET login = 'Moss'")
			require.Equal(t, []string{"holders 1 changed"}, changes(t, m))
			exec(t, db, "DELETE FROM holders")
			require.Equal(t, []string{"beds east, 1 deleted", "beds east, 2 deleted", "holders 1 deleted"}, changes(t, m), "what goes with it is seen")
			exec(t, db, "INSERT INTO holders (login, agreed) VALUES ('Fern', true)")

			same := func(a, b string) bool { return a == b }
			for value, taken := range map[string]bool{"Fern": true, "fern": false, "none": false, "a\x00b": false} {
				got, err := m.LookUp(ctx, submission.Lookup{Table: "holders", Column: "login", Value: value}, same)
				require.NoError(t, err, value)
				require.Equal(t, taken, got, value)
			}
			got, err := m.LookUp(ctx, submission.Lookup{Table: "holders", Column: "login", Value: "FERN", Ignoring: []string{"case"}}, func(a, b string) bool { return true })
			require.NoError(t, err)
			require.True(t, got)

			schema, err := m.Schema(ctx)
			require.NoError(t, err)
			require.Equal(t, name, schema.Dialect)
			holders := schema.Table("holders")
			require.Equal(t, []string{"id"}, holders.Primary)
			require.True(t, holders.UniqueAlone("login"))
			// SQLite takes texts of any length, whatever is declared
			require.Equal(t, map[string]int{"postgresql": 20, "sqlite": 0}[name], holders.Column("login").Length)
			require.True(t, holders.Column("id").Auto)
			require.False(t, holders.Column("agreed").Nullable)
			require.Equal(t, "1.5", *holders.Column("n").Default)
			require.Nil(t, schema.Table("log"))
		})
	}
}

func TestWhatCannotBeOpenedSaysWhy(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	dsn := pgtest.DSN(t)
	for _, c := range []struct{ kind, dsn, says string }{
		{"postgresql", "postgres://keeper@127.0.0.1:1/x", "127.0.0.1:1 as keeper cannot be reached"},
		{"postgresql", dsn[:len(dsn)-len("postgres")] + "nothing", `has no database "nothing"`},
		{"postgresql", "postgres://:x:y", "write it like postgres://"},
		{"sqlite", "file:/no/such.db", "/no/such.db cannot be read"},
		{"sqlite", "file:", "names no file"},
		{"informix", "x", `of kind "informix" are not known; known are mariadb, mysql, postgresql, sqlite, sqlserver, oracle and mongodb`},
	} {
		_, err := database.Open(ctx, c.kind, c.dsn, nil)
		require.ErrorContains(t, err, c.says, fmt.Sprint(c.kind, " ", c.dsn))
	}
}
