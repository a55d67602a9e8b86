package design

import (
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// changes are cases of two submissions that update one row: a choice is saved and then changed back, a value is saved and then cleared.
func changes(b *testcase.Builder, f *spec.PreparedField) {
	if f.When != "" || f.Secret || !updated(b.Maker.Form.Form, f) {
		return
	}
	save := func(role string, title prose.Text, at float64, first, second testcase.Recipe) {
		step := func(n int, r testcase.Recipe) testcase.Step {
			return testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(n, map[string]testcase.Recipe{f.ID: r})}
		}
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID(f.ID + ".changed." + role), Title: phrases.OfField.With("label", f.Label, "what", title), Row: f.ID, Technique: testcase.Transitions,
			Covers: testcase.Covering(testcase.CoversPartition, f.ID, "changed "+role), Mark: testcase.Mark{Scale: "changed", At: at, Label: role}, Steps: []testcase.Step{step(0, first), step(1, second)},
		})
	}
	fixed := func(values ...string) testcase.Recipe {
		return testcase.Recipe{Make: testcase.Fixed, Text: strings.Join(values, testcase.ChosenTogether)}
	}
	options := slices.DeleteFunc(slices.Clone(f.Options), func(o spec.Option) bool { return o.Value == "" })
	switch {
	case f.Kind == spec.Checkbox && testcase.RuleOf(f, spec.RuleMustBeChecked) == nil:
		save("off", phrases.CheckedThenUnchecked.Text(), 0, fixed(f.Value), testcase.Recipe{Make: testcase.Absent})
		save("on", phrases.UncheckedThenChecked.Text(), 1, testcase.Recipe{Make: testcase.Absent}, fixed(f.Value))
	case f.Kind == spec.SingleChoice && len(options) > 1:
		first, last := options[0], options[len(options)-1]
		save("to_last", phrases.OneThenAnother.With("first", first.Value, "last", last.Value), 0, fixed(first.Value), fixed(last.Value))
		save("to_first", phrases.OneThenAnother.With("first", last.Value, "last", first.Value), 1, fixed(last.Value), fixed(first.Value))
	case f.Kind == spec.MultipleChoice && len(options) > 1:
		all := make([]string, len(options))
		for i, o := range options {
			all[i] = o.Value
		}
		save("fewer", phrases.AllThenOne.Text(), 0, fixed(all...), fixed(all[0]))
		save("more", phrases.OneThenAll.Text(), 1, fixed(all[0]), fixed(all...))
	case testcase.Textual(f) && b.Maker.Sets[f.ID] != nil && testcase.RuleOf(f, spec.RuleRequired) == nil && testcase.RuleOf(f, spec.RuleSameAs) == nil:
		save("blank", phrases.FilledThenBlank.Text(), 0, testcase.Recipe{Make: testcase.Fresh}, testcase.Recipe{Make: testcase.Fixed})
	}
}

// updated tells whether a field's value is written into a row that stands.
func updated(form *spec.Form, f *spec.PreparedField) bool {
	return slices.ContainsFunc(form.Stored, func(s spec.Stored) bool {
		return s.Update != "" && s.When == "" && slices.ContainsFunc(s.Sorted(), func(c spec.NamedSource) bool { return c.From == f.ID })
	})
}

// stale sends a value for a field whose condition is false, as a page does that only hides what was filled in before.
func stale(b *testcase.Builder, f *spec.PreparedField) {
	if f.When == "" || f.Kind.Untouched() || f.Kind == spec.Upload || f.Secret || b.Driver != submission.HTTP {
		return
	}
	value, present := draft(b, f, b.Maker.BaseRecipe(f))
	if f.Kind == spec.Checkbox {
		value, present = f.Value, true
	}
	if !present || value == "" {
		return
	}
	assignments(b, f.When, f, func(replace map[string]testcase.Recipe) bool {
		vars, ok := varsOf(b, replace)
		if !ok || !f.Absent(vars) {
			return true
		}
		if e, ok := b.Expect(replace); !ok || e.Outcome != oracle.Accepted {
			return true
		}
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID(f.ID + ".stale"), Title: phrases.OfField.With("label", f.Label, "what", phrases.Stale.Text()), Row: f.ID, Technique: testcase.ErrorGuessing,
			Covers: testcase.Covering(testcase.CoversGuess, f.ID, "stale"), Mark: testcase.Mark{Scale: "guessed", At: 210, Label: "stale"},
			Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace), Extra: []submission.Pair{{Name: f.Name, Value: value}}}},
		})
		return false
	})
}
