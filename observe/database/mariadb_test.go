package database_test

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/core/submission"
	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"

	"github.com/go-sql-driver/mysql"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

const tables = `CREATE TABLE holders (id INT AUTO_INCREMENT PRIMARY KEY, login VARCHAR(20) COLLATE utf8mb4_general_ci, mail VARCHAR(50) COLLATE utf8mb4_bin, n DECIMAL(8,3), born DATE, flag BIT(3), raw VARBINARY(8), up VARCHAR(20) AS (UPPER(login)) VIRTUAL);
CREATE TABLE areas (code CHAR(4), kind INT, name VARCHAR(20), PRIMARY KEY (code, kind));
CREATE TABLE heap (a INT, b VARCHAR(5));
CREATE TABLE log (line TEXT);
CREATE VIEW named AS SELECT login FROM holders;
INSERT INTO areas VALUES ('brok', 1, 'Brook'), ('east', 1, 'East'), ('east', 2, 'East again');
INSERT INTO heap VALUES (1, 'x'), (1, 'x')`

// open watches a database by comparing its tables: its user may not read the binary log.
func open(t testing.TB) (*database.Watcher, *sql.DB, string) {
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, tables)
	m, err := database.Open(context.Background(), "mariadb", reader(t, dsn), []string{"log"})
	require.NoError(t, err)
	require.Contains(t, m.Way(), "compared before and after each case: the user lacks the right BINLOG MONITOR")
	return begun(t, m, dsn)
}

// openLog watches one by the binary log.
func openLog(t testing.TB) (*database.Watcher, *sql.DB, string) {
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, tables)
	m, err := database.Open(context.Background(), "mariadb", dsn, []string{"log"})
	require.NoError(t, err)
	require.Equal(t, "from the binary log; 1 of 3 tables compared before and after each case, because the log does not show all their rows", m.Way())
	return begun(t, m, dsn)
}

// reader is the data source name of a user who may read a database and nothing else.
func reader(t testing.TB, dsn string) string {
	cfg, err := mysql.ParseDSN(dsn)
	require.NoError(t, err)
	name := "r" + cfg.DBName[max(0, len(cfg.DBName)-20):]
	dbtest.Exec(t, dsn, fmt.Sprintf("CREATE USER '%s'@'%%' IDENTIFIED BY 'reads';\nGRANT SELECT ON `%s`.* TO '%s'@'%%'", name, cfg.DBName, name))
	cfg.User, cfg.Passwd = name, "reads"
	return cfg.FormatDSN()
}

func begun(t testing.TB, m *database.Watcher, dsn string) (*database.Watcher, *sql.DB, string) {
	t.Cleanup(func() { m.Close() })
	require.NoError(t, m.Begin(context.Background()))
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	return m, db, dsn
}

func changes(t testing.TB, m *database.Watcher) []string {
	list, err := m.Changes(context.Background())
	require.NoError(t, err)
	out := []string{}
	for _, c := range list {
		out = append(out, fmt.Sprintf("%s %s %s", c.Table, c.Key, c.Kind))
	}
	return out
}

func exec(t require.TestingT, db *sql.DB, statement string, args ...any) {
	_, err := db.Exec(statement, args...)
	require.NoError(t, err, statement)
}

// ways are both ways of seeing changes.
var ways = map[string]func(testing.TB) (*database.Watcher, *sql.DB, string){"compared": open, "log": openLog}

func TestWhatChangedIsSeen(t *testing.T) {
	t.Parallel()
	for name, way := range ways {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			m, db, _ := way(t)
			seeChanges(t, m, db, name == "compared")
		})
	}
}

func seeChanges(t *testing.T, m *database.Watcher, db *sql.DB, compared bool) {
	require.Equal(t, []string{"areas", "heap", "holders"}, m.Tables(), "views and ignored tables are not watched")
	for _, c := range []struct {
		statement string
		want      []string
	}{
		{"INSERT INTO log VALUES ('x')", []string{}},
		{"INSERT INTO holders (login) VALUES ('moss'), ('fern')", []string{"holders 1 inserted", "holders 2 inserted"}},
		{"UPDATE holders SET n = 1.5 WHERE id = 2", []string{"holders 2 changed"}},
		{"UPDATE holders SET n = 1.500 WHERE id = 2", []string{}},
		{"UPDATE holders SET login = 'Fern' WHERE id = 2", []string{"holders 2 changed"}},
		{"UPDATE holders SET mail = '' WHERE id = 2", []string{"holders 2 changed"}},
		{"DELETE FROM holders WHERE id = 1", []string{"holders 1 deleted"}},
		{"UPDATE areas SET kind = 3 WHERE code = 'east' AND kind = 2", []string{"areas east, 2 changed"}},
		{"INSERT INTO heap VALUES (1, 'x')", []string{"heap 1, x again again inserted"}},
		{"INSERT INTO holders (id, login) VALUES (1, 'back')", []string{"holders 1 inserted"}},
		{"REPLACE INTO holders (id, login) VALUES (1, 'other')", []string{"holders 1 changed"}},
	} {
		exec(t, db, c.statement)
		require.ElementsMatch(t, c.want, changes(t, m), c.statement)
		require.Empty(t, changes(t, m), "the same change is told once")
	}
	exec(t, db, "TRUNCATE TABLE areas")
	if compared {
		require.Equal(t, []string{"areas brok, 1 deleted", "areas east, 1 deleted", "areas east, 3 deleted"}, changes(t, m))
		return
	}
	_, err := m.Changes(context.Background())
	require.EqualError(t, err, "the table areas was altered, emptied or replaced meanwhile; what changed in its rows is not known")
	require.Empty(t, changes(t, m))
	exec(t, db, "INSERT INTO areas VALUES ('hill', 1, 'Hill')")
	require.Equal(t, []string{"areas hill, 1 inserted"}, changes(t, m))
}

func TestColumnsThatChangeMeanwhileAreSaid(t *testing.T) {
	t.Parallel()
	for name, way := range ways {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			m, db, _ := way(t)
			exec(t, db, "ALTER TABLE holders DROP COLUMN born, ADD COLUMN since DATE")
			exec(t, db, "INSERT INTO holders (login) VALUES ('moss')")
			_, err := m.Changes(context.Background())
			require.EqualError(t, err, "the table holders was altered, emptied or replaced meanwhile; what changed in its rows is not known")
			exec(t, db, "INSERT INTO holders (login, since) VALUES ('fern', '2024-02-29')")
			list, err := m.Changes(context.Background())
			require.NoError(t, err)
			require.Len(t, list, 1)
			since, _ := observation.CellOf(list[0].After, "since")
			require.Equal(t, "2024-02-29", since.Value)
		})
	}
}

// TestTheLogHoldsWhatAQueryGives: before and after a change, values of every type are those that a query gives.
func TestTheLogHoldsWhatAQueryGives(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, `CREATE TABLE kinds (id BIGINT UNSIGNED PRIMARY KEY, t TINYINT, m MEDIUMINT, u INT UNSIGNED, d DECIMAL(20,6), f FLOAT, g DOUBLE, y YEAR,
		da DATE, ti TIME(3), dt DATETIME(3), ts TIMESTAMP(3) NULL, c CHAR(4), v VARCHAR(300), l VARCHAR(10) CHARACTER SET latin1, tx TEXT, bi BINARY(4), bl BLOB, b BIT(10), e ENUM('red','blue, green'), s SET('a','b','c'), j JSON, uu UUID)`)
	m, err := database.Open(context.Background(), "mariadb", dsn, nil)
	require.NoError(t, err)
	require.Equal(t, "read from the binary log", m.Way())
	_, db, _ := begun(t, m, dsn)
	exec(t, db, `INSERT INTO kinds VALUES (18446744073709551615, -5, -70000, 4000000000, -12345.600000, 1.5, 0.1, 2024, '2024-02-29', '-12:34:56.789', '2024-02-29 23:59:59.123', '2024-02-29 12:00:00.5',
		'ab', 'möss 🌱', 'möss', REPEAT('x', 300), 'a', X'00ff', b'1010101010', 'blue, green', 'a,c', '{"a": [1, 2]}', '6f1ed002-ab59-4a4c-8b1e-6f1ed002ab59')`)
	inserted, err := m.Changes(context.Background())
	require.NoError(t, err)
	require.Len(t, inserted, 1)
	before := inserted[0].After
	exec(t, db, "UPDATE kinds SET t = 6, m = 70000, d = 0.000001, da = '2023-01-01', ti = '01:00:00', dt = '2023-01-01', ts = NULL, c = '', v = 'y', tx = '', bi = 'b', bl = X'01', b = 0, e = 'red', s = '', j = '[]'")
	changed, err := m.Changes(context.Background())
	require.NoError(t, err)
	require.Len(t, changed, 1)
	require.Equal(t, before, changed[0].Before)
	after, _ := observation.CellOf(changed[0].After, "m")
	require.Equal(t, "70000", after.Value)
	exec(t, db, "DELETE FROM kinds")
	gone, err := m.Changes(context.Background())
	require.NoError(t, err)
	require.Len(t, gone, 1)
	require.Equal(t, observation.Deleted, gone[0].Kind)
}

// TestRowsThatAForeignKeyTakesAlongAreSeen, of which the log does not tell.
func TestRowsThatAForeignKeyTakesAlongAreSeen(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE beds (id INT PRIMARY KEY);\nCREATE TABLE plants (id INT PRIMARY KEY, bed INT, FOREIGN KEY (bed) REFERENCES beds (id) ON DELETE CASCADE);\nINSERT INTO beds VALUES (1), (2);\nINSERT INTO plants VALUES (5, 1), (6, 2)")
	m, err := database.Open(context.Background(), "mariadb", dsn, nil)
	require.NoError(t, err)
	require.Contains(t, m.Way(), "1 of 2 tables compared before and after each case")
	_, db, _ := begun(t, m, dsn)
	exec(t, db, "DELETE FROM beds WHERE id = 1")
	require.Equal(t, []string{"beds 1 deleted", "plants 5 deleted"}, changes(t, m))
}

// TestTheLogIsFollowedOnAfterAnInterruption, from where it was left.
func TestTheLogIsFollowedOnAfterAnInterruption(t *testing.T) {
	t.Parallel()
	m, db, _ := openLog(t)
	exec(t, db, "INSERT INTO holders (login) VALUES ('moss')")
	require.Equal(t, []string{"holders 1 inserted"}, changes(t, m))
	var ids []int64
	rows, err := db.Query("SELECT ID FROM information_schema.PROCESSLIST WHERE COMMAND = 'Binlog Dump'")
	require.NoError(t, err)
	for rows.Next() {
		var id int64
		require.NoError(t, rows.Scan(&id))
		ids = append(ids, id)
	}
	rows.Close()
	require.NotEmpty(t, ids)
	exec(t, db, "INSERT INTO holders (login) VALUES ('fern')")
	for _, id := range ids {
		_, _ = db.Exec(fmt.Sprintf("KILL %d", id)) // that of another test may have ended
	}
	require.Eventually(t, func() bool {
		list, err := m.Changes(context.Background())
		return err == nil && len(list) == 1 && list[0].Key == "2"
	}, 10*time.Second, 10*time.Millisecond)
	require.Empty(t, changes(t, m))
}

func TestValuesAreReadAsTheyAre(t *testing.T) {
	t.Parallel()
	for name, way := range ways {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			m, db, _ := way(t)
			readValues(t, m, db)
		})
	}
}

func readValues(t *testing.T, m *database.Watcher, db *sql.DB) {
	exec(t, db, "INSERT INTO holders (login, mail, n, born, flag, raw) VALUES ('möss 🌱', NULL, 12.5, '2004-02-29', b'101', ?)", []byte{0xff, 0x00})
	list, err := m.Changes(context.Background())
	require.NoError(t, err)
	require.Equal(t, []observation.Cell{
		{Column: "id", Value: "1"},
		{Column: "login", Value: "möss 🌱"},
		{Column: "mail", Null: true},
		{Column: "n", Value: "12.500"},
		{Column: "born", Value: "2004-02-29"},
		{Column: "flag", Value: "5"},
		{Column: "raw", Value: "0xff00"},
		{Column: "up", Value: "MÖSS 🌱"},
	}, list[0].After)
	exec(t, db, "UPDATE holders SET mail = 'x' WHERE id = 1")
	list, err = m.Changes(context.Background())
	require.NoError(t, err)
	before, _ := observation.CellOf(list[0].Before, "mail")
	after, _ := observation.CellOf(list[0].After, "mail")
	require.True(t, before.Null)
	require.Equal(t, "x", after.Value)
}

// TestAnyMixOfChangesIsSeen compares with a model in memory.
func TestAnyMixOfChangesIsSeen(t *testing.T) {
	for name, way := range ways {
		t.Run(name, func(t *testing.T) {
			m, db, _ := way(t)
			anyMix(t, m, db)
		})
	}
}

func anyMix(t *testing.T, m *database.Watcher, db *sql.DB) {
	model := map[int64]string{}
	rapid.Check(t, func(t *rapid.T) {
		want := map[string]bool{}
		before := map[int64]string{}
		for k, v := range model {
			before[k] = v
		}
		for range rapid.IntRange(1, 4).Draw(t, "steps") {
			value := rapid.StringMatching(`[a-c]{0,2}`).Draw(t, "value")
			id := rapid.Int64Range(1, 12).Draw(t, "id")
			switch rapid.SampledFrom([]string{"insert", "update", "delete"}).Draw(t, "do") {
			case "insert":
				if _, taken := model[id]; !taken {
					exec(t, db, "INSERT INTO holders (id, login) VALUES (?, ?)", id, value)
					model[id] = value
				}
			case "update":
				if _, there := model[id]; there {
					exec(t, db, "UPDATE holders SET login = ? WHERE id = ?", value, id)
					model[id] = value
				}
			default:
				exec(t, db, "DELETE FROM holders WHERE id = ?", id)
				delete(model, id)
			}
		}
		for id := range int64(13) {
			old, was := before[id]
			now, is := model[id]
			switch {
			case !was && is:
				want[fmt.Sprintf("holders %d inserted", id)] = true
			case was && !is:
				want[fmt.Sprintf("holders %d deleted", id)] = true
			case was && is && old != now:
				want[fmt.Sprintf("holders %d changed", id)] = true
			}
		}
		list, err := m.Changes(context.Background())
		require.NoError(t, err)
		got := map[string]bool{}
		for _, c := range list {
			got[fmt.Sprintf("%s %s %s", c.Table, c.Key, c.Kind)] = true
		}
		require.Equal(t, want, got)
	})
}

func TestLookUps(t *testing.T) {
	t.Parallel()
	m, db, _ := open(t)
	exec(t, db, "INSERT INTO holders (login, mail) VALUES ('Moss', 'Moss@bed.test'), ('ab ', NULL)")
	exact := func(a, b string) bool { return a == b }
	for _, c := range []struct {
		l    submission.Lookup
		same func(a, b string) bool
		want bool
	}{
		{submission.Lookup{Table: "holders", Column: "login", Value: "Moss"}, exact, true},
		{submission.Lookup{Table: "holders", Column: "login", Value: "moss"}, exact, false},
		{submission.Lookup{Table: "holders", Column: "login", Value: "moss", Ignoring: []string{"case"}}, strings.EqualFold, true},
		{submission.Lookup{Table: "holders", Column: "mail", Value: "moss@bed.test", Ignoring: []string{"case"}}, strings.EqualFold, true},
		{submission.Lookup{Table: "holders", Column: "mail", Value: "moss@bed.test"}, exact, false},
		{submission.Lookup{Table: "holders", Column: "login", Value: "ab"}, exact, false},
		{submission.Lookup{Table: "holders", Column: "login", Value: "\xff"}, exact, false},
	} {
		got, err := m.LookUp(context.Background(), c.l, c.same)
		require.NoError(t, err)
		require.Equal(t, c.want, got, "%+v", c.l)
	}
	_, err := m.LookUp(context.Background(), submission.Lookup{Table: "none"}, exact)
	require.ErrorContains(t, err, "no watched table none; there are: areas, heap, holders")
	_, err = m.LookUp(context.Background(), submission.Lookup{Table: "heap", Column: "none"}, exact)
	require.ErrorContains(t, err, "no column heap.none; there are: a, b")
}

func TestWhatCannotBeWatchedIsSaid(t *testing.T) {
	t.Parallel()
	m, db, dsn := open(t)
	ctx := context.Background()
	require.ErrorContains(t, m.Require("nobody"), "no watched table nobody")
	require.NoError(t, m.Require("holders", "login", "mail"))
	exec(t, db, "CREATE USER IF NOT EXISTS 'reader'@'127.0.0.1' IDENTIFIED BY 'right'")
	address, name := strings.TrimPrefix(strings.Split(dsn, "/")[0], "root@"), dsn[strings.LastIndex(dsn, "/")+1:]
	for bad, says := range map[string]string{
		"nonsense":                                             "cannot be read; write it like user:password@tcp(127.0.0.1:3306)/name",
		"root@" + address + "/":                                "names no database",
		"root@" + address + "/nowhere":                         `has no database "nowhere"`,
		"reader:hidden-word@" + address + "/" + name:           "refuses the user or the password",
		"reader:right@" + address + "/" + name:                 "may not read",
		"root@tcp(127.0.0.1:1)/x":                              "cannot be reached",
		"root@" + address + "/mysql":                           "server's own",
		"root@unix(/run/mysqld.sock)/" + name:                  "leads to unix",
		"root@" + address + "/" + name + "?allowAllFiles=true": "option allowAllFiles",
	} {
		_, err := database.Open(ctx, "mariadb", bad, nil)
		require.ErrorContains(t, err, says, bad)
		require.NotContains(t, err.Error(), "hidden-word")
	}
	// reading rights are enough
	exec(t, db, "GRANT SELECT ON "+name+".* TO 'reader'@'127.0.0.1'")
	reader, err := database.Open(ctx, "mariadb", "reader:right@"+address+"/"+name, nil)
	require.NoError(t, err)
	defer reader.Close()
	require.NoError(t, reader.Begin(ctx))
	exec(t, db, "INSERT INTO holders (login) VALUES ('seen')")
	list, err := reader.Changes(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
}
