package draft

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/document"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// Proposal is one change of a form that a draft asks for. Those that are new and fairly certain are chosen beforehand; what would
// overwrite something never is.
type Proposal struct {
	// About is the field's label, the column, or the form.
	About string `json:"about"`
	// Words say what is proposed; Was what stands there now, "" for nothing.
	Words prose.Text `json:"words"`
	Was   prose.Text `json:"was,omitempty"`
	From  prose.Text `json:"from"`
	Sure  float64    `json:"sure"`
	// Differs: something else stands there. Chosen: taken unless the tester says otherwise.
	Differs bool            `json:"differs"`
	Chosen  bool            `json:"chosen"`
	Edits   []document.Edit `json:"edits"`

	certain bool
}

// fairlySure is from where on what is new is chosen beforehand.
const fairlySure = 0.5

// Propose compares a draft with a form. Proposals can be made each for itself and in any choice, in their order.
func Propose(form *spec.Form, d *Draft) []Proposal {
	p := &proposer{form: form, now: asMap(form), met: map[string]int{}}
	for _, s := range d.Form {
		p.statement(phrases.TheForm.Template(), "", s)
	}
	after := -1
	for i := range d.Fields {
		after = p.field(&d.Fields[i], after)
	}
	for i := range d.Columns {
		p.column(&d.Columns[i])
	}
	for i := range p.out {
		p.out[i].Chosen = p.out[i].certain || !p.out[i].Differs && p.out[i].Sure >= fairlySure
	}
	return p.out
}

type proposer struct {
	form  *spec.Form
	now   any // the form as JSON
	out   []Proposal
	added int
	// met are how many fields of a request name the draft has had, and ids those of its new fields.
	met map[string]int
	ids []string
}

func asMap(v any) any {
	var out any
	if b, err := json.Marshal(v); err == nil {
		_ = json.Unmarshal(b, &out) // it was written just now
	}
	return out
}

func encode(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(fmt.Sprintf("draft: a value cannot be written: %v", err)) // drafts hold plain data
	}
	return bytes.ReplaceAll(b, []byte(`"blank":"null"`), []byte(`"blank":null`))
}

// at finds what stands at a path of keys.
func at(v any, path string) any {
	for _, key := range strings.Split(path, ".") {
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		v = m[key]
	}
	return v
}

// words shows a value as a person would write it.
func words(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return v
	case []any:
		parts := make([]string, len(v))
		for i, one := range v {
			parts[i] = words(one)
		}
		return strings.Join(parts, ", ")
	case map[string]any:
		if label, ok := v["label"]; ok && v["value"] != nil {
			return fmt.Sprintf("%v = %v", label, v["value"])
		}
		if value, ok := v["value"]; ok && len(v) == 1 {
			return words(value)
		}
		keys := make([]string, 0, len(v))
		for k := range v {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		for i, k := range keys {
			keys[i] = strings.TrimSpace(k + " " + words(v[k]))
		}
		return strings.Join(keys, ", ")
	}
	return fmt.Sprint(v)
}

// statement proposes a key's value, where it is not there already.
func (p *proposer) statement(about, prefix string, s Statement) {
	was := p.now
	if prefix != "" {
		was = p.fieldNow(prefix)
	}
	old, value := at(was, s.Path), asMap(s.Value)
	if sameValue(old, value) || s.Path == "options" && at(was, "options_from") != nil {
		return
	}
	if parts, ok := value.(map[string]any); ok && old != nil {
		for _, key := range keysOf(parts) {
			p.statement(about, prefix, Statement{s.Path + "." + key, parts[key], s.From, s.Certain})
		}
		return
	}
	path := s.Path
	if prefix != "" {
		path = "fields[" + prefix + "]." + path
	}
	p.out = append(p.out, Proposal{
		About: about, Words: phrases.KeyBecomes.With("key", s.Path, "value", words(value)), Was: prose.Text(words(old)), From: s.From, Sure: 1, Differs: old != nil && !implied(s.Path, old, was),
		Edits: []document.Edit{{Do: document.Set, Path: path, Value: encode(s.Value)}}, certain: s.Certain,
	})
}

// sameValue compares what a document may write in two ways: one text for a list of one, or for a reply without a condition.
func sameValue(a, b any) bool {
	plain := func(v any) any {
		if n, ok := v.(float64); ok { // a page writes it as a text
			return strconv.FormatFloat(n, 'f', -1, 64)
		}
		list, ok := v.([]any)
		if !ok || len(list) != 1 {
			return v
		}
		if m, ok := list[0].(map[string]any); ok && len(m) == 1 && m["otherwise"] != nil {
			return m["otherwise"]
		}
		if _, text := list[0].(string); text {
			return list[0]
		}
		return v
	}
	return reflect.DeepEqual(plain(a), plain(b))
}

// implied: what stands there was not written, it is what a reader makes of nothing.
func implied(path string, old, within any) bool {
	switch path {
	case "label":
		return old == at(within, "name")
	case "title":
		return old == at(within, "form")
	case "kind":
		return old == string(spec.Text)
	}
	return false
}

func (p *proposer) fieldNow(id string) any {
	fields, _ := at(p.now, "fields").([]any)
	for _, f := range fields {
		if at(f, "id") == id {
			return f
		}
	}
	return nil
}

// find is the field that a draft's field is, -1 for none. Of several of one request name the first is the first, and so on.
func (p *proposer) find(f *Field) int {
	before := 0
	if f.Name != "" && !f.Known {
		before = p.met[f.Name]
		p.met[f.Name]++
	}
	return slices.IndexFunc(p.form.Fields, func(known spec.Field) bool {
		if f.Name == "" {
			return known.ID == f.ID
		}
		if known.Name != f.Name {
			return false
		}
		before--
		return before < 0
	})
}

// field proposes a new field as a whole, or what is new about one that is there. It returns the place of the field in the form.
func (p *proposer) field(f *Field, after int) int {
	i := p.find(f)
	if i < 0 {
		if f.Known {
			return after
		}
		p.newField(f, after)
		return after
	}
	known := &p.form.Fields[i]
	for _, s := range f.Statements {
		p.statement(known.Label, known.ID, s)
	}
	for _, r := range f.Rules {
		p.rule(known, r)
	}
	return i
}

func (p *proposer) newField(f *Field, after int) {
	id := f.ID
	if id == "" {
		id = spec.Identifier(f.Name)
	}
	for n := 2; slices.Contains(p.ids, id) || slices.ContainsFunc(p.form.Fields, func(known spec.Field) bool { return known.ID == id }); n++ {
		id = fmt.Sprintf("%s_%d", strings.TrimRight(id, "_0123456789"), n)
	}
	p.ids = append(p.ids, id)
	var b strings.Builder
	fmt.Fprintf(&b, `{"id":%s,"name":%s`, encode(id), encode(f.Name))
	label := f.Name
	sayings := []prose.Text{}
	for _, s := range f.Statements {
		fmt.Fprintf(&b, `,%s:%s`, encode(s.Path), encode(s.Value))
		if s.Path == "label" {
			label, _ = s.Value.(string)
			continue
		}
		if s.Path == "kind" {
			sayings = append(sayings, promise.Kind(kindSaid(f)))
			continue
		}
		sayings = append(sayings, prose.Text(words(asMap(s.Value))))
	}
	if len(sayings) == 0 {
		sayings = append(sayings, promise.Kind(kindSaid(f)))
	}
	rules := make([]json.RawMessage, 0, len(f.Rules))
	var promised []spec.Rule
	for _, r := range layered(f.Rules) {
		if r.Sure >= fairlySure {
			rules = append(rules, document.Rule(&r.Rule))
			promised = append(promised, r.Rule)
		}
	}
	if len(promised) > 0 {
		sayings = append(sayings, p.ruleWords(spec.Field{ID: id, Name: f.Name, Kind: kindSaid(f)}, promised...))
	}
	if len(rules) > 0 {
		fmt.Fprintf(&b, `,"rules":%s`, encode(rules))
	}
	b.WriteByte('}')
	from := prose.Text("")
	if len(f.Statements) > 0 {
		from = f.Statements[0].From
	}
	place := -1
	if after+1 < len(p.form.Fields) {
		place = after + 1 + p.added
		p.added++
	}
	p.out = append(p.out, Proposal{About: label, Words: phrases.NewFieldWith.With("what", prose.Join(sayings, "; ")), From: from, Sure: 1, Edits: []document.Edit{{Do: document.Insert, Path: "fields", Value: json.RawMessage(b.String()), At: place}}})
}

// layered makes one rule of two that say the same of two layers.
func layered(list []Rule) []Rule {
	says := func(r *Rule) any {
		all, _ := at(written(&r.Rule), string(r.Rule.Kind())).(map[string]any)
		delete(all, "layers")
		return all
	}
	var out []Rule
	for _, r := range list {
		at := slices.IndexFunc(out, func(o Rule) bool {
			return o.Sure >= fairlySure && r.Sure >= fairlySure && o.Rule.Kind() == r.Rule.Kind() && !slices.Contains(o.Rule.Layers(), r.Rule.Layers()[0]) && reflect.DeepEqual(says(&o), says(&r))
		})
		if at < 0 {
			out = append(out, r)
			continue
		}
		out[at].Rule = out[at].Rule.In(append(slices.Clone(out[at].Rule.Layers()), r.Rule.Layers()...)...)
	}
	return out
}

// written is a rule as documents write it.
func written(r *spec.Rule) any {
	var out any
	_ = json.Unmarshal(document.Rule(r), &out) // it was written just now
	return out
}

// kindSaid is the kind that a field is said to have.
func kindSaid(f *Field) spec.Kind {
	for _, s := range f.Statements {
		if kind, ok := s.Value.(string); ok && s.Path == "kind" {
			return spec.Kind(kind)
		}
	}
	return spec.Text
}

// ruleWords says what rules of a field promise, layer by layer; as they are written where they are not complete yet.
func (p *proposer) ruleWords(f spec.Field, rules ...spec.Rule) prose.Text {
	prepared, err := p.form.PrepareRules(f, rules)
	if err != nil {
		texts := make([]string, len(rules))
		for i := range rules {
			texts[i] = words(written(&rules[i]))
		}
		return prose.Text(strings.Join(texts, "; "))
	}
	return promise.ByLayer(prepared)
}

// rule proposes a rule that the field lacks in its layer, or what differs about it.
func (p *proposer) rule(f *spec.Field, r Rule) {
	kind, layer := r.Rule.Kind(), r.Rule.Layers()[0]
	path := "fields[" + f.ID + "].rules"
	for k := range f.Rules {
		known := &f.Rules[k]
		if id := r.Rule.ID(); known.Kind() != kind || !slices.Contains(known.Layers(), layer) || id != "" && known.ID() != id {
			continue
		}
		var edits []document.Edit
		differs := false
		now, _ := at(written(known), string(kind)).(map[string]any)
		wanted, _ := at(written(&r.Rule), string(kind)).(map[string]any)
		for _, key := range keysOf(wanted) {
			if key == "layers" || key == "id" || reflect.DeepEqual(now[key], wanted[key]) {
				continue
			}
			differs = differs || now[key] != nil
			edits = append(edits, document.Edit{Do: document.Set, Path: fmt.Sprintf("%s[%s].%s", path, known.ID(), key), Value: encode(wanted[key])})
		}
		if len(edits) == 0 || r.Inferred && !known.Implied {
			return
		}
		if known.Implied { // it is not written yet
			edits = []document.Edit{{Do: document.Insert, Path: path, Value: document.Rule(&r.Rule), At: -1}}
		}
		was := prose.Text("")
		if differs {
			was = p.ruleWords(*f, *known)
		}
		p.out = append(p.out, Proposal{About: f.Label, Words: p.ruleWords(*f, r.Rule), Was: was, From: r.From, Sure: r.Sure, Differs: differs, Edits: edits})
		return
	}
	p.out = append(p.out, Proposal{About: f.Label, Words: p.ruleWords(*f, r.Rule), From: r.From, Sure: r.Sure, Edits: []document.Edit{{Do: document.Insert, Path: path, Value: document.Rule(&r.Rule), At: -1}}})
}

func keysOf(m map[string]any) []string {
	out := make([]string, 0, len(m))
	for k := range m {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// column proposes where a value is stored.
func (p *proposer) column(c *Column) {
	i := slices.IndexFunc(p.form.Stored, func(s spec.Stored) bool { return s.Table() == c.Table })
	edit := document.Edit{Do: document.Set, Path: fmt.Sprintf("stored[%s].columns.%s", c.Table, c.Column), Value: encode(c.Source)}
	proposal := Proposal{About: c.Table + "." + c.Column, Words: prose.Text(words(asMap(c.Source))), From: c.From, Sure: c.Sure}
	if i >= 0 {
		old, known := p.form.Stored[i].Columns[c.Column]
		if known && old.From != "" && old.From == c.Source.From && old.Blank == "" && c.Source.Blank != "" {
			// the same field, and what is stored when it is blank
			edit.Path += ".blank"
			edit.Value = encode(c.Source.Blank)
			if c.Source.Blank == spec.BlankNull {
				edit.Value = json.RawMessage("null")
			}
			known = false
		}
		if known && (reflect.DeepEqual(asMap(old), asMap(c.Source)) || saysMore(old, c.Source)) {
			return
		}
		if known {
			proposal.Was, proposal.Differs = prose.Text(words(asMap(old))), true
		}
	}
	proposal.Edits = []document.Edit{edit}
	switch {
	case i >= 0:
	case c.Row != "":
		proposal.Edits = slices.Insert(proposal.Edits, 0, document.Edit{Do: document.Set, Path: fmt.Sprintf("stored[%s].row", c.Table), Value: encode(c.Row)})
	case len(c.Where) > 0:
		proposal.Edits = slices.Insert(proposal.Edits, 0, document.Edit{Do: document.Set, Path: fmt.Sprintf("stored[%s].where", c.Table), Value: encode(c.Where)})
	}
	p.out = append(p.out, proposal)
}

// saysMore: the document names the same source and more about it.
func saysMore(known, proposed spec.Source) bool {
	if proposed.From != "" {
		return known.From == proposed.From
	}
	return proposed.Secret != "" && known.Secret == proposed.Secret
}
