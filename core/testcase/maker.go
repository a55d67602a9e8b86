package testcase

import (
	"errors"
	"fmt"
	"runtime/debug"
	"slices"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
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

// Maker makes the values of a form's cases: what recipes stand for, on a day and against what a run knows. It is safe for use by several
// goroutines.
type Maker struct {
	Form *spec.Prepared
	Sets map[string]*FieldSets
	Base []Input
	// Kinds are the rules' kinds by their ids.
	Kinds map[string]spec.RuleKind
	// Guesses are the site's own.
	Guesses []spec.Guess
	// Language is what a visitor asks for where a case does not say another.
	Language string
	// Languages are those of the site, the one first that it answers in where it knows none that is asked for.
	Languages []string
	// Choice is how its visitors choose among them, nil where nothing is said.
	Choice *spec.LanguageChoice
	// Browsing are the further ways in which the site's forms are filled in.
	Browsing []spec.Browsing
	// HasLockableAccount: the site has an account that may be locked.
	HasLockableAccount bool
}

// New prepares a form. Its site adds guesses of its own, and says which language is usual; nil is a site of which nothing is known.
func New(p *spec.Prepared, site *spec.Site) (*Maker, error) {
	if site == nil {
		site = &spec.Site{}
	}
	d := &Maker{Form: p, Sets: map[string]*FieldSets{}, Kinds: map[string]spec.RuleKind{}, Guesses: site.Guesses, Language: site.BrowserLanguage(), Languages: site.Languages, Choice: site.LanguageChoice, Browsing: site.Browsing, HasLockableAccount: slices.ContainsFunc(site.Accounts, func(a spec.Account) bool { return a.MayBeLocked })}
	for _, r := range p.Rules {
		d.Kinds[r.ID] = r.Kind
	}
	built := make([]*FieldSets, len(p.Fields))
	var group errgroup.Group
	for i, f := range p.Fields {
		if Textual(f) {
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
			d.Sets[f.ID] = built[i]
		}
	}
	d.Base = d.BaseInputs()
	return d, nil
}

// panicked is what a goroutine panicked with, and where.
type panicked struct {
	with  any
	stack []byte
}

func (p *panicked) Error() string { return fmt.Sprintf("%v\n%s", p.with, p.stack) }

// Prepared is the form the designer works on.
func (d *Maker) Prepared() *spec.Prepared { return d.Form }

// Sample is a new submission that keeps every rule, by field id: what a tester would enter. A field without a value is left out.
func (m *Maker) Sample(run int64, now time.Time) map[string][]string {
	inputs := make([]Input, len(m.Base))
	copy(inputs, m.Base)
	c := &Case{ID: "sample", Steps: []Step{{Do: Submit, Driver: submission.HTTP, Inputs: inputs}}}
	out := map[string][]string{}
	values, err := m.Resolve(c, 0, &Env{Run: run, Now: now, OnPage: map[string]string{}})
	if err != nil {
		return out // what has no valid value is left to the tester
	}
	left := m.LeftOut(values)
	for _, f := range m.Form.Fields {
		v, ok := values[f.ID]
		switch {
		case f.Kind == spec.Hidden || f.Kind == spec.Readonly || left[f.ID]:
		case ok:
			out[f.ID] = []string{v}
		default:
			out[f.ID] = []string{}
		}
	}
	return out
}

// BaseInputs is the submission every case starts from: all rules kept, every field filled but unique ones that may be blank,
// as their values run out.
func (m *Maker) BaseInputs() []Input {
	out := make([]Input, 0, len(m.Form.Fields))
	for _, f := range m.Form.Fields {
		out = append(out, Input{f.ID, m.BaseRecipe(f)})
	}
	return out
}

// RangeStartOf is the field with the beginning of a time whose end this one holds, nil for any other field.
func (m *Maker) RangeStartOf(f *spec.PreparedField) *spec.PreparedField {
	for _, from := range m.Form.Fields {
		if r := RuleOf(from, spec.RuleNoOverlap); r != nil && r.Other == f {
			return from
		}
	}
	return nil
}

// SecretRuleFor is the rule of the secret that belongs to whom a field names, nil for any other field.
func (m *Maker) SecretRuleFor(f *spec.PreparedField) *spec.PreparedRule {
	for _, secret := range m.Form.Fields {
		if r := RuleOf(secret, spec.RuleMatchesSecret); r != nil && r.Other == f {
			return r
		}
	}
	return nil
}

// minutesADay are those of a day without a change of the clocks.
const minutesADay = 24 * 60

// UnitOf is the least step between two values of a time, in minutes.
func UnitOf(f *spec.PreparedField) int {
	switch f.Kind {
	case spec.Date:
		return minutesADay
	case spec.Time:
		return 1
	default:
		return 60
	}
}

func (m *Maker) BaseRecipe(f *spec.PreparedField) Recipe {
	if f.Usual == spec.Unchanged && !f.Secret {
		return Recipe{Make: OnPage}
	}
	for _, r := range f.Rules {
		if r.Kind == spec.RuleSameAs {
			return Recipe{Make: Same, Of: r.Other.ID}
		}
	}
	if RuleOf(f, spec.RuleMatchesSecret) != nil {
		return Recipe{Make: OfAccount}
	}
	if m.SecretRuleFor(f) != nil {
		return Recipe{Make: OfAccountName}
	}
	if RuleOf(f, spec.RuleExistsIn) != nil {
		return Recipe{Make: OfRow}
	}
	if RuleOf(f, spec.RuleNoOverlap) != nil {
		return Recipe{Make: Fresh}
	}
	if from := m.RangeStartOf(f); from != nil {
		return Recipe{Make: Same, Of: from.ID, Shift: UnitOf(from)}
	}
	switch f.Kind {
	case spec.Hidden, spec.Readonly:
		return Recipe{Make: OnPage}
	case spec.Upload:
		if !hasInAnyLayer(f, spec.RuleRequired) {
			return Recipe{Make: Absent}
		}
		return UsualFileOf(f)
	case spec.Time:
		return baseMoment(f, "15:04")
	case spec.DateTime:
		return baseMoment(f, momentLayout)
	case spec.Honeypot:
		return Recipe{Make: Fixed}
	case spec.Checkbox:
		if !hasInAnyLayer(f, spec.RuleMustBeChecked, spec.RuleRequired) {
			return Recipe{Make: Absent}
		}
		return Recipe{Make: Fixed, Text: f.Value}
	case spec.SingleChoice, spec.MultipleChoice:
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
		return Recipe{Make: Fixed, Text: BaseNumber(f)}
	case spec.Date:
		return BaseDay(f)
	}
	switch {
	case RuleOf(f, spec.RuleUnique) != nil && !hasInAnyLayer(f, spec.RuleRequired):
		return Recipe{Make: Fixed}
	case !m.Sets[f.ID].Usable("", nil) && f.Example == "":
		return Recipe{Make: Fixed, Text: "any"} // its rules exclude each other: every submission is expected to be rejected
	}
	return Recipe{Make: Fresh}
}

// baseMoment is a moment within the ranges of all layers where there is one, else within the server's.
func baseMoment(f *spec.PreparedField, layout string) Recipe {
	if f.Example != "" {
		return Recipe{Make: Fixed, Text: f.Example}
	}
	for _, r := range f.Rules {
		if r.Kind == spec.RuleRange {
			if recipe, text := momentWithin(r, layout); passesEveryLayer(f, text) {
				return recipe
			}
		}
	}
	if r := RuleOf(f, spec.RuleRange); r != nil {
		recipe, _ := momentWithin(r, layout)
		return recipe
	}
	return Recipe{Make: Fixed, Text: ReferenceDay.Format(layout)}
}

// momentWithin is a moment of a range, a minute from its nearest bound, or an hour from one that moves with the clock; and its text on the
// reference day.
func momentWithin(r *spec.PreparedRule, layout string) (recipe Recipe, usual string) {
	bound, text, within := r.MinMoment, r.Rule.Range.Min, 1
	if bound == nil {
		bound, text, within = r.MaxMoment, r.Rule.Range.Max, -1
	}
	if bound.Relative() {
		usual = bound.On(ReferenceDay).Add(time.Duration(within) * time.Hour).Format(layout)
		return Recipe{Make: Moment, Text: string(text), Shift: within * 60, Zone: r.Rule.Range.Zone}, usual
	}
	usual = bound.On(ReferenceDay).Add(time.Duration(within) * time.Minute).Format(layout)
	return Recipe{Make: Fixed, Text: usual}, usual
}

func RuleOf(f *spec.PreparedField, kind spec.RuleKind) *spec.PreparedRule {
	for _, r := range f.Rules {
		if r.Kind == kind && r.Layer == spec.OnServer {
			return r
		}
	}
	return nil
}

// ReferenceEnv is the one on the reference day, with pages that hold something in their hidden controls.
func (m *Maker) ReferenceEnv(drafts map[Draft]string) *Env {
	env := &Env{Now: ReferenceDay, OnPage: map[string]string{}, Drafts: drafts}
	for _, f := range m.Form.Fields {
		if f.Kind == spec.Hidden || f.Kind == spec.Readonly {
			env.OnPage[f.Name] = referenceHidden
		}
		if r, sets := RuleOf(f, spec.RuleUnique), m.Sets[f.ID]; r != nil && sets != nil && m.Updates(r) { // what the page holds is one's own value
			if v, err := sets.Member("", nil, values.Want{Length: -1, Hint: sets.Hint(1, -1)}); err == nil {
				env.OnPage[f.Name] = v
			}
		}
	}
	return env
}

// ReferenceSubmission is a step's submission with the page's tokens, but for those it goes without.
func (m *Maker) ReferenceSubmission(step *Step, r Resolved) *submission.Submission {
	sub := m.Submission(step, r)
	for _, token := range m.Form.Form.Token {
		if !slices.Contains(step.Without, token) {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: token, Value: referenceHidden})
		}
	}
	return sub
}

// fieldOf is the field of a rule, by the rule's id.
func (m *Maker) fieldOf(ruleID string) *spec.PreparedField {
	if r := m.Form.Rule(ruleID); r != nil {
		return r.Field
	}
	return nil
}

// ReferenceWorld holds nothing but what the case's own accepted submissions have written.
func (m *Maker) ReferenceWorld(sub *submission.Submission, earlier []*submission.Submission) *oracle.World {
	w := &oracle.World{Now: ReferenceDay, Driver: sub.Driver, LookupResults: map[string]bool{}}
	for _, r := range m.Form.Rules {
		if r.Kind == spec.RuleMatchesSecret {
			v, _ := sub.Value(r.Field.Name)
			w.LookupResults[r.ID] = v == referenceSecret
			if r.Other != nil {
				sent, present := sub.Value(r.Other.Name)
				named := r.Other.ValueOf(sent, present)
				w.LookupResults[r.ID] = v == referenceSecret && r.Fold(named.Normal) == r.Fold(referenceName)
			}
		}
	}
	needs := oracle.Needs(m.Form, sub)
	for _, l := range needs {
		switch {
		case l.MustExist:
			f := m.fieldOf(l.Rule)
			w.LookupResults[l.Rule] = l.Value == m.referenceRow(f)
		default:
			r := m.Form.Rule(l.Rule)
			if r.Kind == spec.RuleUnique && (m.Updates(r) || len(r.Rule.Unique.Also) > 0 && l.Table != r.Table) { // a row may keep its own value
				w.LookupResults[l.Rule] = w.LookupResults[l.Rule] || r.Fold(l.Value) == r.Fold(m.referenceRow(r.Field))
				continue
			}
			for _, before := range earlier {
				for _, old := range oracle.Needs(m.Form, before) {
					if old.Meets(&l) && (l.Span != nil || r.Fold(old.Value) == r.Fold(l.Value)) {
						w.LookupResults[l.Rule] = true
					}
				}
			}
		}
	}
	return w
}

// Updates: acceptance changes a row of the table in which a value is unique, and writes no new one.
func (m *Maker) Updates(r *spec.PreparedRule) bool {
	any := false
	for _, st := range m.Form.Form.Stored {
		if st.Insert == r.Table {
			return false
		}
		any = any || st.Update == r.Table
	}
	return any
}
