package ddl_test

import (
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"

	"oddtick/core/schema"
	"oddtick/formats/ddl"

	"github.com/stretchr/testify/require"
)

// TestFourDialects holds a dump of each dialect against what a person reads off it, a line a column.
func TestFourDialects(t *testing.T) {
	t.Parallel()
	for _, dialect := range ddl.Dialects {
		sql, err := os.ReadFile("testdata/" + dialect + ".sql")
		require.NoError(t, err)
		want, err := os.ReadFile("testdata/" + dialect + ".txt")
		require.NoError(t, err)
		d, err := ddl.Read(string(sql), dialect)
		require.NoError(t, err, dialect)
		require.Equal(t, string(want), asLines(d))
		require.Equal(t, dialect, ddl.Guess(string(sql)))
	}
}

func asLines(d *schema.Database) string {
	var b strings.Builder
	for _, t := range d.Tables {
		fmt.Fprintf(&b, "%s: primary %v\n", t.Name, t.Primary)
		for i := range t.Columns {
			fmt.Fprintf(&b, "  %s\n", asLine(&t.Columns[i]))
		}
		for _, u := range t.Uniques {
			fmt.Fprintf(&b, "  unique %s %v\n", u.Name, u.Columns)
		}
		for _, f := range t.Foreign {
			fmt.Fprintf(&b, "  foreign %v to %s %v %s\n", f.Columns, f.Table, f.References, f.OnDelete)
		}
		for _, c := range t.Checks {
			fmt.Fprintf(&b, "  check %s: %s\n", c.Name, c.Expression)
		}
		for _, tr := range t.Triggers {
			fmt.Fprintf(&b, "  trigger %s %s\n", tr.Name, tr.When)
		}
	}
	for _, n := range d.Notes {
		fmt.Fprintf(&b, "note: %s\n", n)
	}
	return b.String()
}

func asLine(c *schema.Column) string {
	out := fmt.Sprintf("%s %s, %s", c.Name, c.Type, c.Class)
	add := func(set bool, format string, args ...any) {
		if set {
			out += fmt.Sprintf(", "+format, args...)
		}
	}
	add(c.Unsigned, "unsigned")
	add(!c.Nullable, "not null")
	add(c.Limits() != "", "%s", c.Limits())
	add(c.Values != nil, "%q", c.Values)
	if c.Default != nil {
		add(true, "default %q", *c.Default)
	}
	add(c.Computed, "computed")
	add(c.Auto, "auto")
	add(c.Generated != "", "generated %s", c.Generated)
	add(c.Charset != "" || c.Collation != "", "%s %s", c.Charset, c.Collation)
	add(c.Comment != "", "“%s”", c.Comment)
	return out
}

func TestErrorsNameLineAndColumn(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		sql, dialect string
		line, column int
		says         string
	}{
		{"CREATE TABEL a (b int);", "mariadb", 1, 8, "TABLE, INDEX"},
		{"CREATE TABLE a (\n  b int,\n  c varchar(20) nott null\n);", "mariadb", 3, 17, "nott"},
		{"CREATE TABLE a (\n  b\n);", "mysql", 3, 1, "the type of the column b"},
		{"CREATE TABLE a (b int", "postgresql", 1, 22, ", or )"},
		{"CREATE TABLE a (b text DEFAULT 'x);", "postgresql", 1, 32, "never closed"},
		{"HELLO;", "sqlite", 1, 1, "no SQL statement"},
		{"CREATE TABLE ä (b int, , c int);", "sqlite", 1, 24, "a column or a constraint"},
		{"CREATE TABLE a (b int, PRIMARY (b));", "mariadb", 1, 32, "KEY"},
		{"CREATE TABLE a (b int CHECK (b > 1);", "mariadb", 1, 36, ", or )"},
		{"/* never", "mariadb", 1, 1, "never closed"},
		{"SELECT 1;", "mariadb", 1, 1, "no CREATE TABLE"},
		{"CREATE TABLE a (b int, FOREIGN KEY (b) REFERNCES c (d));", "mysql", 1, 40, "REFERENCES"},
	} {
		_, err := ddl.Read(c.sql, c.dialect)
		var wrong *ddl.Error
		require.True(t, errors.As(err, &wrong), "%s: %v", c.sql, err)
		require.Equal(t, []int{c.line, c.column}, []int{wrong.Line, wrong.Column}, "%s: %s", c.sql, err)
		require.Contains(t, wrong.Problem, c.says)
	}
	_, err := ddl.Read("CREATE TABLE a (b int)", "oracle")
	require.ErrorContains(t, err, "mariadb, mysql, postgresql, sqlite")
}

func TestEveryTypeHasItsLimits(t *testing.T) {
	t.Parallel()
	d, err := ddl.Read("CREATE TABLE t (a TINYINT UNSIGNED, b smallint, c DECIMAL(5,2), d decimal(3,3) unsigned, e tinytext, f varbinary(16), g int(3) zerofill, h bool, i char);", "mariadb")
	require.NoError(t, err)
	for column, want := range map[string]string{"a": "0 to 255", "b": "-32768 to 32767", "c": "-999.99 to 999.99", "d": "0 to 0.999", "e": "up to 255 bytes", "f": "up to 16 bytes", "g": "0 to 4294967295", "h": "", "i": "up to 1 characters"} {
		_, c := d.Column("t." + column)
		require.Equal(t, want, c.Limits(), column)
	}
}

// manyTables is a dump of n tables, as MariaDB writes them.
func manyTables(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "CREATE TABLE `t%d` (\n  `id` int(10) unsigned NOT NULL AUTO_INCREMENT,\n", i)
		for k := range 20 {
			fmt.Fprintf(&b, "  `column_%d` varchar(%d) CHARACTER SET utf8mb4 COLLATE utf8mb4_general_ci NOT NULL DEFAULT 'none' COMMENT 'what stands here',\n", k, k+1)
		}
		fmt.Fprintf(&b, "  PRIMARY KEY (`id`),\n  UNIQUE KEY `one` (`column_1`,`column_2`),\n  CONSTRAINT `fk%d` FOREIGN KEY (`column_3`) REFERENCES `t0` (`column_3`) ON DELETE CASCADE\n) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;\n", i)
	}
	return b.String()
}

func BenchmarkRead(b *testing.B) {
	sql := manyTables(300)
	b.SetBytes(int64(len(sql)))
	for b.Loop() {
		if d, err := ddl.Read(sql, "mariadb"); err != nil || len(d.Tables) != 300 {
			b.Fatal(err)
		}
	}
}

func FuzzReadDDL(f *testing.F) {
	for _, dialect := range ddl.Dialects {
		sql, err := os.ReadFile("testdata/" + dialect + ".sql")
		require.NoError(f, err)
		f.Add(string(sql), dialect)
	}
	f.Fuzz(func(t *testing.T, sql, dialect string) {
		d, err := ddl.Read(sql, dialect)
		if err != nil {
			var wrong *ddl.Error
			if errors.As(err, &wrong) && (wrong.Line < 1 || wrong.Column < 1) {
				t.Fatalf("an error without a place: %v", err)
			}
			return
		}
		for i := range d.Tables {
			for k := range d.Tables[i].Columns {
				_ = d.Tables[i].Columns[k].Limits()
			}
		}
	})
}
