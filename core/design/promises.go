package design

import (
	"fmt"
	"strings"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// Promises words a field's rules, short, for the head of its row.
func Promises(f *spec.PreparedField) []string {
	out := []string{}
	required := false
	for _, r := range f.Rules {
		if r.Kind == "required" {
			required = true
		}
		if text := InWords(r); text != "" && r.Layer == spec.OnServer {
			out = append(out, text)
		}
	}
	if !required && f.Kind != spec.Checkbox && rule(f, "agrees") == nil {
		out = append([]string{"optional"}, out...)
	}
	return out
}

// InWords words one rule; "" for one that its kind already says.
func InWords(r *spec.PreparedRule) string {
	switch r.Kind {
	case "required":
		return "required"
	case "length":
		return bounds(lengthText(r.Limit.Min, 0), lengthText(r.Limit.Max, -1)) + " " + string(r.Limit.Unit)
	case "pattern":
		return "matches " + r.Rule.Pattern.Is
	case "characters":
		return "only " + r.Rule.Characters.Of
	case "email":
		return "an address"
	case "number":
		return "a number"
	case "date":
		return "a date"
	case "range":
		return bounds(string(r.Rule.Range.Min), string(r.Rule.Range.Max))
	case "step":
		if r.By.Cmp(values.Whole(1)) == 0 {
			return "whole"
		}
		return "in steps of " + r.By.String()
	case "url":
		return "a URL"
	case "decimals":
		return fmt.Sprintf("at most %d decimals", r.Rule.Decimals.Max)
	case "time":
		return "a time"
	case "file":
		return fileWords(r.Rule.File)
	case "refers":
		return "in " + r.Table + "." + r.Column
	case "no overlap":
		return "no time shared with a row of " + r.Table
	case "matches":
		return "the secret in " + r.Table + "." + r.Column
	case "listed":
		return fmt.Sprintf("one of %d", len(r.Field.Options))
	case "ticked":
		return "must be ticked"
	case "agrees":
		return "the same as " + r.Other.Label
	case "differs":
		return "not the same as " + r.Other.Label
	case "unique":
		if len(r.Ignoring) > 0 {
			return "unique, ignoring " + strings.Join(r.Ignoring, " and ")
		}
		return "unique"
	case "across":
		return r.Expression
	}
	return r.Kind
}

func fileWords(f *spec.FileRule) string {
	out := strings.Join(f.Types, ", ")
	if f.Max > 0 {
		out = strings.TrimPrefix(fmt.Sprintf("%s, up to %d bytes", out, f.Max), ", ")
	}
	return out
}

func lengthText(n, none int) string {
	if n == none {
		return ""
	}
	return fmt.Sprint(n)
}

func bounds(lo, hi string) string {
	switch {
	case lo == "":
		return "up to " + hi
	case hi == "":
		return "from " + lo
	case lo == hi:
		return "exactly " + lo
	}
	return lo + " to " + hi
}

func acrossPromises(p *spec.Prepared) []string {
	out := []string{}
	for _, f := range p.Fields {
		for _, kind := range []string{"agrees", "differs"} {
			if r := rule(f, kind); r != nil {
				out = append(out, f.Label+" "+InWords(r))
			}
		}
	}
	for _, r := range p.Across {
		out = append(out, r.Expression)
	}
	return out
}

func uniquePromises(p *spec.Prepared) []string {
	out := []string{}
	for _, f := range p.Fields {
		if rule(f, "unique") != nil {
			out = append(out, f.Label)
		}
	}
	return out
}
