package engine

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"oddtick/core/observation"
	"oddtick/core/spec"
)

// prepareRows makes the rows that must exist before a submission, where they do not. They are taken back when the run is closed.
func (r *Run) prepareRows(ctx context.Context) error {
	if r.p.Form.Before == nil {
		return nil
	}
	for i := range r.p.Form.Before.Rows {
		if err := r.prepareRow(ctx, &r.p.Form.Before.Rows[i]); err != nil {
			return cannot("before.rows[%d]: %w", i, err)
		}
	}
	return nil
}

func (r *Run) prepareRow(ctx context.Context, row *spec.RowBefore) error {
	if len(r.dbs) == 0 {
		return errors.New("no database is given in which the row could be looked for")
	}
	db, can := r.dbs.of(row.Table).(preparing)
	if !can {
		return errors.New("rows cannot be looked for where they are read from an export; make the row by hand, and leave it out here")
	}
	values := textsOf(row.Columns)
	if there, err := db.Holds(ctx, row.Table, values); err != nil || there {
		return err
	}
	var says string
	var err error
	if row.By == nil {
		if err = db.Put(ctx, row.Table, values); err != nil {
			err = fmt.Errorf("%w; grant INSERT and DELETE, let a form of the site make it (by), or make the row by hand", err)
		}
	} else {
		says, err = r.send(ctx, row.By)
	}
	changes, unread := r.foreign(ctx)
	r.prepared = append(r.prepared, changes...)
	if err = errors.Join(err, unread); err != nil || row.By == nil {
		return err
	}
	if there, err := db.Holds(ctx, row.Table, values); err != nil || there {
		return err
	}
	return fmt.Errorf("the form on %s was filled in and sent, and there is no such row after it; the page says: %s", row.By.Page, cmp.Or(says, "nothing that calls for attention"))
}

// send fills a form of the site in and sends it, over HTTP. It returns what the page says that comes of it.
func (r *Run) send(ctx context.Context, by *spec.FilledIn) (says string, err error) {
	v := r.client.NewVisitor()
	if by.As != "" {
		at := slices.IndexFunc(r.c.Site.Accounts, func(a spec.Account) bool { return a.ID == by.As })
		if at < 0 {
			return "", fmt.Errorf("by.as: the site document has no account %s", by.As)
		}
		if err := signInAs(ctx, v, r.c.Site, &r.c.Site.Accounts[at]); err != nil {
			return "", fmt.Errorf("the account %s cannot be signed in: %w", by.As, err)
		}
	}
	after, err := fillIn(ctx, v, by.Page, textsOf(by.Fields))
	if err != nil {
		return "", err
	}
	return alarms(after), nil
}

func textsOf(values map[string]spec.Scalar) map[string]string {
	out := map[string]string{}
	for name, v := range values {
		out[name] = string(v)
	}
	return out
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
