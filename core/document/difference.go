package document

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Differences says in words what changed from one form to another, field by field.
func Differences(was, is *spec.Form) []prose.Text {
	d := &differ{out: []prose.Text{}}
	d.fields(was, is)
	a, b := asObject(was), asObject(is)
	delete(a, "fields")
	delete(b, "fields")
	d.members("", a, b)
	return d.out
}

type differ struct{ out []prose.Text }

func (d *differ) say(p phrases.Phrase, places ...any) { d.out = append(d.out, p.With(places...)) }

func asObject(v any) map[string]any {
	var out map[string]any
	if b, err := json.Marshal(v); err == nil {
		_ = json.Unmarshal(b, &out) // it was written just now
	}
	return out
}

func (d *differ) fields(was, is *spec.Form) {
	at := func(f *spec.Form, id string) int {
		return slices.IndexFunc(f.Fields, func(x spec.Field) bool { return x.ID == id })
	}
	var order []string
	for i := range was.Fields {
		f := &was.Fields[i]
		k := at(is, f.ID)
		if k < 0 {
			d.say(phrases.FieldGone, "label", f.Label)
			continue
		}
		order = append(order, f.ID)
		d.field(f, &is.Fields[k])
	}
	n := 0
	moved := false
	for i := range is.Fields {
		f := &is.Fields[i]
		if at(was, f.ID) < 0 {
			d.say(phrases.NewField, "label", f.Label)
			continue
		}
		moved = moved || order[n] != f.ID
		n++
	}
	if moved {
		d.say(phrases.OtherOrder)
	}
}

func (d *differ) field(was, is *spec.Field) {
	rules := func(f *spec.Field) map[string]*spec.Rule {
		out := map[string]*spec.Rule{}
		for i := range f.Rules {
			out[f.Rules[i].ID()] = &f.Rules[i]
		}
		return out
	}
	a, b := asObject(was), asObject(is)
	delete(a, "rules")
	delete(b, "rules")
	d.members(prose.Text(is.Label), a, b)
	before, after := rules(was), rules(is)
	for i := range was.Rules {
		id := was.Rules[i].ID()
		next := after[id]
		if next == nil {
			d.say(phrases.RuleGone, "label", is.Label, "rule", id)
			continue
		}
		x, y := details(before[id]), details(next)
		if !reflect.DeepEqual(x, y) {
			d.members(phrases.MemberOf.With("what", is.Label, "member", id), x, y)
		}
	}
	for i := range is.Rules {
		if r := &is.Rules[i]; before[r.ID()] == nil {
			d.say(phrases.NewRule, "label", is.Label, "rule", strings.TrimSpace(r.ID()+" "+inShort(details(r))))
		}
	}
}

func details(r *spec.Rule) map[string]any {
	var out map[string]map[string]any
	_ = json.Unmarshal(Rule(r), &out) // it was written just now
	return out[string(r.Kind())]
}

// members compares two maps key by key; maps within are gone into.
func (d *differ) members(about prose.Text, was, is map[string]any) {
	keys := map[string]bool{}
	for k := range was {
		keys[k] = true
	}
	for k := range is {
		keys[k] = true
	}
	sorted := make([]string, 0, len(keys))
	for k := range keys {
		sorted = append(sorted, k)
	}
	slices.Sort(sorted)
	for _, k := range sorted {
		a, b := was[k], is[k]
		if reflect.DeepEqual(a, b) {
			continue
		}
		name := prose.Text(k)
		if about != "" {
			name = phrases.MemberOf.With("what", about, "member", k)
		}
		x, okX := a.(map[string]any)
		y, okY := b.(map[string]any)
		switch {
		case okX && okY:
			d.members(name, x, y)
		case a == nil:
			d.say(phrases.NowIs, "what", name, "value", inShort(b))
		case b == nil:
			d.say(phrases.NoLonger, "what", name, "value", inShort(a))
		default:
			d.say(phrases.InsteadOf, "what", name, "value", inShort(b), "was", inShort(a))
		}
	}
}

// inShort writes a value as a person would, cut where it is long.
func inShort(v any) string {
	text := ""
	switch v := v.(type) {
	case string:
		text = "“" + v + "”"
	case map[string]any, []any:
		b, _ := json.Marshal(v) // plain data
		t := &patcher{}
		text = strings.Trim(t.flow(b), "{}")
	default:
		text = fmt.Sprint(v)
	}
	if runes := []rune(text); len(runes) > 120 {
		return string(runes[:119]) + "…"
	}
	return text
}
