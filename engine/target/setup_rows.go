package target

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
func (t *Target) prepareRows(ctx context.Context) error {
	if t.Form.Form.Before == nil {
		return nil
	}
	for i := range t.Form.Form.Before.Rows {
		if err := t.prepareRow(ctx, &t.Form.Form.Before.Rows[i]); err != nil {
			return Cannot("before.rows[%d]: %w", i, err)
		}
	}
	return nil
}

func (t *Target) prepareRow(ctx context.Context, row *spec.RowBefore) error {
	if len(t.Databases) == 0 {
		return errors.New("no database is given in which the row could be looked for")
	}
	db, can := t.Databases.Of(row.Table).(Preparer)
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
		says, err = t.send(ctx, row.By)
	}
	changes, unread := t.Foreign(ctx)
	t.prepared = append(t.prepared, changes...)
	if err = errors.Join(err, unread); err != nil || row.By == nil {
		return err
	}
	if there, err := db.Holds(ctx, row.Table, values); err != nil || there {
		return err
	}
	return fmt.Errorf("the form on %s was filled in and sent, and there is no such row after it; the page says: %s", row.By.Page, cmp.Or(says, "nothing noticeable"))
}

// send fills a form of the site in and sends it, over HTTP. It returns what the page says that comes of it.
func (t *Target) send(ctx context.Context, by *spec.FilledIn) (says string, err error) {
	v := t.Client.NewVisitor()
	if by.As != "" {
		at := slices.IndexFunc(t.Config.Site.Accounts, func(a spec.Account) bool { return a.ID == by.As })
		if at < 0 {
			return "", fmt.Errorf("by.as: the site document has no account %s", by.As)
		}
		if err := SignInAs(ctx, v, t.Config.Site, &t.Config.Site.Accounts[at]); err != nil {
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

// maxUndoTime is how long taking prepared rows back may take.
const maxUndoTime = 10 * time.Second

// takeRowsBack deletes the rows that were prepared.
func (t *Target) takeRowsBack() {
	if len(t.prepared) == 0 {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), maxUndoTime)
	defer cancel()
	for _, db := range t.Databases {
		var own []observation.Change
		for _, c := range t.prepared {
			if t.Databases.Of(c.Table) == db {
				own = append(own, c)
			}
		}
		if u, can := db.(Undoer); can && len(own) > 0 {
			_, _ = u.Undo(ctx, own) // what others refer to meanwhile stays
		}
	}
	t.prepared = nil
}
