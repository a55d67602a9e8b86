package draft

import (
	"regexp"
	"slices"
	"strings"
	"time"

	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Visitor is the row of the signed-in user.
type Visitor struct{ Table, Key string }

// shortKey is how many characters the key of a visitor has at most that other columns may hold by chance.
const shortKey = 8

// ofVisitor tells whether a column of a new row holds the key of the signed-in user: by its foreign key, or by its name.
func (r *tracer) ofVisitor(table string, cell observation.Cell) bool {
	if r.visitor == nil || cell.Null || cell.Value != r.visitor.Key || table == r.visitor.Table {
		return false
	}
	if t := r.db.Table(table); t != nil && slices.ContainsFunc(t.Foreign, func(f schema.Foreign) bool {
		return len(f.Columns) == 1 && strings.EqualFold(f.Columns[0], cell.Column) && strings.EqualFold(f.Table, r.visitor.Table)
	}) {
		return true
	}
	return len(cell.Value) > shortKey || similarity(cell.Column, r.visitor.Table) >= leastSure
}

// updated says which row an update changes: the row of the signed-in user, or the one with a given key.
func (r *tracer) updated(s *observation.Step) {
	inserted := map[string]bool{}
	for _, ch := range s.Changes {
		inserted[ch.Table] = inserted[ch.Table] || ch.Kind == observation.Inserted
	}
	for _, ch := range s.Changes {
		if ch.Kind != observation.Changed || inserted[ch.Table] {
			continue
		}
		row, where := "", map[string]string{}
		if r.visitor != nil && ch.Table == r.visitor.Table && ch.Key == r.visitor.Key {
			row = spec.RowSignedIn
		} else if at := slices.IndexFunc(ch.Before, func(c observation.Cell) bool { return c.Value == ch.Key && !c.Null }); at >= 0 {
			where[ch.Before[at].Column] = ch.Key
			if r.ofVisitor(ch.Table, ch.Before[at]) {
				where[ch.Before[at].Column] = "{" + spec.RowSignedIn + "}"
			}
		}
		for i := range r.Draft.Columns {
			if c := &r.Draft.Columns[i]; c.Table == ch.Table && (row != "" || len(where) > 0) {
				c.Row, c.Where = row, where
			}
		}
	}
}

// changedAlso says of the other columns that changed in a row what they hold: the time, or anything.
func (r *tracer) changedAlso(s *observation.Step, ch *observation.Change, taken map[string]bool) {
	for _, cell := range ch.After {
		before, had := observation.CellOf(ch.Before, cell.Column)
		name := ch.Table + "." + cell.Column
		if taken[name] || !had || before == cell {
			continue
		}
		source, how := constant(cell, s.At)
		if source == nil || source.Now == nil {
			source, how = &spec.Source{Any: true}, phrases.RowsChange.Text()
		}
		r.Draft.Columns = append(r.Draft.Columns, Column{Table: ch.Table, Column: cell.Column, Source: *source, From: phrases.TraceStored.With("how", how), Sure: 0.8})
	}
}

// rest says what the other columns of inserted rows hold, and those that changed in others.
func (r *tracer) rest(s *observation.Step, taken map[string]bool) {
	for _, ch := range s.Changes {
		if ch.Kind == observation.Changed {
			r.changedAlso(s, &ch, taken)
		}
		if ch.Kind != observation.Inserted {
			continue
		}
		for _, cell := range ch.After {
			name := ch.Table + "." + cell.Column
			if taken[name] {
				continue
			}
			source, how := constant(cell, s.At)
			sure := 0.8
			if _, c := r.db.Column(name); source != nil && source.Is != nil && (c == nil || c.Default == nil || *c.Default != cell.Value) {
				sure = 0.4 // a value that happened to be, as far as one row tells
			}
			switch {
			case cell.Null && slices.ContainsFunc(r.form.Fields, func(f spec.Field) bool { return Likeness(&f, cell.Column) > 0 }):
				source, how, sure = &spec.Source{Any: true}, phrases.BlankAsNull.Text(), 0.8 // some field's, which this submission left blank
			case cell.Null:
			case r.ofVisitor(ch.Table, cell):
				source, how, sure = &spec.Source{SignedIn: true}, phrases.KeyOfRow.With("table", r.visitor.Table), 0.9
			case keyOfAnother(s.Changes, ch.Table, cell) != "":
				of := keyOfAnother(s.Changes, ch.Table, cell)
				source, how, sure = &spec.Source{KeyOf: of}, phrases.KeyOfRow.With("table", of), 0.8
			case cell.Value == ch.Key && slices.Contains(ch.Own, cell.Column):
				source, how = nil, phrases.RowsKey.Text()
			case cell.Value == ch.Key && uuidForm.MatchString(cell.Value):
				source, how, sure = &spec.Source{Generated: "uuid"}, phrases.RowsUUID.Text(), 0.8
			case cell.Value == ch.Key:
				source, how = nil, phrases.RowsKey.Text()
				if _, c := r.db.Column(name); c != nil && !c.Nullable && c.Default == nil && !c.Auto {
					source, how, sure = &spec.Source{Any: true}, phrases.RowsKeyOfSite.Text(), 0.8
				}
			}
			value := cell.Value
			if cell.Null {
				value = "NULL"
			}
			r.UnmappedColumns = append(r.UnmappedColumns, Stored{name, value, how})
			if source != nil {
				r.Draft.Columns = append(r.Draft.Columns, Column{Table: ch.Table, Column: cell.Column, Source: *source, From: phrases.TraceStored.With("how", how), Sure: sure})
			}
		}
	}
}

var uuidForm = regexp.MustCompile(`^[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}$`)

// keyOfAnother is the table in which a row with the key that a cell holds was written by the same submission; "" for none. A short
// number counts only where the column is named like a key.
func keyOfAnother(changes []observation.Change, table string, cell observation.Cell) string {
	if len(cell.Value) < 8 && !strings.HasSuffix(strings.ToLower(cell.Column), "id") {
		return ""
	}
	for _, other := range changes {
		if other.Table != table && other.Kind == observation.Inserted && other.Key == cell.Value {
			return other.Table
		}
	}
	return ""
}

func constant(cell observation.Cell, at time.Time) (*spec.Source, prose.Text) {
	if cell.Null {
		return &spec.Source{Null: true}, phrases.AsNull.Text()
	}
	for _, layout := range []string{"2006-01-02 15:04:05.999999", time.RFC3339Nano} {
		if when, err := time.Parse(layout, cell.Value); err == nil {
			if d := at.Sub(when); d.Abs() < 5*time.Second {
				return &spec.Source{Now: &spec.Now{Within: "5s"}}, phrases.TimeOfStoring.Text()
			}
		}
	}
	value := spec.Scalar(cell.Value)
	return &spec.Source{Is: &value}, phrases.OfNoField.Text()
}
