package database

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/submission"
)

// LookUp tells whether a row holds a value already, in the sense of the rule that asks. same decides whether two values count
// as one.
func (m *Watcher) LookUp(ctx context.Context, l submission.Lookup, same func(a, b string) bool) (bool, error) {
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
	if err := m.Require(l.Table, slices.Collect(maps.Keys(l.Same))...); err != nil {
		return false, err
	}
	where, sent := m.dialect.equals(c, len(l.Ignoring) > 0 && !c.Blind), []any{l.Value}
	where, sent = m.holding(m.tables[i], l.Same, where, sent)
	var found []sql.NullString
	if err := m.db.SelectContext(ctx, &found, m.dialect.first("SELECT "+m.dialect.text(c)+" FROM "+m.dialect.quote(l.Table)+" WHERE "+where, 100), sent...); err != nil {
		return false, fmt.Errorf("look up %s.%s: %w", l.Table, l.Column, err)
	}
	return slices.ContainsFunc(found, func(v sql.NullString) bool { return same(v.String, l.Value) }), nil
}

// holding adds to a condition with its values that further columns hold values.
func (m *Watcher) holding(t *table, same map[string]string, where string, sent []any) (string, []any) {
	holders := m.dialect.holders(len(sent) + len(same))
	for _, name := range slices.Sorted(maps.Keys(same)) {
		c := t.columns[slices.IndexFunc(t.columns, func(c column) bool { return c.Name == name })]
		where += " AND " + m.dialect.text(c) + " = " + holders[len(sent)]
		sent = append(sent, same[name])
	}
	return where, sent
}

// overlaps tells whether a row shares a day or moment with a span.
func (m *Watcher) overlaps(ctx context.Context, t *table, l *submission.Lookup) (bool, error) {
	byName := map[string]column{}
	for _, c := range t.columns {
		byName[c.Name] = c
	}
	// texts of days and moments, year first, are in the order of time; a row's may have a time of day where the span has none
	begins, ends := m.dialect.text(byName[l.Column]), m.dialect.text(byName[l.Span.Ends])
	n := strconv.Itoa(len(l.Span.To))
	holders := m.dialect.holders(2)
	where := m.dialect.start(begins, n) + " <= " + holders[0] + " AND " + m.dialect.start(ends, n) + " >= " + holders[1]
	into := []any{strings.Replace(l.Span.To, "T", " ", 1), strings.Replace(l.Span.From, "T", " ", 1)}
	where, into = m.holding(t, l.Same, where, into)
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
	rows, err := m.db.QueryContext(ctx, m.dialect.first(fmt.Sprintf("SELECT %s FROM %s ORDER BY 1", strings.Join(texts, ", "), m.dialect.quote(tableName)), most))
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

// Find is the first row whose columns hold values, at least one; nil where there is none.
func (m *Watcher) Find(ctx context.Context, tableName string, where ...observation.Cell) ([]observation.Cell, error) {
	names := make([]string, len(where))
	for i := range where {
		names[i] = where[i].Column
	}
	if err := m.Require(tableName, names...); err != nil {
		return nil, err
	}
	t := m.tables[slices.IndexFunc(m.tables, func(t *table) bool { return t.name == tableName })]
	holders := m.dialect.holders(len(where))
	conditions, sent := make([]string, len(where)), make([]any, len(where))
	for i := range where {
		by := t.columns[slices.IndexFunc(t.columns, func(c column) bool { return c.Name == names[i] })]
		conditions[i], sent[i] = m.dialect.text(by)+" = "+holders[i], where[i].Value
		if i == 0 {
			conditions[i] = m.dialect.equals(by, false)
		}
	}
	texts := make([]string, len(t.columns))
	found := make([]sql.NullString, len(t.columns))
	into := make([]any, len(t.columns))
	for i, c := range t.columns {
		texts[i], into[i] = m.dialect.text(c), &found[i]
	}
	err := m.db.QueryRowContext(ctx, m.dialect.first("SELECT "+strings.Join(texts, ", ")+" FROM "+m.dialect.quote(tableName)+" WHERE "+strings.Join(conditions, " AND "), 1), sent...).Scan(into...)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("find a row of %s: %w", tableName, err)
	}
	row := make([]observation.Cell, len(t.columns))
	for i, c := range t.columns {
		row[i] = observation.Cell{Column: c.Name, Value: found[i].String, Null: !found[i].Valid}
	}
	return row, nil
}
