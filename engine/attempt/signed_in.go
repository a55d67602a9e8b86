package attempt

import (
	"context"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/engine/target"
)

// Begin gives an attempt the account whose name and password it fills in.
func (a *Attempt) Begin() {
	if who := a.Target.AccountOf(a.Case); who != nil {
		a.Account = who
		a.Env.Name, a.Env.Password = who.Name, who.Password
	}
}

// ownRow reads the row of whoever is signed in, nil where it is not known.
func (a *Attempt) ownRow(ctx context.Context) ([]observation.Cell, error) {
	table := a.Target.Config.Site.VisitorsOf(a.Account)
	if table == nil || a.Account == nil || len(a.Target.Databases) == 0 {
		return nil, nil
	}
	db, can := a.Target.Databases.Of(table.Table).(target.Finder)
	if !can {
		return nil, nil
	}
	if a.Target.OwnKey == "" {
		row, err := db.Find(ctx, table.Table, observation.Cell{Column: table.Name, Value: a.Account.Name})
		key, _ := observation.CellOf(row, table.Key)
		a.Target.OwnKey = key.Value
		return row, err
	}
	return db.Find(ctx, table.Table, observation.Cell{Column: table.Key, Value: a.Target.OwnKey})
}

// answerSigned adds to a world what hangs on who is signed in, or signs in: whether values are their secret, which row is theirs, and
// that what their row holds is taken by nobody else.
func (a *Attempt) answerSigned(ctx context.Context, sent *submission.Submission, w *oracle.World) error {
	if a.Account == nil {
		return a.keepsOwn(ctx, sent, w)
	}
	for _, rule := range a.Target.Form.Rules {
		if rule.Kind != spec.RuleMatchesSecret {
			continue
		}
		text, present := sent.Value(rule.Field.Name)
		v := rule.Field.ValueOf(text, present)
		w.LookupResults[rule.ID] = v.Normal == rule.Field.Normal(a.Env.Password) && (rule.Other == nil || a.named(rule, sent))
	}
	if !a.Target.SignedInBefore() && !a.Own {
		return nil
	}
	own, err := a.ownRow(ctx)
	if err != nil {
		return err
	}
	if own == nil {
		return a.keepsOwn(ctx, sent, w)
	}
	visitors := a.Target.Config.Site.VisitorsOf(a.Account)
	key, _ := observation.CellOf(own, visitors.Key)
	w.SignedIn, w.SignedInBy = key.Value, visitors.Table+"."+visitors.Key
	for _, rule := range a.Target.Form.Rules {
		if rule.Kind != spec.RuleUnique || rule.Table != visitors.Table {
			continue
		}
		text, present := sent.Value(rule.Field.Name)
		held, _ := observation.CellOf(own, rule.Column)
		if v := rule.Field.ValueOf(text, present); rule.Fold(v.Normal) == rule.Fold(held.Value) {
			w.LookupResults[rule.ID] = false
		}
	}
	return a.keepsOwn(ctx, sent, w)
}

// keepsOwn: what the row that is to be updated holds is taken by no other.
func (a *Attempt) keepsOwn(ctx context.Context, sent *submission.Submission, w *oracle.World) error {
	for _, rule := range a.Target.Form.Rules {
		if rule.Kind != spec.RuleUnique || !w.LookupResults[rule.ID] {
			continue
		}
		own, err := a.standing(ctx, &oracle.Row{Table: rule.Table, Where: oracle.Updated(a.Target.Form, w, sent, rule.Table)})
		if err != nil {
			return err
		}
		held, known := observation.CellOf(own, rule.Column)
		text, present := sent.Value(rule.Field.Name)
		if v := rule.Field.ValueOf(text, present); known && rule.Fold(v.Normal) == rule.Fold(held.Value) {
			w.LookupResults[rule.ID] = false
		}
	}
	return nil
}

// named tells whether a submission names the account, by its name or its address.
func (a *Attempt) named(rule *spec.PreparedRule, sent *submission.Submission) bool {
	text, present := sent.Value(rule.Other.Name)
	v := rule.Other.ValueOf(text, present)
	for _, name := range []string{a.Account.Name, a.Account.Mail} {
		if name != "" && rule.Fold(v.Normal) == rule.Fold(name) {
			return true
		}
	}
	return false
}

// learnSecret remembers the secret that an accepted submission has stored for whoever is signed in.
func (a *Attempt) learnSecret(sent *submission.Submission) {
	for _, rule := range a.Target.Form.Rules {
		if rule.Kind != spec.RuleMatchesSecret {
			continue
		}
		for i := range a.Target.Form.Form.Stored {
			st := &a.Target.Form.Form.Stored[i]
			if f := a.Target.Form.Field(st.Columns[rule.Column].Secret); f != nil && st.Table() == rule.Table {
				if v, present := sent.Of(f); present && v != "" {
					a.Env.Password = v
				}
			}
		}
	}
}

// openSecondSession signs the account in a second time. What becomes of that session, gone tells afterwards.
func (a *Attempt) openSecondSession(ctx context.Context) (gone func(context.Context) observation.SessionState, stop *judge.Judgement, err error) {
	if a.Target.OneSession {
		return nil, judge.Inapplicable("the site keeps one session per account: signing in again ends the first"), nil
	}
	beside := a.Target.Client.NewVisitor()
	if err := target.SignInAs(ctx, beside, a.Target.Config.Site, a.Account); err != nil {
		return nil, judge.Unobserved("another session: " + err.Error()), nil
	}
	by := a.Target.OverHTTP(beside)
	return func(ctx context.Context) observation.SessionState {
		v, err := by.Open(ctx, a.Target.Form.Form.Page)
		if err != nil || v.Failure != "" {
			return ""
		}
		if page, err := v.Page(); err == nil && page.Form != nil && a.Target.HoldsForm(page) {
			return observation.SessionGoesOn
		}
		return observation.SessionEnded
	}, nil, nil
}
