package database_test

import (
	"context"
	"fmt"
	"os"
	"slices"
	"testing"

	"oddtick/core/schema"
	"oddtick/formats/ddl"
	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/database"

	"github.com/stretchr/testify/require"
)

// promised is what of a table counts, without the names and the wording that servers give.
func promised(d *schema.Database) []string {
	var out []string
	for i := range d.Tables {
		t := &d.Tables[i]
		out = append(out, fmt.Sprintf("%s: primary %v, %d checks, triggers %v", t.Name, t.Primary, len(t.Checks), t.Triggers))
		for k := range t.Columns {
			c := t.Columns[k]
			value := "none"
			if c.Default != nil {
				value = *c.Default
			}
			// a type of its own keeps its own character set
			if c.Class != schema.ClassText || c.Type == "inet6" {
				c.Charset, c.Collation = "", ""
			}
			out = append(out, fmt.Sprintf("%s.%s %s %s %d %d %d %d unsigned %t nullable %t default %s computed %t auto %t generated %t %q %s %s %s", t.Name, c.Name, c.Type, c.Class, c.Length, c.Bytes, c.Precision, c.Scale,
				c.Unsigned, c.Nullable, value, c.Computed, c.Auto, c.Generated != "", c.Values, c.Charset, c.Collation, c.Comment))
		}
		for _, u := range t.Uniques {
			out = append(out, fmt.Sprintf("%s unique %v", t.Name, u.Columns))
		}
		for _, f := range t.Foreign {
			out = append(out, fmt.Sprintf("%s %v to %s %v %s", t.Name, f.Columns, f.Table, f.References, f.OnDelete))
		}
	}
	slices.Sort(out)
	return out
}

// TestTheServerAndTheReaderOfSQLAgree makes a real server read the same dump.
func TestTheServerAndTheReaderOfSQLAgree(t *testing.T) {
	t.Parallel()
	const sql = `CREATE TABLE areas (code CHAR(4) NOT NULL PRIMARY KEY, name VARCHAR(60) NOT NULL COLLATE latin1_bin) CHARACTER SET latin1 COLLATE latin1_swedish_ci;
CREATE TABLE plot_holders (
  id INT UNSIGNED NOT NULL AUTO_INCREMENT COMMENT 'never reused; (ever)' PRIMARY KEY,
  login_name VARCHAR(20) NOT NULL,
  mail VARCHAR(190) CHARACTER SET utf8mb4 COLLATE utf8mb4_bin NOT NULL UNIQUE,
  token UUID NOT NULL DEFAULT uuid(),
  share ENUM('whole','half, shared','it''s') NOT NULL DEFAULT 'whole',
  weight DECIMAL(6,3) DEFAULT NULL,
  agreed BOOLEAN NOT NULL DEFAULT 0,
  made DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3) ON UPDATE CURRENT_TIMESTAMP(3),
  label VARCHAR(60) GENERATED ALWAYS AS (concat(login_name,'@',mail)) STORED,
  area CHAR(4) CHARACTER SET latin1 COLLATE latin1_swedish_ci DEFAULT 'bro''',
  note TEXT NOT NULL DEFAULT '',
  raw VARBINARY(16) DEFAULT NULL,
  tall DOUBLE DEFAULT 1.5,
  minus SMALLINT NOT NULL DEFAULT -7,
  UNIQUE KEY pair (login_name, area),
  CONSTRAINT fk_area FOREIGN KEY (area) REFERENCES areas (code) ON DELETE SET NULL,
  CONSTRAINT some_weight CHECK (weight BETWEEN 0 AND 500)
) CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci;
CREATE TRIGGER stamp BEFORE INSERT ON plot_holders FOR EACH ROW SET NEW.note = 'x';`
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, sql)
	m, err := database.Open(context.Background(), "mariadb", dsn, nil)
	require.NoError(t, err)
	defer m.Close()
	live, err := m.Schema(context.Background())
	require.NoError(t, err)
	read, err := ddl.Read(sql, "mariadb")
	require.NoError(t, err)
	require.Equal(t, promised(read), promised(live))
	require.Equal(t, "mariadb", live.Dialect)

	// a dump that such a server wrote is read too
	dump, err := os.ReadFile("../../formats/ddl/testdata/mariadb.sql")
	require.NoError(t, err)
	_, err = ddl.Read(string(dump), "")
	require.NoError(t, err)
}

// TestOnlyWhatIsWatchedIsDescribed: views and ignored tables are left out, and what a user may not see is said.
func TestOnlyWhatIsWatchedIsDescribed(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, `CREATE TABLE a (id INT PRIMARY KEY, n INT UNSIGNED DEFAULT 3, t TEXT DEFAULT NULL, e ENUM('x','it''s') DEFAULT 'it''s');
CREATE TABLE log (line TEXT);
CREATE VIEW v AS SELECT id FROM a;
CREATE TABLE pair (x INT, y INT, a_id INT, PRIMARY KEY (x, y), UNIQUE KEY both_of (y, x), FOREIGN KEY one (a_id) REFERENCES a (id) ON UPDATE CASCADE)`)
	m, err := database.Open(context.Background(), "mariadb", dsn, []string{"log"})
	require.NoError(t, err)
	defer m.Close()
	db, err := m.Schema(context.Background())
	require.NoError(t, err)
	names := []string{}
	for _, table := range db.Tables {
		names = append(names, table.Name)
	}
	require.Equal(t, []string{"a", "pair"}, names)
	_, n := db.Column("a.n")
	require.Equal(t, "3", *n.Default)
	require.Equal(t, "0 to 4294967295", n.Limits())
	_, e := db.Column("a.e")
	require.Equal(t, []string{"x", "it's"}, e.Values)
	require.Equal(t, "it's", *e.Default)
	_, text := db.Column("a.t")
	require.Nil(t, text.Default, "a default of NULL is none")
	require.True(t, text.Filled())
	pair := db.Table("pair")
	require.Equal(t, []string{"x", "y"}, pair.Primary)
	require.Equal(t, []string{"y", "x"}, pair.Uniques[0].Columns)
	require.False(t, pair.UniqueAlone("x"))
	require.Equal(t, "a", pair.Foreign[0].Table)
	require.Empty(t, pair.Foreign[0].OnDelete)
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = m.Schema(ctx)
	require.ErrorContains(t, err, "read the server's version")
}

func TestADataSourceNameIsCheckedBeforeAnythingIsContacted(t *testing.T) {
	t.Parallel()
	require.NoError(t, database.CheckDSN("", "user:password@tcp(127.0.0.1:3306)/name"))
	require.ErrorContains(t, database.CheckDSN("", "::"), "cannot be read; write it like user:password@tcp")
	require.ErrorContains(t, database.CheckDSN("", "user@tcp(127.0.0.1:3306)/"), "names no database; end it with /name")
}
