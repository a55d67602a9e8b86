// Package promise puts what documents promise into short words: rules, replies, rows, states, journeys, edits of cases.
package promise

import (
	"fmt"
	"strings"

	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
)

// Rules words a field's rules, short, for the head of its row.
func Rules(f *spec.PreparedField) []string {
	out := []string{}
	required := false
	for _, r := range f.Rules {
		if r.Kind == spec.RuleRequired {
			required = true
		}
		if text := Rule(r); text != "" && r.Layer == spec.OnServer {
			out = append(out, text)
		}
	}
	if !required && f.Kind != spec.Checkbox && testcase.RuleOf(f, spec.RuleAgrees) == nil {
		out = append([]string{"optional"}, out...)
	}
	return out
}

// Rule words one rule; "" for one that its kind already says.
func Rule(r *spec.PreparedRule) string {
	switch r.Kind {
	case spec.RuleRequired:
		return "required"
	case spec.RuleLength:
		return bounds(lengthText(r.Limit.Min, 0), lengthText(r.Limit.Max, -1)) + " " + string(r.Limit.Unit)
	case spec.RulePattern:
		return "matches " + r.Rule.Pattern.Is
	case spec.RuleCharacters:
		return "only " + r.Rule.Characters.Of
	case spec.RuleEmail:
		return "an address"
	case spec.RuleNumber:
		return "a number"
	case spec.RuleDate:
		return "a date"
	case spec.RuleRange:
		return bounds(string(r.Rule.Range.Min), string(r.Rule.Range.Max))
	case spec.RuleStep:
		if r.By.Cmp(values.Whole(1)) == 0 {
			return "whole"
		}
		return "in steps of " + r.By.String()
	case spec.RuleURL:
		return "a URL"
	case spec.RuleDecimals:
		return fmt.Sprintf("at most %d decimals", r.Rule.Decimals.Max)
	case spec.RuleTime:
		return "a time"
	case spec.RuleFile:
		return fileWords(r.Rule.File)
	case spec.RuleRefers:
		return "in " + r.Table + "." + r.Column
	case spec.RuleNoOverlap:
		return "no time shared with a row of " + r.Table
	case spec.RuleMatches:
		return "the secret in " + r.Table + "." + r.Column
	case spec.RuleListed:
		return fmt.Sprintf("one of %d", len(r.Field.Options))
	case spec.RuleTicked:
		return "must be ticked"
	case spec.RuleAgrees:
		return "the same as " + r.Other.Label
	case spec.RuleDiffers:
		return "not the same as " + r.Other.Label
	case spec.RuleUnique:
		if len(r.Ignoring) > 0 {
			return "unique, ignoring " + strings.Join(r.Ignoring, " and ")
		}
		return "unique"
	case spec.RuleAcross:
		return r.Expression
	}
	return string(r.Kind)
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

func Across(p *spec.Prepared) []string {
	out := []string{}
	for _, f := range p.Fields {
		for _, kind := range []spec.RuleKind{spec.RuleAgrees, spec.RuleDiffers} {
			if r := testcase.RuleOf(f, kind); r != nil {
				out = append(out, f.Label+" "+Rule(r))
			}
		}
	}
	for _, r := range p.Across {
		out = append(out, r.Expression)
	}
	return out
}

func Unique(p *spec.Prepared) []string {
	out := []string{}
	for _, f := range p.Fields {
		if testcase.RuleOf(f, spec.RuleUnique) != nil {
			out = append(out, f.Label)
		}
	}
	return out
}
