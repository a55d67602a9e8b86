package database

import (
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/schema"

	"github.com/jmoiron/sqlx"
)

// Watcher watches the base tables of one database. Reading rights are enough; with those for the binary log, a look costs what changed
// and not what there is. It is for one user at a time but for LookUp.
type Watcher struct {
	db      *sqlx.DB
	dialect dialect
	name    string
	ignore  []string
	tables  []*table
	// log tells of the changes in the tables of which it tells all; nil where there is none, and why.
	log   *binaryLog
	noLog string
	// writing opens a file for writing, where watching opens it for reading only.
	writing string
}

type table struct {
	name    string
	columns []column
	key     []int // indexes of the primary key's columns; all columns where there is none
	keyed   bool  // there is a primary key
	number  int   // index of a lone whole-number key, -1 otherwise
	digest  string
	logged  bool // the log tells of its changes
	// redefined: its columns changed, or it was emptied at once. It is guarded by the log.
	redefined bool
	state
}

// column is a column of a watched table.
type column struct {
	Table, Name string
	// Type is the server's own name of the type.
	Type string
	// Key: it is part of the primary key. Whole: it holds whole numbers.
	Key, Whole, Unsigned, Nullable bool
	// Made: the server computes it of other columns.
	Made bool
	// Blind: comparing it does not tell capitals from small letters.
	Blind bool
	// Collation is its server's name, "" for no text. Members are those of an enumeration or a set.
	Collation string
	Members   []string
}

// dialect is what differs from server to server.
type dialect interface {
	// columns lists the columns of base tables, by table and in order.
	columns(ctx context.Context, db *sqlx.DB, name string) ([]column, error)
	quote(name string) string
	// text reads a column as text, NULL as NULL.
	text(c column) string
	// digest is an expression over columns, a whole number of up to 64 bits; "" where the server has none, and rows are read instead.
	digest(columns []column) string
	// bucket is an expression over a whole number, or a digest, for the part of its rows.
	bucket(number string, digested bool) string
	// value makes a cell of what text returned.
	value(c column, raw []byte) observation.Cell
	// equals is a condition on a column with one placeholder; loosely does not tell capitals from small letters.
	equals(c column, loosely bool) string
	// holders are n placeholders, for texts.
	holders(n int) []string
	// put is an expression for a value of a column that is written as text, at a placeholder; override lets a statement that inserts
	// give the values of keys that the server counts.
	put(c column, holder, value string) string
	override() string
	// first is a query, which begins with SELECT, for its first n rows; start are the first n characters of a text.
	first(query string, n int) string
	start(text, n string) string
	// holds tells whether a text column can hold the value at all.
	holds(value string) bool
	schema(ctx context.Context, db *sqlx.DB, name string, out *schema.Database) error
}

// Close ends the connections.
func (m *Watcher) Close() error {
	if m.log != nil {
		m.log.close()
	}
	return m.db.Close()
}

// Way says how changes are seen, in a sentence.
func (m *Watcher) Way() string {
	compared := 0
	for _, t := range m.tables {
		if !t.logged {
			compared++
		}
	}
	switch {
	case m.log == nil && m.noLog != "":
		return "compared before and after each case: " + m.noLog
	case m.log == nil:
		return "compared before and after each case"
	case compared > 0:
		return fmt.Sprintf("from the binary log; %d of %d tables compared before and after each case, because the log does not show all their rows", compared, len(m.tables))
	}
	return "read from the binary log"
}

func (m *Watcher) describe(ctx context.Context, ignore []string) error {
	m.ignore = ignore
	columns, err := m.dialect.columns(ctx, m.db, m.name)
	if err != nil {
		return err
	}
	m.tables = nil
	for _, c := range columns {
		if slices.Contains(ignore, c.Table) {
			continue
		}
		if n := len(m.tables); n == 0 || m.tables[n-1].name != c.Table {
			m.tables = append(m.tables, &table{name: c.Table, number: -1})
		}
		t := m.tables[len(m.tables)-1]
		if c.Key {
			t.key = append(t.key, len(t.columns))
		}
		t.columns = append(t.columns, c)
	}
	for _, t := range m.tables {
		t.prepare(m.dialect)
	}
	return m.db.PingContext(ctx)
}

func (t *table) prepare(d dialect) {
	t.keyed = len(t.key) > 0
	if len(t.key) == 1 && t.columns[t.key[0]].Whole {
		t.number = t.key[0]
	}
	if !t.keyed {
		for i := range t.columns {
			t.key = append(t.key, i)
		}
	}
	t.digest = d.digest(t.columns)
}

// Tables are the watched tables.
func (m *Watcher) Tables() []string {
	out := make([]string, len(m.tables))
	for i, t := range m.tables {
		out[i] = t.name
	}
	return out
}

// MissingError says that a table or a column does not exist.
type MissingError struct{ What, Known string }

func (e *MissingError) Error() string {
	return fmt.Sprintf("the database has no %s; there are: %s", e.What, e.Known)
}

// Require checks that a table has the columns.
func (m *Watcher) Require(tableName string, columns ...string) error {
	i := slices.IndexFunc(m.tables, func(t *table) bool { return t.name == tableName })
	if i < 0 {
		return &MissingError{"watched table " + tableName, strings.Join(m.Tables(), ", ")}
	}
	known := make([]string, len(m.tables[i].columns))
	for k, c := range m.tables[i].columns {
		known[k] = c.Name
	}
	for _, c := range columns {
		if !slices.Contains(known, c) {
			return &MissingError{"column " + tableName + "." + c, strings.Join(known, ", ")}
		}
	}
	return nil
}

// Begin takes the tables as they stand for what later looks are compared with.
func (m *Watcher) Begin(ctx context.Context) error {
	if m.log != nil {
		m.log.forget()
		if err := m.log.start(ctx); err != nil {
			m.noLog, m.log = err.Error(), nil
		}
	}
	for _, t := range m.tables {
		if t.logged = t.logged && m.log != nil; t.logged {
			continue
		}
		if err := m.keep(ctx, t); err != nil {
			return err
		}
	}
	return nil
}

// RedefinedError says that a table's columns changed while it was watched, or that it was emptied at once.
type RedefinedError struct{ Tables []string }

func (e *RedefinedError) Error() string {
	return fmt.Sprintf("the table %s was altered, emptied or replaced meanwhile; what changed in its rows is not known", strings.Join(e.Tables, ", "))
}

// Changes returns what changed since the last look, in all watched tables. After a RedefinedError the next looks compare with the
// tables as they stood then.
func (m *Watcher) Changes(ctx context.Context) ([]observation.Change, error) {
	var out []observation.Change
	if m.log != nil {
		changes, err := m.logged(ctx)
		if altered := m.log.redefined(); len(altered) > 0 {
			return nil, errors.Join(&RedefinedError{altered}, m.anew(ctx))
		}
		if err != nil {
			return nil, err
		}
		out = changes
	}
	changes, err := m.compare(ctx)
	if err != nil {
		if altered := m.altered(ctx); len(altered) > 0 {
			return nil, errors.Join(&RedefinedError{altered}, m.anew(ctx))
		}
		return nil, err
	}
	out = append(out, m.moved(changes)...)
	sortChanges(out)
	return out, nil
}

// moved tells a row that is gone and one that is new as one whose key changed, where tables are compared: only of keys that nobody counts,
// and where the rest of the row, or most of a key of several columns, is the same.
func (m *Watcher) moved(changes []observation.Change) []observation.Change {
	type pair struct{ gone, come, same int }
	var pairs []pair
	for i := range changes {
		gone := &changes[i]
		t := m.named(gone.Table)
		if gone.Kind != observation.Deleted || gone.Before == nil || t == nil || !t.keyed || t.number >= 0 {
			continue
		}
		for k := range changes {
			if come := &changes[k]; come.Table == gone.Table && come.Kind == observation.Inserted {
				if same, all := t.alike(gone.Before, come.After); 2*same > all {
					pairs = append(pairs, pair{i, k, same})
				}
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b pair) int { return b.same - a.same })
	used := map[int]bool{}
	for _, p := range pairs {
		if !used[p.gone] && !used[p.come] {
			used[p.gone], used[p.come] = true, true
			changes[p.gone].Kind, changes[p.gone].After = observation.Changed, changes[p.come].After
			changes[p.come].Table = ""
		}
	}
	return slices.DeleteFunc(changes, func(c observation.Change) bool { return c.Table == "" })
}

// alike counts the columns in which two rows are the same, and those in which they could be, as one of the key is not.
func (t *table) alike(a, b []observation.Cell) (same, all int) {
	for i := range t.columns {
		if i < len(a) && i < len(b) && a[i] == b[i] {
			same++
		}
	}
	return same, len(t.columns) - 1
}

// altered are the tables whose columns are no longer as they were.
func (m *Watcher) altered(ctx context.Context) []string {
	columns, err := m.dialect.columns(ctx, m.db, m.name)
	if err != nil {
		return nil
	}
	now := map[string][]string{}
	for _, c := range columns {
		now[c.Table] = append(now[c.Table], c.Name+" "+c.Type)
	}
	var out []string
	for _, t := range m.tables {
		before := make([]string, len(t.columns))
		for i, c := range t.columns {
			before[i] = c.Name + " " + c.Type
		}
		if !slices.Equal(before, now[t.name]) {
			out = append(out, t.name)
		}
	}
	return out
}

// anew reads the tables' columns again and begins from there.
func (m *Watcher) anew(ctx context.Context) error {
	if m.log != nil {
		m.log.close()
		m.log = nil
	}
	if err := m.describe(ctx, m.ignore); err != nil {
		return err
	}
	if d, ok := m.dialect.(mariaDB); ok {
		d.follow(ctx, m)
	}
	return m.Begin(ctx)
}

// text makes a cell of a value that the server gives as text; what is no text is written in hexadecimal digits.
func text(c column, raw []byte) observation.Cell {
	out := observation.Cell{Column: c.Name, Null: raw == nil, Value: string(raw)}
	if !utf8.Valid(raw) {
		out.Value = "0x" + hex.EncodeToString(raw)
	}
	return out
}

func (t *table) keyOf(cells []observation.Cell) string {
	parts := make([]string, len(t.key))
	for i, k := range t.key {
		parts[i] = cells[k].Value
	}
	return strings.Join(parts, ", ")
}

// Schema reads the watched tables' definitions.
func (m *Watcher) Schema(ctx context.Context) (*schema.Database, error) {
	out := &schema.Database{Tables: []schema.Table{}}
	for _, t := range m.tables {
		out.Tables = append(out.Tables, schema.Table{Name: t.name, Columns: []schema.Column{}})
	}
	if err := m.dialect.schema(ctx, m.db, m.name, out); err != nil {
		return nil, fmt.Errorf("read the tables of %s: %w", m.name, err)
	}
	return out, nil
}
