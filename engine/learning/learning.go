// Package learning finds out what a form promises by submitting it: values that are accepted, where they are stored, and what becomes of
// values that differ from them in one thing.
package learning

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/universal"
	"oddtick/core/wording/phrases"
	"oddtick/engine/manual"
	"oddtick/engine/target"
)

// Options are how a form is learned.
type Options struct {
	// Values are a tester's own, by field id, for fields whose values cannot be guessed.
	Values manual.Values
	// Attempts is how many submissions are made at most until one is accepted; 40 where it is 0.
	Attempts int
	// Most is how many are made at most in all; 0 for as many as it takes. What was learned until then is written.
	Most int
	// FromPage is the page as it was read, where what is learned is to be proposed for a document that has no fields yet; nil for nothing.
	FromPage *Read
	// Sent is what the page's script sends, where one sends the form, and First are values that are tried before others.
	Sent  *draft.Draft
	First manual.Values
	// Progress is told of each submission; nil for nobody.
	Progress func(n int, about string)
}

// errEnough tells that as many submissions were made as may be.
var errEnough = errors.New("as many submissions were made as may be")

// usualAttempts are the submissions until one is accepted, at most.
const usualAttempts = 40

// Found is what was learned of a form.
type Found struct {
	// Text is the document with what was learned, and Draft what was learned.
	Text  []byte
	Draft *draft.Draft
	// Fields are what was learned of each field, in page order.
	Fields []*learn.Learned
	// Submissions counts them all.
	Submissions int
	Notes       []prose.Text
	// Unusual is what breaks a promise that holds on every form, the gravest first.
	Unusual []universal.Unusual
}

// NotAccepted tells that no submission was accepted, with what the site said last.
type NotAccepted struct {
	Attempts int
	Messages []draft.SeenMessage
	Values   manual.Values
	// Status is that of the last answer, 0 where none came, and Failure why.
	Status  int
	Failure string
}

func (e *NotAccepted) Error() string {
	said := make([]string, len(e.Messages))
	for i, m := range e.Messages {
		said[i] = m.Text
		if m.Field != "" {
			said[i] = fmt.Sprintf("%s (%q): %s", m.Field, strings.Join(e.Values[m.Field], ", "), m.Text)
		}
	}
	if len(said) == 0 {
		return fmt.Sprintf("none of %d submissions was accepted, and the site does not say why (status %d %s)", e.Attempts, e.Status, e.Failure)
	}
	return fmt.Sprintf("none of %d submissions was accepted; the site says: %s", e.Attempts, strings.Join(said, "; "))
}

// session is a form that is being learned.
type session struct {
	Options
	target *target.Target
	form   *spec.Form
	made   int
	// varied counts values that were made new.
	varied int
	// valid are values that were accepted, fixed the fields whose values are sent as they are, and not varied.
	valid manual.Values
	fixed map[string]bool
	tries *candidates
	now   time.Time
	// seen are all submissions, and columns where values are stored, by field id, as far as it is known yet.
	seen    []*universal.Submitted
	columns map[string]string
	// noise are texts that were said of values that are accepted at other times; inDoubt is what may turn out as one, "" for nothing.
	noise   map[string]bool
	inDoubt string
	// withSecrets: the secrets of whoever is signed in are filled in, and what a submission changed is put back at once, from mark in the journal on.
	// blankSecrets: they may stay blank as well.
	withSecrets, blankSecrets bool
	// keepsSecret is the id of the field of a new secret that leaves the account's as it is where it is blank; "" for none.
	keepsSecret string
	mark        int
	// wrote are rows that submissions of somebody signed in inserted, by table and key. takesBack: what a submission wrote is taken back before the next,
	// as it would be in its way: there is one row for each visitor, or a thing can be booked once.
	wrote     map[[2]string]bool
	takesBack bool
	// across are rules about two fields, as documents write them.
	across []map[string]any
	// visitor is the row of whoever is signed in, nil where it is not known.
	visitor *draft.Visitor
	// without is the place in seen of the first submission that was accepted.
	without int
	unusual []universal.Unusual
}

// Form learns a form, of which a document names at least page and fields. What it writes stands in the journal of t, so that it can be
// taken back.
func Form(ctx context.Context, t *target.Target, text []byte, o Options) (*Found, error) {
	form := t.Form.Form
	s := &session{Options: o, target: t, form: form, fixed: map[string]bool{}, now: time.Now(), columns: map[string]string{}, wrote: map[[2]string]bool{}, noise: map[string]bool{}}
	if err := s.findValid(ctx); err != nil {
		return nil, err
	}
	probes, err := manual.Trace(ctx, t, s.vary(), func(p *draft.Probe) error { return s.after(ctx, p) })
	if err != nil {
		return nil, err
	}
	s.made += len(probes)
	db, err := t.Schema(ctx)
	if err != nil {
		return nil, err
	}
	s.visitor = t.VisitorRow(ctx)
	traced := draft.FromTrace(form, probes, db, s.visitor)
	out := &Found{Notes: traced.Draft.Notes}
	for _, f := range traced.Fields {
		if len(f.Stored) > 0 {
			s.columns[f.Field] = f.Stored[0].Column
		}
	}
	for i := range probes {
		s.judge(&probes[i], "", "")
	}
	for i := range form.Fields {
		f := s.about(ctx, i)
		if f == nil {
			continue
		}
		one, err := learn.AboutField(ctx, f, s.now, s.ask(s.columns[f.ID]))
		if err != nil && err != errEnough {
			return nil, err
		}
		steady, failed := s.steady(ctx)
		if failed != nil && failed != errEnough {
			return nil, failed
		}
		if !steady && failed == nil {
			out.Notes = append(out.Notes, phrases.StoppedAccepting.With("label", form.Fields[i].Label))
			break
		}
		out.Fields = append(out.Fields, one)
	}
	if err := s.conditional(ctx, out.Fields); err != nil && err != errEnough {
		return nil, err
	}
	if err := s.pairs(ctx, out.Fields); err != nil && err != errEnough {
		return nil, err
	}
	if err := s.onlyWithNew(ctx, out.Fields); err != nil && err != errEnough {
		return nil, err
	}
	s.whoseSecret(out.Fields)
	s.withoutNoise(out.Fields)
	for _, one := range out.Fields {
		f := &form.Fields[slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == one.Field })]
		if one.Unsteady > 0 {
			out.Notes = append(out.Notes, phrases.AnswersDiffer.With("label", f.Label))
		}
	}
	out.Submissions, out.Unusual = s.made, s.allUnusual(out.Fields, db)
	return out, s.write(text, probes, db, out)
}

// about is what is known of a field, nil of one that no visitor fills in or that is not asked about.
func (s *session) about(ctx context.Context, i int) *learn.Field {
	f := &s.form.Fields[i]
	list := s.valid[f.ID]
	if s.leftBlank(f) || f.Kind.Untouched() || len(list) != 1 || f.Kind == spec.MultipleChoice || f.Kind == spec.Upload {
		return nil
	}
	out := &learn.Field{ID: f.ID, Kind: f.Kind, Label: f.Label, Usual: list[0], Secret: f.IsSecret(), Column: s.columns[f.ID], Next: s.next}
	if of := draft.RepeatOf(s.form, i); of >= 0 {
		out.Repeats = s.form.Fields[of].ID
	}
	if s.fixed[f.ID] && f.Kind == spec.Text && strings.Trim(out.Usual, "0123456789") != "" {
		out.Listed = listed(ctx, s.target, f)
	}
	if out.OfAccount = s.ofAccount(f) != ""; out.OfAccount && out.Secret {
		out.Column = s.secretColumn(ctx)
	} else {
		out.Taken = s.valueOfAnother(ctx, out.Column, out.Usual)
	}
	for _, r := range f.Rules { // of the page
		if r.Length != nil && r.Length.Max != nil {
			out.MaxLength = *r.Length.Max
		}
	}
	return out
}

// leftBlank: the secrets of whoever is signed in stay as they are, where a change of them could not be put back, which would shut the visitor out.
func (s *session) leftBlank(f *spec.Field) bool {
	return s.target.SignedInBefore() && f.IsSecret() && !s.withSecrets
}

// vary are values like those that were accepted, new where that may matter.
func (s *session) vary() manual.Values {
	out, n := maps.Clone(s.valid), s.next()
	for i := range s.form.Fields {
		f := &s.form.Fields[i]
		if list := out[f.ID]; len(list) == 1 && !s.fixed[f.ID] && f.Kind.Textual() && s.ofAccount(f) == "" {
			out[f.ID] = []string{learn.Varied(list[0], f.Kind, n)}
		}
	}
	s.repeat(out)
	return out
}

func (s *session) next() int {
	s.varied++
	return s.varied
}

// repeat gives fields that repeat another the other's value.
func (s *session) repeat(values manual.Values) {
	for i := range s.form.Fields {
		if of := draft.RepeatOf(s.form, i); of >= 0 {
			values[s.form.Fields[i].ID] = values[s.form.Fields[of].ID]
		}
	}
}

// submit makes one submission.
func (s *session) submit(ctx context.Context, values manual.Values, about string) (*draft.Probe, error) {
	if s.Most > 0 && s.made >= s.Most {
		return nil, errEnough
	}
	s.made++
	if s.Progress != nil {
		s.Progress(s.made, about)
	}
	tried, _, err := manual.Try(ctx, s.target, values, manual.Way{Driver: "http"})
	if err != nil {
		return nil, err
	}
	if tried.Failure != "" {
		return nil, target.Cannot("%s", tried.Failure)
	}
	p := &draft.Probe{Values: values, Step: tried.Observation, SignsIn: s.target.SignsIn()}
	rule := ""
	if e := tried.Expectation; e != nil && len(e.Failing) == 1 {
		rule = e.Failing[0].Rule
	}
	s.judge(p, about, rule)
	return p, s.after(ctx, p)
}

// longEnough is how many characters a value has that tells by itself where it is stored.
const longEnough = 3

// columnOf is the column of a written row that holds a value and is named most like its field; "" for none. Short values tell nothing
// without a name that is like the field's.
func (s *session) columnOf(p *draft.Probe, f *spec.Field, value string) (column string) {
	best := 0.0
	if len(value) < longEnough {
		best = likeEnough
	}
	for _, c := range p.Step.Changes {
		for _, cell := range c.After {
			before, had := observation.CellOf(c.Before, cell.Column)
			if cell.Value != value || cell.Null || had && !before.Null && before.Value == value {
				continue
			}
			if like := draft.Likeness(f, cell.Column); like > best || column == "" && like >= best {
				best, column = like, c.Table+"."+cell.Column
			}
		}
	}
	return column
}

// stored is what a column of a written row holds, nil where it is not known.
func stored(o *observation.Step, column string) *string {
	table, name, _ := strings.Cut(column, ".")
	for _, c := range o.Changes {
		if cell, known := observation.CellOf(c.After, name); c.Table == table && known && !cell.Null {
			return &cell.Value
		}
	}
	return nil
}
