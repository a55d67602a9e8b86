package database

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/theory/jsonpath"
)

// Exports watches tables as the site itself gives them, in CSV or JSON: a look costs a request and the whole table. Nothing but the
// right to read them is needed. Of CSV, NULL and the empty text cannot be told apart.
type Exports struct {
	tables []*exported
	fetch  func(ctx context.Context, path string) (string, error)
}

type exported struct {
	spec.Export
	query   *jsonpath.Path
	columns []string
	rows    map[string][]observation.Cell
}

// OpenExports reads all tables once. fetch gets a path or address.
func OpenExports(ctx context.Context, list []spec.Export, fetch func(ctx context.Context, path string) (string, error)) (*Exports, error) {
	x := &Exports{fetch: fetch}
	for _, e := range list {
		if e.Table == "" || e.From == "" || len(e.Key) == 0 {
			return nil, fmt.Errorf("an export names its table, from where it is read, and its key")
		}
		t := &exported{Export: e}
		rows := e.Rows
		if rows == "" {
			rows = "$[*]"
		}
		var err error
		if t.query, err = jsonpath.Parse(rows); err != nil {
			return nil, fmt.Errorf("the export of %s: rows: %w", e.Table, err)
		}
		if t.rows, err = x.read(ctx, t); err != nil {
			return nil, err
		}
		x.tables = append(x.tables, t)
	}
	return x, nil
}

// read gets a table's rows by their key.
func (x *Exports) read(ctx context.Context, t *exported) (map[string][]observation.Cell, error) {
	wrong := func(format string, args ...any) error {
		return fmt.Errorf("the export of %s at %s: %s", t.Table, t.From, fmt.Sprintf(format, args...))
	}
	body, err := x.fetch(ctx, t.From)
	if err != nil {
		return nil, wrong("%s", err)
	}
	var list [][]observation.Cell
	if trimmed := strings.TrimSpace(body); strings.HasPrefix(trimmed, "[") || strings.HasPrefix(trimmed, "{") {
		list, err = t.ofJSON(trimmed)
	} else {
		list, err = t.ofCSV(body)
	}
	if err != nil {
		return nil, wrong("%s", err)
	}
	out := make(map[string][]observation.Cell, len(list))
	for _, row := range list {
		parts := make([]string, len(t.Key))
		for i, name := range t.Key {
			cell, ok := observation.CellOf(row, name)
			if !ok {
				return nil, wrong("a row has no column %s; its columns are: %s", name, strings.Join(t.columns, ", "))
			}
			parts[i] = cell.Value
		}
		key := strings.Join(parts, ", ")
		if _, twice := out[key]; twice {
			return nil, wrong("two rows have the key %s", key)
		}
		out[key] = row
	}
	return out, nil
}

func (t *exported) ofCSV(body string) ([][]observation.Cell, error) {
	lines, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(body, "\ufeff"))).ReadAll()
	if err != nil {
		return nil, err
	}
	if len(lines) == 0 {
		return nil, fmt.Errorf("the line with the names is missing")
	}
	t.columns = lines[0]
	var out [][]observation.Cell
	for _, line := range lines[1:] {
		row := make([]observation.Cell, len(line))
		for i, v := range line {
			row[i] = observation.Cell{Column: t.columns[i], Value: v, Either: v == ""}
		}
		out = append(out, row)
	}
	return out, nil
}

func (t *exported) ofJSON(body string) ([][]observation.Cell, error) {
	d := json.NewDecoder(strings.NewReader(body))
	d.UseNumber()
	var value any
	if err := d.Decode(&value); err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for _, c := range t.columns {
		known[c] = true
	}
	var out [][]observation.Cell
	for _, one := range t.query.Select(value) {
		object, ok := one.(map[string]any)
		if !ok {
			return nil, fmt.Errorf("a row is not an object; correct the query under rows")
		}
		var row []observation.Cell
		for _, name := range slices.Sorted(maps.Keys(object)) {
			known[name] = true
			row = append(row, jsonCell(name, object[name]))
		}
		out = append(out, row)
	}
	t.columns = slices.Sorted(maps.Keys(known))
	return out, nil
}

func jsonCell(name string, value any) observation.Cell {
	switch v := value.(type) {
	case nil:
		return observation.Cell{Column: name, Null: true}
	case string:
		return observation.Cell{Column: name, Value: v}
	}
	text, _ := json.Marshal(value) // it was read from JSON
	return observation.Cell{Column: name, Value: string(text)}
}

// Close implements the engine's interface; nothing is held open.
func (*Exports) Close() error { return nil }

// Tables are the watched tables.
func (x *Exports) Tables() []string {
	out := make([]string, len(x.tables))
	for i, t := range x.tables {
		out[i] = t.Table
	}
	return out
}

func (x *Exports) table(name string) (*exported, error) {
	for _, t := range x.tables {
		if t.Table == name {
			return t, nil
		}
	}
	return nil, &MissingError{"exported table " + name, strings.Join(x.Tables(), ", ")}
}

// Require checks that a table has the columns. Of an empty list in JSON the columns are not known.
func (x *Exports) Require(tableName string, columns ...string) error {
	t, err := x.table(tableName)
	if err != nil {
		return err
	}
	for _, c := range columns {
		if len(t.columns) > 0 && !slices.Contains(t.columns, c) {
			return &MissingError{"column " + tableName + "." + c, strings.Join(t.columns, ", ")}
		}
	}
	return nil
}

// Schema is not known of an export.
func (x *Exports) Schema(context.Context) (*schema.Database, error) {
	return &schema.Database{Tables: []schema.Table{}}, nil
}

// Begin takes the tables as they stand.
func (x *Exports) Begin(ctx context.Context) error {
	_, err := x.Changes(ctx)
	return err
}

// Changes returns what changed since the last look.
func (x *Exports) Changes(ctx context.Context) ([]observation.Change, error) {
	var out []observation.Change
	for _, t := range x.tables {
		now, err := x.read(ctx, t)
		if err != nil {
			return nil, err
		}
		for key, after := range now {
			before, known := t.rows[key]
			switch {
			case !known:
				out = append(out, observation.Change{Table: t.Table, Kind: observation.Inserted, Key: key, After: after})
			case !slices.Equal(before, after):
				out = append(out, observation.Change{Table: t.Table, Kind: observation.Changed, Key: key, Before: before, After: after})
			}
		}
		for key, before := range t.rows {
			if _, still := now[key]; !still {
				out = append(out, observation.Change{Table: t.Table, Kind: observation.Deleted, Key: key, Before: before})
			}
		}
		t.rows = now
	}
	sortChanges(out)
	return out, nil
}

// Rows are at most so many rows' values of columns, in the order of the first.
func (x *Exports) Rows(_ context.Context, tableName string, columns []string, most int) ([][]string, error) {
	t, err := x.table(tableName)
	if err != nil {
		return nil, err
	}
	var out [][]string
	for _, row := range t.rows {
		values := make([]string, len(columns))
		for i, name := range columns {
			cell, _ := observation.CellOf(row, name)
			values[i] = cell.Value
		}
		out = append(out, values)
	}
	slices.SortFunc(out, slices.Compare)
	return out[:min(most, len(out))], nil
}

// LookUp tells whether a row held a value, or spanned a time, at the last look.
func (x *Exports) LookUp(_ context.Context, l submission.Lookup, same func(a, b string) bool) (bool, error) {
	t, err := x.table(l.Table)
	if err != nil {
		return false, err
	}
	for _, row := range t.rows {
		if !holds(row, l.Same) {
			continue
		}
		cell, _ := observation.CellOf(row, l.Column)
		if l.Span == nil {
			if !cell.Null && !cell.Either && same(cell.Value, l.Value) {
				return true, nil
			}
			continue
		}
		ends, _ := observation.CellOf(row, l.Span.Ends)
		held := &submission.Span{From: cell.Value, To: ends.Value}
		if held.Overlaps(l.Span) {
			return true, nil
		}
	}
	return false, nil
}

// holds tells whether a row's columns hold values.
func holds(row []observation.Cell, same map[string]string) bool {
	for column, value := range same {
		if cell, _ := observation.CellOf(row, column); cell.Value != value {
			return false
		}
	}
	return true
}
