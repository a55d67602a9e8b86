package contradiction

import (
	"net/url"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// onPage finds the field's control on the page.
func (f *finder) onPage(name string) *observation.FieldOnPage {
	if f.a.Page == nil {
		return nil
	}
	for i := range f.a.Page.Fields {
		if f.a.Page.Fields[i].Name == name {
			return &f.a.Page.Fields[i]
		}
	}
	return nil
}

// required tells whether the server asks for a value, by the field's own rule or by one it must agree with.
func (x *field) requires() bool {
	if x.rule(spec.RuleRequired, spec.OnServer) != nil || x.rule(spec.RuleMustBeChecked, spec.OnServer) != nil {
		return true
	}
	if r := x.rule(spec.RuleSameAs, spec.OnServer); r != nil {
		return newField(r.Other).rule(spec.RuleRequired, spec.OnServer) != nil
	}
	return false
}

// fieldOnPage: what the page marks as required and the rules do not, or the other way round.
func (f *finder) fieldOnPage(x *field) {
	c := f.onPage(x.Name)
	if c == nil || x.Kind.Untouched() || c.Honeypot || x.When != "" {
		return
	}
	marked := c.Required || c.Marked
	switch {
	case marked && !x.requires():
		says := &phrases.MarkedNotRequired
		if c.Required {
			says = &phrases.AttributeRequired
		}
		f.add(Contradiction{Kind: MarkDiffers, Field: x.ID, Path: x.path, Other: phrases.ControlOfPage.With("control", x.Name)}, says, "label", x.Label)
	case !marked && x.requires() && f.marksAny():
		f.add(Contradiction{Kind: MarkDiffers, Field: x.ID, Path: x.path, Other: phrases.ControlOfPage.With("control", x.Name)}, &phrases.RequiredNotMarked, "label", x.Label)
	}
}

// marksAny: a page that marks no field at all says nothing by not marking one.
func (f *finder) marksAny() bool {
	for i := range f.a.Page.Fields {
		if f.a.Page.Fields[i].Required || f.a.Page.Fields[i].Marked {
			return true
		}
	}
	return false
}

// page: controls without a name, and a form that goes elsewhere.
func (f *finder) page() {
	p := f.a.Page
	if p == nil {
		return
	}
	for i := range p.Fields {
		c := &p.Fields[i]
		if c.Name == "" && c.Type != "role" {
			label := c.Label
			if label == "" {
				label = c.Type
			}
			f.add(Contradiction{Kind: ControlUnnamed, Path: "fields", Other: phrases.ControlOfPage.With("control", label)}, &phrases.ControlUnnamed, "control", quoted(label))
		}
	}
	s := f.p.Form.Submit
	if s.To != "" && !sameTarget(s.To, p.Action) {
		f.add(Contradiction{Kind: OtherTarget, Path: "submit.to", Other: phrases.ActionOfPage.Text()}, &phrases.OtherTarget, "said", s.To, "page", p.Action)
	}
	if s.Method != "" && s.Method != p.Method {
		f.add(Contradiction{Kind: OtherTarget, Path: "submit.method", Other: phrases.MethodOfPage.Text()}, &phrases.OtherMethod, "said", s.Method, "page", p.Method)
	}
}

func sameTarget(said, action string) bool {
	a, err := url.Parse(said)
	b, errAction := url.Parse(action)
	if err != nil || errAction != nil {
		return said == action
	}
	return a.Path == b.Path && (a.RawQuery == "" || a.RawQuery == b.RawQuery) && (a.Host == "" || a.Host == b.Host)
}
