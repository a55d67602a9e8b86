package design

import (
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// uniqueness submits a new value twice: the second time the same, and in every form that must count as the same.
func uniqueness(b *testcase.Builder) {
	for _, f := range b.Maker.Form.Fields {
		if r := testcase.RuleOf(f, spec.RuleNoOverlap); r != nil {
			overlaps(b, f, r)
		}
		r := testcase.RuleOf(f, spec.RuleUnique)
		if r == nil || b.Maker.Sets[f.ID] == nil {
			continue
		}
		if len(r.Rule.Unique.Also) > 0 {
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".other_table", phrases.OfOtherTable.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "other table"), testcase.Recipe{Make: testcase.OfOtherTable}, textMark(b, f, "other table", 10))
		}
		if b.Maker.Updates(r) {
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".own", phrases.OwnValue.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "own"), testcase.Recipe{Make: testcase.OnPage}, textMark(b, f, "own value", 5))
			b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".anothers", phrases.OfAnotherRow.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "same"), testcase.Recipe{Make: testcase.OfRow}, textMark(b, f, "another's", 6))
			if survives(b, f, testcase.OtherCase) && r.IgnoringCase {
				b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".own_capitals", phrases.OwnInCapitals.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "own in other capitals"), testcase.Recipe{Make: testcase.OnPage, Change: testcase.OtherCase}, textMark(b, f, "own, other capitals", 7))
				b.AddFieldCase(testcase.Standard, f, testcase.LocalID(r)+".anothers_capitals", phrases.OfAnotherInCapitals.Text(), testcase.Partitioning, testcase.Covering(testcase.CoversPartition, r.ID, "other capitals"), testcase.Recipe{Make: testcase.OfRow, Change: testcase.OtherCase}, textMark(b, f, "another's, other capitals", 8))
			}
			continue
		}
		twice(b, testcase.Standard, f, r, "new", "new", phrases.TwiceNew, 0, testcase.Recipe{Make: testcase.Fresh})
		twice(b, testcase.Quick, f, r, "same", "same", phrases.TwiceSame, 1, testcase.Recipe{Make: testcase.Same, Of: f.ID})
		together(b, f, r)
		amongOthers(b, f, r)
		if survives(b, f, testcase.OtherCase) && (r.IgnoringCase || slices.Contains(f.Normalize, spec.Lower) || slices.Contains(f.Normalize, spec.Upper)) {
			twice(b, testcase.Quick, f, r, "case", "other capitals", phrases.TwiceCapitals, 2, testcase.Recipe{Make: testcase.Same, Of: f.ID, Change: testcase.OtherCase})
		}
		if slices.Contains(f.Normalize, spec.Trim) {
			twice(b, testcase.Standard, f, r, "spaces", "spaces around", phrases.TwiceSpaces, 3, testcase.Recipe{Make: testcase.Same, Of: f.ID, Change: testcase.SpacesAround})
		}
		if at := slices.IndexFunc(f.Normalize, func(s spec.NormalizeStep) bool { return s.Strip != "" }); at >= 0 {
			sign, _ := utf8.DecodeRuneInString(f.Normalize[at].Strip)
			twice(b, testcase.Standard, f, r, "signs", "signs inside", phrases.TwiceSigns, 4, testcase.Recipe{Make: testcase.Same, Of: f.ID, Change: testcase.SignInside, Sign: string(sign)})
		}
		if at := slices.IndexFunc(f.Normalize, func(s spec.NormalizeStep) bool { return s.Phone != "" }); at >= 0 {
			twice(b, testcase.Standard, f, r, "national", "national number", phrases.TwiceNational, 5, testcase.Recipe{Make: testcase.Same, Of: f.ID, Change: testcase.OnlyItsZero, Sign: f.Normalize[at].Phone})
		}
	}
}

// amongOthers submits a value twice where it need be unique only among rows that hold the same: the second time with another value in each
// of the fields that say so.
func amongOthers(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	for i, column := range slices.Sorted(maps.Keys(r.Rule.Unique.Same)) {
		by := b.Maker.Form.Field(r.Rule.Unique.Same[column])
		role := "elsewhere." + by.ID
		one, other, two := twoOf(b, by)
		kept := asked(b, f, r)
		if !two || kept == nil {
			b.OmitCase(r.ID+"."+role, phrases.NoOtherValue.With("label", by.Label))
			continue
		}
		with := func(value, group testcase.Recipe) map[string]testcase.Recipe {
			out := maps.Clone(kept)
			for _, id := range r.Rule.Unique.Same {
				out[id] = testcase.Recipe{Make: testcase.Same, Of: id}
			}
			out[f.ID], out[by.ID] = value, group
			return out
		}
		first := with(testcase.Recipe{Make: testcase.Fresh}, one)
		for _, id := range r.Rule.Unique.Same {
			if id != by.ID {
				delete(first, id)
			}
		}
		b.Add(testcase.Quick, &testcase.Case{
			ID: b.ID(r.ID + "." + role), Title: phrases.TwiceElsewhere.With("label", f.Label, "other", by.Label), Row: testcase.RowUniqueness, Technique: testcase.Partitioning,
			Covers: testcase.Covering(testcase.CoversPartition, r.ID, role), Mark: testcase.Mark{Scale: f.Label, Name: f.Label, At: 4 + float64(i)/10, Label: "elsewhere"},
			Steps: []testcase.Step{
				{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, first)},
				{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(1, with(testcase.Recipe{Make: testcase.Same, Of: f.ID}, other))},
			},
		})
	}
}

// twoOf are recipes of two values of a field that differ: options, or new ones.
func twoOf(b *testcase.Builder, f *spec.PreparedField) (one, other testcase.Recipe, ok bool) {
	fixed := func(text string) testcase.Recipe { return testcase.Recipe{Make: testcase.Fixed, Text: text} }
	switch {
	case len(f.Options) > 1:
		return fixed(f.Options[0].Value), fixed(f.Options[1].Value), true
	case len(f.Options) == 0 && b.Maker.Sets[f.ID] != nil:
		return testcase.Recipe{Make: testcase.Fresh}, testcase.Recipe{Make: testcase.Fresh}, true
	}
	return one, other, false
}

// maxTogether is how many submissions are released at the same moment.
const maxTogether = 6

// together submits one new value several times at the same moment, each time by another visitor, where acceptance writes it into a
// new row: just one may get it.
func together(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	inserts := slices.ContainsFunc(b.Maker.Form.Form.Stored, func(st spec.Stored) bool { return st.Insert == r.Table })
	if !inserts || b.Driver != submission.HTTP {
		return
	}
	kept := asked(b, f, r)
	if kept == nil {
		return // the cases of two visitors say so
	}
	with := func(value testcase.Recipe) map[string]testcase.Recipe {
		out := maps.Clone(kept)
		out[f.ID] = value
		return out
	}
	steps := []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, with(testcase.Recipe{Make: testcase.Fresh}))}}
	amongSame(kept, r)
	for i := 1; i < maxTogether; i++ {
		steps = append(steps, testcase.Step{Do: testcase.Submit, Driver: b.Driver, Concurrent: true, Inputs: b.Inputs(i, with(testcase.Recipe{Make: testcase.Same, Of: f.ID}))})
	}
	b.Add(testcase.Standard, &testcase.Case{
		ID: b.ID(r.ID + ".together"), Title: phrases.AtOnce.With("label", f.Label, "n", maxTogether), Row: testcase.RowUniqueness, Technique: testcase.ErrorGuessing,
		Covers: testcase.Covering(testcase.CoversPartition, r.ID, "together"), Mark: testcase.Mark{Scale: f.Label, Name: f.Label, At: 9, Label: "same moment"}, Steps: steps,
	})
}

// overlaps submits a free time, and then one that lies to it in each way two times can lie to each other.
func overlaps(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	unit := testcase.UnitOf(f)
	to := r.Other
	at := func(of *spec.PreparedField, units int) testcase.Recipe {
		return testcase.Recipe{Make: testcase.Same, Of: of.ID, Shift: units * unit}
	}
	kept := map[string]testcase.Recipe{}
	for _, id := range r.Rule.NoOverlap.Same {
		kept[id] = testcase.Recipe{Make: testcase.Same, Of: id}
	}
	// the first time takes three units, so that another fits into it
	first := map[string]testcase.Recipe{to.ID: {Make: testcase.Same, Of: f.ID, Shift: 3 * unit}}
	for i, w := range []struct {
		role     string
		how      phrases.Phrase
		depth    testcase.Depth
		from, to testcase.Recipe
	}{
		{"same", phrases.SameTime, testcase.Quick, at(f, 0), at(to, 0)},
		{"after", phrases.BeginningAfter, testcase.Quick, at(to, 1), at(to, 2)},
		{"before", phrases.EndingBefore, testcase.Standard, at(f, -2), at(f, -1)},
		{"meets_end", phrases.BeginningAtEnd, testcase.Standard, at(to, 0), at(to, 1)},
		{"meets_begin", phrases.EndingAtBegin, testcase.Standard, at(f, -1), at(f, 0)},
		{"within", phrases.Within, testcase.Standard, at(f, 1), at(to, -1)},
		{"around", phrases.Around, testcase.Standard, at(f, -1), at(to, 1)},
	} {
		second := maps.Clone(kept)
		second[f.ID], second[to.ID] = w.from, w.to
		b.Add(w.depth, &testcase.Case{
			ID: b.ID(r.ID + "." + w.role), Title: phrases.SecondPeriod.With("label", f.Label, "how", w.how.Text()), Row: testcase.RowUniqueness, Technique: testcase.Boundaries,
			Covers: testcase.Covering(testcase.CoversPartition, r.ID, w.role), Mark: testcase.Mark{Scale: f.Label, Name: f.Label, At: float64(i), Label: strings.ReplaceAll(w.role, "_", " ")},
			Steps: []testcase.Step{
				{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, first)},
				{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(1, second)},
			},
		})
	}
}

// amongSame lets a later submission hold what the first one did in the fields that say among which rows a value is unique.
func amongSame(recipes map[string]testcase.Recipe, r *spec.PreparedRule) {
	for _, id := range r.Rule.Unique.Same {
		if _, asked := recipes[id]; !asked {
			recipes[id] = testcase.Recipe{Make: testcase.Same, Of: id}
		}
	}
}

// survives tells whether a valid value still keeps the format rules after a change; one that does not says nothing of uniqueness.
func survives(b *testcase.Builder, f *spec.PreparedField, how string) bool {
	v, err := b.Maker.Sets[f.ID].Member("", nil, values.Want{Length: -1, Hint: b.Maker.Sets[f.ID].Hint(0, -1)})
	return err != nil || testcase.Passes(f, (&testcase.Recipe{Change: how}).Changed(v), nil, testcase.ReferenceDay)
}

// asked are the recipes of other fields with which a field is filled and a rule of it asked; nil where none are found.
func asked(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) map[string]testcase.Recipe {
	out := map[string]testcase.Recipe{}
	names := slices.Clone(f.WhenNames)
	condition := r.Rule.Condition()
	for _, n := range b.Maker.Form.Named(condition) {
		if n != f && !slices.Contains(names, n) {
			names = append(names, n)
		}
	}
	if len(names) == 0 {
		return out
	}
	choices := make([][]testcase.Recipe, len(names))
	for i, n := range names {
		choices[i], _ = b.Maker.Candidates(n, f.When, condition)
	}
	at := make([]int, len(choices))
	for more := true; more; more = testcase.Next(at, choices) {
		replace := map[string]testcase.Recipe{f.ID: {Make: testcase.Fresh}}
		for i, n := range names {
			replace[n.ID] = choices[i][at[i]]
		}
		probe := &testcase.Case{ID: r.ID, Steps: []testcase.Step{{Do: testcase.Submit, Driver: submission.HTTP, Inputs: b.Inputs(0, replace)}}}
		resolved, err := b.Maker.Resolve(probe, 0, &testcase.Env{Now: testcase.ReferenceDay, OnPage: map[string]string{}})
		if err != nil || b.Maker.LeftOut(resolved)[f.ID] {
			continue
		}
		vars := map[string]any{}
		for _, p := range b.Maker.Form.Fields {
			text, present := resolved[p.ID]
			v := p.ValueOf(text, present)
			vars[p.ID] = p.Var(&v)
		}
		if !r.Skipped(vars) {
			delete(replace, f.ID)
			return replace
		}
	}
	return nil
}

func twice(b *testcase.Builder, depth testcase.Depth, f *spec.PreparedField, r *spec.PreparedRule, role, label string, title phrases.Phrase, at float64, second testcase.Recipe) {
	kept := asked(b, f, r)
	if kept == nil {
		b.OmitCase(r.ID+"."+role, phrases.NoValuesForCondition.Text())
		return
	}
	with := func(value testcase.Recipe) map[string]testcase.Recipe {
		out := maps.Clone(kept)
		out[f.ID] = value
		return out
	}
	first := testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, with(testcase.Recipe{Make: testcase.Fresh}))}
	amongSame(kept, r)
	again := testcase.Step{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(1, with(second))}
	b.Add(depth, &testcase.Case{
		ID: b.ID(r.ID + "." + role), Title: title.With("label", f.Label), Row: testcase.RowUniqueness, Technique: testcase.Partitioning,
		Covers: testcase.Covering(testcase.CoversPartition, r.ID, role), Mark: testcase.Mark{Scale: f.Label, Name: f.Label, At: at, Label: label}, Steps: []testcase.Step{first, again},
	})
}
