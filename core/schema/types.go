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
	switch words {
	case "char", "character", "nchar", "national char", "national character", "bpchar":
		c.Class, c.Length = ClassText, max(first, 1)
	case "varchar", "character varying", "char varying", "nvarchar", "national varchar", "national character varying", "varchar2":
		c.Class, c.Length = ClassText, first
	case "tinytext":
		c.Class, c.Bytes = ClassText, 255
	case "text", "long varchar", "long":
		c.Class = ClassText
		if dialect != "postgresql" {
			c.Bytes = 65535
			if first > 0 {
				c.Length, c.Bytes = first, 0
			}
		}
	case "mediumtext":
		c.Class, c.Bytes = ClassText, 1<<24-1
	case "longtext":
		c.Class, c.Bytes = ClassText, 1<<32-1
	case "citext", "name", "inet", "cidr", "inet4", "inet6", "macaddr", "xml", "tsvector":
		c.Class = ClassText
	case "tinyint", "bool", "boolean":
		c.Class = ClassInteger
		if words == "tinyint" && first != 1 {
			c.Type = "tinyint" // a display width says nothing of what is held
		}
		if words != "tinyint" || first == 1 {
			c.Class = ClassBoolean
			if dialect == "mariadb" || dialect == "mysql" {
				c.Type = "tinyint(1)"
			}
		}
	case "smallint", "int2", "mediumint", "int3", "int", "int4", "integer", "bigint", "int8", "year":
		c.Class = ClassInteger
		c.Type = words // a display width says nothing of what is held
	case "serial", "serial4", "smallserial", "serial2", "bigserial", "serial8":
		c.Class, c.Auto, c.Nullable = ClassInteger, true, false
		c.Type = map[string]string{"serial": "int", "serial4": "int", "smallserial": "smallint", "serial2": "smallint", "bigserial": "bigint", "serial8": "bigint"}[words]
		if dialect != "postgresql" {
			c.Type, c.Unsigned = "bigint", true
		}
	case "decimal", "numeric", "dec", "fixed", "number":
		c.Class, c.Precision, c.Scale = ClassDecimal, first, second
		if first == 0 && dialect != "postgresql" {
			c.Precision = 10
		}
	case "float", "double", "double precision", "real", "float4", "float8":
		c.Class = ClassFloat
	case "date":
		c.Class = ClassDate
	case "time", "timetz", "time without time zone", "time with time zone":
		c.Class, c.Scale = ClassTime, first
	case "datetime", "timestamp", "timestamptz", "timestamp without time zone", "timestamp with time zone":
		c.Class, c.Scale = ClassDateTime, first
	case "binary", "varbinary", "bit", "bit varying", "varbit":
		c.Class = ClassBinary
		if strings.HasSuffix(words, "binary") {
			c.Bytes = max(first, 1)
		}
	case "tinyblob":
		c.Class, c.Bytes = ClassBinary, 255
	case "blob":
		c.Class, c.Bytes = ClassBinary, 65535
	case "mediumblob", "longblob", "bytea":
		c.Class = ClassBinary
	case "uuid":
		c.Class = ClassUUID
	case "json", "jsonb":
		c.Class = ClassJSON
	case "enum":
		c.Class, c.Values = ClassEnum, args
	case "set":
		c.Class, c.Values = ClassSet, args
	default:
		c.Class = ClassOther
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
