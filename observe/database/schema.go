package database

import (
	"context"
	"database/sql"
	"fmt"
	"regexp"
	"strings"

	"oddtick/core/schema"

	"github.com/jmoiron/sqlx"
)

// described is a row of information_schema.COLUMNS.
type described struct {
	Table     string         `db:"TABLE_NAME"`
	Name      string         `db:"COLUMN_NAME"`
	Type      string         `db:"COLUMN_TYPE"`
	Base      string         `db:"DATA_TYPE"`
	Nullable  string         `db:"IS_NULLABLE"`
	Default   sql.NullString `db:"COLUMN_DEFAULT"`
	Extra     string         `db:"EXTRA"`
	Charset   sql.NullString `db:"CHARACTER_SET_NAME"`
	Collation sql.NullString `db:"COLLATION_NAME"`
	Generated sql.NullString `db:"GENERATION_EXPRESSION"`
	Comment   string         `db:"COLUMN_COMMENT"`
}

// schema reads the base tables' definitions from the information schema.
func (d mariaDB) schema(ctx context.Context, db *sqlx.DB, name string, out *schema.Database) error {
	out.Dialect = "mariadb"
	var version string
	if err := db.GetContext(ctx, &version, "SELECT VERSION()"); err != nil {
		return fmt.Errorf("read the server's version: %w", err)
	}
	if !strings.Contains(strings.ToLower(version), "mariadb") {
		out.Dialect = "mysql"
	}
	m := &informed{db, name}
	for _, read := range []func(context.Context, *schema.Database) error{m.readColumns, m.readKeys, m.readChecks, m.readTriggers} {
		if err := read(ctx, out); err != nil {
			return err
		}
	}
	return nil
}

// informed reads a MariaDB's information schema.
type informed struct {
	db   *sqlx.DB
	name string
}

var typeArguments = regexp.MustCompile(`'((?:[^'\\]|''|\\.)*)'`)

func (m *informed) readColumns(ctx context.Context, out *schema.Database) error {
	var columns []described
	err := m.db.SelectContext(ctx, &columns, `SELECT TABLE_NAME, COLUMN_NAME, COLUMN_TYPE, DATA_TYPE, IS_NULLABLE, COLUMN_DEFAULT, EXTRA, CHARACTER_SET_NAME, COLLATION_NAME, GENERATION_EXPRESSION, COLUMN_COMMENT
		FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = ? ORDER BY TABLE_NAME, ORDINAL_POSITION`, m.name)
	if err != nil {
		return err
	}
	for i := range columns {
		d := &columns[i]
		t := out.Table(d.Table)
		if t == nil {
			continue
		}
		c := schema.Column{
			Name: d.Name, Nullable: d.Nullable == "YES", Unsigned: strings.Contains(d.Type, "unsigned"), Auto: strings.Contains(strings.ToLower(d.Extra), "auto_increment"),
			Generated: d.Generated.String, Charset: d.Charset.String, Collation: d.Collation.String, Comment: d.Comment,
		}
		c.Declare(out.Dialect, strings.ToLower(d.Base), d.arguments())
		c.Default, c.Computed = d.defaultOf(out.Dialect)
		c.Computed = c.Computed || strings.Contains(strings.ToLower(d.Extra), "on update")
		t.Columns = append(t.Columns, c)
	}
	return nil
}

// arguments are those of the type as it is declared: varchar(20), decimal(6,3), enum('a','b').
func (d *described) arguments() []string {
	switch strings.ToLower(d.Base) {
	case "enum", "set":
		var out []string
		for _, m := range typeArguments.FindAllStringSubmatch(d.Type, -1) {
			out = append(out, strings.ReplaceAll(m[1], "''", "'"))
		}
		return out
	}
	_, rest, ok := strings.Cut(d.Type, "(")
	if !ok {
		return nil
	}
	inside, _, _ := strings.Cut(rest, ")")
	return strings.Split(inside, ",")
}

// defaultOf tells a literal from an expression. MariaDB quotes the literals, MySQL says DEFAULT_GENERATED.
func (d *described) defaultOf(dialect string) (text *string, computed bool) {
	value := d.Default.String
	switch {
	case !d.Default.Valid || dialect == "mariadb" && strings.EqualFold(value, "NULL"):
		return nil, false
	case strings.Contains(d.Extra, "DEFAULT_GENERATED"):
		return nil, true
	case dialect == "mysql" || plainNumber.MatchString(value):
		return &value, false
	case strings.HasPrefix(value, "'"):
		value = strings.ReplaceAll(strings.TrimSuffix(value[1:], "'"), "''", "'")
		return &value, false
	}
	return nil, true
}

var plainNumber = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?$`)

func (m *informed) readKeys(ctx context.Context, out *schema.Database) error {
	var keys []struct {
		Table   string         `db:"TABLE_NAME"`
		Name    string         `db:"CONSTRAINT_NAME"`
		Type    string         `db:"CONSTRAINT_TYPE"`
		Column  string         `db:"COLUMN_NAME"`
		Target  sql.NullString `db:"REFERENCED_TABLE_NAME"`
		Refers  sql.NullString `db:"REFERENCED_COLUMN_NAME"`
		Deletes sql.NullString `db:"DELETE_RULE"`
	}
	err := m.db.SelectContext(ctx, &keys, `SELECT k.TABLE_NAME, k.CONSTRAINT_NAME, c.CONSTRAINT_TYPE, k.COLUMN_NAME, k.REFERENCED_TABLE_NAME, k.REFERENCED_COLUMN_NAME, r.DELETE_RULE
		FROM information_schema.KEY_COLUMN_USAGE k
		JOIN information_schema.TABLE_CONSTRAINTS c ON c.CONSTRAINT_SCHEMA = k.CONSTRAINT_SCHEMA AND c.TABLE_NAME = k.TABLE_NAME AND c.CONSTRAINT_NAME = k.CONSTRAINT_NAME
		LEFT JOIN information_schema.REFERENTIAL_CONSTRAINTS r ON r.CONSTRAINT_SCHEMA = k.CONSTRAINT_SCHEMA AND r.TABLE_NAME = k.TABLE_NAME AND r.CONSTRAINT_NAME = k.CONSTRAINT_NAME
		WHERE k.TABLE_SCHEMA = ? ORDER BY k.TABLE_NAME, k.CONSTRAINT_NAME, k.ORDINAL_POSITION`, m.name)
	if err != nil {
		return err
	}
	for _, k := range keys {
		t := out.Table(k.Table)
		if t == nil {
			continue
		}
		switch k.Type {
		case "PRIMARY KEY":
			t.Primary = append(t.Primary, k.Column)
		case "UNIQUE":
			if n := len(t.Uniques); n > 0 && t.Uniques[n-1].Name == k.Name {
				t.Uniques[n-1].Columns = append(t.Uniques[n-1].Columns, k.Column)
			} else {
				t.Uniques = append(t.Uniques, schema.Unique{Name: k.Name, Columns: []string{k.Column}})
			}
		case "FOREIGN KEY":
			if n := len(t.Foreign); n > 0 && t.Foreign[n-1].Table == k.Target.String && len(t.Foreign[n-1].Columns) > 0 && k.Name == t.Foreign[n-1].Name {
				f := &t.Foreign[n-1]
				f.Columns, f.References = append(f.Columns, k.Column), append(f.References, k.Refers.String)
			} else {
				action := strings.ToLower(k.Deletes.String)
				if action == "restrict" || action == "no action" {
					action = ""
				}
				t.Foreign = append(t.Foreign, schema.Foreign{Name: k.Name, Columns: []string{k.Column}, Table: k.Target.String, References: []string{k.Refers.String}, OnDelete: action})
			}
		}
	}
	return nil
}

func (m *informed) readChecks(ctx context.Context, out *schema.Database) error {
	var checks []struct {
		Table  string `db:"TABLE_NAME"`
		Name   string `db:"CONSTRAINT_NAME"`
		Clause string `db:"CHECK_CLAUSE"`
	}
	query := "SELECT TABLE_NAME, CONSTRAINT_NAME, CHECK_CLAUSE FROM information_schema.CHECK_CONSTRAINTS WHERE CONSTRAINT_SCHEMA = ? ORDER BY TABLE_NAME, CONSTRAINT_NAME"
	if out.Dialect == "mysql" {
		query = `SELECT t.TABLE_NAME, c.CONSTRAINT_NAME, c.CHECK_CLAUSE FROM information_schema.CHECK_CONSTRAINTS c
			JOIN information_schema.TABLE_CONSTRAINTS t USING (CONSTRAINT_SCHEMA, CONSTRAINT_NAME) WHERE c.CONSTRAINT_SCHEMA = ? AND t.ENFORCED = 'YES' ORDER BY 1, 2`
	}
	if err := m.db.SelectContext(ctx, &checks, query, m.name); err != nil {
		return err
	}
	for _, c := range checks {
		if t := out.Table(c.Table); t != nil {
			t.Checks = append(t.Checks, schema.Check{Name: c.Name, Expression: c.Clause})
		}
	}
	return nil
}

func (m *informed) readTriggers(ctx context.Context, out *schema.Database) error {
	var triggers []struct {
		Table  string `db:"EVENT_OBJECT_TABLE"`
		Name   string `db:"TRIGGER_NAME"`
		Timing string `db:"ACTION_TIMING"`
		Event  string `db:"EVENT_MANIPULATION"`
	}
	err := m.db.SelectContext(ctx, &triggers, "SELECT EVENT_OBJECT_TABLE, TRIGGER_NAME, ACTION_TIMING, EVENT_MANIPULATION FROM information_schema.TRIGGERS WHERE TRIGGER_SCHEMA = ? ORDER BY 1, 2", m.name)
	if err != nil {
		return err
	}
	for _, tr := range triggers {
		if t := out.Table(tr.Table); t != nil {
			t.Triggers = append(t.Triggers, schema.Trigger{Name: tr.Name, When: strings.ToLower(tr.Timing + " " + tr.Event)})
		}
	}
	return nil
}
