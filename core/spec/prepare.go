package spec

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"oddtick/core/expression"
	"oddtick/core/template"
	"oddtick/core/values"

	"cel.dev/cel-go/cel"
)

// Phase is when a rule is judged: a phase only when all earlier ones passed, unless the form says together.
type Phase int

// The phases in order.
const (
	PhaseBrowser Phase = iota
	PhaseFormat
	PhaseAcross
	PhaseLookup
)

func (p Phase) String() string { return [...]string{"browser", "format", "across", "lookup"}[p] }

// Prepared is a form made ready for computing. It is read only and may be shared.
type Prepared struct {
	Form    *Form
	Fields  []*PreparedField
	Across  []*PreparedRule
	Replies []PreparedReply
	// Rules are all rules in the order in which failures are reported: fields in page order, each with its rules as written,
	// then the rules across fields.
	Rules   []*PreparedRule
	byPhase [PhaseLookup + 1][]*PreparedRule
	// Secrets are the secret fields' ids, in page order.
	Secrets []string
	// Accepted, Rejected are what JSON answers hold; nil where nothing is promised of them.
	Accepted, Rejected *PreparedAnswer
	byID               map[string]*PreparedField
	programs           map[string]*expression.Expression // by expression, of stored columns
	env                *cel.Env                          // knows the fields by their ids
}

// PreparedField is a field with its rules compiled.
type PreparedField struct {
	*Field
	Index int
	// Nth is how many fields before it have its request name, as controls of one name are told apart by their order.
	Nth    int
	Rules  []*PreparedRule
	Secret bool
	steps  []step
	format *format
	when   *expression.Expression
	// WhenNames are the fields that its condition names.
	WhenNames []*PreparedField
}

// ControlName is by which a browser knows the field's control: its request name, and which one of that name it is where it is not the
// first.
func (f *PreparedField) ControlName() string {
	if f.Nth == 0 {
		return f.Name
	}
	return fmt.Sprintf("%s (%d)", f.Name, f.Nth+1)
}

// Required tells whether a rule of the server asks for a value.
func (f *PreparedField) Required() bool {
	for _, r := range f.Rules {
		if r.Kind == RuleRequired && r.Layer == OnServer {
			return true
		}
	}
	return false
}

// Written is a value as a visitor writes it, where the field has a format of its own.
func (f *PreparedField) Written(value string) string {
	if f.format == nil {
		return value
	}
	return f.format.write(value)
}

// PreparedRule is a rule compiled. Field is nil for a rule across fields.
type PreparedRule struct {
	// ID is field.rule, or across.rule; Name is the second part alone.
	ID    string
	Name  string
	Kind  RuleKind
	Field *PreparedField
	Rule  *Rule
	Layer Layer
	Phase Phase
	// Message is filled in, but for the value that is sent. Absent replaces it if the parameter is not sent, Null if it is JSON's null.
	Message      *Message
	Absent, Null *Message
	// Messages replace it, the first whose condition holds.
	Messages []PreparedMessage
	Place    Place
	// At is the field at which the message stands: the rule's own, or another; nil where it is none's.
	At        *PreparedField
	MessageOn MessageEvent
	// Rejection is what its rejection does otherwise than the form's, nil for nothing.
	Rejection *Rejection
	// Auto accepts the values of a pattern, characters, e-mail or listed rule.
	Auto *values.Automaton
	// Limit is a length rule's.
	Limit values.Limit
	// Other is the field that agrees or differs.
	Other *PreparedField
	// Range bounds.
	MinNumber, MaxNumber *values.Decimal
	MinDay, MaxDay       *values.DateBound
	MinMoment, MaxMoment *values.MomentBound
	Exclusive            bool
	Zone                 *time.Location
	// Step.
	By, From values.Decimal
	// Table and Column of a unique rule.
	Table, Column string
	IgnoringCase  bool
	Ignoring      []string
	// Expression of a rule across fields, and the fields it names.
	Expression string
	Names      []*PreparedField
	program    *expression.Expression
	when       *expression.Expression
}

// PreparedMessage is a message with its condition compiled.
type PreparedMessage struct {
	*Message
	When string
	when *expression.Expression
}

// Saying is what the rule says of a value: it may depend on how the value is missing, and on the other values.
func (r *PreparedRule) Saying(v *Value, vars func() map[string]any) *Message {
	if r.Kind == RuleRequired {
		switch {
		case !v.Present && r.Absent != nil:
			return r.Absent
		case v.Null && r.Null != nil:
			return r.Null
		}
	}
	if len(r.Messages) > 0 {
		if at := r.FirstMessage(vars()); at >= 0 {
			return r.Messages[at].Message
		}
	}
	return r.Message
}

// FirstMessage is the place of the first message whose condition holds, -1 for none.
func (r *PreparedRule) FirstMessage(vars map[string]any) int {
	return slices.IndexFunc(r.Messages, func(m PreparedMessage) bool { return m.when != nil && m.when.Truth(vars, false) })
}

// AllMessages are all that the rule may say.
func (r *PreparedRule) AllMessages() []*Message {
	var out []*Message
	for _, m := range []*Message{r.Message, r.Absent, r.Null} {
		if m != nil {
			out = append(out, m)
		}
	}
	for _, m := range r.Messages {
		out = append(out, m.Message)
	}
	return out
}

// PreparedReply is a success reply with its condition compiled.
type PreparedReply struct {
	*Reply
	// Text is the reply in the usual language, or its pattern; it tells it from others.
	Text    string
	Names   []*PreparedField
	program *expression.Expression
}

// In is the reply in a language; "" where only a pattern is promised.
func (r PreparedReply) In(language string) string {
	return textIn(r.Reply.Text+r.Otherwise, r.Texts, language)
}

// Rule is the rule with an id, of a field or across fields; nil for none.
func (p *Prepared) Rule(id string) *PreparedRule {
	for _, r := range slices.Concat(p.Rules, p.Across) {
		if r.ID == id {
			return r
		}
	}
	return nil
}

// Languages are those in which the form's page or a reply is promised, in alphabetical order.
func (p *Prepared) Languages() []string {
	all := map[string]bool{}
	add := func(texts map[string]string) {
		for language := range texts {
			all[language] = true
		}
	}
	add(p.Form.PageTitles)
	for _, f := range p.Fields {
		add(f.Labels)
	}
	for _, r := range p.Replies {
		add(r.Texts)
	}
	for i := range p.Form.Accepted.Shown {
		add(p.Form.Accepted.Shown[i].Texts)
	}
	return slices.Sorted(maps.Keys(all))
}

// Compile makes an expression over the form's fields ready; nil for one that cannot be used.
func (p *Prepared) Compile(text string) *expression.Expression {
	b := &builder{form: p.Form, p: p}
	return b.expression("", text, false)
}

// Field returns a field by its id, nil when there is none.
func (p *Prepared) Field(id string) *PreparedField { return p.byID[id] }

// Phase returns the rules of a phase, in the order of Rules.
func (p *Prepared) Phase(phase Phase) []*PreparedRule { return p.byPhase[phase] }

// Prepare compiles a form; what cannot be compiled is returned as Problems.
func (f *Form) Prepare() (*Prepared, error) {
	b := &builder{form: f, p: &Prepared{Form: f, byID: map[string]*PreparedField{}, programs: map[string]*expression.Expression{}}}
	for i := range f.Fields {
		b.field(i)
	}
	for i := range f.Fields {
		b.rules(i)
	}
	b.expressions()
	b.lock()
	b.rowsBefore()
	b.p.Accepted, b.p.Rejected = b.answer("accepted.answer", f.Accepted.Answer), b.answer("rejected.answer", f.Rejected.Answer)
	if len(b.problems) > 0 {
		return nil, b.problems
	}
	for _, field := range b.p.Fields {
		b.p.Rules = append(b.p.Rules, field.Rules...)
	}
	b.p.Rules = append(b.p.Rules, b.p.Across...)
	for _, r := range b.p.Rules {
		b.p.byPhase[r.Phase] = append(b.p.byPhase[r.Phase], r)
	}
	return b.p, nil
}

// PrepareRules makes rules of a field ready as if they stood in the form, with the form's own fields to refer to.
func (f *Form) PrepareRules(of Field, rules []Rule) ([]*PreparedRule, error) {
	of.Rules = slices.Clone(rules)
	form := &Form{Form: f.Form, Page: f.Page, Rejected: f.Rejected, source: f.source}
	for i := range f.Fields {
		if f.Fields[i].ID != of.ID {
			form.Fields = append(form.Fields, Field{ID: f.Fields[i].ID, Name: f.Fields[i].Name, Kind: f.Fields[i].Kind, Options: f.Fields[i].Options, OptionsFrom: f.Fields[i].OptionsFrom})
		}
	}
	at := len(form.Fields)
	form.Fields = append(form.Fields, of)
	form.complete()
	p, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	return slices.DeleteFunc(p.Fields[at].Rules, func(r *PreparedRule) bool { return r.Rule.Implied }), nil
}

type builder struct {
	form     *Form
	p        *Prepared
	problems Problems
}

func (b *builder) fail(path, remedy, format string, args ...any) {
	b.problems = append(b.problems, b.form.source.problem(path, remedy, format, args...))
}

func (b *builder) field(i int) {
	f := &PreparedField{Field: &b.form.Fields[i], Index: i, Secret: b.form.Fields[i].IsSecret()}
	for k := range i {
		if b.form.Fields[k].Name == f.Name {
			f.Nth++
		}
	}
	for k, step := range f.Normalize {
		fn, err := step.compile()
		if err != nil {
			b.fail(fmt.Sprintf("fields[%d].normalize[%d]", i, k), writeStep, "%s", err)
			continue
		}
		f.steps = append(f.steps, fn)
	}
	if f.Format != "" {
		var err error
		if f.format, err = formatOf(f.Kind, f.Format); err != nil {
			b.fail(fmt.Sprintf("fields[%d].format", i), "write a format such as D.M.YYYY, h:mm AM or 1.234,50, on a field of the kind date, time, datetime or number", "%s", err)
		} else {
			f.steps = append(f.steps, f.format.read)
		}
	}
	b.p.Fields = append(b.p.Fields, f)
	if f.Secret {
		b.p.Secrets = append(b.p.Secrets, f.ID)
	}
	if b.p.byID[f.ID] != nil {
		b.fail(fmt.Sprintf("fields[%d]", i), "give each field an id of its own", "there are two fields with the id %q", f.ID)
	}
	b.p.byID[f.ID] = f
}

func (b *builder) rules(i int) {
	f := b.p.Fields[i]
	seen := map[string]bool{}
	for k := range f.Field.Rules {
		path := fmt.Sprintf("fields[%d].rules[%d]", i, k)
		rule := &f.Field.Rules[k]
		kind, base := rule.part()
		if base == nil {
			b.fail(path, "start each rule with its kind on a line of its own, such as: - required: {}", "one kind of rule is expected here, found %s", map[RuleKind]string{"": "none", several: "several"}[kind])
			continue
		}
		path += "." + string(kind)
		failed := len(b.problems)
		for n, layer := range base.Layers {
			id := base.IDIn(layer)
			switch {
			case slices.Contains(base.Layers[:n], layer):
				b.fail(path+".layers", "name each layer once", "the layer %s is named twice", layer)
			case seen[id]:
				b.fail(path, "give each rule an id of its own", "there are two rules with the id %q", id)
			}
			if len(b.problems) > failed {
				break // what is wrong is told once
			}
			seen[id] = true
			f.Rules = append(f.Rules, b.ruleIn(layer, f, rule, path))
		}
	}
}

// ruleIn makes a rule ready as it is checked in one of its layers.
func (b *builder) ruleIn(layer Layer, f *PreparedField, rule *Rule, path string) *PreparedRule {
	kind, base := rule.part()
	id := base.IDIn(layer)
	r := &PreparedRule{ID: f.ID + "." + id, Name: id, Kind: kind, Field: f, Rule: rule, Layer: layer, Phase: PhaseFormat, Place: cmp.Or(base.Place, b.form.Rejected.Place), MessageOn: base.MessageOn, Rejection: base.Rejected}
	b.compile(r, path)
	r.Message = b.message(path+".message", r, base.Message)
	b.messagesWhen(path, r, base)
	r.At = f
	b.atField(r, path, base.AtField)
	if rule.Required != nil {
		r.Absent, r.Null = b.message(path+".absent", r, rule.Required.Absent), b.message(path+".null", r, rule.Required.Null)
	}
	if r.Layer == InBrowser {
		r.Phase, r.MessageOn = PhaseBrowser, cmp.Or(r.MessageOn, b.form.Rejected.MessageOn)
	}
	return r
}

func (b *builder) reference(path, id string) *PreparedField {
	if f := b.p.byID[id]; f != nil {
		return f
	}
	ids := make([]string, len(b.p.Fields))
	for i, f := range b.p.Fields {
		ids[i] = f.ID
	}
	b.fail(path, "the fields' ids are: "+strings.Join(ids, ", "), "there is no field %q", id)
	return nil
}

func (b *builder) expressions() {
	options := make([]cel.EnvOption, 0, len(b.p.Fields))
	for _, f := range b.p.Fields {
		kind := cel.StringType
		switch f.Kind {
		case Number:
			kind = cel.DynType
		case Checkbox:
			kind = cel.BoolType
		case MultipleChoice:
			kind = cel.ListType(cel.StringType)
		}
		options = append(options, cel.Variable(f.ID, kind))
	}
	env, err := cel.NewEnv(append(options, expression.Functions()...)...)
	if err != nil {
		b.fail("fields", "", "the fields' ids cannot be used in expressions: %s", err)
		return
	}
	b.p.env = env
	for i, f := range b.p.Fields {
		if f.When != "" {
			f.when = b.expression(fmt.Sprintf("fields[%d].when", i), f.When, true)
			f.WhenNames = b.p.Named(f.When)
		}
		for k, r := range f.Rules {
			_, base := r.Rule.part()
			path := fmt.Sprintf("fields[%d].rules[%d].%s", i, k, r.Kind)
			if base.When != "" {
				r.when = b.expression(path+".when", base.When, true)
			}
			b.conditions(path, r, base)
		}
	}
	b.acrossRules()
	b.replies()
	b.storedRows()
}

// expression reads one; truth asks for one that is true or false. nil, and a problem, for one that cannot be used.
func (b *builder) expression(path, text string, truth bool) *expression.Expression {
	checked, issues := b.p.env.Compile(text)
	if issues.Err() != nil {
		first := issues.Errors()[0]
		b.fail(path, "expressions are CEL over the fields' ids", "the expression cannot be read at character %d: %s", first.Location.Column()+1, first.Message)
		return nil
	}
	if truth && strings.Contains(text, "today(") {
		b.fail(path, "write a range: rule with today, or compare two fields", "today() is for what is stored, not for conditions")
		return nil
	}
	if why := expression.TooCostly(text, checked); why != "" {
		b.fail(path, "compare fields and values directly, or each element of one list", "%s", why)
		return nil
	}
	if truth && !checked.OutputType().IsEquivalentType(cel.BoolType) && !checked.OutputType().IsEquivalentType(cel.DynType) {
		b.fail(path, "compare something, such as plots <= 2", "the expression gives a %s, not a truth value", checked.OutputType())
		return nil
	}
	e, err := expression.New(b.p.env, checked, text)
	if err != nil {
		b.fail(path, "", "the expression cannot be computed: %s", err)
	}
	return e
}

// atField gives a rule's message another field to stand at, where one is named.
func (b *builder) atField(r *PreparedRule, path, id string) {
	switch {
	case id == "":
	case r.Place != AtField:
		b.fail(path+".at_field", "leave it out, or write place: field", "the message is shown in %s, not at a field", r.Place)
	default:
		r.At = b.reference(path+".at_field", id)
	}
}

// messagesWhen makes the messages ready that a rule says under a condition; their conditions are read once all fields are known.
func (b *builder) messagesWhen(path string, r *PreparedRule, base *Base) {
	for i, m := range base.Messages {
		at := fmt.Sprintf("%s.messages[%d]", path, i)
		if m.Message == nil || m.When == "" {
			b.fail(at, "write when: and message:", "a message under a condition needs both")
		}
		r.Messages = append(r.Messages, PreparedMessage{Message: b.message(at+".message", r, m.Message), When: m.When})
	}
}

func (b *builder) conditions(path string, r *PreparedRule, base *Base) {
	for i := range r.Messages {
		r.Messages[i].when = b.expression(fmt.Sprintf("%s.messages[%d].when", path, i), base.Messages[i].When, true)
	}
}

// acrossRules are the rules across fields.
func (b *builder) acrossRules() {
	for i := range b.form.Across {
		a := &b.form.Across[i]
		path := fmt.Sprintf("across[%d].must_hold", i)
		r := &PreparedRule{ID: "across." + a.ID, Name: a.ID, Kind: RuleAcross, Phase: PhaseAcross, Layer: OnServer, Place: a.Place, Rejection: a.Rejected, Expression: a.MustHold}
		if r.Place == "" {
			r.Place = b.form.Rejected.Place
		}
		r.Message = b.message(fmt.Sprintf("across[%d].message", i), r, a.Message)
		b.messagesWhen(fmt.Sprintf("across[%d]", i), r, &a.Base)
		b.conditions(fmt.Sprintf("across[%d]", i), r, &a.Base)
		b.atField(r, fmt.Sprintf("across[%d]", i), a.AtField)
		r.Names = b.p.Named(a.MustHold)
		r.program = b.expression(path, a.MustHold, true)
		if a.When != "" {
			r.when = b.expression(fmt.Sprintf("across[%d].when", i), a.When, true)
		}
		b.p.Across = append(b.p.Across, r)
	}
}

// count is how many are true.
func count(list ...bool) (n int) {
	for _, is := range list {
		if is {
			n++
		}
	}
	return n
}

// replies are those of an accepted submission, and what is shown of it.
func (b *builder) replies() {
	for i, reply := range b.form.Accepted.Reply {
		path := fmt.Sprintf("accepted.reply[%d]", i)
		out := PreparedReply{Reply: &b.form.Accepted.Reply[i]}
		out.Text = cmp.Or(out.In(""), out.Words()[0], reply.Pattern)
		if reply.When != "" {
			out.program = b.expression(path+".when", reply.When, true)
			out.Names = b.p.Named(reply.When)
		}
		if kinds := count(reply.Text != "", reply.Otherwise != "", len(reply.Texts) > 0, reply.Pattern != ""); kinds != 1 {
			b.fail(path, "write one of text:, otherwise:, texts: and pattern:", "the reply has %d texts", kinds)
		}
		for _, text := range out.Words() {
			b.outcome(path, text)
		}
		b.p.Replies = append(b.p.Replies, out)
	}
	for i, s := range b.form.Accepted.Shown {
		for _, text := range slices.Concat([]string{s.Text}, slices.Collect(maps.Values(s.Texts))) {
			b.outcome(fmt.Sprintf("accepted.shown[%d].text", i), text)
		}
		page := fmt.Sprintf("accepted.shown[%d].page", i)
		b.outcome(page, s.Page)
		if slices.Contains(template.Names(s.Page), template.Any) {
			b.fail(page, "write {key}, a column of the row written, or the id of a field", "the page is opened, so that no part of it may be any text")
		}
	}
	b.outcome("accepted.to", b.form.Accepted.To)
	b.mails()
	b.cookies()
}

// cookies checks those of which something is promised.
func (b *builder) cookies() {
	if b.form.Accepted.Session == nil {
		return
	}
	for _, c := range b.form.Accepted.Session.All() {
		path := "accepted.session.cookies." + c.Name
		if c.When != "" {
			b.p.programs[c.When] = b.expression(path+".when", c.When, true)
		}
		if d, err := time.ParseDuration(c.Lasts); c.Lasts != "" && c.Lasts != SessionCookie && c.Lasts != CookieNotSet && (err != nil || d <= 0) {
			b.fail(path+".lasts", "write a time such as 720h, session, or not_set", "%q is not such a time", c.Lasts)
		}
	}
}

// mails checks those that an accepted submission sends.
func (b *builder) mails() {
	for i, m := range b.form.Accepted.Mails {
		path := fmt.Sprintf("accepted.mails[%d]", i)
		if m.When != "" {
			b.p.programs[m.When] = b.expression(path+".when", m.When, true)
		}
		if m.To == "" {
			b.fail(path+".to", "write an address, or the id of a field in braces", "to whom the mail is sent is not said")
		}
		if d, err := time.ParseDuration(m.Within); m.Within != "" && (err != nil || d <= 0 || d > time.Minute) {
			b.fail(path+".within", "write a time such as 30s, of at most a minute", "%q is not such a time", m.Within)
		}
		for _, text := range slices.Concat([]string{m.To, m.Link}, m.Subject.all(), m.Text.all()) {
			b.outcome(path, text)
		}
	}
}

// storedRows checks the rows that an accepted submission writes.
func (b *builder) storedRows() {
	for i, s := range b.form.Stored {
		switch {
		case s.Table() == "":
			b.fail(fmt.Sprintf("stored[%d]", i), "write insert: or update: and the table's name", "no table is named")
		case s.Insert != "" && s.Update != "":
			b.fail(fmt.Sprintf("stored[%d]", i), "give each its own entry", "a row is either inserted or updated")
		case s.Each != "":
			b.eachOf(fmt.Sprintf("stored[%d].each", i), &s)
		}
		for _, column := range slices.Sorted(maps.Keys(s.Where)) {
			for _, name := range template.Names(s.Where[column]) {
				if name != RowSignedIn {
					b.reference(fmt.Sprintf("stored[%d].where.%s", i, column), name)
				}
			}
		}
		if s.When != "" {
			b.p.programs[s.When] = b.expression(fmt.Sprintf("stored[%d].when", i), s.When, true)
		}
		for column, src := range s.Columns {
			path := fmt.Sprintf("stored[%d].columns.%s", i, column)
			for _, id := range []string{src.From, src.Secret} {
				if id != "" {
					b.reference(path, id)
				}
			}
			if src.Cel != "" {
				b.p.programs[src.Cel] = b.expression(path+".cel", src.Cel, false)
			}
			if _, err := src.Now.tolerance(); err != nil {
				b.fail(path+".now", "write now: {within: 5s}", "%s", err)
			}
		}
	}
}

// eachOf checks what a row is inserted for each of.
func (b *builder) eachOf(path string, s *Stored) {
	b.reference(path, s.Each)
	if f := b.p.Field(s.Each); f != nil && f.Kind != MultipleChoice {
		b.fail(path, "name a field of the kind multiple_choice", "of the field %s no several values are chosen", s.Each)
	}
	if s.Insert == "" {
		b.fail(path, "write insert: and the table's name", "a row for each choice is inserted, not updated")
	}
}

// rowsBefore checks what is said of rows that must exist.
func (b *builder) rowsBefore() {
	if b.form.Before == nil {
		return
	}
	for i, row := range b.form.Before.Rows {
		path := fmt.Sprintf("before.rows[%d]", i)
		if row.Table == "" || len(row.Columns) == 0 {
			b.fail(path, "write table: and columns: with a value by which the row is known", "which row must exist is not said")
		}
		if row.By != nil && (row.By.Page == "" || len(row.By.Fields) == 0) {
			b.fail(path+".by", "write page: and fields: with values by their names in the request", "what is to be filled in is not said")
		}
	}
}

// lock checks what is said of a lock.
func (b *builder) lock() {
	session := b.p.Form.Accepted.Session
	if session == nil || session.Lock == nil {
		return
	}
	l := session.Lock
	if l.After < 1 {
		b.fail("accepted.session.lock.after", "write how many wrong passwords lock the account, such as 5", "%d locks no account", l.After)
	}
	if l.Released != "" && l.Lasts() <= 0 {
		b.fail("accepted.session.lock.released", "write a time such as 30s or 15m", "%q is not a time", l.Released)
	}
}

// Named are the fields that expressions name.
func (p *Prepared) Named(expressions ...string) []*PreparedField {
	var names []string
	for _, e := range expressions {
		names = append(names, expression.NamesIn(e)...)
	}
	var out []*PreparedField
	for _, f := range p.Fields {
		if slices.Contains(names, f.ID) {
			out = append(out, f)
		}
	}
	return out
}

// outcome checks the places of a text about what was accepted: ids of fields, {any}, and the key of the row written or one of its columns.
func (b *builder) outcome(path, text string) {
	for _, name := range template.Names(text) {
		table, _, isColumn := strings.Cut(name, ".")
		switch {
		case b.p.byID[name] != nil || name == template.Any:
		case !isColumn && name != PlaceKey:
			b.reference(path, name)
		case !slices.ContainsFunc(b.form.Stored, func(s Stored) bool { return s.Insert != "" && (!isColumn || s.Insert == table) }):
			b.fail(path, "name a table under stored: insert, as in {beds.number}; {any} is any text", "no row is written that {%s} could stand for", name)
		}
	}
}
