package engine

import (
	"context"
	"time"

	"oddtick/core/observation"
)

// prepareRows writes the rows that must exist before a submission, where they do not. They are taken back when the run is closed.
func (r *Run) prepareRows(ctx context.Context) error {
	if r.p.Form.Before == nil {
		return nil
	}
	for i, row := range r.p.Form.Before.Rows {
		if len(r.dbs) == 0 {
			return cannot("before.rows[%d]: no database is given in which the row could be written", i)
		}
		db, can := r.dbs.of(row.Table).(preparing)
		if !can {
			return cannot("before.rows[%d]: rows cannot be written where they are read from an export; make the row by hand, and leave it out here", i)
		}
		values := map[string]string{}
		for name, v := range row.Columns {
			values[name] = string(v)
		}
		put, err := db.Put(ctx, row.Table, values)
		if err != nil {
			return cannot("before.rows[%d]: %s; grant INSERT and DELETE, or make the row by hand", i, err)
		}
		if !put {
			continue
		}
		changes, err := r.foreign(ctx)
		if err != nil {
			return cannot("before.rows[%d]: %s", i, err)
		}
		r.prepared = append(r.prepared, changes...)
	}
	return nil
}

// longestTakingBack is how long taking prepared rows back may take.
const longestTakingBack = 10 * time.Second

// takeRowsBack deletes the rows that were prepared.
func (r *Run) takeRowsBack() {
	if len(r.prepared) == 0 {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), longestTakingBack)
	defer cancel()
	for _, db := range r.dbs {
		var own []observation.Change
		for _, c := range r.prepared {
			if r.dbs.of(c.Table) == db {
				own = append(own, c)
			}
		}
		if u, can := db.(undoing); can && len(own) > 0 {
			_, _ = u.Undo(ctx, own) // what others refer to meanwhile stays
		}
	}
	r.prepared = nil
}
