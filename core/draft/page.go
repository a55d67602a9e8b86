package draft

import (
	"cmp"
	"fmt"
	"strings"

	"oddtick/core/address"

	"oddtick/core/observation"
	"oddtick/core/spec"
)

// FromPage is what a form on a page says; where is the page's address.
func FromPage(f *observation.FormOnPage, where string) *Draft {
	from := "the page " + address.From(where, where)
	d := &Draft{From: from, Notes: append([]string{}, f.Notes...)}
	if f.Title != "" {
		d.Say("title", f.Title, from)
	}
	d.Say("page", address.From(where, where), from)
	submit := spec.Submit{Method: f.Method, To: address.From(where, f.Action)}
	if f.Encoding == "multipart" || f.Encoding == "urlencoded" {
		submit.Encoding = f.Encoding
	}
	d.Say("submit", submit, from+", its form")
	var tokens []string
	for i := range f.Fields {
		c := &f.Fields[i]
		switch {
		case c.Token:
			tokens = append(tokens, c.Name)
		case c.Name == "":
			d.Notes = append(d.Notes, fmt.Sprintf("%s: %s", cmp.Or(c.Label, "A control"), strings.Join(c.Notes, " ")))
		case c.Disabled:
			d.Notes = append(d.Notes, fmt.Sprintf("%s is disabled and left out.", cmp.Or(c.Label, c.Name)))
		default:
			d.Fields = append(d.Fields, fieldFromPage(c, f.Unchecked, from))
		}
	}
	if len(tokens) > 0 {
		var value any = tokens
		if len(tokens) == 1 {
			value = tokens[0]
		}
		d.Say("token", value, from+", a hidden control")
	}
	return d
}

// Labels is what a form on a page in another language says of the labels of fields that are known.
func Labels(f *observation.FormOnPage, where, language string) *Draft {
	from := fmt.Sprintf("the page %s in %s", address.From(where, where), language)
	d := &Draft{From: from}
	for i := range f.Fields {
		if c := &f.Fields[i]; c.Name != "" && c.Label != "" && !c.Token && !c.Trap {
			field := Field{Name: c.Name, Known: true}
			field.Say("labels."+language, c.Label, from+", its "+c.LabelFrom)
			d.Fields = append(d.Fields, field)
		}
	}
	return d
}

var kindsByType = map[string]spec.Kind{
	"text": spec.Text, "search": spec.Text, "color": spec.Text, "month": spec.Text, "week": spec.Text, "tel": spec.Tel, "url": spec.URL, "email": spec.Email, "password": spec.Password,
	"number": spec.Number, "range": spec.Number, "date": spec.Date, "time": spec.Time, "datetime-local": spec.DateTime, "radio": spec.OneChoice, "select": spec.OneChoice,
	"checkboxes": spec.SeveralChoices, "checkbox": spec.Checkbox, "file": spec.Upload, "textarea": spec.MultiLine, "hidden": spec.Hidden,
}

var kindsByRole = map[string]spec.Kind{"switch": spec.Checkbox, "checkbox": spec.Checkbox, "combobox": spec.OneChoice, "listbox": spec.OneChoice, "radiogroup": spec.OneChoice, "slider": spec.Number, "spinbutton": spec.Number}

func fieldFromPage(c *observation.FieldOnPage, unchecked bool, from string) Field {
	f := Field{Name: c.Name, Notes: c.Notes}
	kind := kindsByType[c.Type]
	switch {
	case c.Type == "role":
		kind = kindsByRole[c.Role]
	case c.Trap:
		kind = spec.Trap
	case c.ReadOnly:
		kind = spec.ReadOnly
	case c.Type == "select" && c.Multiple:
		kind = spec.SeveralChoices
	}
	if kind == "" {
		kind = spec.Text
	}
	if c.Label != "" {
		f.Say("label", c.Label, from+", its "+c.LabelFrom)
	}
	if kind != spec.Text {
		f.Say("kind", string(kind), from+", type "+cmp.Or(c.Role, c.Type))
	}
	if kind == spec.Checkbox && c.Value != "" && c.Value != "on" && c.Type == "checkbox" {
		f.Say("value", c.Value, from+", its value")
	}
	if options := optionsOf(c); len(options) > 0 {
		f.Say("options", options, from+", its options")
	}
	if initial := initialOf(c, kind); initial != "" {
		f.Say("initial", initial, from+", its value")
	}
	if kind == spec.Checkbox && c.Checked {
		f.Say("initial", "true", from+", checked")
	}
	switch kind {
	case spec.Hidden, spec.ReadOnly, spec.Trap:
		return f
	}
	if !unchecked {
		f.Rules = append(f.Rules, browserRules(c, kind, from)...)
	}
	if (c.Required || c.Marked) && !again(&spec.Field{Name: c.Name, Label: c.Label}) { // a repetition agrees or does not
		why := from + ", attribute required"
		if !c.Required {
			why = from + ", marked as required"
		}
		if kind == spec.Checkbox {
			f.Rule(spec.Rule{Ticked: &spec.Ticked{}}, 0.7, why)
		} else {
			f.Rule(spec.Rule{Required: &spec.Required{}}, 0.7, why)
		}
	}
	if kind == spec.Email {
		f.Rule(spec.Rule{Email: &spec.EmailRule{}}, 0.7, from+", type email")
	}
	if kind == spec.URL {
		f.Rule(spec.Rule{URL: &spec.URLRule{}}, 0.7, from+", type url")
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
	case spec.Checkbox, spec.Hidden, spec.Trap, spec.Upload, spec.SeveralChoices, spec.Password:
		return ""
	case spec.OneChoice:
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
func browserRules(c *observation.FieldOnPage, kind spec.Kind, from string) []Rule {
	base := spec.Base{Layer: spec.InBrowser}
	var out []Rule
	add := func(r spec.Rule, attribute string) { out = append(out, Rule{r, from + ", " + attribute, 1}) }
	if c.Required {
		if kind == spec.Checkbox {
			add(spec.Rule{Ticked: &spec.Ticked{Base: base}}, "attribute required")
		} else {
			add(spec.Rule{Required: &spec.Required{Base: base}}, "attribute required")
		}
	}
	if c.MinLength != nil || c.MaxLength != nil {
		l := &spec.Length{Base: base, In: "utf-16 units", Max: c.MaxLength}
		if c.MinLength != nil {
			l.Min = *c.MinLength
		}
		if l.Min > 0 || l.Max != nil {
			add(spec.Rule{Length: l}, "minlength and maxlength")
		}
	}
	if c.Pattern != "" {
		add(spec.Rule{Pattern: &spec.Pattern{Base: base, Is: c.Pattern}}, "attribute pattern")
	}
	if kind == spec.Email && !c.Multiple {
		add(spec.Rule{Email: &spec.EmailRule{Base: base}}, "type email")
	}
	if kind == spec.URL {
		add(spec.Rule{URL: &spec.URLRule{Base: base}}, "type url")
	}
	if c.Min != "" || c.Max != "" {
		add(spec.Rule{Range: &spec.RangeRule{Base: base, Min: spec.Scalar(c.Min), Max: spec.Scalar(c.Max)}}, "min and max")
	}
	if kind == spec.Number && c.Step != "any" && c.Type != "role" {
		s := &spec.Step{Base: base, By: spec.Scalar(cmp.Or(c.Step, "1"))}
		if c.Min != "" {
			s.From = spec.Scalar(c.Min)
		}
		add(spec.Rule{Step: s}, "step, which is 1 where nothing is said")
	}
	if c.Accept != "" {
		types := strings.Split(c.Accept, ",")
		for i := range types {
			types[i] = strings.TrimSpace(types[i])
		}
		add(spec.Rule{File: &spec.FileRule{Base: base, Types: types}}, "attribute accept")
	}
	return out
}
