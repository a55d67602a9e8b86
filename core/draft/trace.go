package draft

import (
	"cmp"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"oddtick/core/address"
	"oddtick/core/prose"
	"oddtick/core/wording/phrases"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/template"
	"oddtick/core/values"
	"oddtick/core/wording"
)

// ProbeKind is what one submission of a trace is for.
type ProbeKind string

// The kinds of probes, in the order they are made.
const (
	// WatchProbe is made on the page, to see what its script sends; no other is made then.
	WatchProbe ProbeKind = "watch"
	// BlankProbe leaves everything blank, WrongProbe fills every field with what its kind cannot be.
	BlankProbe ProbeKind = "blank"
	WrongProbe ProbeKind = "wrong"
	// DiffersProbe repeats a secret wrongly.
	DiffersProbe ProbeKind = "differs"
	// LimitProbe has values just beyond fields' limits.
	LimitProbe ProbeKind = "limit"
	// ValidProbe is the submission with marked values; AgainProbe sends the same once more.
	ValidProbe ProbeKind = "valid"
	AgainProbe ProbeKind = "again"
)

// Probe is one submission of a trace with what was seen.
type Probe struct {
	Kind ProbeKind `json:"kind"`
	// Values are those sent, by field id; a field without any was left out.
	Values map[string][]string `json:"values"`
	// Breaks are the rules that a limit probe breaks, by field.
	Breaks map[string]string `json:"breaks,omitempty"`
	Step   *observation.Step `json:"step"`
	// SignsIn: the form signs an account in, so that nothing is written where it succeeds.
	SignsIn bool `json:"signs_in,omitempty"`
}

// Traced is where each value of a trace ended up.
type Traced struct {
	Accepted        bool         `json:"accepted"`
	Status          int          `json:"status"`
	To              string       `json:"to,omitempty"`
	Reply           string       `json:"reply,omitempty"`
	Fields          []FieldTrace `json:"fields"`
	UnmappedColumns []Stored     `json:"rest"` // columns that hold no field's value
	// Messages are those of the valid submission, where it was rejected.
	Messages []SeenMessage `json:"messages"`
	Draft    *Draft        `json:"draft"`
}

// FieldTrace is what became of one field's value on its way.
type FieldTrace struct {
	Field  string   `json:"field"` // id
	Label  string   `json:"label"`
	Name   string   `json:"name"` // in the request
	Sent   string   `json:"sent"` // "" for a secret
	Secret bool     `json:"secret,omitempty"`
	Stored []Stored `json:"stored"`
	Shown  []string `json:"shown,omitempty"` // texts of the page that hold it
}

// Stored is a column with what it holds and what was done to the value, in words.
type Stored struct {
	Column string     `json:"column"` // table.column
	Value  string     `json:"value"`
	Change prose.Text `json:"change"`
}

// SeenMessage is a message seen, with the field at which it stood.
type SeenMessage struct {
	Field  string `json:"field,omitempty"` // id
	Text   string `json:"text"`
	Linked bool   `json:"linked,omitempty"`
	// Listed: it stands in a list apart from the fields, with a link to this one.
	Listed bool `json:"listed,omitempty"`
}

// Accepted tells whether a submission seems to have been taken: rows were written, or it led elsewhere, without the form coming back with
// a text at one of its fields or one marked as an error.
func (p *Probe) Accepted() bool {
	s := p.Step
	if s.Failure != "" || s.First() == nil || s.First().Status >= 400 || p.refused() {
		return false
	}
	if p.SignsIn {
		return s.First().Status >= 300 || s.After != nil && s.After.Form == nil
	}
	if len(s.Watched) > 0 {
		return len(s.Changes) > 0
	}
	return s.First().Status >= 300
}

// answeredInJSON: the texts of such an answer stand at the fields after which its members are named, also where they are only the values.
func (p *Probe) answeredInJSON() bool {
	first := p.Step.First()
	return first != nil && first.IsJSON()
}

// refused tells whether the form came back with something to be said of it. On another page notices may stand that say nothing of it.
func (p *Probe) refused() bool {
	s := p.Step
	form := s.After != nil && s.After.Form != nil
	return slices.ContainsFunc(s.NewTexts(), func(t observation.Text) bool {
		return !t.Hidden && (t.Alarm && (form || s.First().Location == "") || form && t.Field != "" && t.Linked && !p.answeredInJSON())
	})
}

// SeenMessages returns a probe's messages by field: texts that came with the answer and stand at a control or are marked as errors.
func (p *Probe) SeenMessages(form *spec.Form) []SeenMessage {
	var out []SeenMessage
	for _, t := range p.Step.NewTexts() {
		if t.Hidden || t.Text == "" {
			continue
		}
		field := ""
		for i := range form.Fields {
			if name := cmp.Or(t.Field, t.LeadsTo); form.Fields[i].Name == name && name != "" {
				field = form.Fields[i].ID
			}
		}
		if !t.Alarm && (field == "" || t.Field == "" || p.answeredInJSON() && p.Step.First().Status < 400) {
			continue
		}
		out = append(out, SeenMessage{field, t.Text, t.Linked, field != "" && t.Field == ""})
	}
	if text := p.sentence(); len(out) == 0 && text != "" {
		out = []SeenMessage{{Text: text}}
	}
	return out
}

// sentence is what a rejection in JSON says where it marks nothing as an error: its longest text of several words.
func (p *Probe) sentence() string {
	if !p.answeredInJSON() || p.Step.First().Status < 400 {
		return ""
	}
	longest := ""
	for _, t := range p.Step.NewTexts() {
		if len(t.Text) > len(longest) && strings.Contains(t.Text, " ") {
			longest = t.Text
		}
	}
	return longest
}

// firstMessage is a field's first message.
func firstMessage(list []SeenMessage, field string) (SeenMessage, bool) {
	for _, s := range list {
		if s.Field == field {
			return s, true
		}
	}
	return SeenMessage{}, false
}

// FromTrace reads probes: what was stored where, what was said for what. The form's fields are those of the page. db may be nil;
// it tells what of a column no submission shows. visitor is the row of the signed-in user, nil where there is none or it is not known.
func FromTrace(form *spec.Form, probes []Probe, db *schema.Database, visitor *Visitor) *Traced {
	t := &Traced{Fields: []FieldTrace{}, UnmappedColumns: []Stored{}, Messages: []SeenMessage{}, Draft: &Draft{From: phrases.FromTrace.Text()}}
	byKind := map[ProbeKind]*Probe{}
	for i := range probes {
		byKind[probes[i].Kind] = &probes[i] // of several valid ones the last counts
	}
	if p := byKind[WatchProbe]; p != nil {
		t.Draft = fromRequest(form, p)
		if x := p.Step.First(); x != nil {
			t.Accepted, t.Status = p.Accepted(), x.Status
		}
		return t
	}
	r := &tracer{form: form, db: db, visitor: visitor, Traced: t, columns: map[string]string{}, rules: map[string][]Rule{}, steps: map[string][]spec.NormalizeStep{}}
	if p := accepted(probes); p != nil {
		r.valid(p)
	} else if p := byKind[ValidProbe]; p != nil {
		r.valid(p)
	}
	r.rejections(byKind)
	r.limits(probes)
	r.fields()
	return t
}

// accepted is the submission whose traces are followed: the valid one, or one that should have been refused and was not.
func accepted(probes []Probe) *Probe {
	for _, kind := range []ProbeKind{ValidProbe, DiffersProbe, LimitProbe} {
		for i := range probes {
			if probes[i].Kind == kind && probes[i].Accepted() {
				return &probes[i]
			}
		}
	}
	return nil
}

type tracer struct {
	*Traced
	form    *spec.Form
	db      *schema.Database
	visitor *Visitor
	columns map[string]string // by field id
	rules   map[string][]Rule
	steps   map[string][]spec.NormalizeStep
}

func (r *tracer) valid(p *Probe) {
	s := p.Step
	r.Accepted = p.Accepted()
	if first := s.First(); first != nil {
		r.Status = first.Status
		r.To = address.From(first.URL, first.Location)
		if first.Location == "" {
			r.To = ""
		}
	}
	if !r.Accepted {
		r.Messages = append(r.Messages, p.SeenMessages(r.form)...)
		return
	}
	r.Draft.Say("accepted.status", r.Status, phrases.TraceAnswer.Text())
	if to := r.target(r.To, s); to != "" {
		r.Draft.Say("accepted.to", to, phrases.TraceRedirect.Text())
	}
	taken := map[string]bool{}
	for i := range r.form.Fields {
		r.Fields = append(r.Fields, r.traceField(&r.form.Fields[i], p, taken))
	}
	r.rest(s, taken)
	r.updated(s)
	if reply := r.reply(p); reply != "" {
		r.Reply = reply
		r.Draft.Say("accepted.reply", reply, phrases.TracePage.Text())
	}
}

// traceField looks for one field's value in the rows that were inserted and on the page.
func (r *tracer) traceField(f *spec.Field, p *Probe, taken map[string]bool) FieldTrace {
	list := p.Values[f.ID]
	out := FieldTrace{Field: f.ID, Label: f.Label, Name: f.Name, Secret: f.IsSecret(), Stored: []Stored{}}
	value := strings.Join(list, ", ")
	if f.Kind.Untouched() {
		if sent, ok := p.Step.Sent.Value(f.Name); ok {
			value = sent
		}
	}
	if !out.Secret {
		out.Sent = value
	}
	if f.Kind == spec.Honeypot || r.form.Before != nil && r.form.Before.SignedIn != "" && AsksForPresent(f) {
		return out
	}
	best, bestColumn := 0.0, ""
	var bestHow traceOutcome
	for _, ch := range p.Step.Changes {
		for _, cell := range ch.After {
			name := ch.Table + "." + cell.Column
			how, strength := compare(f, value, len(list) > 0, cell)
			if strength == 0 || taken[name] {
				continue
			}
			likeness := max(similarity(f.Name, cell.Column), similarity(f.ID, cell.Column), similarity(f.Label, cell.Column))
			if strength < 0.9 && likeness < leastSure {
				continue // a value that many columns hold tells nothing without a name
			}
			if score := strength + likeness/2; score > best && !r.repeats(f) {
				best, bestColumn, bestHow = score, name, how
				out.Stored = []Stored{{name, shownCell(f, cell), how.words}}
			}
		}
	}
	if bestColumn == "" && !r.repeats(f) {
		bestColumn, bestHow = r.changed(f, value, p, taken, &out)
	}
	for _, t := range p.Step.NewTexts() {
		if len(value) >= 3 && !t.Hidden && strings.Contains(t.Text, strings.TrimSpace(value)) && f.Kind.Textual() && !out.Secret {
			out.Shown = append(out.Shown, t.Text)
		}
	}
	if bestColumn == "" {
		return out
	}
	taken[bestColumn] = true
	r.columns[f.ID] = bestColumn
	table, column, _ := strings.Cut(bestColumn, ".")
	source := spec.Source{From: f.ID, Blank: bestHow.blank}
	if _, c := r.db.Column(bestColumn); c != nil && source.Blank == "" && f.Kind != spec.Checkbox && !f.Kind.Untouched() && c.Nullable {
		source.Blank = spec.BlankNull
	}
	if f.Kind == spec.Upload && source.From != "" {
		source.File = "name"
	}
	if bestHow.label {
		source.Option = "label"
	}
	if out.Secret {
		source = spec.Source{Secret: f.ID, As: bestHow.as}
	}
	sure := 1.0
	if best == 0 {
		sure = 0.7
	}
	r.Draft.Columns = append(r.Draft.Columns, Column{Table: table, Column: column, Source: source, From: phrases.TraceStored.With("how", bestHow.words), Sure: sure})
	r.steps[f.ID] = bestHow.steps
	return out
}

// changed looks for a column that is named like the field and holds a value much like its own: it was changed on the way.
func (r *tracer) changed(f *spec.Field, value string, p *Probe, taken map[string]bool, out *FieldTrace) (string, traceOutcome) {
	text := strings.ToLower(strings.TrimSpace(value))
	if len(text) < 3 || f.IsSecret() {
		return "", traceOutcome{}
	}
	for _, ch := range p.Step.Changes {
		for _, cell := range ch.After {
			name := ch.Table + "." + cell.Column
			likeness := max(similarity(f.Name, cell.Column), similarity(f.ID, cell.Column), similarity(f.Label, cell.Column))
			if taken[name] || cell.Null || likeness < 0.4 || dice(text, strings.ToLower(cell.Value)) < 0.5 {
				continue
			}
			how := traceOutcome{words: phrases.ChangedOnWay.With("stored", cell.Value, "sent", strings.TrimSpace(value))}
			out.Stored = []Stored{{name, cell.Value, how.words}}
			return name, how
		}
	}
	return "", traceOutcome{}
}

// repeats: the field says the same as one before it, which is the one that is stored.
func (r *tracer) repeats(f *spec.Field) bool {
	return again(f) || slices.ContainsFunc(f.Rules, func(rule spec.Rule) bool { return rule.SameAs != nil })
}

func shownCell(f *spec.Field, cell observation.Cell) string {
	switch {
	case cell.Null:
		return "NULL"
	case f.IsSecret():
		return "…"
	}
	return cell.Value
}

// traceOutcome is how a sent value came to be a stored one.
type traceOutcome struct {
	words prose.Text
	steps []spec.NormalizeStep
	blank spec.Blank
	as    []string
	label bool
}

// compare tells how a stored cell could come from a sent value, and how strongly it says so.
func compare(f *spec.Field, value string, present bool, cell observation.Cell) (traceOutcome, float64) {
	switch {
	case f.IsSecret():
		if cell.Null || value == "" {
			return traceOutcome{}, 0
		}
		class := judge.Classify(value, cell.Value)
		if class.Is == judge.UnknownForm {
			return traceOutcome{}, 0
		}
		out := traceOutcome{words: phrases.StoredAs.With("how", wording.SecretStored(&class))}
		if class.Is == judge.HashKind {
			out.as = []string{class.Of}
		}
		return out, 1
	case f.Kind == spec.Checkbox:
		on := cell.Value != "" && cell.Value != "0" && !strings.EqualFold(cell.Value, "false") && !cell.Null
		if len(cell.Value) > 5 || on != present {
			return traceOutcome{}, 0
		}
		return traceOutcome{words: phrases.TickedAs.With("value", cell.Value)}, 0.5
	case strings.TrimSpace(value) == "":
		if cell.Null {
			return traceOutcome{words: phrases.BlankAsNull.Text(), blank: spec.BlankNull}, 0.4
		}
		if cell.Value == "" {
			return traceOutcome{words: phrases.BlankAsEmpty.Text(), blank: spec.BlankEmpty}, 0.4
		}
		return traceOutcome{}, 0
	case cell.Null || cell.Value == "":
		return traceOutcome{}, 0
	}
	strong := 0.5
	if len(strings.TrimSpace(value)) >= 4 {
		strong = 1
	}
	if cell.Value == value {
		return traceOutcome{words: phrases.AsSent.Text()}, strong
	}
	trimmed := strings.TrimFunc(value, unicode.IsSpace)
	steps, text := []spec.NormalizeStep{}, value
	if trimmed != value {
		steps, text = append(steps, spec.Trim), trimmed
	}
	if lines := lineFeeds.Replace(text); lines != text && strings.Contains(cell.Value, "\n") && !strings.Contains(cell.Value, "\r") {
		steps, text = append(steps, spec.LineFeeds), lines
	}
	switch {
	case cell.Value == text:
	case cell.Value == strings.ToLower(text):
		steps = append(steps, spec.Lower)
	case cell.Value == strings.ToUpper(text):
		steps = append(steps, spec.Upper)
	case cell.Value == strings.Join(strings.Fields(text), " "):
		steps = append(steps, spec.Collapse)
	case len(text) > 8 && len(cell.Value) >= 4 && strings.HasPrefix(text, cell.Value):
		return traceOutcome{words: phrases.CutTo.With("n", len([]rune(cell.Value)))}, 0.95
	default:
		return compareMeaning(f, text, cell)
	}
	names := make([]string, len(steps))
	for i, s := range steps {
		names[i] = s.Plain
	}
	return traceOutcome{words: prose.Text(strings.Join(names, phrases.ThenStep.Template())), steps: steps}, strong
}

// compareMeaning compares numbers, days and options by what they mean.
func compareMeaning(f *spec.Field, text string, cell observation.Cell) (traceOutcome, float64) {
	switch f.Kind {
	case spec.Number:
		a, errA := values.ParseDecimal(text)
		b, errB := values.ParseDecimal(cell.Value)
		if errA == nil && errB == nil && a.Cmp(b) == 0 {
			return traceOutcome{words: phrases.AsTheNumber.With("value", cell.Value)}, 0.5
		}
	case spec.Date, spec.DateTime, spec.Time:
		if strings.HasPrefix(strings.Replace(cell.Value, " ", "T", 1), text) {
			return traceOutcome{words: phrases.AsOther.With("value", cell.Value)}, 1
		}
	case spec.SingleChoice:
		for _, o := range f.Options {
			if o.Value == text && o.Label == cell.Value {
				return traceOutcome{words: phrases.LabelOf.With("value", o.Value), label: true}, 1
			}
		}
	}
	return traceOutcome{}, 0
}

// reply is the text of the page after acceptance that a second look at it does not show, or that holds a submitted value.
func (r *tracer) reply(p *Probe) string {
	standing := map[string]bool{}
	for _, shown := range p.Step.Shown {
		for _, t := range shown.Texts {
			standing[t] = true
		}
	}
	var best observation.Text
	for _, t := range p.Step.NewTexts() {
		if t.Hidden || standing[t.Text] || len(t.Text) > 300 {
			continue
		}
		if best.Text == "" || t.Alarm && !best.Alarm {
			best = t
		}
	}
	reply := r.template(best.Text, p)
	if template.Literal(reply) == "" {
		return "" // it would be found on every page
	}
	return reply
}

// template puts the names of fields where their values stand, and {any} where something stands that the site made anew.
func (r *tracer) template(text string, p *Probe) string {
	for i := range r.form.Fields {
		f := &r.form.Fields[i]
		if !f.Kind.Textual() || f.IsSecret() {
			continue
		}
		value := strings.TrimSpace(strings.Join(p.Values[f.ID], ""))
		if len(value) < 3 {
			continue
		}
		for _, v := range []string{value, strings.ToLower(value)} {
			text = strings.ReplaceAll(text, v, "{"+f.ID+"}")
		}
	}
	return placeOrMade.ReplaceAllStringFunc(text, func(found string) string {
		if strings.HasPrefix(found, "{") {
			return found
		}
		return "{" + template.Any + "}"
	})
}

// rejections reads what was said for a blank form, a wrong one, and the same once more.
func (r *tracer) rejections(by map[ProbeKind]*Probe) {
	blank, wrong := by[BlankProbe], by[WrongProbe]
	add := func(f *spec.Field, said SeenMessage, rule spec.Rule, from prose.Text) {
		rule.SetMessage(said.Text)
		r.rules[f.ID] = append(r.rules[f.ID], Rule{Rule: rule, From: from, Sure: 0.9})
	}
	if blank != nil && !blank.Accepted() && blank.Step.First() != nil {
		list := blank.SeenMessages(r.form)
		r.rejected(blank, wrong, list)
		for i := range r.form.Fields {
			f := &r.form.Fields[i]
			said, ok := firstMessage(list, f.ID)
			switch {
			case !ok:
			case f.Kind == spec.Checkbox:
				add(f, said, spec.Rule{MustBeChecked: &spec.MustBeChecked{}}, phrases.TraceBlank.Text())
			default:
				add(f, said, spec.Rule{Required: &spec.Required{}}, phrases.TraceBlank.Text())
			}
		}
	}
	if wrong != nil && !wrong.Accepted() {
		list := wrong.SeenMessages(r.form)
		for i := range r.form.Fields {
			f := &r.form.Fields[i]
			said, ok := firstMessage(list, f.ID)
			if !ok {
				continue
			}
			from := phrases.TraceFor.With("value", strings.Join(wrong.Values[f.ID], ", "))
			if rule, ok := kindRule(f.Kind); ok {
				add(f, said, rule, from)
			} else if f.Kind.Textual() {
				r.Draft.Notes = append(r.Draft.Notes, phrases.WhichRuleSaidThat.With("label", f.Label, "message", said.Text, "value", strings.Join(wrong.Values[f.ID], ", ")))
			}
		}
	}
	if p := by[DiffersProbe]; p != nil && p.Accepted() {
		for i := range r.form.Fields {
			if of := RepeatOf(r.form, i); of >= 0 && !slices.Equal(p.Values[r.form.Fields[i].ID], p.Values[r.form.Fields[of].ID]) {
				r.Draft.Notes = append(r.Draft.Notes, phrases.TookDiffering.With("label", r.form.Fields[i].Label, "other", r.form.Fields[of].Label))
			}
		}
	} else if p != nil {
		list := p.SeenMessages(r.form)
		for i := range r.form.Fields {
			f := &r.form.Fields[i]
			if said, ok := firstMessage(list, f.ID); ok && RepeatOf(r.form, i) >= 0 {
				first := r.form.Fields[RepeatOf(r.form, i)].ID
				add(f, said, spec.Rule{SameAs: &spec.SameAs{Field: first}}, phrases.TraceDiffers.With("label", f.Label))
				// a repetition need not be told blank by itself
				r.rules[f.ID] = slices.DeleteFunc(r.rules[f.ID], func(rule Rule) bool { return rule.Rule.Required != nil })
			}
		}
	}
	if p := by[AgainProbe]; p != nil && !p.Accepted() {
		list := p.SeenMessages(r.form)
		for i := range r.form.Fields {
			f := &r.form.Fields[i]
			if said, ok := firstMessage(list, f.ID); ok && r.columns[f.ID] != "" {
				unique := &spec.Unique{Column: r.columns[f.ID]}
				if _, c := r.db.Column(unique.Column); c != nil && c.IgnoresCase() && f.Kind.Textual() && !slices.Contains(r.steps[f.ID], spec.Lower) {
					unique.Ignoring = []string{"case"}
				}
				add(f, said, spec.Rule{Unique: unique}, phrases.TraceAgain.Text())
			}
		}
	}
}

// limits reads what was said of values just beyond a limit. Where both ends of a rule are said in two ways, it is left to the tester.
func (r *tracer) limits(probes []Probe) {
	for i := range r.form.Fields {
		f := &r.form.Fields[i]
		for k := range f.Rules {
			rule := &f.Rules[k]
			var texts []string
			value, tried := "", false
			for n := range probes {
				p := &probes[n]
				if p.Kind != LimitProbe || p.Breaks[f.ID] != f.ID+"."+rule.ID() {
					continue
				}
				tried, value = true, strings.Join(p.Values[f.ID], ", ")
				if p.Accepted() {
					r.Draft.Notes = append(r.Draft.Notes, phrases.TookBeyond.With("label", f.Label, "value", shortened(f, value)))
				}
				if said, ok := firstMessage(p.SeenMessages(r.form), f.ID); ok && !p.Accepted() && !slices.Contains(texts, said.Text) {
					texts = append(texts, said.Text)
				}
			}
			switch {
			case !tried || len(texts) == 0:
			case len(texts) == 1:
				with := rule.In(rule.Layers()...)
				with.SetMessage(texts[0])
				r.rules[f.ID] = append(r.rules[f.ID], Rule{Rule: with, From: phrases.TraceFor.With("value", shortened(f, value)), Sure: 0.9})
			default:
				for _, text := range texts {
					r.Draft.Notes = append(r.Draft.Notes, phrases.SaidBeyond.With("label", f.Label, "message", text))
				}
			}
		}
	}
}

// shortened is enough of a value to know it by; a secret is not shown.
func shortened(f *spec.Field, value string) string {
	runes := []rune(value)
	switch {
	case f.IsSecret():
		return "…"
	case len(runes) > 40:
		return string(runes[:30]) + "…"
	}
	return value
}

// kindRule is the rule that a value of another kind breaks.
func kindRule(k spec.Kind) (spec.Rule, bool) {
	switch k {
	case spec.Email:
		return spec.Rule{Email: &spec.EmailRule{}}, true
	case spec.URL:
		return spec.Rule{URL: &spec.URLRule{}}, true
	case spec.Number:
		return spec.Rule{Number: &spec.NumberRule{}}, true
	case spec.Date:
		return spec.Rule{Date: &spec.DateRule{}}, true
	case spec.Time, spec.DateTime:
		return spec.Rule{Time: &spec.TimeRule{}}, true
	case spec.SingleChoice, spec.MultipleChoice:
		return spec.Rule{OneOfOptions: &spec.OneOfOptions{}}, true
	}
	return spec.Rule{}, false
}

// RepeatOf is the field that a field repeats: the one of the same kind right before it, where the name or the label says so, or it is a second
// secret and none says so; -1 for none.
func RepeatOf(form *spec.Form, i int) int {
	f := &form.Fields[i]
	for _, rule := range f.Rules {
		if rule.SameAs != nil {
			return slices.IndexFunc(form.Fields, func(o spec.Field) bool { return o.ID == rule.SameAs.Field })
		}
	}
	if i == 0 || !again(f) && (f.Kind != spec.Password || slices.ContainsFunc(form.Fields, func(o spec.Field) bool { return o.Kind == spec.Password && again(&o) })) {
		return -1
	}
	for k := i - 1; k >= 0; k-- {
		if form.Fields[k].Kind == f.Kind {
			return k
		}
	}
	return -1
}

func (r *tracer) rejected(blank, wrong *Probe, list []SeenMessage) {
	first := blank.Step.First()
	r.Draft.Say("rejected.status", first.Status, phrases.TraceBlank.Text())
	if to := lasting(address.From(first.URL, first.Location)); first.Location != "" && to != "" {
		r.Draft.Say("rejected.to", to, phrases.TraceBlank.Text())
	}
	atFields, tied := 0, 0
	for _, s := range list {
		if s.Field != "" && !s.Listed {
			atFields++
			if s.Linked {
				tied++
			}
		}
	}
	switch {
	case atFields > 0:
		r.Draft.Say("rejected.place", string(spec.AtField), phrases.TraceBlank.Text())
		if tied == atFields {
			r.Draft.Say("rejected.linked", true, phrases.TraceLinked.Text())
		}
	case len(list) > 0:
		r.Draft.Say("rejected.place", string(spec.InSummary), phrases.TraceBlank.Text())
	}
	if wrong == nil || wrong.Step.After == nil || wrong.Step.After.Form == nil {
		return
	}
	kept, lost := 0, 0
	for i := range r.form.Fields {
		f := &r.form.Fields[i]
		c := wrong.Step.After.Form.Control(f.Name)
		if c == nil || f.IsSecret() || !f.Kind.Textual() {
			continue
		}
		if sent := strings.Join(wrong.Values[f.ID], ""); sent != "" && c.Value == sent {
			kept++
		} else if sent != "" {
			lost++
		}
	}
	if kept+lost > 0 {
		value := spec.AllButSecrets
		if kept == 0 {
			value = spec.NoValues
		}
		r.Draft.Say("rejected.values_kept", value, phrases.TraceWrong.Text())
	}
}

// fields gathers what was learnt by field, in page order.
func (r *tracer) fields() {
	for i := range r.form.Fields {
		f := &r.form.Fields[i]
		out := Field{Name: f.Name, ID: f.ID, Known: true, Rules: r.rules[f.ID]}
		if steps := r.steps[f.ID]; len(steps) > 0 && !slices.Equal(steps, f.Normalize) {
			out.Say("normalize", steps, phrases.TraceHow.Text())
		}
		if len(out.Rules)+len(out.Statements) > 0 {
			r.Draft.Fields = append(r.Draft.Fields, out)
		}
	}
}

// made are the letters and digits of a hash, a key or a code that a site makes anew each time.
var made = regexp.MustCompile(`[0-9a-fA-F]{16,}|[0-9a-fA-F]{8}(-[0-9a-fA-F]{4}){3}-[0-9a-fA-F]{12}|\b(?:[A-Za-z_-]*[0-9]+[A-Za-z_-]+){3,}[A-Za-z0-9_-]*\b|[0-9]{3,}`)

// placeOrMade is a place of a text, or what a site made anew.
var placeOrMade = regexp.MustCompile(`\{[a-z0-9_]+\}|` + made.String())

// target is where an acceptance leads, with places for what the site makes anew: {key} for the key of the row that the form is known to
// write, {any} for another part of the path. A query that holds such a thing is left out; "" where no part of the path stays the same.
func (r *tracer) target(address string, s *observation.Step) string {
	address, _, _ = strings.Cut(address, "#")
	at, query, _ := strings.Cut(address, "?")
	keys := map[string]string{} // the place to write for the key of each inserted row
	for i := range s.Changes {
		if ch := &s.Changes[i]; ch.Kind == observation.Inserted && ch.Key != "" {
			keys[ch.Key] = "{" + template.Any + "}"
			if written := slices.IndexFunc(r.form.Stored, func(st spec.Stored) bool { return st.Insert != "" }); written >= 0 && r.form.Stored[written].Insert == ch.Table {
				keys[ch.Key] = "{" + spec.PlaceKey + "}"
			}
		}
	}
	parts, stays := strings.Split(at, "/"), false
	for i, part := range parts {
		switch place, isKey := keys[part]; {
		case isKey:
			parts[i] = place
		case made.MatchString(part):
			parts[i] = "{" + template.Any + "}"
		default:
			stays = stays || part != ""
		}
	}
	if at = strings.Join(parts, "/"); !stays && strings.Contains(at, "{") {
		return ""
	}
	values, err := url.ParseQuery(query)
	for _, list := range values {
		for _, value := range list {
			if _, isKey := keys[value]; isKey || made.MatchString(value) {
				return at
			}
		}
	}
	if query == "" || err != nil {
		return at
	}
	return at + "?" + query
}

// lasting is what of an address is the same each time: without its fragment, and without a query that holds what the site makes anew; ""
// where its path does.
func lasting(address string) string {
	address, _, _ = strings.Cut(address, "#")
	at, query, _ := strings.Cut(address, "?")
	switch {
	case made.MatchString(at):
		return ""
	case query != "" && made.MatchString(query):
		return at
	}
	return address
}

// lineFeeds makes of each line end what many servers store of it.
var lineFeeds = strings.NewReplacer("\r\n", "\n", "\r", "\n")
