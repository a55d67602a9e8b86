package cover

import (
	"cmp"
	"slices"

	"oddtick/core/design"
	"oddtick/core/design/decision"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// Kind is a kind of what there is to cover.
type Kind string

// The kinds, in the order in which they are told.
const (
	Rules      Kind = "each rule violated by itself"
	Kept       Kind = "rules satisfied"
	Partitions Kind = "equivalence partitions"
	Boundaries Kind = "boundary values"
	Messages   Kind = "messages"
	Columns    Kind = "stored columns"
	Decisions  Kind = "decision table columns"
	Effects    Kind = "each condition deciding by itself"
	Tuples     Kind = "combinations"
)

// Kinds lists them.
var Kinds = []Kind{Rules, Kept, Partitions, Boundaries, Messages, Columns, Decisions, Effects, Tuples}

// Item is one thing to cover.
type Item struct {
	Kind Kind
	// ID is unique within the kind; Words say it.
	ID     string
	Words  prose.Text
	covers func(a *attempt) bool
	// touches: the value is right, whatever becomes of it; nil where that says nothing.
	touches func(a *attempt) bool
	// near is the beginning of the roles of cases that are about it, or, where whole is set, the whole of one, to find why there is none.
	near  string
	whole bool
}

// attempt is a case's last submission with what it must lead to.
type attempt struct {
	c        *testcase.Case
	step     *testcase.Step
	values   []spec.Value // by field
	filled   []bool       // by field: it has no condition, or that holds
	accepted bool
}

func (a *attempt) alone(r *spec.PreparedRule) bool {
	return len(a.step.Breaks) == 1 && a.step.Breaks[0] == r.ID
}

// universe lists all there is.
func universe(p *spec.Prepared, set *design.Set) []Item {
	u := &builder{p: p}
	for _, f := range p.Fields {
		if f.Kind.Untouched() {
			continue
		}
		u.rules(f)
		u.partitions(f)
		u.boundaries(f)
	}
	for _, r := range p.Across {
		u.rule(r, r.ID+".given")
	}
	u.stored()
	u.tables(set)
	u.tuples(set)
	return u.items
}

type builder struct {
	p     *spec.Prepared
	items []Item
}

func (u *builder) add(kind Kind, id string, words prose.Text, near string, covers func(*attempt) bool) {
	u.items = append(u.items, Item{Kind: kind, ID: id, Words: words, near: near, covers: covers})
}

func (u *builder) rules(f *spec.PreparedField) {
	for _, r := range f.Rules {
		u.rule(r, r.ID)
	}
}

func (u *builder) rule(r *spec.PreparedRule, near string) {
	if r.Layer == spec.InDatabase {
		return // an input that breaks only this one is accepted
	}
	words := prose.Text(r.Expression)
	if r.Field != nil {
		words = phrases.RuleOfField.With("label", r.Field.Label, "rule", promise.Rule(r))
	}
	if r.Layer == spec.InBrowser {
		words = phrases.InTheBrowser.With("what", words)
	}
	u.add(Rules, r.ID, words, near, func(a *attempt) bool {
		return a.alone(r) && (r.Layer == spec.OnServer || a.step.Driver == submission.Browser)
	})
	if r.Layer != spec.OnServer {
		return
	}
	if r.Message != nil {
		u.add(Messages, r.ID, phrases.RuleWithMessage.With("what", words, "message", said(r.Message)), near, func(a *attempt) bool { return slices.Contains(a.step.Breaks, r.ID) })
	}
	u.add(Kept, r.ID, words, near, func(a *attempt) bool {
		return a.accepted && (r.Field == nil || r.Kind == spec.RuleMustBeChecked || a.filled[r.Field.Index] && !a.values[r.Field.Index].Blank)
	})
}

func said(m *spec.Message) string {
	if text, ok := m.In("en"); ok {
		return text
	}
	return m.Part + m.Pattern
}

func (u *builder) partitions(f *spec.PreparedField) {
	part := func(id string, words prose.Text, covers func(a *attempt, v *spec.Value) bool) {
		u.add(Partitions, f.ID+" "+id, phrases.OfField.With("label", f.Label, "what", words), f.ID+".", func(a *attempt) bool { return a.filled[f.Index] && covers(a, &a.values[f.Index]) })
	}
	if f.Kind == spec.Checkbox {
		part("ticked", phrases.Checked.Text(), func(a *attempt, v *spec.Value) bool { return a.accepted && !v.Blank })
		part("unticked", phrases.NotChecked.Text(), func(a *attempt, v *spec.Value) bool { return v.Blank && (a.accepted || onlyOf(a, f)) })
		return
	}
	part("blank", phrases.LeftBlank.Text(), func(a *attempt, v *spec.Value) bool { return v.Blank && (a.accepted || onlyOf(a, f)) })
	if len(f.Options) == 0 {
		part("valid", phrases.ValidValue.Text(), func(a *attempt, v *spec.Value) bool { return a.accepted && !v.Blank })
	} else {
		for _, o := range f.Options {
			if o.Value != "" {
				part("option "+o.Value, prose.Text(cmp.Or(o.Label, o.Value)), func(a *attempt, v *spec.Value) bool {
					return a.accepted && (v.Normal == o.Value || slices.Contains(v.Chosen, o.Value))
				})
			}
		}
	}
	for _, step := range f.Normalize {
		if step == spec.Trim || step == spec.Lower || step == spec.Upper {
			part("only after "+step.Plain, phrases.ValidOnlyAfter.With("step", step.Plain), func(a *attempt, v *spec.Value) bool { return a.accepted && !v.Blank && v.Sent != v.Normal })
		}
	}
	if f.When != "" {
		u.add(Partitions, f.ID+" not asked", phrases.OfField.With("label", f.Label, "what", phrases.NotAsked.With("condition", f.When)), f.ID+".when", func(a *attempt) bool { return a.accepted && !a.filled[f.Index] })
	}
}

// onlyOf: the one rule that fails is the field's.
func onlyOf(a *attempt, f *spec.PreparedField) bool {
	return len(a.step.Breaks) == 1 && slices.ContainsFunc(f.Rules, func(r *spec.PreparedRule) bool { return r.ID == a.step.Breaks[0] })
}

// boundaries are the values on each bound and next to it on both sides.
func (u *builder) boundaries(f *spec.PreparedField) {
	for _, r := range f.Rules {
		if r.Layer != spec.OnServer {
			continue
		}
		point := func(role string, words prose.Text, at func(v *spec.Value) bool) {
			touches := func(a *attempt) bool {
				return a.filled[f.Index] && !a.values[f.Index].Blank && at(&a.values[f.Index])
			}
			u.add(Boundaries, r.ID+" "+role, phrases.OfField.With("label", f.Label, "what", words), r.ID+"."+role, func(a *attempt) bool { return (a.accepted || a.alone(r)) && touches(a) })
			u.items[len(u.items)-1].touches, u.items[len(u.items)-1].whole = touches, true
		}
		switch {
		case r.Kind == spec.RuleLength:
			for _, at := range lengthPoints(r.Limit) {
				point(at.role, phrases.LengthOf.With("n", at.n, "unit", phrases.UnitOf(string(r.Limit.Unit), at.n).Text()), func(v *spec.Value) bool { return r.Limit.Unit.Length(v.Normal) == at.n })
			}
		case r.MinNumber != nil || r.MaxNumber != nil:
			by := testcase.StepOf(f)
			for _, end := range []struct {
				boundaries []testcase.Boundary
				bound      *values.Decimal
			}{{testcase.LowerBoundaries, r.MinNumber}, {testcase.UpperBoundaries, r.MaxNumber}} {
				if end.bound == nil {
					continue
				}
				for i, n := range []values.Decimal{end.bound.Sub(by), *end.bound, end.bound.Add(by)} {
					point(end.boundaries[i].Role(), prose.Text(n.String()), func(v *spec.Value) bool { return v.IsNumber && v.Number.Cmp(n) == 0 })
				}
			}
		case r.MinDay != nil || r.MaxDay != nil:
			for i, bound := range []*values.DateBound{r.MinDay, r.MaxDay} {
				if bound == nil {
					continue
				}
				for _, p := range [][]testcase.Boundary{testcase.LowerBoundaries, testcase.UpperBoundaries}[i] {
					day := bound.Shift(p.Offset).On(testcase.ReferenceDay.In(r.Zone)).Format(values.DateLayout)
					point(p.Role(), prose.Text(day), func(v *spec.Value) bool { return v.Day.Format(values.DateLayout) == day })
				}
			}
		case r.Kind == spec.RuleFile && r.Rule.File.Max > 0:
			for _, p := range testcase.UpperBoundaries {
				if n := r.Rule.File.Max + p.Offset; n > 0 { // what an empty file means, no rule says
					point(p.Role(), phrases.BytesOf.With("n", n), func(v *spec.Value) bool { return v.File != nil && v.File.Size == n })
				}
			}
		case r.Kind == spec.RuleDecimals:
			for _, p := range testcase.UpperBoundaries[1:] {
				n := r.Rule.Decimals.Max + p.Offset
				point(p.Role(), phrases.DecimalsOf.With("n", n), func(v *spec.Value) bool { return v.IsNumber && v.Number.Scale() == n })
			}
		}
	}
}

type lengthPoint struct {
	role string
	n    int
}

// lengthPoints are the lengths on and next to the limits; 0 is blank, which is no length.
func lengthPoints(l values.Limit) []lengthPoint {
	var out []lengthPoint
	for _, p := range testcase.LowerBoundaries {
		if n := l.Min + p.Offset; l.Min > 0 && n > 0 && (l.Max < 0 || n <= l.Max || p.Offset <= 0) {
			out = append(out, lengthPoint{p.Role(), n})
		}
	}
	for _, p := range testcase.UpperBoundaries {
		if n := l.Max + p.Offset; l.Max >= 0 && n > 0 && (p.Offset >= 0 || n >= l.Min) {
			out = append(out, lengthPoint{p.Role(), n})
		}
	}
	return out
}

func (u *builder) stored() {
	for i := range u.p.Form.Stored {
		st := &u.p.Form.Stored[i]
		for _, column := range st.ColumnNames() {
			id := st.Table() + "." + column
			src := st.Columns[column]
			from := src.From + src.Secret
			u.add(Columns, id, prose.Text(id), "form.usual", func(a *attempt) bool {
				if !a.accepted {
					return false
				}
				f := u.p.Field(from)
				return f == nil || f.Kind.Untouched() || a.filled[f.Index] && !a.values[f.Index].Blank
			})
		}
	}
}

func (u *builder) tables(set *design.Set) {
	for _, t := range set.Tables {
		for _, c := range t.Columns {
			if c.Infeasible != "" {
				continue
			}
			entries := make([]prose.Text, len(c.Entries))
			for i, e := range c.Entries {
				entries[i] = phrases.EntryOfTable.With("condition", t.Conditions[i], "entry", e)
			}
			words := phrases.ColumnOfTable.With("title", t.Title, "outcome", c.Outcome, "entries", prose.Join(entries, ", "))
			u.add(Decisions, t.ID+" "+decision.ColumnText(c.Entries), words, t.ID+".given", declared(testcase.Cover{Kind: testcase.CoversColumn, Of: t.ID, Point: decision.ColumnText(c.Entries)}))
		}
		for _, e := range t.Effects {
			if e.Why != "" {
				continue
			}
			for i, side := range []string{"holds", "fails"} {
				about := t.ID + " " + e.Condition + " " + side
				words := []phrases.Phrase{phrases.AloneHolds, phrases.AloneFails}[i]
				u.add(Effects, about, words.With("title", t.Title, "condition", e.Condition), t.ID+".given", declared(testcase.Cover{Kind: testcase.CoversEffect, Of: t.ID, Point: e.Condition + " " + side}))
			}
		}
	}
}

func declared(what testcase.Cover) func(*attempt) bool {
	return func(a *attempt) bool { return slices.Contains(a.c.Covers, what) }
}

// tuples are the combinations of the array, which go into rows as they are named.
func (u *builder) tuples(set *design.Set) {
	if set.Combined == nil {
		return
	}
	for _, what := range set.Combined.Covered() {
		u.add(Tuples, what.String(), what.Words, set.Combined.Word()+":", declared(what.Cover))
	}
}
