package engine

import (
	"context"
	"fmt"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/observe/web"
)

// mostSignIns is how often in a row signing in may fail before it is tried no more, so that no account is locked.
const mostSignIns = 3

// findAccount finds who is to be signed in before a submission, and tries it once.
func (r *Run) findAccount(ctx context.Context) error {
	b := r.p.Form.Before
	if b == nil || b.SignedIn == "" {
		return nil
	}
	for i := range r.c.Site.Accounts {
		if r.c.Site.Accounts[i].ID == b.SignedIn {
			r.account = &r.c.Site.Accounts[i]
		}
	}
	if r.account == nil {
		return cannot("before: the site document has no account %s", b.SignedIn)
	}
	if r.c.ByHand {
		return nil
	}
	if err := signInAs(ctx, r.client.NewVisitor(), r.c.Site, r.account); err != nil {
		return cannot("the account %s cannot be signed in: %s", r.account.ID, err)
	}
	return nil
}

// signedIn signs a visitor in where the form asks for it.
func (r *Run) signedIn(ctx context.Context, v *web.Visitor) error {
	if r.account == nil {
		return nil
	}
	if failed := r.signInsFailed.Load(); failed >= mostSignIns {
		return fmt.Errorf("the account %s could not be signed in %d times in a row, and is not tried any more", r.account.ID, failed)
	}
	if err := signInAs(ctx, v, r.c.Site, r.account); err != nil {
		r.signInsFailed.Add(1)
		return fmt.Errorf("the account %s cannot be signed in: %w", r.account.ID, err)
	}
	r.signInsFailed.Store(0)
	return nil
}

// answerSecrets adds, to the answers of look-ups, whether values are the secret of whoever is signed in.
func (a *attempt) answerSecrets(sent *oracle.Submission, found map[string]bool) {
	for _, rule := range a.r.p.Rules {
		if rule.Kind == "matches" && a.r.account != nil {
			v, _ := sent.Value(rule.Field.Name)
			found[rule.ID] = v == a.env.Password
		}
	}
}

// learnSecret remembers the secret that an accepted submission has stored for whoever is signed in.
func (a *attempt) learnSecret(sent *oracle.Submission) {
	for _, rule := range a.r.p.Rules {
		if rule.Kind != "matches" {
			continue
		}
		for i := range a.r.p.Form.Stored {
			st := &a.r.p.Form.Stored[i]
			if f := a.r.p.Field(st.Columns[rule.Column].Secret); f != nil && st.Table() == rule.Table {
				if v, present := sent.Value(f.Name); present && v != "" {
					a.env.Password = v
				}
			}
		}
	}
}

// repair restores the rows that a case changed or deleted, where the next case stands on them: those of whoever is signed in. What
// cannot be restored shows when the account is signed in the next time.
func (r *Run) repair(ctx context.Context, mark int) error {
	if r.account == nil || len(r.journal) <= mark {
		return nil
	}
	touched := map[Database][]observation.Change{}
	for _, c := range r.journal[mark:] {
		if c.Kind != observation.Inserted {
			db := r.dbs.of(c.Table)
			touched[db] = append(touched[db], c)
		}
	}
	for db, list := range touched {
		if u, can := db.(undoing); can {
			if _, err := u.Undo(ctx, list); err != nil {
				return err
			}
		}
	}
	if len(touched) > 0 {
		r.signInsFailed.Store(0)
		if _, err := r.foreign(ctx); err != nil {
			return err
		}
	}
	return nil
}
