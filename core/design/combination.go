package design

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/array"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Combined are the cases in which valid values of several fields meet: a covering array of the fields' levels.
type Combined struct {
	Strength int      `json:"strength"`
	Factors  []Factor `json:"factors"`
	// Rows hold one level a factor, and the case of each row.
	Rows []CombinedRow `json:"rows"`
	// Tuples is the number of combinations covered, Infeasible of those that rules across fields forbid.
	Tuples     int `json:"tuples"`
	Infeasible int `json:"infeasible"`
	// Least is a number of rows that no array goes below.
	Least int `json:"least"`
	// Why says why there is no array, "" where there is one.
	Why string `json:"why,omitempty"`
	// Large: there is none, as the plan did not ask for so many combinations.
	Large   bool `json:"large,omitempty"`
	covered []Cover
}

// StrengthOf tells the strength of the combinations a case's id speaks of; 0 for another case.
func StrengthOf(id string) int {
	_, role, _ := strings.Cut(id, "/")
	for t, kind := range combinedKinds {
		if t > 0 && strings.HasPrefix(role, string(kind)+":") {
			return t
		}
	}
	return 0
}

// Word is what its combinations are called: pair, triple.
func (c *Combined) Word() string { return string(combinedKinds[c.Strength]) }

// Covered are the combinations that its rows have.
func (c *Combined) Covered() []Cover { return c.covered }

// Factor is a field with the levels it is combined at.
type Factor struct {
	Field  string   `json:"field"`
	Label  string   `json:"label"`
	Levels []string `json:"levels"`
}

// CombinedRow is one row of the array.
type CombinedRow struct {
	Levels []int  `json:"levels"`
	Case   string `json:"case,omitempty"`
	// New is how many of its combinations no row before has.
	New int `json:"new"`
}

// Size is how many rows a strength takes.
type Size struct {
	Strength int    `json:"strength"`
	Rows     int    `json:"rows,omitempty"`
	Tuples   int    `json:"tuples,omitempty"`
	Why      string `json:"why,omitempty"`
}

// level is a role of a field's valid values, with the recipe of one.
type level struct {
	role   string
	recipe Recipe
	// left: the field is not filled, as its condition is false.
	left bool
}

// notAsked is the level of a field whose condition is false.
const notAsked = "not asked"

// levelsOf are the partitions of a field's valid values that are combined with those of other fields.
func (d *Designer) levelsOf(f *spec.PreparedField) []level {
	var out []level
	add := func(role string, r Recipe) {
		if text, _, ok := d.resolveOne(f, r); ok && !slices.ContainsFunc(out, func(l level) bool {
			other, _, _ := d.resolveOne(f, l.recipe)
			return l.recipe == r || r.Make != Fresh && other == text
		}) {
			out = append(out, level{role: role, recipe: r})
		}
	}
	if f.Kind.Untouched() || rule(f, spec.RuleAgrees) != nil || rule(f, spec.RuleRefers) != nil || rule(f, spec.RuleMatches) != nil {
		return nil
	}
	switch f.Kind {
	case spec.Checkbox:
		add("ticked", Recipe{Make: Fixed, Text: f.Value})
		add("unticked", Recipe{Make: Absent})
		return out
	case spec.OneChoice, spec.SeveralChoices:
		for _, o := range f.Options {
			if o.Value != "" {
				add(o.Value, Recipe{Make: Fixed, Text: o.Value})
			}
		}
	case spec.Number:
		add("usual", d.baseRecipe(f))
		if r := rule(f, spec.RuleRange); r != nil {
			for role, n := range map[string]*values.Decimal{"least": r.MinNumber, "most": r.MaxNumber} {
				if n != nil && !r.Exclusive {
					add(role, Recipe{Make: Fixed, Text: n.String()})
				}
			}
		}
	case spec.Date:
		add("usual", d.baseRecipe(f))
		if r := rule(f, spec.RuleRange); r != nil && !r.Exclusive {
			for role, text := range map[string]spec.Scalar{"first": r.Rule.Range.Min, "last": r.Rule.Range.Max} {
				if text != "" {
					add(role, Recipe{Make: Day, Text: string(text), Zone: r.Rule.Range.Zone})
				}
			}
		}
	case spec.Time, spec.DateTime:
		add("usual", d.baseRecipe(f))
	case spec.Upload:
		add("usual", usualFileOf(f))
		if r := rule(f, spec.RuleFile); r != nil && r.Rule.File.Max > 0 && r.Rule.File.Max < farthestFile {
			add("largest", Recipe{Make: File, Text: usualFileOf(f).Text, Length: r.Rule.File.Max})
		}
	default:
		if d.sets[f.ID].usable("", nil) {
			add("usual", Recipe{Make: Fresh})
		}
		if r := rule(f, spec.RuleLength); r != nil {
			if r.Limit.Min > 1 {
				add("shortest", Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: r.Limit.Min})
			}
			if r.Limit.Max > r.Limit.Min && r.Limit.Max <= farLength {
				add("longest", Recipe{Make: Fresh, Unit: r.Limit.Unit, Length: r.Limit.Max})
			}
		}
	}
	// the rest by name, so that the order does not depend on how they were found
	if len(out) > 1 && f.Kind != spec.OneChoice && f.Kind != spec.SeveralChoices {
		slices.SortFunc(out[1:], func(a, b level) int { return strings.Compare(a.role, b.role) })
	}
	if blank := (Recipe{Make: Fixed}); !f.Required() {
		if f.Kind == spec.SeveralChoices || f.Kind == spec.Upload {
			blank = Recipe{Make: Absent}
		}
		add("blank", blank)
	}
	return out
}

// factors are the fields of several levels.
func (d *Designer) factors() (fields []*spec.PreparedField, levels [][]level) {
	for _, f := range d.p.Fields {
		own := d.levelsOf(f)
		if f.When != "" && len(own) > 0 {
			own = append(own, level{role: notAsked, recipe: own[0].recipe, left: true})
		}
		if len(own) > 1 {
			fields = append(fields, f)
			levels = append(levels, own)
		}
	}
	return fields, levels
}

// problem is the covering array asked for. Constraints are the rules across fields, the conditions of fields, and must differ.
func (d *Designer) problem(fields []*spec.PreparedField, levels [][]level, strength int) array.Problem {
	p := array.Problem{Levels: countsOf(levels), Strength: strength}
	base := d.baseVars()
	// a level's value as expressions see it
	variables := make([][]any, len(fields))
	for i, f := range fields {
		for _, l := range levels[i] {
			text, present, _ := d.resolveOne(f, l.recipe)
			v := f.ValueOf(text, present)
			if l.left {
				v = spec.Value{Blank: true}
			}
			variables[i] = append(variables[i], f.Var(&v))
		}
	}
	tied := func(names []*spec.PreparedField, also int, allows func(vars map[string]any, at []int) bool) {
		var factors []int
		if also >= 0 {
			factors = append(factors, also)
		}
		for _, n := range names {
			if i := slices.Index(fields, n); i >= 0 && i != also {
				factors = append(factors, i)
			}
		}
		vars := map[string]any{}
		for id, v := range base {
			vars[id] = v
		}
		p.Constraints = append(p.Constraints, array.Constraint{Factors: factors, Allows: func(at []int) bool {
			for k, i := range factors {
				vars[fields[i].ID] = variables[i][at[k]]
			}
			return allows(vars, at)
		}})
	}
	for _, r := range d.p.Across {
		names := r.Names
		if when := d.conditionNames(r); len(when) > 0 {
			names = append(slices.Clone(names), when...)
		}
		if slices.ContainsFunc(names, func(f *spec.PreparedField) bool { return d.endOf(f) != nil }) {
			continue // an end follows its beginning, whatever that is
		}
		tied(names, -1, func(vars map[string]any, _ []int) bool { return r.Skipped(vars) || r.Holds(vars) })
	}
	for i, f := range fields {
		if f.When != "" {
			tied(f.WhenNames, i, func(vars map[string]any, at []int) bool { return f.Absent(vars) == levels[i][at[0]].left })
		}
	}
	return p
}

// conditionNames are the fields that the condition of a rule across fields names.
func (d *Designer) conditionNames(r *spec.PreparedRule) []*spec.PreparedField {
	i := slices.Index(d.p.Across, r)
	if i < 0 || d.p.Form.Across[i].When == "" {
		return nil
	}
	_, atoms, err := d.p.Conditions(d.p.Form.Across[i].When)
	if err != nil {
		return nil
	}
	var out []*spec.PreparedField
	for _, a := range atoms {
		out = append(out, a.Names...)
	}
	return out
}

// english writes numbers as they are read in sentences: 300,000.
var english = message.NewPrinter(language.English)

// combiningEffort is that of the search for fewer rows. It is the same at every depth, so that a row's id means one case.
const combiningEffort = 4_000_000

// combination covers every combination of the levels of any few fields.
func (s *sheet) combination(plan Plan) {
	fields, levels := s.d.factors()
	c := &Combined{Strength: plan.strength(), Factors: []Factor{}, Rows: []CombinedRow{}}
	s.combined = c
	for i, f := range fields {
		factor := Factor{Field: f.ID, Label: f.Label}
		for _, l := range levels[i] {
			factor.Levels = append(factor.Levels, l.role)
		}
		c.Factors = append(c.Factors, factor)
	}
	if len(fields) < 2 {
		c.Why = "there are no two fields with several valid values to combine"
		return
	}
	c.Strength = min(c.Strength, len(fields))
	if tuples, least := array.Estimate(countsOf(levels), c.Strength); tuples > LargeTuples && !plan.Large {
		c.Large = true
		c.Why = english.Sprintf("they are %.0f combinations in at least %.0f rows, and so many are computed only when they are asked for", tuples, least)
		s.omitted = append(s.omitted, Omission{About: "combinations", Why: c.Why})
		return
	}
	problem := s.d.problem(fields, levels, c.Strength)
	problem.Effort = combiningEffort
	a, err := array.CoverContext(s.ctx, problem)
	if err != nil {
		c.Why = err.Error()
		s.omitted = append(s.omitted, Omission{About: "combinations", Why: err.Error()})
		return
	}
	c.Tuples, c.Infeasible, c.Least = a.Tuples, a.Infeasible, a.Least
	known := map[string]bool{}
	for _, row := range a.Rows {
		c.Rows = append(c.Rows, s.row(fields, levels, row, c.Strength, known))
	}
}

// row makes the case of one row. Its id names the first combination that no row before has.
func (s *sheet) row(fields []*spec.PreparedField, levels [][]level, row array.Row, strength int, known map[string]bool) CombinedRow {
	out := CombinedRow{Levels: row}
	replace := map[string]Recipe{}
	for i, f := range fields {
		replace[f.ID] = levels[i][row[i]].recipe
	}
	var covers []Cover
	eachTuple(fields, levels, row, strength, func(levels string) {
		if one := (Cover{Kind: combinedKinds[strength], Of: levels}); !known[levels] {
			known[levels] = true
			covers = append(covers, one)
			s.combined.covered = append(s.combined.covered, one)
		}
	})
	out.New = len(covers)
	if len(covers) == 0 {
		return out
	}
	e, ok := s.expect(replace)
	if !ok || e.Outcome != oracle.Accepted {
		why := "its values cannot be made"
		if ok {
			why = "it is not accepted, for the rule " + e.Failing[0].Rule
		}
		s.omitted = append(s.omitted, Omission{About: s.id(covers[0].role()), Why: why})
		return out
	}
	words := make([]string, len(fields))
	for i, f := range fields {
		words[i] = f.Label + " " + levels[i][row[i]].role
	}
	id := s.id(covers[0].role())
	s.add(Standard, &Case{
		ID: id, Title: "together: " + strings.Join(words, ", "), Row: RowAcross, Technique: Combination, Covers: covers,
		Mark: Mark{string(combinedKinds[strength]) + "s", float64(len(s.combined.Rows)), strconv.Itoa(len(s.combined.Rows) + 1)}, Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}},
	})
	if s.seen[id] != nil {
		out.Case = id
	}
	return out
}

// eachTuple names every combination of a row by its levels: "area=east,share=half".
func eachTuple(fields []*spec.PreparedField, levels [][]level, row []int, strength int, visit func(levels string)) {
	parts := make([]string, 0, strength)
	var pick func(from int)
	pick = func(from int) {
		if len(parts) == strength {
			visit(strings.Join(parts, ","))
			return
		}
		for i := from; i <= len(fields)-(strength-len(parts)); i++ {
			parts = append(parts, fields[i].ID+"="+levels[i][row[i]].role)
			pick(i + 1)
			parts = parts[:len(parts)-1]
		}
	}
	pick(0)
}

// LargeTuples is the number of combinations above which they are computed only by a plan that asks for it, as it takes more than
// seconds.
const LargeTuples = 300_000

// Tuples is how many combinations a plan covers if it is large, before any are ruled out, and a number of rows below which none
// covers them. It is computed at once.
func (d *Designer) Tuples(plan Plan) (tuples, least float64) {
	counts := d.counts()
	return array.Estimate(counts, min(plan.strength(), len(counts)))
}

func countsOf(levels [][]level) []int {
	out := make([]int, len(levels))
	for i, l := range levels {
		out[i] = len(l)
	}
	return out
}

// Growth computes how many rows each strength up to four takes; of one that is large, how many at least. It is given up with the
// context's error once the context is done.
func (d *Designer) Growth(ctx context.Context) ([]Size, error) {
	fields, levels := d.factors()
	out := []Size{}
	for t := 1; t <= min(4, len(fields)); t++ {
		problem := d.problem(fields, levels, t)
		problem.Effort = combiningEffort
		size := Size{Strength: t}
		if tuples, least := array.Estimate(problem.Levels, t); tuples > LargeTuples {
			size.Tuples, size.Why = int(tuples), english.Sprintf("at least %.0f", least)
			out = append(out, size)
			continue
		}
		a, err := array.CoverContext(ctx, problem)
		var none *array.NoRowError
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case errors.As(err, &none):
			size.Why = err.Error()
		case err == nil:
			size.Rows, size.Tuples = len(a.Rows), a.Tuples
		}
		out = append(out, size)
	}
	return out, nil
}
