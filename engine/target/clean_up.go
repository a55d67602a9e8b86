package target

import (
	"context"
	"slices"

	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/observe/database"
)

// ChangesOf are the changes that results tell of, in the order of the results.
func ChangesOf(results ...*report.Result) []observation.Change {
	var out []observation.Change
	for _, r := range results {
		for i := range r.Steps {
			if o := r.Steps[i].Observation; o != nil {
				out = append(out, o.Changes...)
			}
		}
	}
	return out
}

// TakeBack takes changes back in a site's watched tables, the newest first. It needs the rights to insert, update and delete.
func TakeBack(ctx context.Context, site *spec.Site, changes []observation.Change) (*database.Undone, error) {
	r := &Target{Config: Config{Site: site}}
	defer r.Close()
	if err := r.Connect(ctx, nil); err != nil {
		return nil, err
	}
	if len(r.Databases) == 0 {
		return nil, Cannot("the site has no writable database")
	}
	return r.CleanUp(ctx, changes)
}

// CleanUp takes back what the run changed in the watched tables, the newest first, and what an earlier part of it did, of which the
// journal is given. What others changed stays. It needs the rights to insert, update and delete.
func (t *Target) CleanUp(ctx context.Context, earlier []observation.Change) (*database.Undone, error) {
	out := &database.Undone{}
	all := append(slices.Clone(earlier), t.Journal...)
	for _, db := range t.Databases {
		var own []observation.Change
		for _, c := range all {
			if slices.Contains(db.Tables(), c.Table) && t.Databases.Of(c.Table) == db {
				own = append(own, c)
			}
		}
		if len(own) == 0 {
			continue
		}
		u, can := db.(Undoer)
		if !can {
			out.Left = append(out.Left, "rows read from an export cannot be deleted")
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
	t.Journal = nil
	return out, nil
}
