package design

import (
	"fmt"
	"regexp"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// agreement covers the rules over several fields: fields that must agree or differ, and expressions.
func (s *sheet) agreement() {
	for _, f := range s.d.p.Fields {
		if r := rule(f, "agrees"); r != nil {
			s.agrees(f, r)
		}
		if r := rule(f, "differs"); r != nil {
			s.across(Quick, r, "same", f.Label+" is the same as "+r.Other.Label, map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID}}, Mark{r.ID, 1, "same"})
		}
	}
	for _, r := range s.d.p.Across {
		s.expression(r)
	}
}

func (s *sheet) across(depth Depth, r *spec.PreparedRule, role, title string, replace map[string]Recipe, m Mark) {
	s.add(depth, &Case{
		ID: fmt.Sprintf("%s/%s.%s/http", s.d.p.Form.Form, r.ID, role), Title: title, Row: RowAcross, Technique: Partitioning, Covers: []string{"rule " + r.ID, "partition " + r.ID + " " + role}, Mark: m,
		Steps: []Step{{Do: Submit, Driver: oracle.HTTP, Inputs: s.inputs(0, replace)}},
	})
}

func (s *sheet) agrees(f *spec.PreparedField, r *spec.PreparedRule) {
	s.across(Quick, r, "same", f.Label+": the same", nil, Mark{r.ID, 0, "same"})
	s.across(Quick, r, "differs", f.Label+": another value", map[string]Recipe{f.ID: {Make: Fresh}}, Mark{r.ID, 1, "differs"})
	s.across(Standard, r, "case", f.Label+": differs in case only", map[string]Recipe{f.ID: {Make: Same, Of: r.Other.ID, Change: OtherCase}}, Mark{r.ID, 2, "case only"})
}

// expression looks for values of the named fields, each valid by itself, with which the expression holds and fails.
func (s *sheet) expression(r *spec.PreparedRule) {
	choices := make([][]Recipe, len(r.Names))
	for i, f := range r.Names {
		choices[i] = s.d.candidates(f, r.Expression)
	}
	found := map[bool]bool{}
	try := func(pick []Recipe) {
		replace := map[string]Recipe{}
		for i, f := range r.Names {
			replace[f.ID] = pick[i]
		}
		probe := &Case{ID: r.ID, Steps: []Step{{Do: Submit, Driver: oracle.HTTP, Inputs: s.inputs(0, replace)}}}
		resolved, err := s.d.Resolve(probe, 0, &Env{Now: referenceDay, drafts: s.drafts})
		if err != nil {
			return
		}
		sub := s.d.Submission(&probe.Steps[0], resolved)
		for _, token := range s.d.p.Form.Token {
			sub.Pairs = append(sub.Pairs, oracle.Pair{Name: token, Value: referenceHidden})
		}
		e := oracle.Expect(s.d.p, &oracle.World{Now: referenceDay, Driver: oracle.HTTP}, sub)
		holds := e.Outcome == oracle.Accepted
		if !holds && (len(e.Failing) != 1 || e.Failing[0].Rule != r.ID) || found[holds] {
			return
		}
		found[holds] = true
		role, title := "fails", "does not hold: "
		at := 1.0
		if holds {
			role, title, at = "holds", "holds: ", 0
		}
		s.across(Quick, r, role, title+r.Expression, replace, Mark{r.ID, at, role})
	}
	const most = 5000
	for i, pick := range product(choices) {
		if i >= most || found[true] && found[false] {
			break
		}
		try(pick)
	}
	if !found[false] {
		s.omitted = append(s.omitted, Omission{About: r.ID, Why: "no values of its fields were found that break this rule and no other"})
	}
}

var (
	numbersIn = regexp.MustCompile(`\b\d+(\.\d+)?\b`)
	textsIn   = regexp.MustCompile(`"([^"]*)"|'([^']*)'`)
)

// candidates are values of a field between which a rule across fields may change: its options, its bounds, blank, and what the
// expression itself compares with, on both sides.
func (d *Designer) candidates(f *spec.PreparedField, expression string) []Recipe {
	out := []Recipe{d.baseRecipe(f)}
	add := func(r Recipe) {
		if !slices.Contains(out, r) {
			out = append(out, r)
		}
	}
	fixed := func(text string) { add(Recipe{Make: Fixed, Text: text}) }
	switch f.Kind {
	case spec.Checkbox:
		fixed(f.Value)
		add(Recipe{Make: Absent})
	case spec.OneChoice:
		for _, o := range f.Options {
			fixed(o.Value)
		}
	case spec.Number:
		bounds := []values.Decimal{}
		if r := rule(f, "range"); r != nil {
			for _, b := range []*values.Decimal{r.MinNumber, r.MaxNumber} {
				if b != nil {
					bounds = append(bounds, *b)
				}
			}
		}
		for _, text := range numbersIn.FindAllString(expression, -1) {
			if n, err := values.ParseDecimal(text); err == nil {
				bounds = append(bounds, n, n.Add(stepOf(f)), n.Sub(stepOf(f)))
			}
		}
		for _, n := range bounds {
			fixed(n.String())
		}
	default:
		for _, m := range textsIn.FindAllStringSubmatch(expression, -1) {
			fixed(m[1] + m[2])
		}
	}
	if !f.Required() && f.Kind != spec.Checkbox {
		fixed("")
	}
	return out
}

// product yields every combination, the first list changing slowest.
func product(choices [][]Recipe) func(func(int, []Recipe) bool) {
	return func(yield func(int, []Recipe) bool) {
		at := make([]int, len(choices))
		for n := 0; ; n++ {
			pick := make([]Recipe, len(choices))
			for i := range choices {
				pick[i] = choices[i][at[i]]
			}
			if !yield(n, pick) {
				return
			}
			i := len(at) - 1
			for ; i >= 0; i-- {
				if at[i]++; at[i] < len(choices[i]) {
					break
				}
				at[i] = 0
			}
			if i < 0 {
				return
			}
		}
	}
}
