// Package schema is a database's tables as data, read from SQL or from a live server: what the database layer promises.
package schema

import (
	"fmt"
	"strings"
)

// Database is the tables of one database.
type Database struct {
	// Dialect is mariadb, mysql, postgresql, sqlite, sqlserver, oracle or mongodb.
	Dialect string  `json:"dialect"`
	Tables  []Table `json:"tables"`
	// Notes say what could not be read, each with its place.
	Notes []string `json:"notes,omitempty"`
}

// Table is one base table.
type Table struct {
	Name     string    `json:"name"`
	Comment  string    `json:"comment,omitempty"`
	Columns  []Column  `json:"columns"`
	Primary  []string  `json:"primary,omitempty"`
	Uniques  []Unique  `json:"uniques,omitempty"`
	Foreign  []Foreign `json:"foreign,omitempty"`
	Checks   []Check   `json:"checks,omitempty"`
	Triggers []Trigger `json:"triggers,omitempty"`
}

// Column is one column.
type Column struct {
	Name string `json:"name"`
	// Type is the column's type as it was declared, in small letters.
	Type  string `json:"type"`
	Class Class  `json:"class"`
	// Length is the most characters, Bytes the most bytes a text may have; 0 is no limit.
	Length int `json:"length,omitempty"`
	Bytes  int `json:"bytes,omitempty"`
	// Precision and Scale are the digits of a decimal, all and behind the point; Scale is the decimals of a second for times.
	Precision int      `json:"precision,omitempty"`
	Scale     int      `json:"scale,omitempty"`
	Unsigned  bool     `json:"unsigned,omitempty"`
	Values    []string `json:"values,omitempty"` // of an enumeration or set
	Nullable  bool     `json:"nullable"`
	// Default is the default's text, nil when there is none. Computed says that it is an expression such as now().
	Default  *string `json:"default,omitempty"`
	Computed bool    `json:"computed,omitempty"`
	// Auto: the server counts it up. Generated is the expression of a generated column.
	Auto      bool   `json:"auto,omitempty"`
	Generated string `json:"generated,omitempty"`
	Charset   string `json:"charset,omitempty"`
	Collation string `json:"collation,omitempty"`
	Comment   string `json:"comment,omitempty"`
}

// Class is what a column's type comes to.
type Class string

// The classes of types.
const (
	ClassText     Class = "text"
	ClassInteger  Class = "integer"
	ClassDecimal  Class = "decimal"
	ClassFloat    Class = "float"
	ClassBoolean  Class = "boolean"
	ClassDate     Class = "date"
	ClassTime     Class = "time"
	ClassDateTime Class = "date and time"
	ClassBinary   Class = "binary"
	ClassUUID     Class = "uuid"
	ClassJSON     Class = "json"
	ClassEnum     Class = "enumeration"
	ClassSet      Class = "set"
	ClassOther    Class = "other"
)

// Unique is a unique key over one or more columns.
type Unique struct {
	Name    string   `json:"name,omitempty"`
	Columns []string `json:"columns"`
}

// Foreign is a foreign key.
type Foreign struct {
	Name       string   `json:"name,omitempty"`
	Columns    []string `json:"columns"`
	Table      string   `json:"table"`
	References []string `json:"references,omitempty"`
	OnDelete   string   `json:"on_delete,omitempty"`
}

// Check is a CHECK constraint.
type Check struct {
	Name       string `json:"name,omitempty"`
	Expression string `json:"expression"`
}

// Trigger is a trigger; what it does is not read.
type Trigger struct {
	Name string `json:"name"`
	// When is such as before insert.
	When string `json:"when"`
}

// Table finds a table by its name, ignoring case.
func (d *Database) Table(name string) *Table {
	if d == nil {
		return nil
	}
	for i := range d.Tables {
		if strings.EqualFold(d.Tables[i].Name, name) {
			return &d.Tables[i]
		}
	}
	return nil
}

// Column finds a column by table.column.
func (d *Database) Column(path string) (*Table, *Column) {
	table, column, _ := strings.Cut(path, ".")
	t := d.Table(table) // nil where there is no database either
	if t == nil {
		return nil, nil
	}
	return t, t.Column(column)
}

// Column finds a column by its name, ignoring case.
func (t *Table) Column(name string) *Column {
	for i := range t.Columns {
		if strings.EqualFold(t.Columns[i].Name, name) {
			return &t.Columns[i]
		}
	}
	return nil
}

// UniqueAlone tells whether a column's values must be unique by itself.
func (t *Table) UniqueAlone(column string) bool {
	if len(t.Primary) == 1 && strings.EqualFold(t.Primary[0], column) {
		return true
	}
	for _, u := range t.Uniques {
		if len(u.Columns) == 1 && strings.EqualFold(u.Columns[0], column) {
			return true
		}
	}
	return false
}

// Filled tells whether the server fills the column when an insert does not name it.
func (c *Column) Filled() bool {
	return c.Nullable || c.Default != nil || c.Computed || c.Auto || c.Generated != ""
}

// IgnoresCase tells whether two texts that differ in case alone are the same to the column.
func (c *Column) IgnoresCase() bool {
	name := strings.ToLower(c.Collation)
	return strings.Contains(name, "_ci") || name == "nocase" || c.Type == "citext"
}

// Limits words what the column holds: "up to 20 characters", "1 to 255".
func (c *Column) Limits() string {
	switch {
	case c.Length > 0:
		return fmt.Sprintf("up to %d characters", c.Length)
	case c.Bytes > 0:
		return fmt.Sprintf("up to %d bytes", c.Bytes)
	}
	if lo, hi, ok := c.Range(); ok {
		return lo + " to " + hi
	}
	return ""
}

// Range is the least and the greatest number the column holds.
func (c *Column) Range() (lo, hi string, ok bool) {
	base, _, _ := strings.Cut(c.Type, "(")
	base = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(base), " unsigned"))
	signed := map[string][3]string{
		"tinyint": {"-128", "127", "255"}, "smallint": {"-32768", "32767", "65535"}, "int2": {"-32768", "32767", ""}, "mediumint": {"-8388608", "8388607", "16777215"},
		"int": {"-2147483648", "2147483647", "4294967295"}, "integer": {"-2147483648", "2147483647", "4294967295"}, "int4": {"-2147483648", "2147483647", ""},
		"bigint": {"-9223372036854775808", "9223372036854775807", "18446744073709551615"}, "int8": {"-9223372036854775808", "9223372036854775807", ""},
	}
	if r, known := signed[base]; known && c.Class == ClassInteger {
		if c.Unsigned && r[2] != "" {
			return "0", r[2], true
		}
		return r[0], r[1], true
	}
	if c.Class == ClassDecimal && c.Precision > 0 {
		whole := strings.Repeat("9", max(c.Precision-c.Scale, 0))
		if whole == "" {
			whole = "0"
		}
		hi = whole
		if c.Scale > 0 {
			hi += "." + strings.Repeat("9", c.Scale)
		}
		if c.Unsigned {
			return "0", hi, true
		}
		return "-" + hi, hi, true
	}
	return "", "", false
}
