package spec

import (
	"fmt"
	"regexp"
	"time"

	"oddtick/core/values"
)

var idForm = regexp.MustCompile(`^[a-z][a-z0-9_]*$`)

// check finds what a form contradicts in itself.
func (f *Form) check() Problems {
	b := &builder{form: f}
	if !idForm.MatchString(f.Form) {
		b.fail("form", "start with a small letter; then small letters, digits and underscores", "%q is no id", f.Form)
	}
	if f.Page == "" {
		b.fail("", "write page: and the path of the page that holds the form", "the page is missing")
	}
	for i := range f.Fields {
		b.checkField(i)
	}
	for i, s := range f.Stored {
		for column, src := range s.Columns {
			if src.parts() != 1 {
				b.fail(fmt.Sprintf("stored[%d].columns.%s", i, column), "write one of: from, secret, now, is, null, any, cel, key of, signed in, generated, client address, default, untouched", "a column has one source, found %d", src.parts())
			}
		}
	}
	prepared, err := f.Prepare()
	if err != nil {
		return append(b.problems, err.(Problems)...)
	}
	for i, field := range prepared.Fields {
		b.contradictions(i, field)
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
		} else if l.Max != nil && l.Min > *l.Max {
			b.fail(path, "swap them, or correct one", "the minimum %d is above the maximum %d: no value can pass", l.Min, *l.Max)
		}
		if !textual {
			b.fail(path, "bound it with range:", "a %s has no length", f.Kind)
		}
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

// contradictions are rules that no value can pass together. Today only matters for relative dates: any day will do.
func (b *builder) contradictions(i int, f *PreparedField) {
	path := fmt.Sprintf("fields[%d]", i)
	set := values.NewSet(values.AnyString())
	texts := 0
	for k, r := range f.Rules {
		at := fmt.Sprintf("%s.rules[%d].%s", path, k, r.Kind)
		switch {
		case r.Auto != nil:
			texts++
			next, err := set.And(r.Auto)
			if err != nil {
				b.fail(at, "", "%s", err)
				return
			}
			set = next
			if r.Auto.Empty() {
				b.fail(at, "correct the pattern", "nothing matches this pattern")
				return
			}
		case r.Kind == "length" && r.Layer != InDatabase:
			texts++
			set = set.Within(r.Limit)
		case r.Kind == "range":
			b.checkRange(r, at)
		}
	}
	if texts > 1 {
		if _, ok := set.Member(values.Want{Length: -1}); !ok {
			b.fail(path+".rules", "loosen one of them", "no value passes all rules of %q: its lengths and patterns exclude each other", f.ID)
		}
	}
	if f.Example != "" {
		v := f.ValueOf(f.Example, true)
		for _, r := range f.Rules {
			if r.Phase <= PhaseFormat && r.Layer != InDatabase && !r.Passes(&v, time.Now()) {
				b.fail(path+".example", "correct the example or the rule", "the example %q breaks the rule %s", f.Example, r.ID)
			}
		}
	}
}

func (b *builder) checkRange(r *PreparedRule, path string) {
	if r.MinNumber != nil && r.MaxNumber != nil && r.MinNumber.Cmp(*r.MaxNumber) > 0 {
		b.fail(path, "swap them, or correct one", "the minimum %s is above the maximum %s: no value can pass", r.MinNumber, r.MaxNumber)
	}
	if r.MinDay != nil && r.MaxDay != nil && r.MinDay.Relative() == r.MaxDay.Relative() {
		day := time.Date(2026, 6, 15, 0, 0, 0, 0, time.UTC)
		if r.MinDay.On(day).After(r.MaxDay.On(day)) {
			b.fail(path, "swap them, or correct one", "the minimum is after the maximum: no day can pass")
		}
	}
}
