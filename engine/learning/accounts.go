package learning

import (
	"context"
	"maps"
	"slices"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/judge"
	"oddtick/core/learn"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/universal"
	"oddtick/engine/manual"
	"oddtick/engine/target"
)

// account is the one that is signed in, or whose name and password the form takes; nil for none whose password is known.
func (s *session) account() *spec.Account {
	if a := s.target.Account; a != nil && a.Password != "" && a.Session == "" {
		return a
	}
	return nil
}

// ofAccount is what a field asks of the account itself: its name where the form signs it in, or its password; "" for neither.
func (s *session) ofAccount(f *spec.Field) string {
	a := s.account()
	switch {
	case a == nil:
	case f.IsSecret() && (s.target.SignsIn() || s.asksForPresent(f)):
		return a.Password
	case s.target.SignsIn() && (f.Kind == spec.Text || f.Kind == spec.Email):
		return a.Name
	}
	return ""
}

// asksForPresent tells whether a secret field is called that of an account already.
func (s *session) asksForPresent(f *spec.Field) bool {
	return s.target.SignedInBefore() && draft.AsksForPresent(f)
}

// hasSecrets tells whether the form of somebody who is signed in has secrets to fill in.
func (s *session) hasSecrets() bool {
	return s.target.SignedInBefore() && slices.ContainsFunc(s.form.Fields, func(f spec.Field) bool { return f.IsSecret() })
}

// after puts back what a submission changed of the account, where it may have changed its password, and keeps an account from being locked.
func (s *session) after(ctx context.Context, p *draft.Probe) error {
	s.takeBackOwn(ctx, p.Step.Changes)
	switch {
	case s.target.SignsIn() && !p.Accepted():
		s.target.Unlock(ctx, &testcase.Case{})
	case s.withSecrets:
		mark := s.mark
		s.mark = len(s.target.Journal)
		if err := s.target.Repair(ctx, mark); err != nil {
			return target.Cannot("what was changed of the account %s cannot be put back, and its password may be another now: %w", s.account().ID, err)
		}
	}
	return nil
}

// takeBackOwn deletes the row that a form keeps for each visitor, once it shows that there is one: a submission changes what an earlier one wrote.
// Each submission then finds what the first one found. Without the rights to delete rows it stays.
func (s *session) takeBackOwn(ctx context.Context, changes []observation.Change) {
	for _, c := range changes {
		switch at := [2]string{c.Table, c.Key}; {
		case c.Kind == observation.Inserted && s.target.SignedInBefore():
			s.wrote[at] = true
		case c.Kind == observation.Changed && s.wrote[at]:
			s.takesBack = true
		}
	}
	if !s.takesBack || len(s.target.Journal) == 0 {
		return
	}
	if _, err := s.target.CleanUp(ctx, nil); err != nil {
		s.takesBack, s.wrote = false, map[[2]string]bool{}
	}
	s.mark = len(s.target.Journal)
}

// fillSecrets looks for values that are accepted with the secrets of whoever is signed in filled in as well, and keeps those without them where
// there are none. It needs the rights to put the account's row back, which the submission that was accepted without them shows.
func (s *session) fillSecrets(ctx context.Context) error {
	if s.account() == nil || !s.hasSecrets() || s.target.Repair(ctx, s.mark) != nil {
		return nil
	}
	s.withSecrets, s.mark = true, len(s.target.Journal)
	without := s.valid
	last, err := s.tryValues(ctx)
	switch {
	case err != nil:
		return err
	case last.Accepted():
		s.blankSecrets = true
	default:
		s.withSecrets, s.valid = false, without
	}
	return nil
}

// secretColumn is where the account's password is stored, as table.column; "" where that is not known.
func (s *session) secretColumn(ctx context.Context) string {
	visitors, row := s.target.RowOfAccount(ctx)
	for _, cell := range row {
		if class := judge.Classify(s.account().Password, cell.Value); !cell.Null && class.Is != judge.UnknownForm {
			return visitors.Table + "." + cell.Column
		}
	}
	return ""
}

// unusualOfAccounts is what is unusual of how a form treats the secrets of accounts.
func (s *session) unusualOfAccounts(fields []*learn.Learned) (out []universal.Unusual) {
	var name, secret *learn.Learned
	for _, l := range fields {
		switch f := s.fieldOf(l); {
		case s.ofAccount(f) == "":
		case !f.IsSecret():
			name = l
		default:
			secret = l
			if l.SecretUnchecked {
				out = append(out, universal.Unusual{Promise: universal.SecretUnchecked, Field: f.ID})
			}
			if l.AnyCase {
				out = append(out, universal.Unusual{Promise: universal.SecretAnyCase, Field: f.ID})
			}
		}
	}
	if name == nil || secret == nil || name.Wrong.Accepted || name.Wrong.AnyMessage == "" || secret.Wrong.AnyMessage == "" {
		return out
	}
	if name.Wrong.AnyMessage != secret.Wrong.AnyMessage || name.Wrong.Status != secret.Wrong.Status {
		out = append(out, universal.Unusual{Promise: universal.AccountsTold, Seen: name.Wrong.AnyMessage, Sent: secret.Wrong.AnyMessage})
	}
	return out
}

// whoseSecret tells of a secret of an account which field names the account, and what does not matter in it.
func (s *session) whoseSecret(fields []*learn.Learned) {
	if !s.target.SignsIn() {
		return
	}
	of, ignoring := "", spec.Names(nil)
	for _, l := range fields {
		if f := s.fieldOf(l); !f.IsSecret() && s.ofAccount(f) != "" {
			of = f.ID
			if l.AnyCase {
				ignoring = spec.Names{"case"}
			}
		}
	}
	for _, l := range fields {
		for i := range l.Rules {
			if m := l.Rules[i].MatchesSecret; m != nil {
				m.Of, m.Ignoring = of, ignoring
			}
		}
	}
}

func (s *session) fieldOf(l *learn.Learned) *spec.Field {
	return &s.form.Fields[slices.IndexFunc(s.form.Fields, func(f spec.Field) bool { return f.ID == l.Field })]
}

// onlyWithNew finds which secrets are asked for only where a new one is set: those whose rules do not count where all secrets are blank.
func (s *session) onlyWithNew(ctx context.Context, fields []*learn.Learned) error {
	if !s.blankSecrets {
		return nil
	}
	set := slices.IndexFunc(s.form.Fields, func(f spec.Field) bool {
		return f.IsSecret() && s.ofAccount(&f) == ""
	})
	if set < 0 {
		return nil
	}
	values := maps.Clone(s.vary())
	for i := range s.form.Fields {
		if f := &s.form.Fields[i]; f.IsSecret() {
			values[f.ID] = []string{""}
		}
	}
	p, err := s.submit(ctx, manual.Values(values), s.form.Fields[set].ID)
	if err != nil || !p.Accepted() {
		return err
	}
	s.keepsSecret = s.form.Fields[set].ID
	for _, l := range fields {
		if f := s.fieldOf(l); f.IsSecret() && s.ofAccount(f) != "" {
			l.When = s.form.Fields[set].ID + ` != ""`
		}
	}
	return nil
}

// valueOfAnother is a value that another row of a column holds than what the form's own visitor has, "" for none.
func (s *session) valueOfAnother(ctx context.Context, column, own string) string {
	table, name, known := strings.Cut(column, ".")
	if !known || !s.target.SignedInBefore() || len(s.target.Databases) == 0 {
		return ""
	}
	rows, err := s.target.Databases.Of(table).Rows(ctx, table, []string{name}, maxRows)
	if err != nil {
		return ""
	}
	for _, row := range rows {
		if row[0] != "" && row[0] != own {
			return row[0]
		}
	}
	return ""
}

// maxRows is how many rows are looked at for another's value.
const maxRows = 50
