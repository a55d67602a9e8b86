package draft

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"
	"unicode"

	"oddtick/core/address"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/wording/phrases"
)

// fromRequest reads what a page's own script sent for values that were entered: where to, how, and under which names.
func fromRequest(form *spec.Form, p *Probe) *Draft {
	from := phrases.FromTrace.Text()
	d := &Draft{From: from}
	x, sent := p.Step.First(), p.Step.Left
	if x == nil || sent == nil {
		d.Notes = append(d.Notes, phrases.NothingSent.Text())
		return d
	}
	where := ""
	if p.Step.Before != nil {
		where = p.Step.Before.URL
	}
	d.Notes = append(d.Notes, phrases.TraceOnceMore.Text())
	d.Say("submit", spec.Submit{Method: x.Method, To: address.From(where, x.URL), Encoding: sent.Encoding, Button: form.Submit.Button}, from)
	taken := map[string]bool{}
	for _, sure := range []bool{true, false} {
		for i := range form.Fields {
			f := &form.Fields[i]
			if taken["of "+f.ID] || len(p.Values[f.ID]) == 0 && f.Kind != spec.Checkbox {
				continue
			}
			pair := pairOf(f, p.Values[f.ID], sent, taken, sure)
			if pair == nil {
				continue
			}
			taken["of "+f.ID], taken[pair.Name] = true, true
			field := Field{Name: f.Name, ID: f.ID, Known: true}
			if pair.Name != f.Name {
				field.Statements = append(field.Statements, Statement{Path: "name", Value: pair.Name, From: from, Certain: true})
			}
			if kind := kindInJSON(x, pair.Name); kind != "" && f.Kind == spec.Text {
				field.Statements = append(field.Statements, Statement{Path: "kind", Value: string(kind), From: from, Certain: true})
			}
			if value := p.Values[f.ID]; (f.Kind == spec.SingleChoice || f.Kind == spec.MultipleChoice) && len(value) == 1 && value[0] != pair.Value {
				d.Notes = append(d.Notes, phrases.SentForOption.With("label", cmp.Or(f.Label, f.Name), "option", value[0], "value", pair.Value))
			}
			if len(field.Statements) > 0 {
				d.Fields = append(d.Fields, field)
			}
		}
	}
	for i := range form.Fields {
		if f := &form.Fields[i]; !taken["of "+f.ID] && !f.Kind.Untouched() {
			d.Notes = append(d.Notes, phrases.NotInRequest.With("label", cmp.Or(f.Label, f.Name)))
		}
	}
	return d
}

// kindInJSON is the kind of field that a member of a request's JSON tells of by its type, "" for none.
func kindInJSON(x *observation.Exchange, name string) spec.Kind {
	var members map[string]any
	if json.Unmarshal([]byte(x.RequestBody), &members) != nil {
		return ""
	}
	if _, number := members[name].(float64); number {
		return spec.Number
	}
	return ""
}

// pairOf is what was sent for a field: by its value where sure is asked for, else by a name that is like the field's.
func pairOf(f *spec.Field, values []string, sent *submission.Submission, taken map[string]bool, sure bool) *submission.Pair {
	var found []*submission.Pair
	for i := range sent.Pairs {
		pair := &sent.Pairs[i]
		switch {
		case taken[pair.Name]:
		case pair.Name == f.Name:
			return pair
		case sure && f.Kind != spec.Checkbox && slices.ContainsFunc(values, func(v string) bool {
			return v != "" && (v == pair.Value || bareDigits(v) != "" && bareDigits(v) == pair.Value)
		}):
			found = append(found, pair)
		case !sure && alike(pair.Name, f):
			found = append(found, pair)
		}
	}
	if len(found) == 0 || slices.ContainsFunc(found, func(p *submission.Pair) bool { return p.Name != found[0].Name }) {
		return nil // none, or no telling which
	}
	return found[0]
}

// bareDigits are a text's digits where it has no letters, "" for none.
func bareDigits(text string) string {
	var b strings.Builder
	for _, r := range text {
		switch {
		case unicode.IsDigit(r):
			b.WriteRune(r)
		case unicode.IsLetter(r):
			return ""
		}
	}
	return b.String()
}

// alike: a parameter's name is that of a field, or a word of its label.
func alike(name string, f *spec.Field) bool {
	bare := func(text string) string {
		return strings.Map(func(r rune) rune {
			if unicode.IsLetter(r) || unicode.IsDigit(r) {
				return unicode.ToLower(r)
			}
			return -1
		}, text)
	}
	n := bare(name)
	return n != "" && (n == bare(f.Name) || n == bare(f.Label) || slices.ContainsFunc(strings.Fields(f.Label), func(word string) bool { return bare(word) == n }))
}
