// Package learning finds out what a form promises by submitting it: values that are accepted, where they are stored, and what becomes of
// values that differ from them in one thing.
package learning

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/schema"
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
	// noise are texts that were said of values that are accepted at other times; lastSaid is what may turn out as one, "" for nothing.
	noise    map[string]bool
	lastSaid string
	// withSecrets: the secrets of whoever is signed in are filled in, and what a submission changed is put back at once, from mark in the journal on.
	// blankSecrets: they may stay blank as well.
	withSecrets, blankSecrets bool
	// keepsSecret is the id of the field of a new secret that leaves the account's as it is where it is blank; "" for none.
	keepsSecret string
	mark        int
	// wrote are rows that submissions of somebody signed in inserted, by table and key; oneForEach: there is one for each visitor.
	wrote      map[[2]string]bool
	oneForEach bool
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
		for _, p := range one.Taken {
			out.Notes = append(out.Notes, phrases.TookUnusual.With("label", f.Label, "value", shown(f, p.Value)))
		}
	}
	out.Submissions, out.Unusual = s.made, s.allUnusual(out.Fields, db)
	return out, s.write(text, probes, db, out)
}

// write makes a draft of what was learned, and of the document with it.
func (s *session) write(text []byte, probes []draft.Probe, db *schema.Database, out *Found) error {
	text, err := ofKinds(text, out.Fields)
	if err != nil {
		return err
	}
	broken := s.brokenOnServer()
	for _, r := range s.target.Form.Rules { // of whoever has an account nothing else is accepted, whatever the page says
		if r.Layer == spec.OnServer && r.Field != nil && s.ofAccount(r.Field.Field) != "" && r.Kind != spec.RuleRequired {
			broken = append(broken, r)
		}
	}
	for _, r := range broken {
		path := fmt.Sprintf("fields[%s].rules[%s]", r.Field.ID, r.Name)
		edit := document.Edit{Do: document.Remove, Path: path}
		if slices.Contains(r.Rule.Layers(), spec.InBrowser) {
			only, _ := json.Marshal([]spec.Layer{spec.InBrowser}) // plain data
			edit = document.Edit{Do: document.Set, Path: path + ".layers", Value: only}
		}
		if without, err := document.Apply(text, []document.Edit{edit}); err == nil { // a rule that a field's kind brings with it stands nowhere
			text = without
		}
	}
	form, err := spec.ReadForm("", text)
	if err != nil {
		return err
	}
	out.Draft = draft.FromTrace(form, probes, db, s.visitor).Draft // once more, as what a column holds is compared by the field's kind
	for i := range out.Draft.Columns {
		if c := &out.Draft.Columns[i]; c.Source.Secret != "" && c.Source.Secret == s.keepsSecret {
			c.Source.Blank = spec.BlankUnchanged
		}
	}
	out.Notes = append(out.Notes, s.otherReplies(out.Draft)...)
	out.Draft.From, out.Draft.Notes = phrases.FromLearning.Text(), out.Notes
	for _, one := range out.Fields {
		f := &form.Fields[slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == one.Field })]
		otherwise(out.Draft, one)
		add(out.Draft, drafted(f, one))
		if one.When != "" {
			s.storedUnder(out.Draft, one)
		}
	}
	out.Text, err = apply(text, out.Draft)
	if s.FromPage != nil {
		whole := *s.FromPage.Draft
		whole.From, whole.Notes = out.Draft.From, append(slices.Clone(whole.Notes), out.Draft.Notes...)
		whole.Form, whole.Columns = append(slices.Clone(whole.Form), out.Draft.Form...), append(slices.Clone(whole.Columns), out.Draft.Columns...)
		whole.Fields = onlyInBrowser(s.sentAs(whole.Fields), broken)
		for _, f := range out.Draft.Fields {
			add(&whole, f)
		}
		out.Draft = &whole
	}
	if s.Sent != nil {
		out.Draft.Form = append(slices.Clone(s.Sent.Form), out.Draft.Form...)
		for i := range out.Draft.Fields { // the document does not know under which names the script sends them
			s.renamed(&out.Draft.Fields[i])
		}
		if s.FromPage == nil {
			out.Draft.Fields = append(out.Draft.Fields, s.Sent.Fields...)
		}
	}
	return err
}

// renamed makes a draft's field known by its id, where the page's script sends it under another name than the document has.
func (s *session) renamed(f *draft.Field) {
	at := slices.IndexFunc(s.form.Fields, func(known spec.Field) bool { return known.Name == f.Name })
	if at < 0 || s.FromPage != nil {
		return
	}
	f.Name, f.ID = "", s.form.Fields[at].ID
}

// storedUnder adds the column of a field that counts only under a condition: submissions where it does not count do not show it, but what is stored then.
func (s *session) storedUnder(d *draft.Draft, l *learn.Learned) {
	table, column, known := strings.Cut(s.columns[l.Field], ".")
	if !known || slices.ContainsFunc(d.Columns, func(c draft.Column) bool { return c.Source.From == l.Field }) {
		return
	}
	source := spec.Source{From: l.Field}
	for _, c := range s.seen[s.without].Step.Changes {
		if cell, has := observation.CellOf(c.After, column); has && c.Table == table {
			switch {
			case cell.Null:
				source.Blank = spec.BlankNull
			case cell.Value == "":
				source.Blank = spec.BlankEmpty
			}
		}
	}
	d.Columns = slices.DeleteFunc(d.Columns, func(c draft.Column) bool { return c.Table == table && c.Column == column })
	d.Columns = append(d.Columns, draft.Column{Table: table, Column: column, Source: source, From: phrases.LearnedFrom.With("n", l.Asked), Sure: 0.9})
}

// add puts what was learned of a field into a draft. Rules of one kind are left to what was learned by asking for them, where the draft speaks of
// them too.
func add(d *draft.Draft, learned draft.Field) {
	at := slices.IndexFunc(d.Fields, func(f draft.Field) bool { return f.Name == learned.Name })
	if at < 0 {
		d.Fields = append(d.Fields, learned)
		return
	}
	f := &d.Fields[at]
	f.Rules = slices.DeleteFunc(f.Rules, func(r draft.Rule) bool {
		return slices.ContainsFunc(learned.Rules, func(l draft.Rule) bool { return l.Rule.Kind() == r.Rule.Kind() })
	})
	f.Rules = append(f.Rules, learned.Rules...)
	for _, said := range learned.Statements {
		f.Statements = slices.DeleteFunc(f.Statements, func(o draft.Statement) bool { return o.Path == said.Path })
		f.Statements = append(f.Statements, said)
	}
}

// otherwise says of learned rules what their rejections do otherwise than the form's: another status, another place of the message.
func otherwise(d *draft.Draft, l *learn.Learned) {
	said := func(path string) any {
		if at := slices.IndexFunc(d.Form, func(s draft.Statement) bool { return s.Path == path }); at >= 0 {
			return d.Form[at].Value
		}
		return nil
	}
	status, known := said("rejected.status").(int)
	atField := said("rejected.place") == string(spec.AtField)
	for i := range l.Rules {
		r, proof := &l.Rules[i], l.Rules[i].Proofs[0]
		if known && proof.Status != 0 && proof.Status != status {
			r.RejectedWith(proof.Status)
		}
		if atField && proof.AtNoField {
			r.SaidAt(spec.OnNextPage)
		}
	}
}

// sentAs are the fields of a page's draft under the names under which its script sends them.
func (s *session) sentAs(fields []draft.Field) []draft.Field {
	out := slices.Clone(fields)
	if s.Sent == nil {
		return out
	}
	for _, sent := range s.Sent.Fields {
		for _, said := range sent.Statements {
			at := slices.IndexFunc(out, func(f draft.Field) bool { return f.Name == sent.Name })
			if name, is := said.Value.(string); is && said.Path == "name" && at >= 0 {
				out[at].Name, out[at].ID = name, sent.ID
			}
		}
	}
	return out
}

// brokenOnServer are the page's own rules that the server does not keep: something was accepted that broke one of them and no other.
func (s *session) brokenOnServer() (out []*spec.PreparedRule) {
	for _, r := range s.target.Form.Rules {
		if r.Layer == spec.OnServer && r.Field != nil &&
			slices.ContainsFunc(s.seen, func(one *universal.Submitted) bool {
				sent, _ := one.Step.Sent.Of(r.Field) // spaces may be taken away first
				return one.Ending == universal.Accepted && one.Rule == r.ID && sent == strings.TrimSpace(sent)
			}) {
			out = append(out, r)
		}
	}
	return out
}

// onlyInBrowser are the fields of a page's draft without the rules of the server that it does not keep.
func onlyInBrowser(fields []draft.Field, broken []*spec.PreparedRule) []draft.Field {
	out := slices.Clone(fields)
	for _, r := range broken {
		for i := range out {
			if out[i].Name != r.Field.Name {
				continue
			}
			var rules []draft.Rule
			for _, one := range out[i].Rules {
				layers := slices.DeleteFunc(slices.Clone(one.Rule.Layers()), func(l spec.Layer) bool { return l == spec.OnServer })
				if one.Rule.Kind() == r.Kind && len(layers) < len(one.Rule.Layers()) {
					if len(layers) == 0 {
						continue
					}
					one.Rule = one.Rule.In(layers...)
				}
				rules = append(rules, one)
			}
			out[i].Rules = rules
		}
	}
	return out
}

// ofKinds writes into a document which kinds of fields were learned.
func ofKinds(text []byte, fields []*learn.Learned) (_ []byte, err error) {
	for _, l := range fields {
		if l.Kind == "" {
			continue
		}
		kind, _ := json.Marshal(l.Kind) // a text
		edits := []document.Edit{{Do: document.Set, Path: "fields[" + l.Field + "].kind", Value: kind}}
		if len(l.Options) > 0 {
			options, _ := json.Marshal(optionsOf(l)) // plain data
			edits = append(edits, document.Edit{Do: document.Set, Path: "fields[" + l.Field + "].options", Value: options})
		}
		if text, err = document.Apply(text, edits); err != nil {
			return nil, err
		}
	}
	return text, nil
}

// optionsOf are the options of a field that takes only some values, as documents write them.
func optionsOf(l *learn.Learned) []map[string]string {
	out := make([]map[string]string, len(l.Options))
	for i, value := range l.Options {
		out[i] = map[string]string{"value": value}
	}
	return out
}

// apply makes the proposals of a draft that are sure enough in a document's text.
func apply(text []byte, d *draft.Draft) ([]byte, error) {
	form, err := spec.ReadForm("", text)
	if err != nil {
		return nil, err
	}
	for _, p := range draft.Propose(form, d) {
		if !p.Chosen {
			continue
		}
		if text, err = document.Apply(text, p.Edits); err != nil {
			return nil, err
		}
	}
	return text, nil
}

// drafted is what was learned of a field as a draft of it.
func drafted(f *spec.Field, l *learn.Learned) draft.Field {
	out := draft.Field{Name: f.Name, Known: true}
	if l.Kind != "" {
		out.Statements = append(out.Statements, draft.Statement{Path: "kind", Value: string(l.Kind), From: phrases.LearnedFrom.With("n", l.Asked), Certain: true})
	}
	if len(l.Options) > 0 {
		out.Say("options", optionsOf(l), phrases.LearnedFrom.With("n", l.Asked))
	}
	if l.When != "" {
		out.Say("when", l.When, phrases.LearnedFrom.With("n", l.Asked))
	}
	if len(l.Normalize) > 0 {
		out.Say("normalize", l.Normalize, phrases.LearnedFrom.With("n", l.Asked))
	}
	for _, r := range l.Rules {
		out.Rule(r.Rule, r.Sure, phrases.LearnedOf.With("value", shown(f, r.Proofs[0].Value)))
	}
	return out
}

// shown is a value as it may be shown: not that of a secret.
func shown(f *spec.Field, value string) string {
	if f.IsSecret() {
		return "…"
	}
	return value
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
		out.Taken = s.anothers(ctx, out.Column, out.Usual)
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

// findValid submits until something is accepted, and once more with varied values.
func (s *session) findValid(ctx context.Context) error {
	last, err := s.tryValues(ctx)
	if err != nil {
		return err
	}
	switch {
	case last.Accepted():
		s.without = len(s.seen) - 1
		if err := s.fillSecrets(ctx); err != nil {
			return err
		}
	case s.account() != nil && s.hasSecrets(): // they are asked for
		s.withSecrets, s.mark = true, len(s.target.Journal)
		if last, err = s.tryValues(ctx); err != nil {
			return err
		}
		s.without = len(s.seen) - 1
	}
	if last.Accepted() {
		return s.findFixed(ctx)
	}
	none := &NotAccepted{Attempts: s.made, Messages: last.SeenMessages(s.form), Values: maps.Clone(s.valid), Failure: last.Step.Failure}
	for i := range s.form.Fields {
		if f := &s.form.Fields[i]; f.IsSecret() {
			none.Values[f.ID] = []string{"…"}
		}
	}
	if x := last.Step.First(); x != nil {
		none.Status = x.Status
	}
	return none
}

// tryValues submits values until some are accepted, or there are none left to try. It returns the last submission.
func (s *session) tryValues(ctx context.Context) (last *draft.Probe, err error) {
	designer, err := design.New(s.target.Form, s.target.Config.Site)
	if err != nil {
		return nil, err
	}
	sample := designer.Sample(s.now.UnixMilli(), s.now)
	for i := range s.form.Fields {
		f := &s.form.Fields[i]
		if first, is := s.First[f.ID]; is {
			sample[f.ID] = first
		}
		if own := s.ofAccount(f); own != "" {
			sample[f.ID] = []string{own}
		}
		if s.leftBlank(f) {
			sample[f.ID] = []string{""}
		}
	}
	s.tries = newCandidates(s.form, sample, s.Values, func(f *spec.Field) bool { return s.leftBlank(f) || s.ofAccount(f) != "" })
	for range cmp.Or(s.Attempts, usualAttempts) {
		s.valid = s.tries.values()
		s.repeat(s.valid)
		if last, err = s.submit(ctx, s.valid, ""); err != nil || last.Accepted() {
			return last, err
		}
		if !s.tries.mend(last.SeenMessages(s.form)) {
			break
		}
	}
	return last, nil
}

// findFixed sends varied values, and keeps those as they are that are then refused. Digits alone may be a number with bounds, and are varied only
// where the same ones are refused.
func (s *session) findFixed(ctx context.Context) error {
	digits := map[string]bool{}
	for id, list := range s.valid {
		if len(list) == 1 && list[0] != "" && strings.Trim(list[0], "0123456789") == "" {
			digits[id], s.fixed[id] = true, true
		}
	}
	for range 2 * len(s.form.Fields) {
		p, err := s.submit(ctx, s.vary(), "")
		if err != nil || p.Accepted() {
			return err
		}
		changed := false
		for _, m := range p.SeenMessages(s.form) {
			switch {
			case m.Field == "":
			case digits[m.Field]:
				delete(digits, m.Field)
				delete(s.fixed, m.Field)
				changed = true
			case !s.fixed[m.Field]:
				s.fixed[m.Field], changed = true, true
			}
		}
		if !changed {
			return nil // what is refused is not said
		}
	}
	return nil
}
