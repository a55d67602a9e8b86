package attempt

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/driver"
	"oddtick/engine/target"
)

// impossible says why the page does not let a visitor send these values: a choice left blank that offers no blank.
func (a *Attempt) impossible(form *observation.Form, values testcase.Resolved) string {
	for _, f := range a.Target.Form.Fields {
		v, present := values[f.ID]
		c := form.ControlAt(f.Name, f.Nth)
		if f.Kind == spec.SingleChoice && present && v == "" && len(f.Rules) > 0 && c != nil && c.Type == "select" && !slices.Contains(c.Offered, "") && !f.Required() {
			return "the page offers no blank option for " + f.Label
		}
	}
	return ""
}

// composed is a submission that could be sent, with what is known as it is composed.
type composed struct {
	values testcase.Resolved
	sent   *submission.Submission
	world  *oracle.World
	needs  []submission.Lookup
	fresh  []target.SentValue // of fields whose values are made new
}

// Compose resolves a step's recipes until no unique value is taken that should be new, and puts the submission together as a
// browser would. Nor is a new value sent that the run has sent before, as long as there are others: what the site made of it may count
// for the site, and not be found by us. stop is set when there is no such value, or the page does not let it be sent.
func (a *Attempt) Compose(ctx context.Context, i int, form *observation.Form) (sent *submission.Submission, world *oracle.World, stop *judge.Judgement, err error) {
	base := a.Env.Try
	defer func() { a.Env.Try = base }()
	var chosen *composed
	var taken []string
	for try := range MostTries {
		a.Env.Try = base + try
		one, stop, err := a.composeOnce(ctx, i, form)
		if err != nil || stop != nil {
			return nil, nil, stop, err
		}
		if by := byChance(&a.Case.Steps[i], one.needs, one.world.LookupResults); len(by) > 0 {
			taken = labelled(a.Target, by)
			continue
		}
		again := i == 0 && a.Target.Sent.Any(one.fresh)
		if chosen == nil || !again {
			chosen = one
		}
		if !again {
			break
		}
	}
	if chosen == nil {
		return nil, nil, judge.Unobserved("no unused value left for " + strings.Join(taken, " and ")), nil
	}
	a.Target.Sent.Add(chosen.fresh)
	a.Env.Earlier = append(a.Env.Earlier, chosen.values)
	return chosen.sent, chosen.world, nil, nil
}

func (a *Attempt) composeOnce(ctx context.Context, i int, form *observation.Form) (one *composed, stop *judge.Judgement, err error) {
	s := &a.Case.Steps[i]
	values := a.prefetched.valuesFor(a, s)
	if values == nil {
		if values, err = a.Target.Config.Designer.Resolve(a.Case, i, &a.Env); err != nil {
			return nil, judge.Unobserved(err.Error()), nil
		}
	}
	if why := a.impossible(form, values); why != "" {
		return nil, judge.Inapplicable(why), nil
	}
	sent := assemble(form, a.Target.Config.Designer.Submission(s, values), a.Target.Names, s)
	aboutRecord(sent, a.Target.Form.Form.Requests.Record(s.Record))
	world := &oracle.World{Now: a.Env.Now, Language: a.language(), Driver: s.Driver, Unchecked: s.Unchecked, AccountLocked: s.AccountLocked, AlreadySubmitted: s.Back, TooMany: s.TooMany}
	world.Page, world.ChosenBy, world.Choice = a.Case.JudgesPage, a.Case.ChosenBy, a.Target.Config.Site.LanguageChoice
	if s.Mistake != nil {
		if stop := addMistake(a, i, sent, world); stop != nil {
			return nil, stop, nil
		}
	}
	needs := oracle.Needs(a.Target.Form, sent)
	if world.LookupResults, err = a.answer(ctx, needs); err != nil {
		return nil, nil, err
	}
	if err := a.answerSigned(ctx, sent, world); err != nil {
		return nil, nil, err
	}
	return &composed{values, sent, world, needs, freshOf(a.Target, s, needs)}, nil, nil
}

// byChance are the look-ups by which the rows that are there break a rule that the step is not about.
func byChance(s *testcase.Step, needs []submission.Lookup, found map[string]bool) []submission.Lookup {
	var out []submission.Lookup
	for _, l := range needs {
		about := slices.ContainsFunc(needs, func(other submission.Lookup) bool { // a rule may be held in two layers
			return slices.Contains(s.Breaks, other.Rule) && other.Table == l.Table && other.Column == l.Column && other.Value == l.Value
		})
		if !s.Back && found[l.Rule] != l.MustExist && !about {
			out = append(out, l)
		}
	}
	return out
}

// labelled says which fields look-ups are about, and what is wrong with every value that was tried.
func labelled(t *target.Target, list []submission.Lookup) []string {
	var out []string
	for _, l := range list {
		label := l.Rule
		if f := t.Form.Field(fieldOf(t, l.Rule)); f != nil {
			label = f.Label
		}
		why := fmt.Sprintf("%s: each of the %d values tried already exists in %s.%s", label, MostTries, l.Table, l.Column)
		if l.MustExist {
			why = fmt.Sprintf("%s: none of the %d values tried exists in %s.%s", label, MostTries, l.Table, l.Column)
		}
		if !slices.Contains(out, why) {
			out = append(out, why)
		}
	}
	return out
}

// answer tells, by rule, whether there is such a row; where several must be there, whether all are, and of others whether one is. Where no database is watched, only what the attempt itself has stored is known.
func (a *Attempt) answer(ctx context.Context, needs []submission.Lookup) (map[string]bool, error) {
	found := map[string]bool{}
	for _, l := range needs {
		yes, known := a.prefetched.answer(&l)
		if !known {
			var err error
			if yes, err = a.lookUp(ctx, &l); err != nil {
				return nil, err
			}
		}
		before, asked := found[l.Rule]
		if l.MustExist {
			found[l.Rule] = yes && (before || !asked)
		} else {
			found[l.Rule] = yes || before
		}
	}
	return found, nil
}

func (a *Attempt) lookUp(ctx context.Context, l *submission.Lookup) (bool, error) {
	fold := fold(a.Target, l.Rule)
	switch {
	case len(a.Target.Databases) > 0:
		found, err := a.Target.Databases.Of(l.Table).LookUp(ctx, *l, func(x, y string) bool { return fold(x) == fold(y) })
		if f := a.Target.Form.Field(fieldOf(a.Target, l.Rule)); err != nil && f != nil {
			err = fmt.Errorf("whether %s is in %s.%s: %w", f.Label, l.Table, l.Column, err)
		}
		return found, err
	case l.MustExist:
		f := a.Target.Form.Field(fieldOf(a.Target, l.Rule))
		return f != nil && f.Example != "" && f.Example == l.Value, nil // all that is known without a database
	}
	return slices.ContainsFunc(a.written, func(w submission.Lookup) bool {
		return w.Meets(l) && (l.Span != nil || fold(w.Value) == fold(l.Value))
	}), nil
}

// fieldOf is the id of the field that a rule is about.
func fieldOf(t *target.Target, ruleID string) string {
	for _, rule := range t.Form.Rules {
		if rule.ID == ruleID && rule.Field != nil {
			return rule.Field.ID
		}
	}
	return ""
}

func fold(t *target.Target, ruleID string) func(string) string {
	for _, rule := range t.Form.Rules {
		if rule.ID == ruleID {
			return rule.Fold
		}
	}
	return func(s string) string { return s }
}

// assemble orders the submission as a browser would: the page's controls in their order, the fields' values in their places, then
// what is surplus.
func assemble(form *observation.Form, fields *submission.Submission, names []string, s *testcase.Step) *submission.Submission {
	out := &submission.Submission{Driver: fields.Driver, Encoding: form.Encoding, Body: fields.Body, Replaced: fields.Replaced, BackAndForth: fields.BackAndForth, Forged: fields.Forged, MayRefuse: fields.MayRefuse, Without: fields.Without, Altered: fields.Altered}
	out.Pairs = make([]submission.Pair, 0, len(form.Controls)+len(fields.Pairs))
	placed := make(map[string]bool, len(names))
	for i := range form.Controls {
		c := &form.Controls[i]
		if placed[c.Name] || slices.Contains(s.Without, c.Name) {
			continue
		}
		if slices.Contains(names, c.Name) {
			placed[c.Name] = true
			for _, p := range fields.Pairs {
				if p.Name == c.Name && (c.Type != "radio" || p.Value != "") { // of radio buttons none is chosen by sending none
					out.Pairs = append(out.Pairs, p)
				}
			}
			continue
		}
		if driver.Successful(c) {
			out.Pairs = append(out.Pairs, submission.Pair{Name: c.Name, Value: c.Value})
		}
	}
	for _, p := range fields.Pairs {
		if !placed[p.Name] {
			out.Pairs = append(out.Pairs, p)
		}
	}
	return out
}

// aboutRecord makes a submission one about another record.
func aboutRecord(sent *submission.Submission, record *spec.RecordRequest) {
	if record == nil {
		return
	}
	sent.Record = record.ID
	for _, name := range slices.Sorted(maps.Keys(record.With)) {
		pair := submission.Pair{Name: name, Value: record.With[name]}
		if i := slices.IndexFunc(sent.Pairs, func(p submission.Pair) bool { return p.Name == name }); i >= 0 {
			sent.Pairs[i] = pair
		} else {
			sent.Pairs = append(sent.Pairs, pair)
		}
	}
}

// freshOf are the values of a step that no row may hold, and that are made new at each try.
func freshOf(t *target.Target, s *testcase.Step, needs []submission.Lookup) []target.SentValue {
	var out []target.SentValue
	for i := range needs {
		l := &needs[i]
		if l.MustExist || l.Span != nil {
			continue
		}
		field := fieldOf(t, l.Rule)
		if slices.ContainsFunc(s.Inputs, func(in testcase.Input) bool { return in.Field == field && in.Recipe.Make == testcase.Fresh }) {
			out = append(out, target.SentValue{Rule: l.Rule, Value: fold(t, l.Rule)(l.Value)})
		}
	}
	return out
}

// World is what an expectation of a submission depends on.
func (a *Attempt) World(ctx context.Context, sent *submission.Submission) (*oracle.World, error) {
	taken, err := a.answer(ctx, oracle.Needs(a.Target.Form, sent))
	if err != nil {
		return nil, err
	}
	w := &oracle.World{Now: time.Now(), Language: a.Target.Config.Site.BrowserLanguage(), Driver: sent.Driver, LookupResults: taken}
	return w, a.answerSigned(ctx, sent, w)
}
