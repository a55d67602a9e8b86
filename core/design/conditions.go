package design

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"oddtick/core/expression"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// maxAssignments is how many values of the other fields of a condition are tried to find some under which one field decides it.
const maxAssignments = 500

// conditions takes the numbers, days and counts that conditions compare with, and their neighbours, under values of the other fields that
// let them decide.
func conditions(b *testcase.Builder) {
	p := b.Maker.Form
	seen := map[string]bool{}
	for _, text := range conditionsOf(p) {
		condition := p.Compile(text)
		if condition == nil {
			continue
		}
		constants := expression.ConstantsOf(text)
		for _, f := range p.Named(text) {
			for _, around := range neighbours(f, constants) {
				replace := deciding(b, condition, text, f, around.recipes[:])
				for i, side := range []string{"below", "at", "above"} {
					role := fmt.Sprintf("compared.%s.%s", values.Token(values.Seed(0, f.ID+around.with), 6), side)
					if replace == nil || seen[f.ID+role] {
						continue
					}
					seen[f.ID+role] = true
					inputs := maps.Clone(replace)
					inputs[f.ID] = around.recipes[i]
					b.Add(testcase.Standard, &testcase.Case{
						ID: b.ID(f.ID + "." + role), Title: phrases.OfField.With("label", f.Label, "what", comparedTitle[side].With("value", around.with)), Row: f.ID, Technique: testcase.Boundaries,
						Covers: testcase.Covering(testcase.CoversPartition, f.ID, side+" "+around.with), Mark: testcase.Mark{Scale: "conditions", At: around.at + float64(i-1)/10, Label: side + " " + around.with},
						Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, inputs)}},
					})
				}
			}
		}
	}
}

var comparedTitle = map[string]phrases.Phrase{"below": phrases.JustBelow, "at": phrases.JustAt, "above": phrases.JustAbove}

// conditionsOf are all conditions of a form, each once.
func conditionsOf(p *spec.Prepared) []string {
	var out []string
	add := func(text string) {
		if text != "" && !slices.Contains(out, text) {
			out = append(out, text)
		}
	}
	for _, r := range p.Rules {
		if r.Rule != nil {
			add(r.Rule.Condition())
		}
		add(r.Expression)
	}
	for i := range p.Form.Across {
		add(p.Form.Across[i].When)
	}
	for _, f := range p.Fields {
		add(f.When)
	}
	for _, r := range p.Replies {
		add(r.When)
	}
	for i := range p.Form.Stored {
		add(p.Form.Stored[i].When)
	}
	for i := range p.Form.Accepted.Mails {
		add(p.Form.Accepted.Mails[i].When)
	}
	return out
}

// around are recipes of the values just below, at and just above one that a condition compares with.
type around struct {
	with    string
	at      float64
	recipes [3]testcase.Recipe
}

// neighbours are the values of a field around those that a condition compares with.
func neighbours(f *spec.PreparedField, constants *expression.Constants) []around {
	fixed := func(with string, at float64, texts ...string) around {
		out := around{with: with, at: at}
		for i := range out.recipes {
			out.recipes[i] = testcase.Recipe{Make: testcase.Fixed, Text: texts[i]}
		}
		return out
	}
	var out []around
	switch f.Kind {
	case spec.Number:
		step := testcase.StepOf(f)
		for _, n := range constants.Numbers {
			out = append(out, fixed(n.String(), n.Float(), n.Sub(step).String(), n.String(), n.Add(step).String()))
		}
	case spec.Date:
		for _, text := range constants.Texts {
			if day, err := values.ParseDate(text); err == nil {
				day = day.UTC()
				out = append(out, fixed(text, float64(day.Unix()/int64((24*time.Hour).Seconds())), day.AddDate(0, 0, -1).Format(values.DateLayout), text, day.AddDate(0, 0, 1).Format(values.DateLayout)))
			}
		}
	case spec.MultipleChoice:
		for _, n := range constants.Numbers {
			count := int(n.Float())
			if count < 1 || count+1 > len(f.Options) {
				continue
			}
			chosen := func(n int) string {
				var list []string
				for _, o := range f.Options[:n] {
					list = append(list, o.Value)
				}
				return strings.Join(list, testcase.ChosenTogether)
			}
			out = append(out, fixed(n.String(), n.Float(), chosen(count-1), chosen(count), chosen(count+1)))
		}
	}
	return out
}

// deciding are values of the other fields that a condition names under which it is not the same for all of a field's values; nil for none.
func deciding(b *testcase.Builder, condition *expression.Expression, text string, f *spec.PreparedField, recipes []testcase.Recipe) map[string]testcase.Recipe {
	var found map[string]testcase.Recipe
	assignments(b, text, f, func(replace map[string]testcase.Recipe) bool {
		var truths []bool
		for _, r := range recipes {
			with := maps.Clone(replace)
			with[f.ID] = r
			vars, ok := varsOf(b, with)
			if !ok {
				return true
			}
			truths = append(truths, condition.Truth(vars, false))
		}
		if slices.Contains(truths, true) && slices.Contains(truths, false) {
			found = replace
		}
		return found == nil
	})
	return found
}

// assignments calls a function with values of the fields that a condition names, but for one, until it returns false.
func assignments(b *testcase.Builder, text string, but *spec.PreparedField, with func(map[string]testcase.Recipe) bool) {
	names := slices.DeleteFunc(b.Maker.Form.Named(text), func(f *spec.PreparedField) bool { return f == but })
	choices := make([][]testcase.Recipe, len(names))
	for i, n := range names {
		choices[i], _ = b.Maker.Candidates(n, text)
	}
	at := make([]int, len(choices))
	for more, n := true, 0; more && n < maxAssignments; more, n = testcase.Next(at, choices), n+1 {
		replace := map[string]testcase.Recipe{}
		for i, name := range names {
			replace[name.ID] = choices[i][at[i]]
		}
		if !with(replace) {
			return
		}
	}
}

// varsOf are the usual values with some replaced, as expressions see them.
func varsOf(b *testcase.Builder, replace map[string]testcase.Recipe) (map[string]any, bool) {
	probe := &testcase.Case{ID: "conditions", Steps: []testcase.Step{{Do: testcase.Submit, Driver: submission.HTTP, Inputs: b.Inputs(0, replace)}}}
	resolved, err := b.Maker.Resolve(probe, 0, &testcase.Env{Now: testcase.ReferenceDay, OnPage: map[string]string{}})
	if err != nil {
		return nil, false
	}
	vars := map[string]any{}
	for _, f := range b.Maker.Form.Fields {
		text, present := resolved[f.ID]
		v := f.ValueOf(text, present)
		if f.Kind == spec.MultipleChoice {
			v.Choose(slices.DeleteFunc(strings.Split(text, testcase.ChosenTogether), func(s string) bool { return s == "" }))
		}
		vars[f.ID] = f.Var(&v)
	}
	return vars, true
}

// messagesUnder breaks each rule that says something else under a condition once more where the condition holds.
func messagesUnder(b *testcase.Builder) {
	for _, r := range b.Maker.Form.Rules {
		if len(r.Messages) == 0 || r.Layer == spec.InDatabase {
			continue
		}
		for _, c := range slices.Clone(b.Cases) {
			last := c.Last()
			if len(c.Steps) != 1 || last.Driver != submission.HTTP || c.Language != "" || len(last.Breaks) != 1 || last.Breaks[0] != r.ID {
				continue
			}
			for i := range r.Messages {
				sayUnder(b, c, r, i)
			}
			break
		}
	}
}

// sayUnder adds a case that breaks a rule as another does, where the condition of one of its messages is the first that holds.
func sayUnder(b *testcase.Builder, c *testcase.Case, r *spec.PreparedRule, at int) {
	text := r.Messages[at].When
	about := func(f *spec.PreparedField) *spec.PreparedField {
		if r.Field == f {
			return f
		}
		return nil
	}
	done := false
	assignments(b, text, about(r.Field), func(replace map[string]testcase.Recipe) bool {
		step := c.Steps[0]
		step.Inputs = slices.Clone(step.Inputs)
		with := map[string]testcase.Recipe{}
		for k := range step.Inputs {
			in := &step.Inputs[k]
			if other, named := replace[in.Field]; named && (r.Field == nil || in.Field != r.Field.ID) {
				in.Recipe = other
			}
			with[in.Field] = in.Recipe
		}
		vars, ok := varsOf(b, with)
		if !ok || r.FirstMessage(vars) != at {
			return true
		}
		e, ok := b.Expect(with)
		if !ok || len(e.Failing) != 1 || e.Failing[0].Rule != r.ID {
			return true
		}
		role := fmt.Sprintf("%s.said_under.%s", r.ID, values.Token(values.Seed(0, text), 6))
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID(role), Title: phrases.SaidUnder.With("title", c.Title, "condition", prose.Text(text)), Row: c.Row, Technique: testcase.DecisionTable,
			Covers: testcase.Covering(testcase.CoversMessage, r.ID, "under "+text), Mark: testcase.Mark{Scale: "conditions", At: float64(at), Label: "said under a condition"}, Steps: []testcase.Step{step},
		})
		done = true
		return false
	})
	if !done {
		b.OmitCase(r.ID+".said_under", phrases.NoValuesForCondition.Text())
	}
}
