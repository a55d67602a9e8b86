package database

import (
	"context"
	"database/sql"
	"encoding/hex"
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/schema"

	"github.com/jmoiron/sqlx"
)

// mostRows is the largest table that is watched by comparing rows; a larger one is named, to be put on ignore.
const mostRows = 500_000

// Watcher watches the base tables of one database. Reading rights are enough. It is for one user at a time but for LookUp.
type Watcher struct {
	db      *sqlx.DB
	dialect dialect
	name    string
	tables  []*table
}

type table struct {
	name    string
	columns []column
	key     []int // indexes of the primary key's columns; all columns where there is none
	auto    int   // index of a lone whole-number key, -1 otherwise
	digest  string
	state   state
	rows    map[string][]observation.Cell
	last    string // the highest key, where it counts up
}

// column is a column of a watched table.
type column struct {
	Table, Name string
	// Type is the server's own name of the type.
	Type string
	// Key: it is part of the primary key. Auto: the server counts it up.
	Key, Auto bool
	// Blind: comparing it does not tell capitals from small letters.
	Blind bool
}

// dialect is what differs from server to server.
type dialect interface {
	// columns lists the columns of base tables, by table and in order.
	columns(ctx context.Context, db *sqlx.DB, name string) ([]column, error)
	quote(name string) string
	// text reads a column as text, NULL as NULL.
	text(c column) string
	// digest is an expression over a row, a whole number of 64 bits; "" where the server has none, and rows are read instead.
	digest(columns []column) string
	// value makes a cell of what text returned.
	value(c column, raw []byte) observation.Cell
	// equals is a condition on a column with one placeholder; loosely does not tell capitals from small letters.
	equals(c column, loosely bool) string
	// holders are n placeholders, for texts.
	holders(n int) []string
	// holds tells whether a text column can hold the value at all.
	holds(value string) bool
	schema(ctx context.Context, db *sqlx.DB, name string, out *schema.Database) error
}

// state is a table's row count and the exclusive or of its rows' digests: it costs one scan on the server and one row on the wire.
type state struct {
	Count  int64  `db:"n"`
	Digest uint64 `db:"d"`
}

// Close ends the connections.
func (m *Watcher) Close() error { return m.db.Close() }

func (m *Watcher) describe(ctx context.Context, ignore []string) error {
	columns, err := m.dialect.columns(ctx, m.db, m.name)
	if err != nil {
		return err
	}
	for _, c := range columns {
		if slices.Contains(ignore, c.Table) {
			continue
		}
		if n := len(m.tables); n == 0 || m.tables[n-1].name != c.Table {
			m.tables = append(m.tables, &table{name: c.Table, auto: -1})
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
	if len(t.key) == 1 && t.columns[t.key[0]].Auto {
		t.auto = t.key[0]
	}
	if len(t.key) == 0 {
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

// Begin reads all watched rows once.
func (m *Watcher) Begin(ctx context.Context) error {
	for _, t := range m.tables {
		var n int64
		if err := m.db.GetContext(ctx, &n, "SELECT COUNT(*) FROM "+m.dialect.quote(t.name)); err != nil {
			return fmt.Errorf("count the rows of %s: %w", t.name, err)
		}
		if n > mostRows {
			return fmt.Errorf("the table %s has %d rows, more than the %d that are compared; put it on ignore in the site document if nothing is stored there", t.name, n, mostRows)
		}
		rows, st, err := m.read(ctx, t, "")
		if err != nil {
			return err
		}
		t.keep(rows, st)
	}
	return nil
}

// Changes returns what changed since the last look, in all watched tables.
func (m *Watcher) Changes(ctx context.Context) ([]observation.Change, error) {
	states, err := m.states(ctx)
	if err != nil {
		return nil, err
	}
	var out []observation.Change
	for i, t := range m.tables {
		if states[i] == t.state {
			continue
		}
		changes, err := m.differ(ctx, t, states[i])
		if err != nil {
			return nil, err
		}
		out = append(out, changes...)
	}
	return out, nil
}

func (m *Watcher) states(ctx context.Context) ([]state, error) {
	if len(m.tables) == 0 {
		return nil, nil
	}
	parts := make([]string, len(m.tables))
	for i, t := range m.tables {
		if t.digest == "" {
			return m.countedHere(ctx)
		}
		parts[i] = fmt.Sprintf("SELECT %d AS i, COUNT(*) AS n, BIT_XOR(%s) AS d FROM %s", i, t.digest, m.dialect.quote(t.name))
	}
	out := make([]state, len(m.tables))
	rows, err := m.db.QueryContext(ctx, strings.Join(parts, " UNION ALL "))
	if err != nil {
		return nil, fmt.Errorf("compare the watched tables: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var i int
		var s state
		var digest sql.NullString
		if err := rows.Scan(&i, &s.Count, &digest); err != nil {
			return nil, fmt.Errorf("compare the watched tables: %w", err)
		}
		s.Digest = wholeNumber(digest.String)
		out[i] = s
	}
	return out, rows.Err()
}

// wholeNumber reads a digest, which some servers have with a sign.
func wholeNumber(text string) uint64 {
	if strings.HasPrefix(text, "-") {
		n, _ := strconv.ParseInt(text, 10, 64)
		return uint64(n)
	}
	n, _ := strconv.ParseUint(text, 10, 64)
	return n
}

// countedHere reads all rows, where the server cannot digest them.
func (m *Watcher) countedHere(ctx context.Context) ([]state, error) {
	out := make([]state, len(m.tables))
	for i, t := range m.tables {
		_, st, err := m.read(ctx, t, "")
		if err != nil {
			return nil, err
		}
		out[i] = st
	}
	return out, nil
}

// differ finds a table's changed rows. Where the key counts up and the new rows alone explain the difference, only they are read.
func (m *Watcher) differ(ctx context.Context, t *table, now state) ([]observation.Change, error) {
	if t.auto >= 0 && now.Count > t.state.Count {
		fresh, st, err := m.read(ctx, t, fmt.Sprintf(" WHERE %s > %s", m.dialect.quote(t.columns[t.auto].Name), t.last))
		if err != nil {
			return nil, err
		}
		if t.state.Count+st.Count == now.Count && t.state.Digest^st.Digest == now.Digest {
			var out []observation.Change
			for key, row := range fresh {
				out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: row})
				t.rows[key] = row
				t.count(row)
			}
			t.state = now
			sortChanges(out)
			return out, nil
		}
	}
	rows, st, err := m.read(ctx, t, "")
	if err != nil {
		return nil, err
	}
	var out []observation.Change
	for key, after := range rows {
		before, known := t.rows[key]
		switch {
		case !known:
			out = append(out, observation.Change{Table: t.name, Kind: observation.Inserted, Key: key, After: after})
		case !slices.Equal(before, after):
			out = append(out, observation.Change{Table: t.name, Kind: observation.Changed, Key: key, Before: before, After: after})
		}
	}
	for key, before := range t.rows {
		if _, still := rows[key]; !still {
			out = append(out, observation.Change{Table: t.name, Kind: observation.Deleted, Key: key, Before: before})
		}
	}
	t.keep(rows, st)
	sortChanges(out)
	return out, nil
}

func sortChanges(list []observation.Change) {
	slices.SortFunc(list, func(a, b observation.Change) int {
		if len(a.Key) != len(b.Key) {
			return len(a.Key) - len(b.Key)
		}
		return strings.Compare(a.Key, b.Key)
	})
}

func (t *table) keep(rows map[string][]observation.Cell, st state) {
	t.rows, t.state, t.last = rows, st, "0"
	for _, row := range rows {
		t.count(row)
	}
}

func (t *table) count(row []observation.Cell) {
	if t.auto < 0 {
		return
	}
	if v := row[t.auto].Value; len(v) > len(t.last) || len(v) == len(t.last) && v > t.last {
		t.last = v
	}
}

// read returns rows by key, with the state that they make up.
func (m *Watcher) read(ctx context.Context, t *table, where string) (map[string][]observation.Cell, state, error) {
	names := make([]string, len(t.columns))
	for i, c := range t.columns {
		names[i] = m.dialect.text(c)
	}
	digest := t.digest
	if digest == "" {
		digest = "0"
	}
	rows, err := m.db.QueryContext(ctx, "SELECT "+digest+", "+strings.Join(names, ", ")+" FROM "+m.dialect.quote(t.name)+where)
	if err != nil {
		return nil, state{}, fmt.Errorf("read the rows of %s: %w", t.name, err)
	}
	defer rows.Close()
	out := map[string][]observation.Cell{}
	var st state
	raw := make([]sql.RawBytes, len(t.columns))
	var told sql.RawBytes
	into := make([]any, len(raw)+1)
	into[0] = &told
	for i := range raw {
		into[i+1] = &raw[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return nil, state{}, fmt.Errorf("read the rows of %s: %w", t.name, err)
		}
		cells := make([]observation.Cell, len(raw))
		for i, c := range t.columns {
			cells[i] = m.dialect.value(c, raw[i])
		}
		key := t.keyOf(cells)
		for _, twice := out[key]; twice; _, twice = out[key] {
			key += " again" // a table without a key may hold a row twice
		}
		out[key] = cells
		st.Count++
		if t.digest == "" {
			st.Digest ^= digestOf(key, cells)
		} else {
			st.Digest ^= wholeNumber(string(told))
		}
	}
	return out, st, rows.Err()
}

// digestOf is a row's digest where the server has none.
func digestOf(key string, cells []observation.Cell) uint64 {
	h := fnv.New64a()
	for _, c := range cells {
		fmt.Fprintf(h, "%d %t %s,", len(c.Value), c.Null, c.Value)
	}
	_, _ = h.Write([]byte(key)) // a hash takes all
	return h.Sum64()
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

// LookUp tells whether a row holds a value already, in the sense of the rule that asks. same decides whether two values count
// as one.
func (m *Watcher) LookUp(ctx context.Context, l oracle.LookUp, same func(a, b string) bool) (bool, error) {
	i := slices.IndexFunc(m.tables, func(t *table) bool { return t.name == l.Table })
	if i < 0 {
		return false, &MissingError{"watched table " + l.Table, strings.Join(m.Tables(), ", ")}
	}
	k := slices.IndexFunc(m.tables[i].columns, func(c column) bool { return c.Name == l.Column })
	if k < 0 {
		return false, m.Require(l.Table, l.Column)
	}
	if l.Span != nil {
		return m.overlaps(ctx, m.tables[i], &l)
	}
	if !utf8.ValidString(l.Value) || !m.dialect.holds(l.Value) {
		return false, nil
	}
	c := m.tables[i].columns[k]
	var found []sql.NullString
	if err := m.db.SelectContext(ctx, &found, "SELECT "+m.dialect.text(c)+" FROM "+m.dialect.quote(l.Table)+" WHERE "+m.dialect.equals(c, len(l.Ignoring) > 0 && !c.Blind)+" LIMIT 100", l.Value); err != nil {
		return false, fmt.Errorf("look up %s.%s: %w", l.Table, l.Column, err)
	}
	return slices.ContainsFunc(found, func(v sql.NullString) bool { return same(v.String, l.Value) }), nil
}

// overlaps tells whether a row shares a day or moment with a span.
func (m *Watcher) overlaps(ctx context.Context, t *table, l *oracle.LookUp) (bool, error) {
	byName := map[string]column{}
	for _, c := range t.columns {
		byName[c.Name] = c
	}
	// texts of days and moments, year first, are in the order of time; a row's may have a time of day where the span has none
	begins, ends := m.dialect.text(byName[l.Column]), m.dialect.text(byName[l.Span.Ends])
	n := strconv.Itoa(len(l.Span.To))
	holders := m.dialect.holders(2 + len(l.Span.Same))
	where := "SUBSTR(" + begins + ", 1, " + n + ") <= " + holders[0] + " AND SUBSTR(" + ends + ", 1, " + n + ") >= " + holders[1]
	into := []any{strings.Replace(l.Span.To, "T", " ", 1), strings.Replace(l.Span.From, "T", " ", 1)}
	for i, column := range slices.Sorted(maps.Keys(l.Span.Same)) {
		where += " AND " + m.dialect.text(byName[column]) + " = " + holders[2+i]
		into = append(into, l.Span.Same[column])
	}
	var found int64
	if err := m.db.GetContext(ctx, &found, "SELECT COUNT(*) FROM "+m.dialect.quote(t.name)+" WHERE "+where, into...); err != nil {
		return false, fmt.Errorf("look up times in %s: %w", t.name, err)
	}
	return found > 0, nil
}

// Rows are at most so many rows' values of columns, in the order of the first; NULL is the empty text.
func (m *Watcher) Rows(ctx context.Context, tableName string, columns []string, most int) ([][]string, error) {
	if err := m.Require(tableName, columns...); err != nil {
		return nil, err
	}
	t := m.tables[slices.IndexFunc(m.tables, func(t *table) bool { return t.name == tableName })]
	texts := make([]string, len(columns))
	for i, name := range columns {
		texts[i] = m.dialect.text(t.columns[slices.IndexFunc(t.columns, func(c column) bool { return c.Name == name })])
	}
	rows, err := m.db.QueryContext(ctx, fmt.Sprintf("SELECT %s FROM %s ORDER BY 1 LIMIT %d", strings.Join(texts, ", "), m.dialect.quote(tableName), most))
	if err != nil {
		return nil, fmt.Errorf("read the rows of %s: %w", tableName, err)
	}
	defer rows.Close()
	var out [][]string
	for rows.Next() {
		found := make([]sql.NullString, len(columns))
		into := make([]any, len(columns))
		for i := range found {
			into[i] = &found[i]
		}
		if err := rows.Scan(into...); err != nil {
			return nil, fmt.Errorf("read the rows of %s: %w", tableName, err)
		}
		row := make([]string, len(columns))
		for i := range found {
			row[i] = found[i].String
		}
		out = append(out, row)
	}
	return out, rows.Err()
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
