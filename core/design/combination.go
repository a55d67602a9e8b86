package design

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/array"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"

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
	Why prose.Text `json:"why,omitempty"`
	// Large: there is none, as the plan did not ask for so many combinations.
	Large   bool `json:"large,omitempty"`
	covered []Combination
}

// StrengthOf tells the strength of the combinations a case's id speaks of; 0 for another case.
func StrengthOf(id string) int {
	_, role, _ := strings.Cut(id, "/")
	for t, kind := range testcase.CombinedKinds {
		if t > 0 && strings.HasPrefix(role, string(kind)+":") {
			return t
		}
	}
	return 0
}

// Word is what its combinations are called: pair, triple.
func (c *Combined) Word() string { return string(testcase.CombinedKinds[c.Strength]) }

// Combination is one combination of levels.
type Combination struct {
	testcase.Cover
	Words prose.Text
}

// Covered are the combinations that its rows have.
func (c *Combined) Covered() []Combination { return c.covered }

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
	Strength int        `json:"strength"`
	Rows     int        `json:"rows,omitempty"`
	Tuples   int        `json:"tuples,omitempty"`
	Why      prose.Text `json:"why,omitempty"`
}

// level is a role of a field's valid values, with the recipe of one.
type level struct {
	role   string
	recipe testcase.Recipe
	// left: the field is not filled, as its condition is false.
	left bool
}

// notAsked is the level of a field whose condition is false.
const notAsked = "not asked"

// levelsOf are the partitions of a field's valid values that are combined with those of other fields.
func levelsOf(m *testcase.Maker, f *spec.PreparedField) []level {
	var out []level
	add := func(role string, r testcase.Recipe) {
		if text, _, ok := m.ResolveOne(f, r); ok && !slices.ContainsFunc(out, func(l level) bool {
			other, _, _ := m.ResolveOne(f, l.recipe)
			return l.recipe == r || r.Make != testcase.Fresh && other == text
		}) {
			out = append(out, level{role: role, recipe: r})
		}
	}
	if f.Kind.Untouched() || testcase.RuleOf(f, spec.RuleSameAs) != nil || testcase.RuleOf(f, spec.RuleExistsIn) != nil || testcase.RuleOf(f, spec.RuleMatchesSecret) != nil {
		return nil
	}
	switch f.Kind {
	case spec.Checkbox:
		add("ticked", testcase.Recipe{Make: testcase.Fixed, Text: f.Value})
		add("unticked", testcase.Recipe{Make: testcase.Absent})
		return out
	case spec.SingleChoice, spec.MultipleChoice:
		for _, o := range f.Options {
			if o.Value != "" {
				add(o.Value, testcase.Recipe{Make: testcase.Fixed, Text: o.Value})
			}
		}
	case spec.Number:
		add("usual", m.BaseRecipe(f))
		if r := testcase.RuleOf(f, spec.RuleRange); r != nil {
			for role, n := range map[string]*values.Decimal{"least": r.MinNumber, "most": r.MaxNumber} {
				if n != nil && !r.Exclusive {
					add(role, testcase.Recipe{Make: testcase.Fixed, Text: n.String()})
				}
			}
		}
	case spec.Date:
		add("usual", m.BaseRecipe(f))
		if r := testcase.RuleOf(f, spec.RuleRange); r != nil && !r.Exclusive {
			for role, text := range map[string]spec.Scalar{"first": r.Rule.Range.Min, "last": r.Rule.Range.Max} {
				if text != "" {
					add(role, testcase.Recipe{Make: testcase.Day, Text: string(text), Zone: r.Rule.Range.Zone})
				}
			}
		}
	case spec.Time, spec.DateTime:
		add("usual", m.BaseRecipe(f))
	case spec.Upload:
		add("usual", testcase.UsualFileOf(f))
		if r := testcase.RuleOf(f, spec.RuleFile); r != nil && r.Rule.File.Max > 0 && r.Rule.File.Max < maxFileSize {
			add("largest", testcase.Recipe{Make: testcase.File, Text: testcase.UsualFileOf(f).Text, Length: r.Rule.File.Max})
		}
	default:
		if m.Sets[f.ID].Usable("", nil) {
			add("usual", testcase.Recipe{Make: testcase.Fresh})
		}
		if r := testcase.RuleOf(f, spec.RuleLength); r != nil {
			if r.Limit.Min > 1 {
				add("shortest", testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: r.Limit.Min})
			}
			if r.Limit.Max > r.Limit.Min && r.Limit.Max <= testcase.FarLength {
				add("longest", testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: r.Limit.Max})
			}
		}
	}
	// the rest by name, so that the order does not depend on how they were found
	if len(out) > 1 && f.Kind != spec.SingleChoice && f.Kind != spec.MultipleChoice {
		slices.SortFunc(out[1:], func(a, b level) int { return strings.Compare(a.role, b.role) })
	}
	if blank := (testcase.Recipe{Make: testcase.Fixed}); !f.Required() {
		if f.Kind == spec.MultipleChoice || f.Kind == spec.Upload {
			blank = testcase.Recipe{Make: testcase.Absent}
		}
		add("blank", blank)
	}
	return out
}

// factors are the fields of several levels.
func factors(m *testcase.Maker) (fields []*spec.PreparedField, levels [][]level) {
	for _, f := range m.Form.Fields {
		own := levelsOf(m, f)
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
func problem(m *testcase.Maker, fields []*spec.PreparedField, levels [][]level, strength int) array.Problem {
	p := array.Problem{Levels: countsOf(levels), Strength: strength}
	base := m.BaseVars()
	// a level's value as expressions see it
	variables := make([][]any, len(fields))
	for i, f := range fields {
		for _, l := range levels[i] {
			text, present, _ := m.ResolveOne(f, l.recipe)
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
	for _, r := range m.Form.Across {
		names := r.Names
		if when := conditionNames(m, r); len(when) > 0 {
			names = append(slices.Clone(names), when...)
		}
		if slices.ContainsFunc(names, func(f *spec.PreparedField) bool { return m.RangeStartOf(f) != nil }) {
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
func conditionNames(m *testcase.Maker, r *spec.PreparedRule) []*spec.PreparedField {
	i := slices.Index(m.Form.Across, r)
	if i < 0 || m.Form.Form.Across[i].When == "" {
		return nil
	}
	_, atoms, err := m.Form.Conditions(m.Form.Form.Across[i].When)
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
func combination(b *testcase.Builder, plan Plan) *Combined {
	fields, levels := factors(b.Maker)
	c := &Combined{Strength: plan.strength(), Factors: []Factor{}, Rows: []CombinedRow{}}
	for i, f := range fields {
		factor := Factor{Field: f.ID, Label: f.Label}
		for _, l := range levels[i] {
			factor.Levels = append(factor.Levels, l.role)
		}
		c.Factors = append(c.Factors, factor)
	}
	if len(fields) < 2 {
		c.Why = phrases.NoTwoFields.Text()
		return c
	}
	c.Strength = min(c.Strength, len(fields))
	if tuples, least := array.Estimate(countsOf(levels), c.Strength); tuples > LargeTuples && !plan.Large {
		c.Large = true
		c.Why = phrases.TooManyCombinations.With("n", english.Sprintf("%.0f", tuples), "rows", english.Sprintf("%.0f", least))
		b.Omitted = append(b.Omitted, testcase.Omission{About: "combinations", Why: c.Why})
		return c
	}
	problem := problem(b.Maker, fields, levels, c.Strength)
	problem.Effort = combiningEffort
	a, err := array.CoverContext(b.Ctx, problem)
	if err != nil {
		c.Why = prose.Text(err.Error())
		b.Omitted = append(b.Omitted, testcase.Omission{About: "combinations", Why: prose.Text(err.Error())})
		return c
	}
	c.Tuples, c.Infeasible, c.Least = a.Tuples, a.Infeasible, a.Least
	known := map[string]bool{}
	for _, row := range a.Rows {
		c.Rows = append(c.Rows, rowCase(b, c, fields, levels, row, known))
	}
	return c
}

// rowCase makes the case of one row. Its id names the first combination that no row before has.
func rowCase(b *testcase.Builder, c *Combined, fields []*spec.PreparedField, levels [][]level, row array.Row, known map[string]bool) CombinedRow {
	out := CombinedRow{Levels: row}
	replace := map[string]testcase.Recipe{}
	for i, f := range fields {
		replace[f.ID] = levels[i][row[i]].recipe
	}
	var covers []testcase.Cover
	eachTuple(fields, levels, row, c.Strength, func(of string, picked []int) {
		if one := (testcase.Cover{Kind: testcase.CombinedKinds[c.Strength], Of: of}); !known[of] {
			known[of] = true
			words := make([]prose.Text, len(picked))
			for n, i := range picked {
				words[n] = phrases.LevelOf.With("label", fields[i].Label, "level", levels[i][row[i]].role)
			}
			covers = append(covers, one)
			c.covered = append(c.covered, Combination{one, prose.Join(words, ", ")})
		}
	})
	out.New = len(covers)
	if len(covers) == 0 {
		return out
	}
	e, ok := b.Expect(replace)
	if !ok || e.Outcome != oracle.Accepted {
		why := phrases.ValuesCannotBeMade.Text()
		if ok {
			why = phrases.NotAcceptedFor.With("rule", e.Failing[0].Rule)
		}
		b.OmitCase(covers[0].Role(), why)
		return out
	}
	words := make([]prose.Text, len(fields))
	for i, f := range fields {
		words[i] = phrases.LevelOf.With("label", f.Label, "level", levels[i][row[i]].role)
	}
	id := b.ID(covers[0].Role())
	b.Add(testcase.Standard, &testcase.Case{
		ID: id, Title: phrases.Combined.With("levels", prose.Join(words, ", ")), Row: testcase.RowAcross, Technique: testcase.Combination, Covers: covers,
		Mark: testcase.Mark{Scale: string(testcase.CombinedKinds[c.Strength]) + "s", At: float64(len(c.Rows)), Label: strconv.Itoa(len(c.Rows) + 1)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}},
	})
	if b.Seen[id] != nil {
		out.Case = id
	}
	return out
}

// eachTuple names every combination of a row by its levels, "area=east,share=half", and gives the places of its fields.
func eachTuple(fields []*spec.PreparedField, levels [][]level, row []int, strength int, visit func(of string, picked []int)) {
	parts, picked := make([]string, 0, strength), make([]int, 0, strength)
	var pick func(from int)
	pick = func(from int) {
		if len(parts) == strength {
			visit(strings.Join(parts, ","), picked)
			return
		}
		for i := from; i <= len(fields)-(strength-len(parts)); i++ {
			parts, picked = append(parts, fields[i].ID+"="+levels[i][row[i]].role), append(picked, i)
			pick(i + 1)
			parts, picked = parts[:len(parts)-1], picked[:len(picked)-1]
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
	fields, levels := factors(d.Maker)
	out := []Size{}
	for t := 1; t <= min(4, len(fields)); t++ {
		problem := problem(d.Maker, fields, levels, t)
		problem.Effort = combiningEffort
		size := Size{Strength: t}
		if tuples, least := array.Estimate(problem.Levels, t); tuples > LargeTuples {
			size.Tuples, size.Why = int(tuples), phrases.AtLeastRows.With("rows", english.Sprintf("%.0f", least))
			out = append(out, size)
			continue
		}
		a, err := array.CoverContext(ctx, problem)
		var none *array.NoRowError
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case errors.As(err, &none):
			size.Why = prose.Text(err.Error())
		case err == nil:
			size.Rows, size.Tuples = len(a.Rows), a.Tuples
		}
		out = append(out, size)
	}
	return out, nil
}
