// Package promise puts what documents promise into short words: rules, replies, rows, states, journeys, edits of cases.
package promise

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// Rules words a field's rules, short, for the head of its row.
func Rules(f *spec.PreparedField) []prose.Text {
	out := []prose.Text{}
	required := false
	for _, r := range f.Rules {
		if r.Kind == spec.RuleRequired {
			required = true
		}
		if text := Rule(r); text != "" && r.Layer == spec.OnServer {
			out = append(out, text)
		}
	}
	if !required && f.Kind != spec.Checkbox && testcase.RuleOf(f, spec.RuleSameAs) == nil {
		out = append([]prose.Text{phrases.Optional.Text()}, out...)
	}
	return out
}

// Rule words one rule; "" for one that its kind already says.
func Rule(r *spec.PreparedRule) prose.Text {
	switch r.Kind {
	case spec.RuleRequired:
		return phrases.Required.Text()
	case spec.RuleLength:
		return phrases.BoundsInUnit.With("bounds", bounds(lengthText(r.Limit.Min, 0), lengthText(r.Limit.Max, -1)), "unit", phrases.Units[string(r.Limit.Unit)].Text())
	case spec.RulePattern:
		return phrases.MatchesPattern.With("pattern", r.Rule.Pattern.Is)
	case spec.RuleCharacters:
		return phrases.OnlyCharacters.With("characters", r.Rule.Characters.Of)
	case spec.RuleEmail:
		return phrases.EmailAddress.Text()
	case spec.RuleNumber:
		return phrases.IsNumber.Text()
	case spec.RuleDate:
		return phrases.IsDate.Text()
	case spec.RuleRange:
		return bounds(Moment(string(r.Rule.Range.Min)), Moment(string(r.Rule.Range.Max)))
	case spec.RuleStep:
		if r.By.Cmp(values.Whole(1)) == 0 {
			return phrases.WholeNumber.Text()
		}
		return phrases.InStepsOf.With("step", r.By)
	case spec.RuleURL:
		return phrases.IsURL.Text()
	case spec.RuleDecimals:
		return phrases.AtMostDecimals.With("n", r.Rule.Decimals.Max)
	case spec.RuleTime:
		return phrases.IsTime.Text()
	case spec.RuleFile:
		return fileWords(r.Rule.File)
	case spec.RuleExistsIn:
		return phrases.StandsIn.With("column", r.Table+"."+r.Column)
	case spec.RuleNoOverlap:
		return phrases.NoTimeShared.With("table", r.Table)
	case spec.RuleMatchesSecret:
		return phrases.SecretIn.With("column", r.Table+"."+r.Column)
	case spec.RuleOneOfOptions:
		return phrases.OneOf.With("n", len(r.Field.Options))
	case spec.RuleMustBeChecked:
		return phrases.MustBeChecked.Text()
	case spec.RuleSameAs:
		return phrases.TheSameAs.With("other", r.Other.Label)
	case spec.RuleDifferentFrom:
		return phrases.NotTheSameAs.With("other", r.Other.Label)
	case spec.RuleUnique:
		unique := phrases.OnlyOnce.Text()
		if len(r.Ignoring) > 0 {
			unique = phrases.OnlyOnceIgnoring.With("what", ignored(r.Ignoring))
		}
		if same := r.Rule.Unique.Same; len(same) > 0 {
			return phrases.OnlyOnceAmong.With("rule", unique, "columns", strings.Join(slices.Sorted(maps.Keys(same)), ", "))
		}
		return unique
	case spec.RuleAcross:
		return prose.Text(r.Expression)
	}
	return prose.Text(r.Kind)
}

// ByLayer says what rules promise, a sentence for each layer, after one for what browser and server both check: "Browser and server:
// required. Browser: 2 to 40 UTF-16 units."
func ByLayer(rules []*spec.PreparedRule) prose.Text {
	said := map[phrases.Phrase][]prose.Text{}
	for _, r := range rules {
		// a rule of both layers is prepared once for each
		in, other := phrases.RulesOnServer, spec.InBrowser
		switch r.Layer {
		case spec.InBrowser:
			in, other = phrases.RulesInBrowser, spec.OnServer
		case spec.InDatabase:
			in, other = phrases.RulesInDatabase, spec.InDatabase
		}
		if r.Rule != nil && r.Layer != spec.InDatabase && slices.Contains(r.Rule.Layers(), other) {
			if in = phrases.RulesInBrowserAndOnServer; r.Layer == spec.OnServer {
				continue
			}
		}
		words := Rule(r)
		if text, exact := r.Message.In(""); exact {
			words = phrases.RuleAndMessage.With("rule", words, "text", text)
		}
		said[in] = append(said[in], words)
	}
	var out []prose.Text
	for _, name := range []phrases.Phrase{phrases.RulesInBrowserAndOnServer, phrases.RulesInBrowser, phrases.RulesOnServer, phrases.RulesInDatabase} {
		if len(said[name]) > 0 {
			out = append(out, name.With("rules", prose.Join(said[name], ", ")))
		}
	}
	return prose.Join(out, " ")
}

func fileWords(f *spec.FileRule) prose.Text {
	types := strings.Join(f.Types, ", ")
	switch {
	case f.Max == 0:
		return phrases.FileTypes.With("types", types)
	case types == "":
		return phrases.FileUpTo.With("n", f.Max)
	}
	return phrases.FileTypesUpTo.With("types", types, "n", f.Max)
}

// Named names a rule by its message, and else by its words.
func Named(r *spec.PreparedRule) prose.Text {
	if text, exact := r.Message.In(""); exact {
		return prose.Text(text)
	}
	return Rule(r)
}

// ignored names what does not count where values are compared.
func ignored(codes []string) string {
	words := make([]string, len(codes))
	for i, code := range codes {
		words[i] = phrases.Ignored[code].Template()
	}
	return strings.Join(words, phrases.And.Template())
}

// Moment words an end of a range that is relative to now, such as "18 years before today"; every other text stays as it is.
func Moment(text string) string {
	words := strings.Fields(text)
	if len(words) != 4 {
		return text
	}
	base, known := phrases.Nows[words[0]]
	unit, counted := phrases.Spans[strings.TrimSuffix(words[3], "s")]
	if !known || !counted {
		return text
	}
	if words[2] != "1" {
		unit = phrases.ManySpans[strings.TrimSuffix(words[3], "s")]
	}
	template := phrases.SpanAfter
	if words[1] == "-" {
		template = phrases.SpanBefore
	}
	return string(template.With("n", words[2], "unit", unit.Text(), "base", base.Text()))
}

func lengthText(n, none int) string {
	if n == none {
		return ""
	}
	return fmt.Sprint(n)
}

func bounds(lo, hi string) prose.Text {
	switch {
	case lo == "":
		return phrases.UpTo.With("max", hi)
	case hi == "":
		return phrases.From.With("min", lo)
	case lo == hi:
		return phrases.Exactly.With("n", lo)
	}
	return phrases.FromTo.With("min", lo, "max", hi)
}

// Across words the rules over several fields.
func Across(p *spec.Prepared) []prose.Text {
	out := []prose.Text{}
	for _, f := range p.Fields {
		for _, kind := range []spec.RuleKind{spec.RuleSameAs, spec.RuleDifferentFrom} {
			if r := testcase.RuleOf(f, kind); r != nil {
				out = append(out, phrases.FieldAndRule.With("label", f.Label, "rule", Rule(r)))
			}
		}
	}
	for _, r := range p.Across {
		out = append(out, prose.Text(r.Expression))
	}
	return out
}

// Unique names the fields whose values stand only once.
func Unique(p *spec.Prepared) []prose.Text {
	out := []prose.Text{}
	for _, f := range p.Fields {
		if testcase.RuleOf(f, spec.RuleUnique) != nil {
			out = append(out, prose.Text(f.Label))
		}
	}
	return out
}
