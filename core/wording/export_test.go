package wording

import (
	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Reword changes every sentence, and gives back a function that puts them right again.
func Reword(change func(string) string) (restore func()) {
	texts := map[string]string{}
	for _, p := range phrases.All() {
		texts[p.Code] = change(p.English)
	}
	return phrases.Replace("xx", texts)
}

// Lacking are the codes without words.
func Lacking() (out []string) {
	for _, c := range judge.CheckName("").Values() {
		out = append(out, lacking(checks, judge.CheckName(c))...)
	}
	for _, a := range judge.Aspect("").Values() {
		out = append(out, lacking(aspects, judge.Aspect(a))...)
	}
	for _, d := range judge.Difference("").Values() {
		out = append(out, lacking(differences, judge.Difference(d))...)
	}
	for _, c := range oracle.FailureCause("").Values() {
		if c != string(oracle.RuleBroken) {
			out = append(out, lacking(failures, oracle.FailureCause(c))...)
		}
	}
	for _, t := range judge.Term("").Values() {
		out = append(out, lacking(terms, judge.Term(t))...)
	}
	return out
}

func lacking[K ~string](templates map[K]phrases.Phrase, code K) []string {
	if templates[code].Code == "" {
		return []string{string(code)}
	}
	return nil
}

// ValueOf words a value of a part.
func ValueOf(form *spec.Prepared, p *judge.Part, v *judge.Value) string {
	return writer{form: form}.value(p, v)
}

// TellsMore tells whether a value has longer words.
func TellsMore(v *judge.Value) bool { return tellsMore(v) }

// BrokenRules are the words of broken rules, by kind, and of what else fails, with an example in each place.
func BrokenRules() map[string]string {
	with := places{
		"label": "Name of the shed", "other": "Built on", "n": "21", "unit": "characters", "least": "3", "most": "20", "table": "sheds", "column": "name", "expression": "name != owner",
		"of": "_token", "rule": "link",
	}
	out := map[string]string{}
	for kind, template := range broken {
		out[string(kind)] = fill(template.Template(), with)
	}
	for cause, template := range failures {
		out[string(cause)] = fill(template.Template(), with)
	}
	return out
}
