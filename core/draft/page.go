package draft

import (
	"cmp"
	"strings"

	"oddtick/core/address"
	"oddtick/core/prose"
	"oddtick/core/wording/phrases"

	"oddtick/core/observation"
	"oddtick/core/spec"
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
	d.Say("submit", submit, part(from, phrases.ItsForm))
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
	if len(tokens) > 0 {
		var value any = tokens
		if len(tokens) == 1 {
			value = tokens[0]
		}
		d.Say("token", value, part(from, phrases.HiddenControl))
	}
	return d
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

var kindsByRole = map[string]spec.Kind{"switch": spec.Checkbox, "checkbox": spec.Checkbox, "combobox": spec.SingleChoice, "listbox": spec.SingleChoice, "radiogroup": spec.SingleChoice, "slider": spec.Number, "spinbutton": spec.Number}

func fieldFromPage(c *observation.FieldOnPage, unchecked bool, from prose.Text) Field {
	f := Field{Name: c.Name, Notes: notesOf(c.Notes)}
	kind := kindsByType[c.Type]
	switch {
	case c.Type == "role":
		kind = kindsByRole[c.Role]
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
		f.Rules = append(f.Rules, browserRules(c, kind, from)...)
	}
	if (c.Required || c.Marked) && !again(&spec.Field{Name: c.Name, Label: c.Label}) { // a repetition agrees or does not
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
	if kind == spec.Email {
		f.Rule(spec.Rule{Email: &spec.EmailRule{}}, 0.7, part(from, phrases.ItsType, "type", "email"))
	}
	if kind == spec.URL {
		f.Rule(spec.Rule{URL: &spec.URLRule{}}, 0.7, part(from, phrases.ItsType, "type", "url"))
	}
	return f
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

// browserRules are the constraints that the browser checks (HTML Standard, 4.10.21).
func browserRules(c *observation.FieldOnPage, kind spec.Kind, from prose.Text) []Rule {
	base := spec.Base{Layers: []spec.Layer{spec.InBrowser}}
	var out []Rule
	add := func(r spec.Rule, attribute phrases.Phrase, places ...any) {
		out = append(out, Rule{r, part(from, attribute, places...), 1})
	}
	if c.Required {
		if kind == spec.Checkbox {
			add(spec.Rule{MustBeChecked: &spec.MustBeChecked{Base: base}}, phrases.RequiredAttribute)
		} else {
			add(spec.Rule{Required: &spec.Required{Base: base}}, phrases.RequiredAttribute)
		}
	}
	if c.MinLength != nil || c.MaxLength != nil {
		l := &spec.Length{Base: base, In: "utf-16_units", Max: c.MaxLength}
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
