package engine

import (
	"context"
	"maps"
	"slices"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/observe/database"
)

// ChangesOf are the changes that results tell of, in their order.
func ChangesOf(results map[string]*judge.Result) []observation.Change {
	var out []observation.Change
	for _, r := range slices.SortedFunc(maps.Values(results), func(a, b *judge.Result) int { return a.Started.Compare(b.Started) }) {
		for i := range r.Steps {
			if o := r.Steps[i].Observation; o != nil {
				out = append(out, o.Changes...)
			}
		}
	}
	return out
}

// CleanUp takes back what the run changed in the watched tables, the newest first, and what an earlier part of it did, of which the
// journal is given. What others changed stays. It needs the rights to insert, update and delete.
func (r *Run) CleanUp(ctx context.Context, earlier []observation.Change) (*database.Undone, error) {
	out := &database.Undone{}
	all := append(slices.Clone(earlier), r.journal...)
	for _, db := range r.dbs {
		var own []observation.Change
		for _, c := range all {
			if slices.Contains(db.Tables(), c.Table) && r.dbs.of(c.Table) == db {
				own = append(own, c)
			}
		}
		if len(own) == 0 {
			continue
		}
		u, can := db.(undoing)
		if !can {
			out.Left = append(out.Left, "rows that are read from an export cannot be taken back")
			continue
		}
		done, err := u.Undo(ctx, own)
		if done != nil {
			out.Deleted += done.Deleted
			out.Restored += done.Restored
			out.PutBack += done.PutBack
			out.Left = append(out.Left, done.Left...)
		}
		if err != nil {
			return out, err
		}
	}
	r.journal = nil
	return out, nil
}
