package engine

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
func (r *Run) readColumns(ctx context.Context) {
	known, err := r.Schema(ctx)
	if err != nil || known == nil {
		return
	}
	r.columns = map[string]columns{}
	for i := range known.Tables {
		t := &known.Tables[i]
		var out columns
		for k := range t.Columns {
			c := &t.Columns[k]
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
		r.columns[t.Name] = out
	}
}

// changes are what changed in the watched tables since the last look, with what is known of their columns.
func (r *Run) changes(ctx context.Context) ([]observation.Change, error) {
	list, err := r.foreign(ctx)
	r.journal = append(r.journal, list...)
	return list, err
}

// foreign are what changed since the last look, none of it by the run's own submissions.
func (r *Run) foreign(ctx context.Context) ([]observation.Change, error) {
	list, err := r.dbs.changes(ctx)
	if err == nil {
		r.looked = time.Now()
	}
	for i := range list {
		known := r.columns[list[i].Table]
		list[i].Own = known.own
		if list[i].Kind == observation.Inserted {
			list[i].Defaults = known.defaults
		}
	}
	return list, err
}
