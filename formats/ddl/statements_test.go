package ddl_test

import (
	"testing"

	"oddtick/core/schema"
	"oddtick/formats/ddl"

	"github.com/stretchr/testify/require"
)

func tables(t testing.TB, dialect, sql string) *schema.Database {
	d, err := ddl.Read(sql, dialect)
	require.NoError(t, err, sql)
	return d
}

// TestWhatDumpsHoldBesidesIsPassedOver: none of it is taken for a table, and the table behind it is still read.
func TestWhatDumpsHoldBesidesIsPassedOver(t *testing.T) {
	t.Parallel()
	const table = "CREATE TABLE last (a INT);"
	for dialect, list := range map[string][]string{
		"mariadb": {
			"", ";;;", "-- CREATE TABLE no (a INT);\n", "# CREATE TABLE no (a INT);\n", "/* CREATE TABLE no (a INT); */", "/*!40101 SET NAMES utf8 */;", "/*M!100616 SET NOTE_VERBOSITY=0 */;",
			"LOCK TABLES `x` WRITE;\nINSERT INTO `x` VALUES ('CREATE TABLE no (a INT);','it\\'s; \\\\'),(\"b;\");\nUNLOCK TABLES;", "DROP TABLE IF EXISTS `a`, b;", "CREATE DATABASE /*!32312 IF NOT EXISTS*/ `x`;", "USE `x`;",
			"CREATE ALGORITHM=UNDEFINED DEFINER=`a`@`%` SQL SECURITY DEFINER VIEW v AS SELECT 1;", "CREATE OR REPLACE VIEW v AS SELECT (1);", "CREATE SEQUENCE s START WITH 1;",
			"DELIMITER $$\nCREATE PROCEDURE p() BEGIN DECLARE x INT; IF x THEN SET x = 1; END IF; END$$\nDELIMITER ;", "CREATE FUNCTION f() RETURNS INT RETURN 1;", "SET @x = 'a;b';", "CREATE EVENT e ON SCHEDULE EVERY 1 DAY DO DELETE FROM t;",
		},
		"postgresql": {
			"\\connect x\n", "SET search_path = '';", "CREATE EXTENSION IF NOT EXISTS pgcrypto WITH SCHEMA public;", "CREATE SCHEMA a;", "CREATE TYPE t AS (a int, b text);", "ALTER TABLE none ADD COLUMN x int;", "GRANT ALL ON TABLE a TO b;",
			"CREATE FUNCTION f() RETURNS int LANGUAGE sql AS $$ SELECT 1; CREATE TABLE no (a int); $$;", "CREATE FUNCTION g() RETURNS int LANGUAGE plpgsql AS $body$ BEGIN RETURN '$$'; END; $body$;", "COMMENT ON TABLE a IS 'b;c';",
			"COPY a (b) FROM stdin;\n1\t;\"'\n\\.\n", "SELECT setval('a_seq', 1, true);", "CREATE INDEX i ON none USING btree (lower(a));", "/* a /* nested */ comment */", "INSERT INTO a VALUES (E'it\\'s', 'x''y', $1$a'b$1$);", "CREATE MATERIALIZED VIEW v AS SELECT 1;",
			"DO $$ BEGIN NULL; END $$;", "CREATE POLICY p ON a USING (true);", "CREATE CONSTRAINT TRIGGER c AFTER INSERT ON a DEFERRABLE FOR EACH ROW EXECUTE FUNCTION f();",
		},
		"sqlite": {
			"PRAGMA foreign_keys=OFF;", "BEGIN TRANSACTION;", "COMMIT;", "INSERT INTO x VALUES('a;b',X'00FF');", "CREATE VIRTUAL TABLE v USING fts5(a);", "CREATE TRIGGER t AFTER INSERT ON x BEGIN SELECT CASE WHEN 1 THEN 2 END; UPDATE x SET a = 1; END;",
			"CREATE VIEW v AS SELECT 'CREATE TABLE no (a)';", "ANALYZE sqlite_schema;", "DELETE FROM sqlite_sequence;",
		},
	} {
		for _, before := range list {
			d := tables(t, dialect, before+"\n"+table)
			names := []string{}
			for _, one := range d.Tables {
				names = append(names, one.Name)
			}
			require.Equal(t, []string{"last"}, names, "%s: %s", dialect, before)
		}
	}
}

func TestColumnsInEveryWriting(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ dialect, column, want string }{
		{"mariadb", "a VARCHAR(20) CHARACTER SET latin1 COLLATE latin1_bin NOT NULL DEFAULT 'x' COMMENT 'say ''x'''", `a varchar(20), text, not null, up to 20 characters, default "x", latin1 latin1_bin, “say 'x'”`},
		{"mariadb", "`a b` INT(3) UNSIGNED ZEROFILL AUTO_INCREMENT PRIMARY KEY", "a b int, integer, unsigned, not null, 0 to 4294967295, auto"},
		{"mariadb", "a DECIMAL(5) DEFAULT -1.5", `a decimal(5), decimal, -99999 to 99999, default "-1.5"`},
		{"mariadb", "a TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP ON UPDATE CURRENT_TIMESTAMP", "a timestamp, date and time, not null, computed"},
		{"mariadb", "a VARCHAR(10) AS (CONCAT(b, ')')) PERSISTENT", "a varchar(10), text, up to 10 characters, generated CONCAT(b, ')')"},
		{"mariadb", "a JSON CHECK (JSON_VALID(a))", "a json, json"},
		{"mariadb", "a BIT(8) DEFAULT b'1'", `a bit(8), binary, default "1"`},
		{"mariadb", "a NATIONAL VARCHAR(5)", "a national varchar(5), text, up to 5 characters"},
		{"mysql", "a VARCHAR(9) BINARY", "a varchar(9), text, up to 9 characters"},
		{"mysql", "a INT NOT NULL VISIBLE /*!80023 INVISIBLE */", "a int, integer, not null, -2147483648 to 2147483647"},
		{"mysql", "a POINT NOT NULL SRID 4326", "a point, other, not null"},
		{"mysql", "a VARCHAR(5) DEFAULT (uuid())", "a varchar(5), text, up to 5 characters, computed"},
		{"postgresql", "a character varying(20) DEFAULT 'x'::character varying NOT NULL", `a character varying(20), text, not null, up to 20 characters, default "x"`},
		{"postgresql", "a timestamp(0) without time zone DEFAULT (now() AT TIME ZONE 'utc'::text)", "a timestamp without time zone(0), date and time, computed"},
		{"postgresql", "a integer GENERATED ALWAYS AS IDENTITY (INCREMENT BY 5)", "a integer, integer, -2147483648 to 2147483647, auto"},
		{"postgresql", "a numeric(10,2) DEFAULT 0.00 CONSTRAINT positive CHECK (a >= 0)", `a numeric(10,2), decimal, -99999999.99 to 99999999.99, default "0.00"`},
		{"postgresql", `"A" public.citext COLLATE "de-x-icu"`, "A citext, text,  de-x-icu"},
		{"postgresql", "a int[] DEFAULT '{}'::int[]", `a int[], other, default "{}"`},
		{"postgresql", "a bigint DEFAULT nextval('s'::regclass) NOT NULL", "a bigint, integer, not null, -9223372036854775808 to 9223372036854775807, computed, auto"},
		{"postgresql", "a int REFERENCES b (c) MATCH FULL ON DELETE SET NULL ON UPDATE NO ACTION DEFERRABLE INITIALLY DEFERRED NOT NULL", "a int, integer, not null, -2147483648 to 2147483647"},
		{"sqlite", "a", "a , binary"},
		{"sqlite", "[a b] TEXT NOT NULL ON CONFLICT REPLACE DEFAULT ('x')", "a b text, text, not null, computed"},
		{"sqlite", "a INTEGER PRIMARY KEY DESC", "a bigint, integer, not null, -9223372036854775808 to 9223372036854775807, auto"},
		{"sqlite", "a UNSIGNED BIG INT", "a bigint, integer, -9223372036854775808 to 9223372036854775807"},
	} {
		d := tables(t, c.dialect, "CREATE TABLE t ("+c.column+");")
		require.Equal(t, c.want, asLine(&d.Tables[0].Columns[0]), c.column)
	}
}

func TestAlterationsAreFollowed(t *testing.T) {
	t.Parallel()
	d := tables(t, "mariadb", `CREATE TABLE t (a INT, b VARCHAR(5));
ALTER TABLE t ADD COLUMN IF NOT EXISTS c DATE NOT NULL AFTER a, MODIFY b VARCHAR(9) NOT NULL, CHANGE COLUMN a aa BIGINT, ADD UNIQUE KEY u (b, c), ADD CONSTRAINT f FOREIGN KEY (aa) REFERENCES x (y) ON DELETE CASCADE, ENGINE=InnoDB;
CREATE UNIQUE INDEX one ON t (c);
CREATE TABLE t2 LIKE t;`)
	require.Equal(t, "t: primary []\n  aa bigint, integer, -9223372036854775808 to 9223372036854775807\n  b varchar(9), text, not null, up to 9 characters\n  c date, date, not null\n  unique u [b c]\n  unique one [c]\n  foreign [aa] to x [y] cascade\nnote: The columns of t2 are not written out.\n", asLines(d))
	d = tables(t, "postgresql", `CREATE TABLE t (a varchar(5), b int NOT NULL, c text);
ALTER TABLE ONLY t ALTER COLUMN a TYPE varchar(50), ALTER COLUMN a SET NOT NULL, ALTER COLUMN b DROP NOT NULL, ALTER c SET DEFAULT 'x'::text;
ALTER TABLE t ALTER COLUMN b ADD GENERATED BY DEFAULT AS IDENTITY;
ALTER TABLE t ADD CONSTRAINT p PRIMARY KEY (b);`)
	require.Equal(t, "t: primary [b]\n  a varchar(50), text, not null, up to 50 characters\n  b int, integer, not null, -2147483648 to 2147483647, auto\n  c text, text, default \"x\"\n", asLines(d))
}

func TestATableDefinedAgainCountsAsTheLast(t *testing.T) {
	t.Parallel()
	d := tables(t, "mariadb", "CREATE TABLE a.t (x INT); CREATE TABLE IF NOT EXISTS `b`.`T` (y INT);")
	require.Len(t, d.Tables, 1)
	require.Equal(t, "y", d.Tables[0].Columns[0].Name)
}
