package schema_test

import (
	"testing"

	"oddtick/core/schema"

	"github.com/stretchr/testify/require"
)

func declared(dialect, words string, args ...string) *schema.Column {
	c := &schema.Column{Name: "c", Nullable: true}
	c.Declare(dialect, words, args)
	return c
}

func TestWhatADeclaredTypeComesTo(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		dialect, words string
		args           []string
		class          schema.Class
		limits         string
	}{
		{"mariadb", "varchar", []string{"20"}, schema.ClassText, "up to 20 characters"},
		{"mariadb", "char", nil, schema.ClassText, "up to 1 characters"},
		{"mariadb", "text", nil, schema.ClassText, "up to 65535 bytes"},
		{"postgresql", "text", nil, schema.ClassText, ""},
		{"mariadb", "mediumtext", nil, schema.ClassText, "up to 16777215 bytes"},
		{"mariadb", "tinyint", []string{"1"}, schema.ClassBoolean, ""},
		{"mariadb", "tinyint", []string{"4"}, schema.ClassInteger, "-128 to 127"},
		{"mariadb", "int", []string{"11"}, schema.ClassInteger, "-2147483648 to 2147483647"},
		{"postgresql", "int8", nil, schema.ClassInteger, "-9223372036854775808 to 9223372036854775807"},
		{"postgresql", "bigserial", nil, schema.ClassInteger, "-9223372036854775808 to 9223372036854775807"},
		{"mysql", "decimal", nil, schema.ClassDecimal, "-9999999999 to 9999999999"},
		{"postgresql", "numeric", nil, schema.ClassDecimal, ""},
		{"mysql", "decimal", []string{"4", "4"}, schema.ClassDecimal, "-0.9999 to 0.9999"},
		{"mysql", "double", nil, schema.ClassFloat, ""},
		{"mysql", "datetime", []string{"3"}, schema.ClassDateTime, ""},
		{"postgresql", "time without time zone", nil, schema.ClassTime, ""},
		{"mysql", "varbinary", []string{"16"}, schema.ClassBinary, "up to 16 bytes"},
		{"postgresql", "text[]", nil, schema.ClassOther, ""},
		{"postgresql", "uuid", nil, schema.ClassUUID, ""},
		{"mysql", "set", []string{"a", "b"}, schema.ClassSet, ""},
		{"sqlite", "varchar", []string{"20"}, schema.ClassText, ""},
		{"sqlite", "bigint unsigned", nil, schema.ClassInteger, "-9223372036854775808 to 9223372036854775807"},
		{"sqlite", "", nil, schema.ClassBinary, ""},
		{"sqlite", "timestamp", nil, schema.ClassDateTime, ""},
		{"sqlite", "double precision", nil, schema.ClassFloat, ""},
		{"mysql", "geometry", nil, schema.ClassOther, ""},
	} {
		got := declared(c.dialect, c.words, c.args...)
		require.Equal(t, c.class, got.Class, "%s %s", c.dialect, c.words)
		require.Equal(t, c.limits, got.Limits(), "%s %s", c.dialect, c.words)
	}
	require.True(t, declared("postgresql", "serial").Auto)
	u := declared("mysql", "mediumint")
	u.Unsigned = true
	require.Equal(t, "0 to 16777215", u.Limits())
}

func TestTablesAndColumnsAreFoundIgnoringCase(t *testing.T) {
	t.Parallel()
	db := &schema.Database{Tables: []schema.Table{{Name: "Holders", Columns: []schema.Column{{Name: "Mail"}, {Name: "id", Auto: true}}, Primary: []string{"id"}, Uniques: []schema.Unique{{Columns: []string{"mail"}}, {Columns: []string{"a", "b"}}}}}}
	table, column := db.Column("holders.MAIL")
	require.Equal(t, "Holders", table.Name)
	require.Equal(t, "Mail", column.Name)
	require.True(t, table.UniqueAlone("Mail"))
	require.True(t, table.UniqueAlone("ID"))
	require.False(t, table.UniqueAlone("a"), "unique only together with another")
	_, none := db.Column("holders.none")
	require.Nil(t, none)
	_, none = (*schema.Database)(nil).Column("a.b")
	require.Nil(t, none)
}

func TestWhoFillsAColumn(t *testing.T) {
	t.Parallel()
	value := ""
	for _, c := range []schema.Column{{Nullable: true}, {Default: &value}, {Computed: true}, {Auto: true}, {Generated: "a"}} {
		require.True(t, c.Filled())
	}
	require.False(t, (&schema.Column{}).Filled())
}

func TestLengthsInBytes(t *testing.T) {
	t.Parallel()
	for charset, want := range map[string]int{"utf8mb4": 80, "utf8mb3": 60, "latin1": 20, "koi8r": 0} {
		require.Equal(t, want, (&schema.Column{Length: 20, Charset: charset}).MostBytes(), charset)
	}
	require.Equal(t, 255, (&schema.Column{Bytes: 255}).MostBytes())
	require.True(t, (&schema.Column{Collation: "utf8mb4_general_ci"}).IgnoresCase())
	require.True(t, (&schema.Column{Collation: "NOCASE"}).IgnoresCase())
	require.False(t, (&schema.Column{Collation: "utf8mb4_bin"}).IgnoresCase())
}
