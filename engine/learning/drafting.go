package learning

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/universal"
	"oddtick/core/wording/phrases"
)

// write makes a draft of what was learned, and of the document with it.
func (s *session) write(text []byte, probes []draft.Probe, db *schema.Database, out *Found) error {
	text, err := ofKinds(text, out.Fields)
	if err != nil {
		return err
	}
	var onlyThere []draft.Field
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
			if edit.Do == document.Set && s.FromPage == nil {
				field := draft.Field{Name: r.Field.Name, Known: true}
				field.Say(fmt.Sprintf("rules[%s].layers", r.Name), []spec.Layer{spec.InBrowser}, phrases.NotOnServer.Text())
				onlyThere = append(onlyThere, field)
			}
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
	out.Notes = append(out.Notes, otherReplies(out.Draft, s.seen)...)
	out.Draft.From, out.Draft.Notes = phrases.FromLearning.Text(), out.Notes
	for _, one := range out.Fields {
		f := &form.Fields[slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == one.Field })]
		otherwise(out.Draft, one)
		add(out.Draft, drafted(f, one))
		if one.When != "" {
			s.storedUnder(out.Draft, one)
		}
	}
	for _, f := range onlyThere {
		add(out.Draft, f)
	}
	s.sayOrders(out.Draft)
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
	for _, r := range l.NotKept { // for the tester to choose, where that is wrong
		out.Rule(r.Rule, r.Sure, phrases.TookUnusual.With("label", f.Label, "value", shown(f, r.Proofs[0].Value)))
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
