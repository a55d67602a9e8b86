package draft

import (
	"cmp"
	"slices"
	"strings"

	"oddtick/core/address"
	"oddtick/core/prose"
	"oddtick/core/wording/phrases"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// FromPage is what a form on a page says; where is the page's address.
func FromPage(f *observation.FormOnPage, where string) *Draft {
	from := phrases.FromPage.With("page", address.From(where, where))
	d := &Draft{From: from, Notes: notesOf(f.Notes)}
	if f.Title != "" {
		d.Say("title", f.Title, from)
	}
	d.Say("page", address.From(where, where), from)
	submit := spec.Submit{Method: f.Method, To: address.From(where, f.Action)}
	if f.Encoding == "multipart" || f.Encoding == "urlencoded" {
		submit.Encoding = f.Encoding
	}
	// where scripts send the form, its own target says nothing
	if !f.ByScript && !slices.ContainsFunc(f.Fields, func(c observation.FieldOnPage) bool { return c.Guessed }) {
		d.Say("submit", submit, part(from, phrases.ItsForm))
	}
	var tokens []string
	for i := range f.Fields {
		c := &f.Fields[i]
		switch {
		case c.Token:
			tokens = append(tokens, c.Name)
		case c.Name == "":
			d.Notes = append(d.Notes, phrases.NoteOfControl.With("control", cmp.Or(c.Label, phrases.AControl.Template()), "notes", strings.Join(c.Notes, " ")))
		case c.Disabled:
			d.Notes = append(d.Notes, phrases.DisabledControl.With("control", cmp.Or(c.Label, c.Name)))
		default:
			d.Fields = append(d.Fields, fieldFromPage(c, f.Unchecked, from))
		}
	}
	repetitions(d.Fields, from)
	if len(tokens) > 0 {
		var value any = tokens
		if len(tokens) == 1 {
			value = tokens[0]
		}
		d.Say("token", value, part(from, phrases.HiddenControl))
	}
	return d
}

// Recognise gives controls whose names were guessed those of the form's fields that have their labels.
func Recognise(f *observation.FormOnPage, form *spec.Form) {
	for i := range f.Fields {
		c := &f.Fields[i]
		for k := range form.Fields {
			if known := &form.Fields[k]; c.Guessed && c.Label != "" && known.Label == c.Label {
				c.Name, c.Guessed, f.ByScript = known.Name, false, true
			}
		}
	}
}

// part names a part of a source.
func part(source prose.Text, of phrases.Phrase, places ...any) prose.Text {
	return phrases.PartOf.With("source", source, "part", of.With(places...))
}

func notesOf(list []string) []prose.Text {
	out := make([]prose.Text, len(list))
	for i, note := range list {
		out[i] = prose.Text(note)
	}
	return out
}

// Labels is what a form on a page in another language says of the labels of fields that are known.
func Labels(f *observation.FormOnPage, where, language string) *Draft {
	from := phrases.FromPageIn.With("page", address.From(where, where), "language", language)
	d := &Draft{From: from}
	for i := range f.Fields {
		if c := &f.Fields[i]; c.Name != "" && c.Label != "" && !c.Token && !c.Honeypot {
			field := Field{Name: c.Name, Known: true}
			field.Say("labels."+language, c.Label, part(from, phrases.ItsLabel, "where", c.LabelFrom))
			d.Fields = append(d.Fields, field)
		}
	}
	return d
}

var kindsByType = map[string]spec.Kind{
	"text": spec.Text, "search": spec.Text, "color": spec.Text, "month": spec.Text, "week": spec.Text, "tel": spec.Tel, "url": spec.URL, "email": spec.Email, "password": spec.Password,
	"number": spec.Number, "range": spec.Number, "date": spec.Date, "time": spec.Time, "datetime-local": spec.DateTime, "radio": spec.SingleChoice, "select": spec.SingleChoice,
	"checkboxes": spec.MultipleChoice, "checkbox": spec.Checkbox, "file": spec.Upload, "textarea": spec.Textarea, "hidden": spec.Hidden,
}

var kindsByRole = map[string]spec.Kind{"switch": spec.Checkbox, "checkbox": spec.Checkbox, "combobox": spec.SingleChoice, "listbox": spec.SingleChoice, "radiogroup": spec.SingleChoice, "slider": spec.Number, "spinbutton": spec.Number, "group": spec.MultipleChoice, "toolbar": spec.MultipleChoice, "calendar": spec.Date}

func fieldFromPage(c *observation.FieldOnPage, unchecked bool, from prose.Text) Field {
	f := Field{Name: c.Name, Notes: notesOf(c.Notes)}
	kind := kindsByType[c.Type]
	switch {
	case c.Type == "role":
		kind = kindsByRole[c.Role]
		if kind == spec.SingleChoice && c.Multiple || kind == spec.MultipleChoice && !c.Multiple {
			kind = map[bool]spec.Kind{true: spec.MultipleChoice, false: spec.SingleChoice}[c.Multiple]
		}
	case c.Honeypot:
		kind = spec.Honeypot
	case c.ReadOnly:
		kind = spec.Readonly
	case c.Type == "select" && c.Multiple:
		kind = spec.MultipleChoice
	}
	if kind == "" {
		kind = spec.Text
	}
	if c.Guessed {
		f.Notes = append(f.Notes, phrases.GuessedName.With("name", c.Name))
	}
	if c.Label != "" {
		f.Say("label", c.Label, part(from, phrases.ItsLabel, "where", c.LabelFrom))
	}
	if kind != spec.Text {
		f.Say("kind", string(kind), part(from, phrases.ItsType, "type", cmp.Or(c.Role, c.Type)))
	}
	if kind == spec.Checkbox && c.Value != "" && c.Value != "on" && c.Type == "checkbox" {
		f.Say("value", c.Value, part(from, phrases.ItsValue))
	}
	if options := optionsOf(c); len(options) > 0 {
		f.Say("options", options, part(from, phrases.ItsOptions))
	}
	if initial := initialOf(c, kind); initial != "" {
		f.Say("initial", initial, part(from, phrases.ItsValue))
	}
	if kind == spec.Checkbox && c.Checked {
		f.Say("initial", "true", part(from, phrases.CheckedFirst))
	}
	switch kind {
	case spec.Hidden, spec.Readonly, spec.Honeypot:
		return f
	}
	if !unchecked {
		f.Rules = append(f.Rules, constraints(c, kind, from, spec.InBrowser)...)
	}
	if (c.Required || c.Marked) && !again(&spec.Field{Name: c.Name, Label: c.Label, Kind: kind}) { // a repetition agrees or does not
		why := part(from, phrases.RequiredAttribute)
		if !c.Required {
			why = part(from, phrases.MarkedAsRequired)
		}
		if kind == spec.Checkbox {
			f.Rule(spec.Rule{MustBeChecked: &spec.MustBeChecked{}}, 0.7, why)
		} else {
			f.Rule(spec.Rule{Required: &spec.Required{}}, 0.7, why)
		}
	}
	// what a browser checks is easily passed by, so a page that asks for it asks it of its server
	for _, r := range constraints(c, kind, from, spec.OnServer) {
		if k := r.Rule.Kind(); k != spec.RuleRequired && k != spec.RuleMustBeChecked && k != spec.RuleFile {
			r.Sure, r.Inferred = 0.7, true
			f.Rules = append(f.Rules, r)
		}
	}
	return f
}

// unitsDiffer tells whether a control takes characters that are two UTF-16 units, which a browser counts and few servers do.
func unitsDiffer(c *observation.FieldOnPage, kind spec.Kind) bool {
	if kind == spec.Email || kind == spec.URL {
		return false
	}
	pattern, err := values.Pattern(c.Pattern, values.DialectV)
	if c.Pattern == "" || err != nil {
		return true
	}
	wide, err := values.Pattern(`.*[\u{10000}-\u{10FFFF}].*`, values.DialectV)
	if err != nil {
		return true
	}
	both, err := pattern.And(wide)
	return err != nil || !both.Empty()
}

// repetitions says of fields that repeat the one before them that they must be the same.
func repetitions(fields []Field, from prose.Text) {
	form := &spec.Form{Fields: make([]spec.Field, 0, len(fields))}
	for i := range fields {
		f := spec.Field{ID: spec.Identifier(fields[i].Name), Name: fields[i].Name, Kind: kindSaid(&fields[i])}
		for _, s := range fields[i].Statements {
			if text, ok := s.Value.(string); ok && s.Path == "label" {
				f.Label = text
			}
		}
		form.Fields = append(form.Fields, f)
	}
	for i := range form.Fields {
		if of := RepeatOf(form, i); of >= 0 && again(&form.Fields[i]) && namesOther(&form.Fields[i], &form.Fields[of]) {
			fields[i].Rules = append(fields[i].Rules, Rule{
				Rule: spec.Rule{SameAs: &spec.SameAs{Field: form.Fields[of].ID}}, From: part(from, phrases.NamedLike, "label", cmp.Or(form.Fields[of].Label, form.Fields[of].Name)), Sure: 0.7, Inferred: true,
			})
		}
	}
}

// namesOther: a field's name or label holds the other's. Of secrets and addresses it need not: few forms ask for two.
func namesOther(f, other *spec.Field) bool {
	if f.Kind == spec.Password || f.Kind == spec.Email {
		return true
	}
	text := strings.ToLower(f.Name + " " + f.Label)
	return strings.Contains(text, strings.ToLower(other.Name)) || other.Label != "" && strings.Contains(text, strings.ToLower(other.Label))
}

// optionsOf are a choice's options but the one that chooses nothing.
func optionsOf(c *observation.FieldOnPage) []map[string]any {
	var out []map[string]any
	for _, o := range c.Options {
		if o.Value == "" || o.Disabled {
			continue
		}
		one := map[string]any{"value": o.Value}
		if o.Label != "" && o.Label != o.Value {
			one["label"] = o.Label
		}
		out = append(out, one)
	}
	return out
}

func initialOf(c *observation.FieldOnPage, kind spec.Kind) string {
	switch kind {
	case spec.Checkbox, spec.Hidden, spec.Honeypot, spec.Upload, spec.MultipleChoice, spec.Password:
		return ""
	case spec.SingleChoice:
		for _, o := range c.Options {
			if o.Selected && o.Value != "" {
				return o.Value
			}
		}
		return ""
	}
	return c.Value
}

// constraints are those of a control (HTML Standard, 4.10.21), as rules of a layer.
func constraints(c *observation.FieldOnPage, kind spec.Kind, from prose.Text, layer spec.Layer) []Rule {
	var base spec.Base
	if layer != spec.OnServer {
		base.Layers = []spec.Layer{layer}
	}
	var out []Rule
	add := func(r spec.Rule, attribute phrases.Phrase, places ...any) {
		out = append(out, Rule{Rule: r, From: part(from, attribute, places...), Sure: 1})
	}
	if c.Required {
		if kind == spec.Checkbox {
			add(spec.Rule{MustBeChecked: &spec.MustBeChecked{Base: base}}, phrases.RequiredAttribute)
		} else {
			add(spec.Rule{Required: &spec.Required{Base: base}}, phrases.RequiredAttribute)
		}
	}
	if c.MinLength != nil || c.MaxLength != nil {
		l := &spec.Length{Base: base, Max: c.MaxLength}
		if layer == spec.InBrowser && unitsDiffer(c, kind) {
			l.In = string(values.UTF16)
		}
		if c.MinLength != nil {
			l.Min = *c.MinLength
		}
		if l.Min > 0 || l.Max != nil {
			add(spec.Rule{Length: l}, phrases.LengthAttributes)
		}
	}
	if c.Pattern != "" {
		add(spec.Rule{Pattern: &spec.Pattern{Base: base, Is: c.Pattern}}, phrases.PatternAttribute)
	}
	if kind == spec.Email && !c.Multiple {
		add(spec.Rule{Email: &spec.EmailRule{Base: base}}, phrases.ItsType, "type", "email")
	}
	if kind == spec.URL {
		add(spec.Rule{URL: &spec.URLRule{Base: base}}, phrases.ItsType, "type", "url")
	}
	if c.Min != "" || c.Max != "" {
		add(spec.Rule{Range: &spec.RangeRule{Base: base, Min: spec.Scalar(c.Min), Max: spec.Scalar(c.Max)}}, phrases.MinAndMax)
	}
	if kind == spec.Number && c.Step != "any" && c.Type != "role" {
		s := &spec.Step{Base: base, By: spec.Scalar(cmp.Or(c.Step, "1"))}
		if c.Min != "" {
			s.From = spec.Scalar(c.Min)
		}
		add(spec.Rule{Step: s}, phrases.StepAttribute)
	}
	if c.Accept != "" {
		types := strings.Split(c.Accept, ",")
		for i := range types {
			types[i] = strings.TrimSpace(types[i])
		}
		add(spec.Rule{File: &spec.FileRule{Base: base, Types: types}}, phrases.AcceptAttribute)
	}
	return out
}
