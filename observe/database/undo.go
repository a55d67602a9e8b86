package database

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/observation"

	"github.com/jmoiron/sqlx"
)

// Undone says what became of changes that were taken back.
type Undone struct {
	// Deleted, Restored and PutBack count rows that were inserted, changed and deleted before.
	Deleted  int `json:"deleted"`
	Restored int `json:"restored"`
	PutBack  int `json:"put_back"`
	// Left are the rows that are not as they were, with the reason.
	Left []string `json:"left,omitempty"`
}

// String says it in a sentence.
func (u *Undone) String() string {
	var did []string
	for _, d := range []struct {
		n    int
		word string
	}{{u.Deleted, "deleted"}, {u.Restored, "restored"}, {u.PutBack, "put back"}} {
		if d.n > 0 {
			did = append(did, fmt.Sprintf("%d %s", d.n, d.word))
		}
	}
	text := "Cleaned up, rows: " + strings.Join(append(did, ""), ", ")
	switch n := len(u.Left); {
	case n == 0:
		return text + "all as before."
	case n > maxLeft:
		return text + fmt.Sprintf("%d are not as before: %s, …", n, strings.Join(u.Left[:maxLeft], "; "))
	}
	return text + "not as before: " + strings.Join(u.Left, "; ") + "."
}

// maxLeft is how many rows that are not as before are named.
const maxLeft = 5

// Undo takes changes back, the newest first, and looks whether the rows are as they were before the oldest. It needs the rights to
// insert, update and delete. Counters of keys stay where they are.
func (m *Watcher) Undo(ctx context.Context, changes []observation.Change) (*Undone, error) {
	out := &Undone{}
	db, err := m.writer()
	if err != nil {
		return nil, err
	}
	if db != m.db {
		defer db.Close()
	}
	type place struct{ table, key string }
	first := map[place]observation.Change{}
	failed := map[place]string{}
	for _, c := range slices.Backward(changes) {
		t := m.named(c.Table)
		if t == nil {
			continue
		}
		at := place{c.Table, c.Key}
		if c.Kind == observation.Changed && t.keyed {
			if key := t.keyOf(c.After); key != c.Key { // it is looked for where it was before
				delete(first, place{c.Table, key})
			}
		}
		first[at] = c
		n, err := m.takeBack(ctx, db, t, &c)
		switch {
		case ctx.Err() != nil:
			return out, ctx.Err()
		case err != nil:
			failed[at] = err.Error()
		case c.Kind == observation.Inserted:
			out.Deleted += n
		case c.Kind == observation.Deleted:
			out.PutBack += n
		default:
			out.Restored += n
		}
	}
	for at, c := range first {
		same, err := m.asBefore(ctx, m.named(at.table), &c)
		if err != nil {
			return out, err
		}
		if !same {
			why := failed[at]
			if why == "" {
				why = "it is not as it was"
			}
			out.Left = append(out.Left, fmt.Sprintf("%s %s: %s", at.table, at.key, why))
		}
	}
	slices.Sort(out.Left)
	return out, nil
}

// writer is a connection that may write.
func (m *Watcher) writer() (*sqlx.DB, error) {
	if m.writing == "" {
		return m.db, nil
	}
	return sqlx.Open("sqlite", m.writing)
}

func (m *Watcher) named(tableName string) *table {
	for _, t := range m.tables {
		if t.name == tableName {
			return t
		}
	}
	return nil
}

// takeBack takes one change back, and says how many rows it touched.
func (m *Watcher) takeBack(ctx context.Context, db *sqlx.DB, t *table, c *observation.Change) (int, error) {
	if !t.keyed {
		return 0, fmt.Errorf("the table has no key")
	}
	row := c.After
	if c.Kind == observation.Deleted {
		row = c.Before
	}
	if c.Kind != observation.Inserted && c.Before == nil {
		return 0, fmt.Errorf("what it held before is not known")
	}
	var statement string
	var values []any
	next := func(value observation.Cell) string {
		if value.Null {
			values = append(values, nil)
		} else {
			values = append(values, value.Value)
		}
		return m.dialect.holders(len(values))[len(values)-1]
	}
	where := func() string {
		parts := make([]string, len(t.key))
		for i, k := range t.key {
			parts[i] = m.dialect.text(t.columns[k]) + " = " + next(row[k])
		}
		return " WHERE " + strings.Join(parts, " AND ")
	}
	name := m.dialect.quote(t.name)
	switch c.Kind {
	case observation.Inserted:
		statement = "DELETE FROM " + name + where()
	case observation.Deleted:
		var names, places []string
		for i := range t.columns {
			if column := &t.columns[i]; !column.Made {
				names = append(names, m.dialect.quote(column.Name))
				places = append(places, m.dialect.put(*column, next(row[i]), row[i].Value))
			}
		}
		statement = "INSERT INTO " + name + " (" + strings.Join(names, ", ") + ")" + m.dialect.override() + " VALUES (" + strings.Join(places, ", ") + ")"
	default:
		var sets []string
		for i := range t.columns {
			if column := &t.columns[i]; !column.Made && c.Before[i] != c.After[i] {
				sets = append(sets, m.dialect.quote(column.Name)+" = "+m.dialect.put(*column, next(c.Before[i]), c.Before[i].Value))
			}
		}
		if len(sets) == 0 {
			return 0, nil
		}
		statement = "UPDATE " + name + " SET " + strings.Join(sets, ", ") + where()
	}
	result, err := db.ExecContext(ctx, statement, values...)
	if err != nil {
		return 0, err
	}
	n, err := result.RowsAffected()
	return int(n), err
}

// asBefore tells whether a row is as it was before a change; one that was inserted is not there.
func (m *Watcher) asBefore(ctx context.Context, t *table, c *observation.Change) (bool, error) {
	row := c.Before
	if row == nil {
		row = c.After
	}
	where := make([]string, len(t.key))
	values := make([]any, len(t.key))
	for i, k := range t.key {
		where[i] = m.dialect.text(t.columns[k]) + " = " + m.dialect.holders(i + 1)[i]
		values[i] = row[k].Value
	}
	var now []observation.Cell
	err := m.rows(ctx, t, true, " WHERE "+strings.Join(where, " AND "), values, func(_ int64, _ string, found []observation.Cell, _ uint64) { now = found })
	if err != nil || c.Kind == observation.Inserted {
		return now == nil, err
	}
	return slices.Equal(now, c.Before), nil
}

// Holds tells whether there is a row with some columns' values, as texts.
func (m *Watcher) Holds(ctx context.Context, tableName string, values map[string]string) (bool, error) {
	columns, err := m.columnsOf(tableName, values)
	if err != nil {
		return false, err
	}
	var where []string
	var holding []any
	for i, c := range columns {
		where = append(where, m.dialect.text(c)+" = "+m.dialect.holders(i + 1)[i])
		holding = append(holding, values[c.Name])
	}
	var there int
	if err := m.db.GetContext(ctx, &there, "SELECT COUNT(*) FROM "+m.dialect.quote(tableName)+" WHERE "+strings.Join(where, " AND "), holding...); err != nil {
		return false, fmt.Errorf("look for a row of %s: %w", tableName, err)
	}
	return there > 0, nil
}

// Put writes a row with some columns' values, as texts; the others hold their defaults. It needs the right to insert.
func (m *Watcher) Put(ctx context.Context, tableName string, values map[string]string) error {
	columns, err := m.columnsOf(tableName, values)
	if err != nil {
		return err
	}
	var names, places []string
	var into []any
	for i, c := range columns {
		names = append(names, m.dialect.quote(c.Name))
		places = append(places, m.dialect.put(c, m.dialect.holders(i + 1)[i], values[c.Name]))
		into = append(into, values[c.Name])
	}
	db, err := m.writer()
	if err != nil {
		return err
	}
	if db != m.db {
		defer db.Close()
	}
	_, err = db.ExecContext(ctx, "INSERT INTO "+m.dialect.quote(tableName)+" ("+strings.Join(names, ", ")+") VALUES ("+strings.Join(places, ", ")+")", into...)
	if err != nil {
		return fmt.Errorf("write a row of %s: %w", tableName, err)
	}
	return nil
}

// columnsOf are the columns of a table that values are given for, by their names' order.
func (m *Watcher) columnsOf(tableName string, values map[string]string) ([]column, error) {
	names := slices.Sorted(maps.Keys(values))
	if err := m.Require(tableName, names...); err != nil {
		return nil, err
	}
	t := m.named(tableName)
	out := make([]column, len(names))
	for i, name := range names {
		out[i] = t.columns[slices.IndexFunc(t.columns, func(c column) bool { return c.Name == name })]
	}
	return out, nil
}
