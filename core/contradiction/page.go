package contradiction

import (
	"fmt"
	"net/url"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/spec"
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
	if x.rule(spec.RuleRequired, spec.OnServer) != nil || x.rule(spec.RuleTicked, spec.OnServer) != nil {
		return true
	}
	if r := x.rule(spec.RuleAgrees, spec.OnServer); r != nil {
		return newField(r.Other).rule(spec.RuleRequired, spec.OnServer) != nil
	}
	return false
}

// fieldOnPage: what the page marks as required and the rules do not, or the other way round.
func (f *finder) fieldOnPage(x *field) {
	c := f.onPage(x.Name)
	if c == nil || x.Kind.Untouched() || c.Trap || x.When != "" {
		return
	}
	marked := c.Required || c.Marked
	how := "marked as required"
	if c.Required {
		how = "has the attribute required"
	}
	switch {
	case marked && !x.requires():
		f.add(Contradiction{
			Kind: MarkDiffers, Field: x.ID, Path: x.path, Other: "the page, its control " + x.Name, Words: fmt.Sprintf("%s is optional by its rules, and on the page it %s.", x.Label, strings.Replace(how, "marked", "is marked", 1)),
			Proof: "a blank value is taken", Remedy: "add the rule required, or take the mark off the page",
		})
	case !marked && x.requires() && f.marksAny():
		f.add(Contradiction{
			Kind: MarkDiffers, Field: x.ID, Path: x.path, Other: "the page, its control " + x.Name, Words: fmt.Sprintf("%s is required by its rules, and the page does not mark it, though it marks others.", x.Label), Proof: "a blank value is rejected",
			Remedy: "mark the field on the page, or remove the rule",
		})
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
			f.add(Contradiction{
				Kind: ControlUnnamed, Path: "fields", Other: "the page, its control " + label, Words: fmt.Sprintf("The control %s of the page has no request name.", quoted(label)), Proof: "what is entered there never arrives", Remedy: "give the control a name on the page",
			})
		}
	}
	s := f.p.Form.Submit
	if s.To != "" && !sameTarget(s.To, p.Action) {
		f.add(Contradiction{
			Kind: OtherTarget, Path: "submit.to", Other: "the page, its form's action", Words: "The page's form is sent elsewhere than the document says.", Proof: fmt.Sprintf("said %s, on the page %s", s.To, p.Action), Remedy: "correct submit: or the page",
		})
	}
	if s.Method != "" && s.Method != p.Method {
		f.add(Contradiction{
			Kind: OtherTarget, Path: "submit.method", Other: "the page, its form's method", Words: "The page's form is sent with another method than the document says.", Proof: fmt.Sprintf("said %s, on the page %s", s.Method, p.Method), Remedy: "correct submit: or the page",
		})
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
