package target

import (
	"context"
	"time"

	"oddtick/core/observation"
	"oddtick/core/schema"
)

// columns are what is known of a table's columns beside their values.
type columns struct {
	defaults []observation.Cell
	own      []string
}

// readColumns reads what new rows hold by themselves. Where the definitions cannot be read, nothing is known of it, and columns that
// the form does not name are not judged.
func (t *Target) readColumns(ctx context.Context) {
	known, err := t.Schema(ctx)
	if err != nil || known == nil {
		return
	}
	t.columns = map[string]columns{}
	for i := range known.Tables {
		table := &known.Tables[i]
		var out columns
		for k := range table.Columns {
			c := &table.Columns[k]
			switch {
			case c.Auto || c.Generated != "" || c.Computed:
				out.own = append(out.own, c.Name)
			case c.Default != nil:
				if c.Class == schema.ClassBinary {
					continue // a default is written otherwise than the value is read
				}
				out.defaults = append(out.defaults, observation.Cell{Column: c.Name, Value: *c.Default})
			case c.Nullable:
				out.defaults = append(out.defaults, observation.Cell{Column: c.Name, Null: true})
			}
		}
		t.columns[table.Name] = out
	}
}

// Changes are what changed in the watched tables since the last look, with what is known of their columns.
func (t *Target) Changes(ctx context.Context) ([]observation.Change, error) {
	list, err := t.Foreign(ctx)
	t.Journal = append(t.Journal, list...)
	return list, err
}

// maxAbsence is how long a database that does not answer is waited for between two cases.
const maxAbsence = 60 * time.Second

// AwaitForeign is foreign; a database that has gone is waited for.
func (t *Target) AwaitForeign(ctx context.Context) ([]observation.Change, error) {
	changes, err := t.Foreign(ctx)
	for wait := 50 * time.Millisecond; err != nil && wait < maxAbsence/2; wait *= 2 {
		time.Sleep(wait)
		changes, err = t.Foreign(ctx)
	}
	return changes, err
}

// Foreign are what changed since the last look, none of it by the run's own submissions.
func (t *Target) Foreign(ctx context.Context) ([]observation.Change, error) {
	list, err := t.Databases.Changes(ctx)
	if err == nil {
		t.Looked = time.Now()
	}
	for i := range list {
		known := t.columns[list[i].Table]
		list[i].Own = known.own
		if list[i].Kind == observation.Inserted {
			list[i].Defaults = known.defaults
		}
	}
	return list, err
}

// Schema is what the watched databases promise; nil where none is watched.
func (t *Target) Schema(ctx context.Context) (*schema.Database, error) {
	var out *schema.Database
	for _, one := range t.Databases {
		db, err := one.Schema(ctx)
		if err != nil {
			return nil, err
		}
		if out == nil {
			out = db
		} else {
			out.Tables = append(out.Tables, db.Tables...)
		}
	}
	return out, nil
}
