package design

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"runtime/debug"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"

	"golang.org/x/sync/errgroup"
)

// ReferenceDay is the day on which expectations are computed while designing. Recipes are relative, so it shows nowhere else.
var ReferenceDay = time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)

// referenceHidden stands for the text a page's hidden controls hold while designing.
const referenceHidden = "reference"

// referenceName stands for the name of whoever signs in.
const referenceName = "reference-name"

// referenceSecret stands for the password of whoever is signed in.
const referenceSecret = "Reference-secret-7"

// Designer computes a form's cases and resolves their recipes. It is safe for use by several goroutines.
type Designer struct {
	p    *spec.Prepared
	sets map[string]*fieldSets
	base []Input
	// kinds are the rules' kinds by their ids.
	kinds map[string]spec.RuleKind
	// catalogue is that for error guessing: what ships, and the site's own.
	catalogue []spec.Guess
	// language is what a visitor asks for where a case does not say another.
	language string
	// counts are how many levels each field has that is combined, computed once.
	counts func() []int
	// spare: the site has an account that may be locked.
	spare bool
}

// Omission is something that was meant to be covered and has no case, with the reason.
type Omission struct {
	About string `json:"about"`
	Why   string `json:"why"`
}

// New prepares a form for designing. Its site adds guesses of its own, and says which language is usual; nil is a site of which
// nothing is known.
func New(p *spec.Prepared, site *spec.Site) (*Designer, error) {
	if site == nil {
		site = &spec.Site{}
	}
	d := &Designer{p: p, sets: map[string]*fieldSets{}, kinds: map[string]spec.RuleKind{}, catalogue: append(slices.Clone(Catalogue()), site.Guesses...), language: site.Spoken(), spare: slices.ContainsFunc(site.Accounts, func(a spec.Account) bool { return a.Spare })}
	for _, r := range p.Rules {
		d.kinds[r.ID] = r.Kind
	}
	built := make([]*fieldSets, len(p.Fields))
	var group errgroup.Group
	for i, f := range p.Fields {
		if textual(f) {
			group.Go(func() (err error) {
				defer func() {
					if wrong := recover(); wrong != nil {
						err = &panicked{wrong, debug.Stack()}
					}
				}()
				built[i], err = newFieldSets(f, ReferenceDay)
				return err
			})
		}
	}
	if err := group.Wait(); err != nil {
		var fault *panicked
		if errors.As(err, &fault) {
			panic(fault.Error()) // where whoever asked for it may catch it
		}
		return nil, err
	}
	for i, f := range p.Fields {
		if built[i] != nil {
			d.sets[f.ID] = built[i]
		}
	}
	d.base = d.baseInputs()
	d.counts = sync.OnceValue(func() []int {
		_, levels := d.factors()
		return countsOf(levels)
	})
	return d, nil
}

// panicked is what a goroutine panicked with, and where.
type panicked struct {
	with  any
	stack []byte
}

func (p *panicked) Error() string { return fmt.Sprintf("%v\n%s", p.with, p.stack) }

// Prepared is the form the designer works on.
func (d *Designer) Prepared() *spec.Prepared { return d.p }

// Sample is a new submission that keeps every rule, by field id: what a tester would enter. A field without a value is left out.
func (d *Designer) Sample(run int64, now time.Time) map[string][]string {
	inputs := make([]Input, len(d.base))
	copy(inputs, d.base)
	c := &Case{ID: "sample", Steps: []Step{{Do: Submit, Driver: oracle.HTTP, Inputs: inputs}}}
	out := map[string][]string{}
	values, err := d.Resolve(c, 0, &Env{Run: run, Now: now, OnPage: map[string]string{}})
	if err != nil {
		return out // what has no valid value is left to the tester
	}
	left := d.leftOut(values)
	for _, f := range d.p.Fields {
		v, ok := values[f.ID]
		switch {
		case f.Kind == spec.Hidden || f.Kind == spec.ReadOnly || left[f.ID]:
		case ok:
			out[f.ID] = []string{v}
		default:
			out[f.ID] = []string{}
		}
	}
	return out
}

// Plan says how much is designed.
type Plan struct {
	Depth Depth `json:"depth" enum:"quick,standard,thorough"`
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
	Cases    []*Case
	Omitted  []Omission
	Tables   []*Table
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
	level := slices.Index(Depths, plan.Depth)
	s := d.newSheet(ctx, map[draft]string{})
	s.all(plan)
	if plan.Depth != Thorough && s.beyond(edits) {
		s = d.newSheet(ctx, s.drafts)
		s.all(Plan{Depth: Thorough, Strength: plan.Strength, Large: plan.Large})
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	out := &Set{Tables: s.tabled, Combined: s.combined}
	out.Stale = s.apply(edits)
	out.Omitted = s.omitted
	for _, c := range s.cases {
		if c.depth <= level {
			out.Cases = append(out.Cases, c)
		}
	}
	if plan.AtMost > 0 {
		out.Cases = First(out.Cases, plan.AtMost)
	}
	return out, nil
}

// all applies every technique of a plan, until the context is done.
func (s *sheet) all(plan Plan) {
	for _, f := range s.d.p.Fields {
		if s.ctx.Err() != nil {
			return
		}
		s.partitions(f)
		s.boundaries(f)
		s.choices(f)
		s.files(f)
		s.guesses(f, plan.Depth)
		s.leftOut(f)
		if plan.Depth == Thorough {
			s.syntax(f)
			s.random(f)
		}
	}
	techniques := []func(){s.agreement, s.distances, s.tables, s.uniqueness, s.requests, s.languages, s.signingIn, s.altered, s.addresses}
	if plan.Depth != Quick {
		techniques = append(techniques, func() { s.combination(plan) })
	}
	if plan.Depth == Thorough {
		techniques = append(techniques, s.randomForm)
	}
	for _, apply := range append(techniques, s.browserLayer, s.seenInBrowser, s.replacements, s.reloaded, s.corrections) {
		if s.ctx.Err() != nil {
			return
		}
		apply()
	}
}

// Cases computes the cases of a depth, and what has none.
func (d *Designer) Cases(depth Depth) ([]*Case, []Omission) {
	set := d.Design(Plan{Depth: depth})
	return set.Cases, set.Omitted
}

// baseInputs is the submission every case starts from: all rules kept, every field filled but unique ones that may be blank,
// as their values run out.
func (d *Designer) baseInputs() []Input {
	out := make([]Input, 0, len(d.p.Fields))
	for _, f := range d.p.Fields {
		out = append(out, Input{f.ID, d.baseRecipe(f)})
	}
	return out
}

// endOf is the field with the beginning of a time whose end this one holds, nil for any other field.
func (d *Designer) endOf(f *spec.PreparedField) *spec.PreparedField {
	for _, from := range d.p.Fields {
		if r := rule(from, spec.RuleNoOverlap); r != nil && r.Other == f {
			return from
		}
	}
	return nil
}

// names is the rule of the secret that belongs to whom a field names, nil for any other field.
func (d *Designer) names(f *spec.PreparedField) *spec.PreparedRule {
	for _, secret := range d.p.Fields {
		if r := rule(secret, spec.RuleMatches); r != nil && r.Other == f {
			return r
		}
	}
	return nil
}

// minutesADay are those of a day without a change of the clocks.
const minutesADay = 24 * 60

// unitOf is the least step between two values of a time, in minutes.
func unitOf(f *spec.PreparedField) int {
	if f.Kind == spec.Date {
		return minutesADay
	}
	return 60
}

func (d *Designer) baseRecipe(f *spec.PreparedField) Recipe {
	for _, r := range f.Rules {
		if r.Kind == spec.RuleAgrees {
			return Recipe{Make: Same, Of: r.Other.ID}
		}
	}
	if rule(f, spec.RuleMatches) != nil {
		return Recipe{Make: OfAccount}
	}
	if d.names(f) != nil {
		return Recipe{Make: OfAccountName}
	}
	if rule(f, spec.RuleRefers) != nil {
		return Recipe{Make: OfRow}
	}
	if rule(f, spec.RuleNoOverlap) != nil {
		return Recipe{Make: Fresh}
	}
	if from := d.endOf(f); from != nil {
		return Recipe{Make: Same, Of: from.ID, Shift: unitOf(from)}
	}
	switch f.Kind {
	case spec.Hidden, spec.ReadOnly:
		return Recipe{Make: OnPage}
	case spec.Upload:
		if rule(f, spec.RuleRequired) == nil {
			return Recipe{Make: Absent}
		}
		return usualFileOf(f)
	case spec.Time:
		return baseMoment(f, "15:04")
	case spec.DateTime:
		return baseMoment(f, momentLayout)
	case spec.Trap:
		return Recipe{Make: Fixed}
	case spec.Checkbox:
		if rule(f, spec.RuleTicked) == nil && rule(f, spec.RuleRequired) == nil {
			return Recipe{Make: Absent}
		}
		return Recipe{Make: Fixed, Text: f.Value}
	case spec.OneChoice, spec.SeveralChoices:
		if len(f.Options) == 0 {
			return Recipe{Make: OnPage}
		}
		for _, o := range f.Options {
			if o.Value != "" {
				return Recipe{Make: Fixed, Text: o.Value}
			}
		}
		return Recipe{Make: Fixed}
	case spec.Number:
		return Recipe{Make: Fixed, Text: baseNumber(f)}
	case spec.Date:
		return baseDay(f)
	}
	switch {
	case rule(f, spec.RuleUnique) != nil && rule(f, spec.RuleRequired) == nil:
		return Recipe{Make: Fixed}
	case !d.sets[f.ID].usable("", nil) && f.Example == "":
		return Recipe{Make: Fixed, Text: "any"} // its rules exclude each other: every submission is expected to be rejected
	}
	return Recipe{Make: Fresh}
}

// baseMoment is a moment within the field's range, a minute from its nearest bound; an hour from one that moves with the clock.
func baseMoment(f *spec.PreparedField, layout string) Recipe {
	if f.Example != "" {
		return Recipe{Make: Fixed, Text: f.Example}
	}
	r := rule(f, spec.RuleRange)
	if r == nil {
		return Recipe{Make: Fixed, Text: ReferenceDay.Format(layout)}
	}
	bound, text, within := r.MinMoment, r.Rule.Range.Min, 1
	if bound == nil {
		bound, text, within = r.MaxMoment, r.Rule.Range.Max, -1
	}
	if bound.Relative() {
		return Recipe{Make: Moment, Text: string(text), Shift: within * 60, Zone: r.Rule.Range.Zone}
	}
	return Recipe{Make: Fixed, Text: bound.On(ReferenceDay).Add(time.Duration(within) * time.Minute).Format(layout)}
}

func rule(f *spec.PreparedField, kind spec.RuleKind) *spec.PreparedRule {
	for _, r := range f.Rules {
		if r.Kind == kind && r.Layer == spec.OnServer {
			return r
		}
	}
	return nil
}

// notATime: the recipe makes no day.
func notATime(r Recipe) bool {
	_, err := values.ParseDate(r.Text)
	return r.Make == Absent || r.Make == Null || r.Make == Fixed && err != nil
}

type fulfilment struct {
	replace map[string]Recipe
	ok      bool
}

// newSheet is an empty one. Drafts may be shared with another.
func (d *Designer) newSheet(ctx context.Context, drafts map[draft]string) *sheet {
	return &sheet{ctx: ctx, d: d, seen: map[string]*Case{}, names: map[string]name{}, placed: map[place]string{}, alone: map[string]bool{}, fulfilled: map[*spec.PreparedField]fulfilment{}, drafts: drafts, layer: spec.OnServer, driver: oracle.HTTP}
}

// sheet collects the cases.
type sheet struct {
	ctx      context.Context
	d        *Designer
	cases    []*Case
	omitted  []Omission
	tabled   []*Table
	combined *Combined
	seen     map[string]*Case // by id; nil for one that cannot be built
	// names are the parts of the ids that were made.
	names  map[string]name
	placed map[place]string // cases of boundary values by what they send
	alone  map[string]bool  // ids of rules that a case breaks alone
	// fulfilled are the recipes of other fields with which a field is filled at all.
	fulfilled map[*spec.PreparedField]fulfilment
	drafts    map[draft]string
	layer     spec.Layer    // whose rules are being covered
	driver    oracle.Driver // by which they are covered
}

// mostID is the length of the longest id.
const mostID = 200

// name is what a case's id is made of.
type name struct {
	form, role, language string
	driver               oracle.Driver
}

func (n name) id() string {
	role := n.role
	if n.language != "" {
		role += "@" + n.language
	}
	return n.form + "/" + role + "/" + string(n.driver)
}

// id is that of a case about a role of the form. Of one that is too long the end is replaced by a digest.
func (s *sheet) id(role string) string {
	n := name{form: s.d.p.Form.Form, role: role, driver: s.driver}
	if most := mostID - len(n.form) - len(n.driver) - 2; len(role) > most {
		n.role = role[:most-9] + "~" + values.Token(values.Seed(0, role), 8)
	}
	s.names[n.id()] = n
	return n.id()
}

// twin is a copy of a case under another name, and covers something else.
func (s *sheet) twin(c *Case, n name, covers []Cover) *Case {
	twin := *c
	twin.ID, twin.name, twin.Twin, twin.Covers = n.id(), n, c.Covers, covers
	twin.Steps = slices.Clone(c.Steps)
	return &twin
}

// cover lets a case that is there cover more, from a depth on.
func (s *sheet) cover(id string, depth Depth, covers ...Cover) {
	c := s.seen[id]
	if c == nil {
		return
	}
	c.depth = min(c.depth, slices.Index(Depths, depth))
	for _, what := range covers {
		if !slices.Contains(c.Covers, what) {
			c.Covers = append(c.Covers, what)
		}
	}
}

// inputs are the base's with one field's recipe replaced; the others' copies point to the given step.
func (s *sheet) inputs(step int, replace map[string]Recipe) []Input {
	out := make([]Input, len(s.d.base))
	for i, in := range s.d.base {
		if r, ok := replace[in.Field]; ok {
			in.Recipe = r
		} else if in.Recipe.Make == Same {
			in.Recipe.Step = step
		}
		out[i] = in
	}
	return out
}

// one adds a case of a single submission in which one field differs from the base, and returns its id.
func (s *sheet) one(depth Depth, f *spec.PreparedField, role, title string, t Technique, covers []Cover, r Recipe, m Mark) string {
	id := s.id(f.ID + "." + role)
	fulfilled, ok := s.fulfilled[f]
	if !ok {
		fulfilled.replace, fulfilled.ok = s.d.fulfilling(f)
		s.fulfilled[f] = fulfilled
	}
	if !fulfilled.ok {
		s.omitted = append(s.omitted, Omission{About: f.ID + "." + role, Why: "no values were found that make its condition hold: " + f.When})
		return id
	}
	replace := maps.Clone(fulfilled.replace)
	replace[f.ID] = r
	if o := rule(f, spec.RuleNoOverlap); o != nil && notATime(r) {
		replace[o.Other.ID] = Recipe{Make: Fresh} // it cannot follow
	}
	s.add(depth, &Case{
		ID: id, Title: f.Label + ": " + title, Row: f.ID, Technique: t, Covers: covers, Mark: m,
		Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, replace)}},
	})
	return id
}

// fulfilling are the recipes of other fields that make a field's condition hold, so that it is filled at all; none where it has no
// condition, or holds by itself.
func (d *Designer) fulfilling(f *spec.PreparedField) (map[string]Recipe, bool) {
	out := map[string]Recipe{}
	if f.When == "" {
		return out, true
	}
	choices := make([][]Recipe, len(f.WhenNames))
	for i, n := range f.WhenNames {
		choices[i], _ = d.candidates(n, f.When)
	}
	at := make([]int, len(choices))
	for more := true; more; more = next(at, choices) {
		inputs := slices.Clone(d.base)
		for i, n := range f.WhenNames {
			for k := range inputs {
				if inputs[k].Field == n.ID {
					inputs[k].Recipe = choices[i][at[i]]
				}
			}
		}
		probe := &Case{ID: f.ID, Steps: []Step{{Do: Submit, Driver: oracle.HTTP, Inputs: inputs}}}
		if r, err := d.Resolve(probe, 0, &Env{Now: ReferenceDay, OnPage: map[string]string{}}); err == nil && !d.leftOut(r)[f.ID] {
			for i, n := range f.WhenNames {
				out[n.ID] = choices[i][at[i]]
			}
			return out, true
		}
	}
	return nil, false
}

// add asks the oracle what the case leads to, on the reference day, and keeps it. A case that cannot be built is told.
func (s *sheet) add(depth Depth, c *Case) {
	if _, known := s.seen[c.ID]; known {
		return
	}
	s.seen[c.ID] = nil
	if n, named := s.names[c.ID]; named {
		c.name = n
	}
	c.depth = slices.Index(Depths, depth)
	if s.expectations(c) == nil {
		return
	}
	s.ruleBroken(c)
	s.seen[c.ID] = c
	s.cases = append(s.cases, c)
}

// expectations asks the oracle what each submission of a case leads to, on the reference day, and writes it into its steps; nil, and
// an omission, for a case that cannot be built.
func (s *sheet) expectations(c *Case) (out []*oracle.Expectation) {
	env := s.d.referenceEnv(s.drafts)
	var earlier []*oracle.Submission
	for i := range c.Steps {
		step := &c.Steps[i]
		if step.Do == Reload {
			step.Expect = oracle.NothingFurther
			continue
		}
		r, err := s.d.Resolve(c, i, env)
		if err != nil {
			s.omitted = append(s.omitted, Omission{About: c.ID, Why: err.Error()})
			return nil
		}
		env.Earlier = append(env.Earlier, r)
		sub := s.d.referenceSubmission(step, r)
		world := s.d.referenceWorld(sub, earlier)
		world.Unchecked, world.Locked, world.Spent = step.Unchecked, step.Locked, step.Back
		e := oracle.Expect(s.d.p, world, sub)
		if step.Aside {
			e = &oracle.Expectation{Outcome: oracle.Answered}
		}
		step.Expect = e.Outcome
		step.Breaks = nil
		out = append(out, e)
		for _, f := range e.Failing {
			step.Breaks = append(step.Breaks, f.Rule)
		}
		if e.Outcome == oracle.Accepted {
			earlier = append(earlier, sub)
		}
	}
	return out
}

// referenceEnv is the one on the reference day, with pages that hold something in their hidden controls.
func (d *Designer) referenceEnv(drafts map[draft]string) *Env {
	env := &Env{Now: ReferenceDay, OnPage: map[string]string{}, drafts: drafts}
	for _, f := range d.p.Fields {
		if f.Kind == spec.Hidden || f.Kind == spec.ReadOnly {
			env.OnPage[f.Name] = referenceHidden
		}
		if r := rule(f, spec.RuleUnique); r != nil && d.updates(r) { // what the page holds is one's own value
			if v, err := d.sets[f.ID].member("", nil, values.Want{Length: -1, Hint: d.sets[f.ID].hint(1, -1)}); err == nil {
				env.OnPage[f.Name] = v
			}
		}
	}
	return env
}

// referenceSubmission is a step's submission with the page's tokens, but for those it goes without.
func (d *Designer) referenceSubmission(step *Step, r Resolved) *oracle.Submission {
	sub := d.Submission(step, r)
	for _, token := range d.p.Form.Token {
		if !slices.Contains(step.Without, token) {
			sub.Pairs = append(sub.Pairs, oracle.Pair{Name: token, Value: referenceHidden})
		}
	}
	return sub
}

// ruleBroken adds the rule that a case's last submission breaks alone to what it covers.
func (s *sheet) ruleBroken(c *Case) {
	if broken := c.Last().Breaks; len(broken) == 1 && s.d.kinds[broken[0]] != "" {
		s.alone[broken[0]] = true
		c.Covers = append(cover(CoversRule, broken[0], ""), c.Covers...)
	}
}

// fieldOf is the field of a rule, by the rule's id.
func (d *Designer) fieldOf(ruleID string) *spec.PreparedField {
	id, _, _ := strings.Cut(ruleID, ".")
	return d.p.Field(id)
}

// referenceWorld holds nothing but what the case's own accepted submissions have written.
func (d *Designer) referenceWorld(sub *oracle.Submission, earlier []*oracle.Submission) *oracle.World {
	w := &oracle.World{Now: ReferenceDay, Driver: sub.Driver, Taken: map[string]bool{}}
	for _, r := range d.p.Rules {
		if r.Kind == spec.RuleMatches {
			v, _ := sub.Value(r.Field.Name)
			w.Taken[r.ID] = v == referenceSecret
			if r.Other != nil {
				sent, present := sub.Value(r.Other.Name)
				named := r.Other.ValueOf(sent, present)
				w.Taken[r.ID] = v == referenceSecret && r.Fold(named.Normal) == r.Fold(referenceName)
			}
		}
	}
	needs := oracle.Needs(d.p, sub)
	for _, l := range needs {
		switch {
		case l.Must:
			f := d.fieldOf(l.Rule)
			w.Taken[l.Rule] = l.Value == d.referenceRow(f)
		case l.Span != nil:
			for _, before := range earlier {
				for _, old := range oracle.Needs(d.p, before) {
					if old.Rule == l.Rule && old.Span.Overlaps(l.Span) {
						w.Taken[l.Rule] = true
					}
				}
			}
		}
	}
	for _, f := range d.p.Fields {
		r := rule(f, spec.RuleUnique)
		if r == nil {
			continue
		}
		sent, present := sub.Value(f.Name)
		v := f.ValueOf(sent, present)
		if d.updates(r) { // one's own value stays one's own
			w.Taken[r.ID] = !v.Blank && r.Fold(v.Normal) == r.Fold(d.referenceRow(f))
			continue
		}
		for _, before := range earlier {
			sent, present := before.Value(f.Name)
			if old := f.ValueOf(sent, present); !v.Blank && r.Fold(old.Normal) == r.Fold(v.Normal) {
				w.Taken[r.ID] = true
			}
		}
	}
	return w
}
