package engine

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/web"
)

// mostSignIns is how often in a row signing in may fail before it is tried no more, so that no account is locked.
const mostSignIns = 3

// findAccount finds who is to be signed in before a submission, or signs in by it, and tries it once.
func (r *Run) findAccount(ctx context.Context) error {
	b := r.p.Form.Before
	if b == nil || b.SignedIn == "" && b.Account == "" {
		return nil
	}
	id := b.SignedIn
	if id == "" {
		id = b.Account
	}
	for i := range r.c.Site.Accounts {
		if r.c.Site.Accounts[i].ID == id {
			r.account = &r.c.Site.Accounts[i]
		}
	}
	if r.account == nil {
		return cannot("before: the site document has no account %s", id)
	}
	if r.c.ByHand || b.SignedIn == "" {
		return nil
	}
	r.first = r.client.NewVisitor()
	if err := signInAs(ctx, r.first, r.c.Site, r.account); err != nil {
		return cannot("the account %s cannot be signed in: %w", r.account.ID, err)
	}
	return nil
}

// signs tells whether cases are made by somebody who is signed in already.
func (r *Run) signs() bool { return r.account != nil && r.p.Form.Before.SignedIn != "" }

// signsIn tells whether the form itself signs in. Its cases are made one by one, so that no account is locked.
func (r *Run) signsIn() bool { return r.account != nil && r.p.Form.Before.Account != "" }

// oneByOne tells whether cases are made one by one though they should write nothing: one that takes a wrong secret, or writes another,
// would lock the account, or shut the others out; so would one that signs in where an account has one session, and one that writes by
// arriving would make the others uncertain.
func (r *Run) oneByOne() bool {
	return r.signsIn() || r.oneSession || r.arrivingWrites || r.signs() && slices.ContainsFunc(r.p.Rules, func(rule *spec.PreparedRule) bool { return rule.Kind == "matches" })
}

// accountOf is whose name and password a case fills in, nil for nobody's.
func (r *Run) accountOf(c *design.Case) *spec.Account {
	if c != nil && c.Spare {
		for i := range r.c.Site.Accounts {
			if r.c.Site.Accounts[i].Spare {
				return &r.c.Site.Accounts[i]
			}
		}
	}
	return r.account
}

// signedIn signs a visitor in where the form asks for it.
func (r *Run) signedIn(ctx context.Context, v *web.Visitor) error {
	if !r.signs() {
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

// begin gives an attempt the account whose name and password it fills in.
func (a *attempt) begin() {
	if who := a.r.accountOf(a.c); who != nil {
		a.account = who
		a.env.Name, a.env.Password = who.Name, who.Password
	}
}

// ownRow reads the row of whoever is signed in, nil where it is not known.
func (a *attempt) ownRow(ctx context.Context) ([]observation.Cell, error) {
	table := a.r.c.Site.Visitors
	if table == nil || a.account == nil || len(a.r.dbs) == 0 {
		return nil, nil
	}
	db, can := a.r.dbs.of(table.Table).(finding)
	if !can {
		return nil, nil
	}
	if a.r.ownKey == "" {
		row, err := db.Find(ctx, table.Table, table.Name, a.account.Name)
		key, _ := observation.CellOf(row, table.Key)
		a.r.ownKey = key.Value
		return row, err
	}
	return db.Find(ctx, table.Table, table.Key, a.r.ownKey)
}

// answerSigned adds to a world what hangs on who is signed in, or signs in: whether values are their secret, which row is theirs, and
// that what their row holds is taken by nobody else.
func (a *attempt) answerSigned(ctx context.Context, sent *oracle.Submission, w *oracle.World) error {
	if a.account == nil {
		return nil
	}
	for _, rule := range a.r.p.Rules {
		if rule.Kind != "matches" {
			continue
		}
		text, present := sent.Value(rule.Field.Name)
		v := rule.Field.ValueOf(text, present)
		w.Taken[rule.ID] = v.Normal == rule.Field.Normal(a.env.Password) && (rule.Other == nil || a.named(rule, sent))
	}
	if !a.r.signs() && !a.own {
		return nil
	}
	own, err := a.ownRow(ctx)
	if err != nil || own == nil {
		return err
	}
	key, _ := observation.CellOf(own, a.r.c.Site.Visitors.Key)
	w.SignedIn, w.SignedInBy = key.Value, a.r.c.Site.Visitors.Table+"."+a.r.c.Site.Visitors.Key
	for _, rule := range a.r.p.Rules {
		if rule.Kind != "unique" || rule.Table != a.r.c.Site.Visitors.Table {
			continue
		}
		text, present := sent.Value(rule.Field.Name)
		held, _ := observation.CellOf(own, rule.Column)
		if v := rule.Field.ValueOf(text, present); rule.Fold(v.Normal) == rule.Fold(held.Value) {
			w.Taken[rule.ID] = false
		}
	}
	return nil
}

// named tells whether a submission names the account, by its name or its address.
func (a *attempt) named(rule *spec.PreparedRule, sent *oracle.Submission) bool {
	text, present := sent.Value(rule.Other.Name)
	v := rule.Other.ValueOf(text, present)
	for _, name := range []string{a.account.Name, a.account.Mail} {
		if name != "" && rule.Fold(v.Normal) == rule.Fold(name) {
			return true
		}
	}
	return false
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

// standBy signs the account in a second time. What becomes of that session, gone tells afterwards.
func (a *attempt) standBy(ctx context.Context) (gone func(context.Context) observation.SessionState, stop *judge.Step, err error) {
	if a.r.oneSession {
		return nil, judge.Inapplicable("the site keeps one session an account: signing in a second time ends the first"), nil
	}
	beside := a.r.client.NewVisitor()
	if err := signInAs(ctx, beside, a.r.c.Site, a.account); err != nil {
		return nil, judge.Unobserved("another session: " + err.Error()), nil
	}
	by := &overHTTP{Visitor: beside, p: a.r.p, names: a.r.names, base: a.r.c.Site.Address, pages: &a.r.pages}
	return func(ctx context.Context) observation.SessionState {
		v, err := by.open(ctx, a.r.p.Form.Page)
		if err != nil || v.failure != "" {
			return ""
		}
		if page, err := v.read(); err == nil && page.Form != nil && a.r.holdsForm(page) {
			return observation.SessionGoesOn
		}
		return observation.SessionEnded
	}, nil, nil
}

// holdsForm tells whether a page holds the form with all fields that a visitor fills in.
func (r *Run) holdsForm(p *observation.Page) bool {
	return !slices.ContainsFunc(r.p.Fields, func(f *spec.PreparedField) bool {
		return f.Kind != spec.Hidden && f.Kind != spec.Trap && f.When == "" && p.Form.Control(f.Name) == nil
	})
}

// unlock signs an account in after a wrong password of it, so that wrong ones never follow each other until it is locked.
func (r *Run) unlock(ctx context.Context, c *design.Case) {
	if r.signsIn() && !c.Spare && r.c.Site.SignIn != nil {
		r.looked = time.Time{}
		_ = signInAs(ctx, r.client.NewVisitor(), r.c.Site, r.account) // where it fails, the next case tells
	}
}

// repair restores the rows that a case changed or deleted, where the next case stands on them: those of whoever is signed in. What
// was inserted by somebody who is signed in is deleted, as the next case would find it. It fails where a row is not as it was before.
func (r *Run) repair(ctx context.Context, mark int) error {
	if !r.signs() || len(r.journal) <= mark {
		return nil
	}
	touched := map[Database][]observation.Change{}
	for _, c := range r.journal[mark:] {
		if c.Kind != observation.Inserted || r.ownRows(c.Table) {
			db := r.dbs.of(c.Table)
			touched[db] = append(touched[db], c)
		}
	}
	for db, list := range touched {
		if u, can := db.(undoing); can {
			done, err := u.Undo(ctx, list)
			if err != nil {
				return err
			}
			if len(done.Left) > 0 {
				return fmt.Errorf("what the case changed cannot be restored, and the next would stand on it: %s", strings.Join(done.Left, "; "))
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

// ownRows tells whether a table's new rows are known by who is signed in: there is one for each, and the next would be a change.
func (r *Run) ownRows(table string) bool {
	return slices.ContainsFunc(r.p.Form.Stored, func(st spec.Stored) bool {
		return st.Insert == table && slices.ContainsFunc(st.Sorted(), func(c spec.NamedSource) bool { return c.SignedIn })
	})
}
