package target

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/observe/web"
)

// maxSignIns is how often in a row signing in may fail before it is tried no more, so that no account is locked.
const maxSignIns = 3

// findAccount finds who is to be signed in before a submission, or signs in by it, and tries it once.
func (t *Target) findAccount(ctx context.Context) error {
	b := t.Form.Form.Before
	if b == nil || b.SignedIn == "" && b.SignInWith == "" {
		return nil
	}
	t.Account = AccountFor(t.Config.Site, t.Form.Form)
	if t.Account == nil {
		where := "the site document"
		if at := t.Config.Site.Environment(); at != "" {
			where = "the environment " + at
		}
		return Cannot("before: %s has no account %s", where, cmp.Or(b.SignedIn, b.SignInWith))
	}
	if t.Config.ByHand || b.SignedIn == "" {
		return nil
	}
	t.first = t.Client.NewVisitor()
	if err := SignInAs(ctx, t.first, t.Config.Site, t.Account); err != nil {
		return Cannot("the account %s cannot be signed in: %w", t.Account.ID, err)
	}
	return nil
}

// AccountFor is the account with which a form's cases sign in, nil for none, or where the site has no such account.
func AccountFor(site *spec.Site, form *spec.Form) *spec.Account {
	if form.Before == nil {
		return nil
	}
	id := cmp.Or(form.Before.SignedIn, form.Before.SignInWith)
	for i := range site.Accounts {
		if id != "" && site.Accounts[i].ID == id {
			return &site.Accounts[i]
		}
	}
	return nil
}

// SignedInBefore tells whether cases are made by somebody who is signed in already.
func (t *Target) SignedInBefore() bool { return t.Account != nil && t.Form.Form.Before.SignedIn != "" }

// SignsIn tells whether the form itself signs in. Its cases are made one by one, so that no account is locked.
func (t *Target) SignsIn() bool { return t.Account != nil && t.Form.Form.Before.SignInWith != "" }

// OneAtATime tells whether cases are made one by one though they should write nothing: one that takes a wrong secret, or writes another,
// would lock the account, or shut the others out; so would one that signs in where an account has one session, and one that writes by
// arriving would make the others uncertain.
func (t *Target) OneAtATime() bool {
	return t.SignsIn() || t.OneSession || t.ArrivingWrites || t.SignedInBefore() && slices.ContainsFunc(t.Form.Rules, func(rule *spec.PreparedRule) bool { return rule.Kind == spec.RuleMatchesSecret })
}

// AccountOf is whose name and password a case fills in, nil for nobody's.
func (t *Target) AccountOf(c *testcase.Case) *spec.Account {
	if c != nil && c.LockableAccount {
		for i := range t.Config.Site.Accounts {
			if t.Config.Site.Accounts[i].MayBeLocked {
				return &t.Config.Site.Accounts[i]
			}
		}
	}
	return t.Account
}

// signedIn signs a visitor in where the form asks for it.
func (t *Target) signedIn(ctx context.Context, v *web.Visitor) error {
	if !t.SignedInBefore() {
		return nil
	}
	if failed := t.signInsFailed.Load(); failed >= maxSignIns {
		return fmt.Errorf("the account %s could not be signed in %d times in a row and is no longer tried", t.Account.ID, failed)
	}
	if err := SignInAs(ctx, v, t.Config.Site, t.Account); err != nil {
		t.signInsFailed.Add(1)
		return fmt.Errorf("the account %s cannot be signed in: %w", t.Account.ID, err)
	}
	t.signInsFailed.Store(0)
	return nil
}

// HoldsForm tells whether a page holds the form with all fields that a visitor fills in.
func (t *Target) HoldsForm(p *observation.Page) bool {
	stages := t.Form.Form.Stages
	return !slices.ContainsFunc(t.Form.Fields, func(f *spec.PreparedField) bool {
		if len(stages) > 0 && !slices.Contains(stages[0].Fields, f.ID) {
			return false
		}
		return f.Kind != spec.Hidden && f.Kind != spec.Honeypot && f.When == "" && p.Form.ControlAt(f.Name, f.Nth) == nil
	})
}

// RowOfAccount is the row of whoever is signed in, or signs in, and the table that holds it; nil where none is known.
func (t *Target) RowOfAccount(ctx context.Context) (*spec.Visitors, []observation.Cell) {
	if t.Account == nil || len(t.Databases) == 0 {
		return nil, nil
	}
	visitors := t.Config.Site.VisitorsOf(t.Account)
	if visitors == nil {
		return nil, nil
	}
	finder, can := t.Databases.Of(visitors.Table).(Finder)
	if !can {
		return nil, nil
	}
	row, err := finder.Find(ctx, visitors.Table, observation.Cell{Column: visitors.Name, Value: t.Account.Name})
	if err != nil {
		return nil, nil
	}
	return visitors, row
}

// VisitorRow is the row of whoever is signed in, nil where none is known.
func (t *Target) VisitorRow(ctx context.Context) *draft.Visitor {
	visitors, row := t.RowOfAccount(ctx)
	if visitors == nil || !t.SignedInBefore() {
		return nil
	}
	key, known := observation.CellOf(row, visitors.Key)
	if !known || key.Null {
		return nil
	}
	return &draft.Visitor{Table: visitors.Table, Key: key.Value}
}

// Unlock signs an account in after a wrong password of it, so that wrong ones never follow each other until it is locked.
func (t *Target) Unlock(ctx context.Context, c *testcase.Case) {
	if t.SignsIn() && !c.LockableAccount && t.Config.Site.SignInOf(t.Account) != nil {
		t.Looked = time.Time{}
		_ = SignInAs(ctx, t.Client.NewVisitor(), t.Config.Site, t.Account) // where it fails, the next case tells
	}
}

// Repair restores the rows that a case changed or deleted, where the next case stands on them: those of whoever is signed in. What
// was inserted by somebody who is signed in is deleted, as the next case would find it. It fails where a row is not as it was before.
func (t *Target) Repair(ctx context.Context, mark int) error {
	if !t.SignedInBefore() || len(t.Journal) <= mark {
		return nil
	}
	touched := map[Database][]observation.Change{}
	for _, c := range t.Journal[mark:] {
		if c.Kind != observation.Inserted || t.ownRows(c.Table) {
			db := t.Databases.Of(c.Table)
			touched[db] = append(touched[db], c)
		}
	}
	for db, list := range touched {
		if u, can := db.(Undoer); can {
			done, err := u.Undo(ctx, list)
			if err != nil {
				return err
			}
			if len(done.Left) > 0 {
				return fmt.Errorf("the changes of the case cannot be undone, and would affect the next one: %s", strings.Join(done.Left, "; "))
			}
		}
	}
	if len(touched) > 0 {
		t.signInsFailed.Store(0)
		if _, err := t.Foreign(ctx); err != nil {
			return err
		}
	}
	return nil
}

// ownRows tells whether a table's new rows are known by who is signed in: there is one for each, and the next would be a change. So are
// those that refer to one: they would be left behind, and be in the way of the next row with its key.
func (t *Target) ownRows(table string) bool {
	return slices.ContainsFunc(t.Form.Form.Stored, func(st spec.Stored) bool {
		return st.Insert == table && slices.ContainsFunc(st.Sorted(), func(c spec.NamedSource) bool {
			return c.SignedIn || c.KeyOf != "" && c.KeyOf != table && t.ownRows(c.KeyOf)
		})
	})
}
