package design

import (
	"context"
	"slices"
	"sync"

	"oddtick/core/design/decision"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// Designer computes a form's cases. It is safe for use by several goroutines.
type Designer struct {
	*testcase.Maker
	// counts are how many levels each field has that is combined, computed once.
	counts func() []int
}

// New prepares a form for designing. Its site adds guesses of its own, and says which language is usual; nil is a site of which
// nothing is known.
func New(p *spec.Prepared, site *spec.Site) (*Designer, error) {
	m, err := testcase.New(p, site)
	if err != nil {
		return nil, err
	}
	return &Designer{m, sync.OnceValue(func() []int {
		_, levels := factors(m)
		return countsOf(levels)
	})}, nil
}

// Plan says how much is designed.
type Plan struct {
	Depth testcase.Depth `json:"depth" enum:"quick,standard,thorough"`
	// Strength of the combinations; 0 is 2.
	Strength int `json:"strength,omitempty" minimum:"0" maximum:"6"`
	// Large computes combinations even where they are more than LargeTuples.
	Large bool `json:"large,omitempty" doc:"compute combinations even where they are more than 300,000"`
	// AtMost keeps the cases that cover most; 0 keeps all.
	AtMost int `json:"at_most,omitempty" minimum:"0"`
}

// MostStrength is the largest strength of combinations.
const MostStrength = 6

func (p Plan) strength() int {
	if p.Strength == 0 {
		return 2
	}
	return p.Strength
}

// Set is what was designed.
type Set struct {
	Cases    []*testcase.Case
	Omitted  []testcase.Omission
	Tables   []*decision.Table
	Combined *Combined
	// Stale are edits of cases that are no longer computed.
	Stale []spec.CaseEdit
}

// Design computes the cases of a plan, joined with the edits, and what has none. Cases that are switched off are among them.
func (d *Designer) Design(plan Plan, edits ...spec.CaseEdit) *Set {
	set, err := d.DesignContext(context.Background(), plan, edits...)
	if err != nil {
		panic(err) // it fails only where the context ends
	}
	return set
}

// DesignContext is Design, given up with the context's error once the context is done.
func (d *Designer) DesignContext(ctx context.Context, plan Plan, edits ...spec.CaseEdit) (*Set, error) {
	level := slices.Index(testcase.Depths, plan.Depth)
	s := d.NewBuilder(ctx, map[testcase.Draft]string{})
	tables, combined := all(s, plan)
	if plan.Depth != testcase.Thorough && beyond(s, edits) {
		s = d.NewBuilder(ctx, s.Drafts)
		tables, combined = all(s, Plan{Depth: testcase.Thorough, Strength: plan.Strength, Large: plan.Large})
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	out := &Set{Tables: tables, Combined: combined}
	out.Stale = apply(s, edits)
	out.Omitted = s.Omitted
	for _, c := range s.Cases {
		if c.Level <= level {
			out.Cases = append(out.Cases, c)
		}
	}
	if plan.AtMost > 0 {
		out.Cases = Prioritize(out.Cases, plan.AtMost)
	}
	return out, nil
}

// all applies every technique of a plan, until the context is done.
func all(b *testcase.Builder, plan Plan) (tables []*decision.Table, combined *Combined) {
	for _, f := range b.Maker.Form.Fields {
		if b.Ctx.Err() != nil {
			return tables, combined
		}
		partitions(b, f)
		boundaries(b, f)
		choices(b, f)
		files(b, f)
		guesses(b, f, plan.Depth)
		leftOut(b, f)
		changes(b, f)
		if plan.Depth != testcase.Quick {
			syntax(b, f, plan.Depth)
		}
		if plan.Depth == testcase.Thorough {
			random(b, f)
		}
		unlimited(b, f)
		stale(b, f)
	}
	techniques := []func(){func() { agreement(b) }, func() { distances(b) }, func() { tables = decision.Tables(b) }, func() { uniqueness(b) }, func() { conditions(b) }, func() { messagesUnder(b) }, func() { requests(b) }, func() { languages(b) }, func() { pages(b) }, func() { repliesUnder(b) }, func() { signingIn(b) }, func() { altered(b) }, func() { addresses(b) }}
	if plan.Depth != testcase.Quick {
		techniques = append(techniques, func() { combined = combination(b, plan) })
	}
	if plan.Depth == testcase.Thorough {
		techniques = append(techniques, func() { randomForm(b) })
	}
	for _, apply := range append(techniques, func() { browserLayer(b) }, func() { seenInBrowser(b) }, func() { replacements(b) }, func() { browsing(b) }, func() { reloaded(b) }, func() { backAndForth(b) }, func() { corrections(b) }) {
		if b.Ctx.Err() != nil {
			return tables, combined
		}
		apply()
	}
	return tables, combined
}

// Cases computes the cases of a depth, and what has none.
func (d *Designer) Cases(depth testcase.Depth) ([]*testcase.Case, []testcase.Omission) {
	set := d.Design(Plan{Depth: depth})
	return set.Cases, set.Omitted
}
