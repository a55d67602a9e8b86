package database_test

import (
	"database/sql"
	"path/filepath"
	"strings"
	"testing"

	"oddtick/core/observation"
	"oddtick/core/submission"
	"oddtick/internal/localdb/dbtest"
	"oddtick/internal/localdb/pgtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// TestAttackNamesOfTablesAndColumnsThatAreSQL: they are watched, looked up and taken back like any others, and nothing in them is obeyed.
func TestAttackNamesOfTablesAndColumnsThatAreSQL(t *testing.T) {
	t.Parallel()
	const table, column = "a`\"; drop table victim; --", "b`\"; drop table victim; --"
	for kind, open := range map[string]func() (dsn, driver, address string){
		"mariadb":    func() (string, string, string) { dsn := dbtest.DSN(t); return dsn, "mysql", dsn },
		"postgresql": func() (string, string, string) { dsn := pgtest.DSN(t); return dsn, "pgx", dsn },
		"sqlite": func() (string, string, string) {
			file := "file:" + filepath.Join(t.TempDir(), "a.db")
			return file, "sqlite", file + "?_pragma=busy_timeout(5000)"
		},
	} {
		t.Run(kind, func(t *testing.T) {
			dsn, driver, address := open()
			db, err := sql.Open(driver, address)
			require.NoError(t, err)
			defer db.Close()
			mark := `"`
			if kind == "mariadb" {
				mark = "`"
			}
			quoted := func(name string) string { return mark + strings.ReplaceAll(name, mark, mark+mark) + mark }
			a, b := quoted(table), quoted(column)
			for _, s := range []string{"CREATE TABLE victim (id INT PRIMARY KEY)", "INSERT INTO victim VALUES (1)", "CREATE TABLE " + a + " (" + b + " VARCHAR(40) PRIMARY KEY, n INT)", "INSERT INTO " + a + " VALUES ('kept', 1), ('gone', 2)"} {
				exec(t, db, s)
			}
			m, err := database.Open(t.Context(), kind, dsn, nil)
			require.NoError(t, err)
			defer m.Close()
			require.NoError(t, m.Require(table, column))
			require.NoError(t, m.Begin(t.Context()))
			var all []observation.Change
			for _, s := range []string{"INSERT INTO " + a + " VALUES ('''; drop table victim; --', 3)", "UPDATE " + a + " SET n = 9 WHERE " + b + " = 'kept'", "DELETE FROM " + a + " WHERE " + b + " = 'gone'"} {
				exec(t, db, s)
				seen, err := m.Changes(t.Context())
				require.NoError(t, err)
				require.Len(t, seen, 1)
				require.Equal(t, table, seen[0].Table)
				all = append(all, seen...)
			}
			taken, err := m.LookUp(t.Context(), submission.Lookup{Table: table, Column: column, Value: "kept"}, func(a, b string) bool { return a == b })
			require.NoError(t, err)
			require.True(t, taken)
			done, err := m.Undo(t.Context(), all)
			require.NoError(t, err)
			require.Empty(t, done.Left)
			rows, err := db.Query("SELECT " + b + ", n FROM " + a + " ORDER BY n")
			require.NoError(t, err)
			defer rows.Close()
			got := map[string]int{}
			for rows.Next() {
				var name string
				var n int
				require.NoError(t, rows.Scan(&name, &n))
				got[name] = n
			}
			require.Equal(t, map[string]int{"kept": 1, "gone": 2}, got)
			var victims int
			require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM victim").Scan(&victims))
			require.Equal(t, 1, victims)
		})
	}
}
