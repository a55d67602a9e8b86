package engine_test

import (
	"context"
	"database/sql"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"
	"oddtick/internal/localdb/pgtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// TestCleaningUpLeavesTheTablesAsTheyWere, with the rows that were there before and those that others wrote meanwhile.
func TestCleaningUpLeavesTheTablesAsTheyWere(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	exec := func(statement string) {
		_, err := db.Exec(statement)
		require.NoError(t, err)
	}
	exec("INSERT INTO harvests (crop_code, weight_kg, picked_on, bed, logged_at) VALUES ('leek', 1, '2024-01-01', '001', NOW())")
	run, cases := opened(t, address, dsn, exampleText(t, "harvest"), func(c *testcase.Case) bool { return !c.InBrowser() })
	require.NotEmpty(t, cases)
	require.NoError(t, schedule.Execute(context.Background(), run, &schedule.Collected{}, nil))
	var n int
	count := func() int {
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM harvests").Scan(&n))
		return n
	}
	require.Greater(t, count(), 10)
	exec("INSERT INTO harvests (crop_code, weight_kg, picked_on, bed, logged_at) VALUES ('plum', 2, '2024-01-01', '002', NOW())")
	done, err := run.CleanUp(context.Background(), nil)
	require.NoError(t, err)
	require.Empty(t, done.Left)
	require.Positive(t, done.Deleted)
	require.Contains(t, done.String(), "deleted, all as before.")
	require.Equal(t, 2, count())
}

// TestChangesAreTakenBackOnEveryServer: new rows go, changed ones are restored, deleted ones are put back, the newest first.
func TestChangesAreTakenBackOnEveryServer(t *testing.T) {
	t.Parallel()
	for kind, c := range map[string]struct{ driver, types string }{
		"mariadb":    {"mysql", "id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(20), size DECIMAL(6,2), raw VARBINARY(4), on_day DATE, twice VARCHAR(40) AS (CONCAT(name, name)) VIRTUAL"},
		"postgresql": {"pgx", "id INT GENERATED ALWAYS AS IDENTITY PRIMARY KEY, name VARCHAR(20), size NUMERIC(6,2), raw BYTEA, on_day DATE, twice VARCHAR(40) GENERATED ALWAYS AS (name || name) STORED"},
		"sqlite":     {"sqlite", "id INTEGER PRIMARY KEY, name VARCHAR(20), size NUMERIC(6,2), raw BLOB, on_day DATE, twice VARCHAR(40) AS (name || name)"},
	} {
		t.Run(kind, func(t *testing.T) {
			t.Parallel()
			var dsn string
			switch kind {
			case "mariadb":
				dsn = dbtest.DSN(t)
			case "postgresql":
				dsn = pgtest.DSN(t)
			default:
				dsn = "file:" + t.TempDir() + "/beds.db"
			}
			db, err := sql.Open(c.driver, dsn)
			require.NoError(t, err)
			defer db.Close()
			exec := func(statement string) {
				_, err := db.Exec(statement)
				require.NoError(t, err, statement)
			}
			all := func() string {
				rows, err := db.Query("SELECT id, name, size, raw, on_day, twice FROM beds ORDER BY id")
				require.NoError(t, err)
				defer rows.Close()
				var lines []string
				for rows.Next() {
					cells := make([]sql.NullString, 6)
					into := make([]any, len(cells))
					for i := range cells {
						into[i] = &cells[i]
					}
					require.NoError(t, rows.Scan(into...))
					line := ""
					for _, cell := range cells {
						line += cell.String + "|"
					}
					lines = append(lines, line)
				}
				return strings.Join(lines, "\n")
			}
			exec("CREATE TABLE beds (" + c.types + ")")
			raw := map[string]string{"mariadb": "X'ff00'", "postgresql": `'\xff00'`, "sqlite": "X'ff00'"}[kind]
			exec("INSERT INTO beds (name, size, raw, on_day) VALUES ('east', 1.50, " + raw + ", '2024-02-29'), ('west', NULL, NULL, NULL)")
			before := all()
			w, err := database.Open(context.Background(), kind, dsn, nil)
			require.NoError(t, err)
			defer w.Close()
			require.NoError(t, w.Begin(context.Background()))
			var journal []observation.Change
			for _, statement := range []string{
				"UPDATE beds SET name = 'north', size = 2 WHERE name = 'east'", "INSERT INTO beds (name) VALUES ('new')", "UPDATE beds SET raw = NULL, on_day = NULL WHERE name = 'north'",
				"DELETE FROM beds WHERE name = 'north'", "DELETE FROM beds WHERE name = 'new'", "INSERT INTO beds (name) VALUES ('later')", "UPDATE beds SET size = 7 WHERE name = 'west'",
			} {
				exec(statement)
				changes, err := w.Changes(context.Background())
				require.NoError(t, err)
				require.Len(t, changes, 1, statement)
				journal = append(journal, changes...)
			}
			done, err := w.Undo(context.Background(), journal)
			require.NoError(t, err)
			require.Empty(t, done.Left)
			require.Equal(t, before, all())
			// what cannot be taken back is said
			journal[0].Before = nil
			exec("UPDATE beds SET name = 'somewhere' WHERE name = 'east'")
			done, err = w.Undo(context.Background(), journal[:1])
			require.NoError(t, err)
			require.Len(t, done.Left, 1)
			require.Contains(t, done.String(), "what it held before is not known")
		})
	}
}

// TestRowsThatASitesOwnFormMakes: the form is filled in where the row is not there, by an account where one is needed, and what it
// wrote is taken back.
func TestRowsThatASitesOwnFormMakes(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	count := func() (n int) {
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM plot_holders WHERE login_name = 'Bramble-7'").Scan(&n))
		return n
	}
	const before = "before: {rows: [{table: plot_holders, columns: {login_name: Bramble-7}, by: {page: /join, fields: {username: Bramble-7, e_mail: bramble@example.org, pass: over the 9 hedges, pass_again: over the 9 hedges, born_on: 1990-04-02, plots: 1, terms: 'yes'}}}]}\nfields:"
	form := strings.Replace(exampleText(t, "booking"), "fields:", before, 1)
	for range 2 {
		run, _ := opened(t, address, dsn, form, func(c *testcase.Case) bool { return c.ID == "booking/form.usual/http" })
		require.Equal(t, 1, count())
		sink := &schedule.Collected{}
		require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
		require.Zero(t, sink.Foreign, "the row is the run's own")
		require.Equal(t, judge.AsExpected, sink.Result("booking/form.usual/http").Verdict)
		run.Close()
		require.Zero(t, count())
	}
	for old, want := range map[string]string{
		"pass: over the 9 hedges":          "no such row after it; the page says: ",
		"username: Bramble-7":              "the page /join holds no form with the names",
		"by: {page: /join":                 "the site document has no account nobody",
		"columns: {login_name: Bramble-7}": "before.rows[0]: the database has no",
	} {
		wrong := map[string]string{"pass: over the 9 hedges": "pass: short", "username: Bramble-7": "user: Bramble-7", "by: {page: /join": "by: {as: nobody, page: /join", "columns: {login_name: Bramble-7}": "columns: {name: Bramble-7}"}[old]
		d := designerOf(t, strings.Replace(form, old, wrong, 1))
		_, err = target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Number: 1})
		require.ErrorContains(t, err, want)
		require.Zero(t, count())
	}
}

// TestRowsThatMustExistAreMade before the run, where they are not there yet, and are taken back afterwards.
func TestRowsThatMustExistAreMade(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("INSERT INTO tools VALUES ('hoe_', 'Hoe')")
	require.NoError(t, err)
	count := func(code string) (n int) {
		require.NoError(t, db.QueryRow("SELECT COUNT(*) FROM tools WHERE code = ?", code).Scan(&n))
		return n
	}
	form := strings.Replace(exampleText(t, "booking"), "fields:", "before: {rows: [{table: tools, columns: {code: axe_, name: Axe}}, {table: tools, columns: {code: hoe_}}]}\nfields:", 1)
	run, _ := opened(t, address, dsn, form, func(c *testcase.Case) bool { return c.ID == "booking/form.usual/http" })
	require.Equal(t, 1, count("axe_"))
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	require.Zero(t, sink.Foreign, "the rows are the run's own")
	run.Close()
	require.Equal(t, 0, count("axe_"))
	require.Equal(t, 1, count("hoe_"), "what was there stays")
	for old, want := range map[string]string{"code: axe_, name: Axe": "code: axe_, colour: red", "table: tools, columns: {code: axe_": "table: axes, columns: {code: axe_"} {
		d := designerOf(t, strings.Replace(form, old, want, 1))
		_, err = target.Open(context.Background(), target.Config{Site: &spec.Site{Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Number: 1})
		require.ErrorContains(t, err, "before.rows[0]: the database has no")
	}
}
