package schema

import (
	"strconv"
	"strings"
)

// Declare fills in what a column's declared type says, in a dialect: class, lengths, precision. words is the type's name in small
// letters, such as character varying; args its arguments.
func (c *Column) Declare(dialect, words string, args []string) {
	c.Type = words
	if len(args) > 0 {
		c.Type += "(" + strings.Join(args, ",") + ")"
	}
	first := 0
	if len(args) > 0 {
		first, _ = strconv.Atoi(args[0])
	}
	second := 0
	if len(args) > 1 {
		second, _ = strconv.Atoi(args[1])
	}
	if strings.HasSuffix(words, "[]") {
		c.Class = ClassOther
		return
	}
	if dialect == "sqlite" {
		c.affinity(words)
		return
	}
	switch {
	case dialect == "sqlserver" && words == "bit":
		words = "boolean"
	case dialect == "sqlserver" && words == "timestamp":
		words = "rowversion" // which is what it is there
	case dialect == "oracle" && words == "date":
		words = "datetime" // with a time of day
	}
	d, known := declarations[words]
	if !known {
		c.Class = ClassOther
		return
	}
	c.Class = d.class
	if d.more != nil {
		d.more(c, declared{dialect, words, args, first, second})
	}
}

// declared is a type as it was declared, and its first two arguments as numbers.
type declared struct {
	dialect, words string
	args           []string
	first, second  int
}

// declaration is what a type means: its class, and what more it says of a column.
type declaration struct {
	class Class
	more  func(c *Column, d declared)
}

// declarations are the types by their names, those of all servers together.
var declarations = func() map[string]declaration {
	out := map[string]declaration{}
	add := func(d declaration, names ...string) {
		for _, n := range names {
			out[n] = d
		}
	}
	bytes := func(n int) func(*Column, declared) { return func(c *Column, _ declared) { c.Bytes = n } }
	scale := func(c *Column, d declared) { c.Scale = d.first }
	add(declaration{ClassText, func(c *Column, d declared) { c.Length = max(d.first, 1) }}, "char", "character", "nchar", "national char", "national character", "bpchar")
	add(declaration{ClassText, func(c *Column, d declared) { c.Length = d.first }},
		"varchar", "character varying", "char varying", "nvarchar", "national varchar", "national character varying", "varchar2", "nvarchar2")
	add(declaration{ClassText, bytes(255)}, "tinytext")
	add(declaration{ClassText, text}, "text", "long varchar", "long")
	add(declaration{ClassText, bytes(1<<24 - 1)}, "mediumtext")
	add(declaration{ClassText, bytes(1<<32 - 1)}, "longtext")
	add(declaration{ClassText, nil}, "citext", "name", "inet", "cidr", "inet4", "inet6", "macaddr", "xml", "tsvector", "ntext", "clob", "nclob", "sysname")
	add(declaration{ClassInteger, tinyint}, "tinyint")
	add(declaration{ClassBoolean, boolean}, "bool", "boolean")
	add(declaration{ClassInteger, func(c *Column, d declared) { c.Type = d.words }}, // a display width says nothing of what is held
		"smallint", "int2", "mediumint", "int3", "int", "int4", "integer", "bigint", "int8", "year")
	add(declaration{ClassInteger, serial}, "serial", "serial4", "smallserial", "serial2", "bigserial", "serial8")
	add(declaration{ClassDecimal, func(c *Column, d declared) { c.Precision, c.Scale = moneyDigits[d.words], 4 }}, "money", "smallmoney")
	add(declaration{ClassDecimal, decimal}, "decimal", "numeric", "dec", "fixed", "number")
	add(declaration{ClassFloat, nil}, "float", "double", "double precision", "real", "float4", "float8", "binary_float", "binary_double")
	add(declaration{ClassDate, nil}, "date")
	add(declaration{ClassTime, scale}, "time", "timetz", "time without time zone", "time with time zone")
	add(declaration{ClassDateTime, scale}, "datetime", "timestamp", "timestamptz", "timestamp without time zone", "timestamp with time zone", "datetime2", "smalldatetime", "datetimeoffset")
	add(declaration{ClassBinary, func(c *Column, d declared) { c.Bytes = max(d.first, 1) }}, "binary", "varbinary")
	add(declaration{ClassBinary, nil}, "bit", "bit varying", "varbit", "mediumblob", "longblob", "bytea", "image", "rowversion", "raw")
	add(declaration{ClassBinary, bytes(255)}, "tinyblob")
	add(declaration{ClassBinary, bytes(65535)}, "blob")
	add(declaration{ClassUUID, nil}, "uuid", "uniqueidentifier")
	add(declaration{ClassJSON, nil}, "json", "jsonb")
	add(declaration{ClassEnum, func(c *Column, d declared) { c.Values = d.args }}, "enum")
	add(declaration{ClassSet, func(c *Column, d declared) { c.Values = d.args }}, "set")
	return out
}()

func text(c *Column, d declared) {
	switch {
	case d.dialect == "postgresql" || d.dialect == "sqlserver":
	case d.first > 0:
		c.Length = d.first
	default:
		c.Bytes = 65535
	}
}

// moneyDigits are the digits that SQL Server's types of money hold.
var moneyDigits = map[string]int{"money": 19, "smallmoney": 10}

func tinyint(c *Column, d declared) {
	if d.dialect == "sqlserver" {
		c.Type, c.Unsigned = "tinyint", true
		return
	}
	if d.first == 1 {
		c.Class = ClassBoolean
		boolean(c, d)
		return
	}
	c.Type = "tinyint" // a display width says nothing of what is held
}

func boolean(c *Column, d declared) {
	if d.dialect == "mariadb" || d.dialect == "mysql" {
		c.Type = "tinyint(1)"
	}
}

// serials are the types behind PostgreSQL's numbers that it counts up itself.
var serials = map[string]string{"serial": "int", "serial4": "int", "smallserial": "smallint", "serial2": "smallint", "bigserial": "bigint", "serial8": "bigint"}

func serial(c *Column, d declared) {
	c.Auto, c.Nullable, c.Type = true, false, serials[d.words]
	if d.dialect != "postgresql" {
		c.Type, c.Unsigned = "bigint", true
	}
}

func decimal(c *Column, d declared) {
	c.Precision, c.Scale = d.first, d.second
	if d.first == 0 && d.dialect != "postgresql" && d.dialect != "oracle" {
		c.Precision = 10
	}
}

// affinity is a type's meaning to SQLite (its documentation, "Datatypes In SQLite", 3.1): lengths are not enforced.
func (c *Column) affinity(words string) {
	has := func(parts ...string) bool {
		for _, p := range parts {
			if strings.Contains(words, p) {
				return true
			}
		}
		return false
	}
	switch {
	case has("bool"):
		c.Class = ClassBoolean
	case has("int"):
		c.Class = ClassInteger
		c.Type = "bigint"
	case has("char", "clob", "text"):
		c.Class = ClassText
	case has("blob") || words == "":
		c.Class = ClassBinary
	case has("real", "floa", "doub"):
		c.Class = ClassFloat
	case has("datetime", "timestamp"):
		c.Class = ClassDateTime
	case has("date"):
		c.Class = ClassDate
	case has("time"):
		c.Class = ClassTime
	default:
		c.Class = ClassDecimal
	}
}

// charsetWidths are the most bytes a character takes.
var charsetWidths = map[string]int{"utf8mb4": 4, "utf8mb3": 3, "utf8": 3, "latin1": 1, "ascii": 1, "binary": 1, "ucs2": 2, "utf16": 4, "utf32": 4}

// MostBytes is how many bytes in its own character set a column of limited characters may take; 0 is unknown.
func (c *Column) MostBytes() int {
	if c.Bytes > 0 {
		return c.Bytes
	}
	return c.Length * charsetWidths[strings.ToLower(c.Charset)]
}
