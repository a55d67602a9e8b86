package spec

import (
	"fmt"
	"regexp"
)

var idForm = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// check finds what keeps a form from being used at all; what merely cannot hold together is a contradiction, and found elsewhere.
func (f *Form) check() Problems {
	b := &builder{form: f}
	if !idForm.MatchString(f.Form) {
		b.fail("form", "start with a small letter; then small letters, digits and underscores", "%q is no id", f.Form)
	}
	if f.Page == "" && (f.Submit.Encoding != "json" || f.Submit.To == "") {
		b.fail("", "write page: and the path of the page that holds the form; an endpoint without a page needs submit: {encoding: json, to: …}", "the page is missing")
	}
	for i := range f.Fields {
		b.checkField(i)
	}
	b.checkValues()
	for i, s := range f.Stored {
		for column, src := range s.Columns {
			if src.parts() != 1 {
				b.fail(fmt.Sprintf("stored[%d].columns.%s", i, column), "write one of: from, secret, now, is, null, any, cel, key of, signed in, generated, client address, default, untouched", "a column has one source, found %d", src.parts())
			}
		}
	}
	if _, err := f.Prepare(); err != nil {
		return append(b.problems, err.(Problems)...)
	}
	return b.problems
}

func (s Source) parts() int {
	n := 0
	for _, set := range []bool{s.From != "", s.Secret != "", s.Now != "", s.Is != nil, s.Null, s.Any, s.Cel != "", s.KeyOf != "", s.SignedIn, s.Generated != "", s.Client, s.Default, s.Untouched} {
		if set {
			n++
		}
	}
	return n
}

func (b *builder) checkField(i int) {
	f := &b.form.Fields[i]
	path := fmt.Sprintf("fields[%d]", i)
	if f.ID == "" {
		b.fail(path, "write name: and the name the field has in the request", "the field has neither id nor name")
	} else if !idForm.MatchString(f.ID) {
		b.fail(path+".id", "start with a small letter; then small letters, digits and underscores", "%q is no id", f.ID)
	}
	if (f.Kind == OneChoice || f.Kind == SeveralChoices) && len(f.Options) == 0 && f.OptionsFrom == nil {
		b.fail(path, "list them under options: with label and value", "a choice needs its options")
	}
	for k := range f.Rules {
		b.checkRule(f, &f.Rules[k], fmt.Sprintf("%s.rules[%d].%s", path, k, f.Rules[k].Kind()))
	}
}

func (b *builder) checkRule(f *Field, rule *Rule, path string) {
	textual := f.Kind.Textual() || f.Kind.Untouched()
	switch {
	case rule.Length != nil:
		if l := rule.Length; l.Max == nil && l.Min == 0 {
			b.fail(path, "write min, max or both", "the length has no bound")
		}
		if l := rule.Length; l.Min > MaxLength || l.Max != nil && *l.Max > MaxLength {
			b.fail(path, "leave the bound away where the site has none", "lengths beyond %d are not tried", MaxLength)
		}
		if !textual {
			b.fail(path, "bound it with range:", "a %s has no length", f.Kind)
		}
	case rule.File != nil && rule.File.Max > MaxAttachment:
		b.fail(path, "leave the bound away where the site has none", "files of more than %d bytes are not made", MaxAttachment)
	case rule.Pattern != nil || rule.Email != nil || rule.Characters != nil:
		if !textual {
			b.fail(path, "use listed, range or step", "a %s takes no pattern", f.Kind)
		}
	case rule.Ticked != nil && f.Kind != Checkbox:
		b.fail(path, "use required:", "only a checkbox can be ticked")
	case rule.Step != nil && f.Kind != Number, rule.Number != nil && f.Kind != Number:
		b.fail(path, "give the field the kind number", "this rule needs a number")
	case rule.Range != nil && rule.Range.Min == "" && rule.Range.Max == "":
		b.fail(path, "write min, max or both", "the range has no bound")
	}
}
