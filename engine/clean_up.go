package engine

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
	r := &Run{c: Config{Site: site}}
	defer r.Close()
	if err := r.connect(ctx, nil); err != nil {
		return nil, err
	}
	if len(r.dbs) == 0 {
		return nil, cannot("the site names no database that can be written to")
	}
	return r.CleanUp(ctx, changes)
}

// CleanUp takes back what walks changed, the newest first.
func (j *Journeys) CleanUp(ctx context.Context, reports []*JourneyReport) (*database.Undone, error) {
	var all []observation.Change
	for _, r := range reports {
		for i := range r.Walks {
			for k := range r.Walks[i].Stations {
				all = append(all, r.Walks[i].Stations[k].Changes...)
			}
		}
	}
	for _, r := range j.forms {
		r.journal = nil // the walks tell of it, in their order
	}
	for _, r := range j.forms {
		return r.CleanUp(ctx, all)
	}
	return &database.Undone{}, nil
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
