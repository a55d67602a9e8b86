package learn

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/spec"
)

// Statements are what a document says of a field, each as a text that is the same for what means the same: its kind, what the server does to
// its value first, where it is stored, each rule of the server that needs no condition with what it limits, and what is said of it.
func Statements(form *spec.Form, f *spec.Field) []string {
	out := []string{"kind " + string(f.Kind)}
	if f.When != "" {
		when := f.When
		for i := range form.Fields {
			if o := &form.Fields[i]; o.ID != o.Name && o.ID != "" {
				when = regexp.MustCompile(`\b`+o.ID+`\b`).ReplaceAllString(when, o.Name)
			}
		}
		out = append(out, "when "+when)
	}
	lower := false
	for _, n := range f.Normalize {
		text, _ := json.Marshal(n) // plain data
		out = append(out, "normalize "+string(text))
		lower = lower || n == spec.Lower
	}
	for _, st := range form.Stored {
		for _, c := range st.Sorted() {
			if c.From == f.ID || c.Secret == f.ID {
				out = append(out, "stored "+st.Table()+"."+c.Name)
			}
		}
	}
	for k := range f.Rules {
		r := f.Rules[k].In()
		if !slices.Contains(f.Rules[k].Layers(), spec.OnServer) || r.Condition() != "" {
			continue
		}
		kind, limits := limited(form, &r, lower)
		out = append(out, "rule "+kind+" "+limits)
		if m := r.Message(); m != nil && m.Text != "" {
			out = append(out, "message of "+kind+": "+m.Text)
		}
		if r.Required != nil && r.Required.Absent != nil {
			out = append(out, "message of what is absent: "+r.Required.Absent.Text)
		}
		if r.Required != nil && r.Required.Null != nil {
			out = append(out, "message of null: "+r.Required.Null.Text)
		}
	}
	return out
}

// limited is a rule's kind and what it limits, without what is said of it. Allowed characters are a pattern; a field is named as in
// requests; capitals that are made small do not count in what is unique; steps that go through 0 begin there.
func limited(form *spec.Form, r *spec.Rule, lower bool) (kind, limits string) {
	switch kind = string(r.Kind()); {
	case r.Characters != nil:
		return string(spec.RulePattern), class("[" + r.Characters.Of + "]+")
	case r.Pattern != nil:
		return kind, class(strings.ReplaceAll(r.Pattern.Is, `\d`, "[0-9]"))
	case r.SameAs != nil:
		return kind, form.Fields[slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == r.SameAs.Field })].Name
	case r.MatchesSecret != nil:
		of := slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == r.MatchesSecret.Of && f.ID != "" })
		name := ""
		if of >= 0 {
			name = form.Fields[of].Name
		}
		return kind, fmt.Sprint(r.MatchesSecret.Stored, name, r.MatchesSecret.Ignoring)
	case r.Unique != nil && lower:
		return kind, r.Unique.Column
	case r.Unique != nil:
		return kind, fmt.Sprint(r.Unique.Column, r.Unique.Ignoring)
	case r.Step != nil:
		by, _ := strconv.ParseFloat(string(r.Step.By), 64)
		from, _ := strconv.ParseFloat(string(r.Step.From), 64)
		return kind, fmt.Sprint(by, math.Mod(from, by))
	}
	members := map[string]map[string]any{}
	text, _ := json.Marshal(r)         // plain data
	_ = json.Unmarshal(text, &members) // it was written just now
	with := members[kind]
	for _, key := range []string{"id", "layers", "ids", "message", "messages", "place", "message_on", "requirement", "zone", "absent", "null"} {
		delete(with, key)
	}
	text, _ = json.Marshal(with)
	return kind, string(text)
}

// class writes a pattern that is one class of characters with its ranges in order; another stays as it is.
func class(pattern string) string {
	inner, is := strings.CutPrefix(pattern, "[")
	inner, ends := strings.CutSuffix(inner, "]+")
	if !is || !ends || strings.ContainsAny(inner, "[]") {
		return pattern
	}
	var parts []string
	for rest := []rune(inner); len(rest) > 0; {
		n := 1
		switch {
		case rest[0] == '\\' && len(rest) > 2 && (rest[1] == 'p' || rest[1] == 'P') && rest[2] == '{' && slices.Contains(rest, '}'):
			n = slices.Index(rest, '}') + 1
		case rest[0] == '\\':
			n = 2
		case len(rest) >= 3 && rest[1] == '-':
			n = 3
		}
		n = min(n, len(rest))
		parts, rest = append(parts, string(rest[:n])), rest[n:]
	}
	slices.Sort(parts)
	return "[" + strings.Join(parts, "") + "]+"
}
