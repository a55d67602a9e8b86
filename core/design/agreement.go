package design

import (
	"fmt"
	"slices"

	"oddtick/core/expression"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// agreement covers fields that must agree or differ.
func agreement(b *testcase.Builder) {
	for _, f := range b.Maker.Form.Fields {
		if r := testcase.RuleOf(f, spec.RuleSameAs); r != nil {
			agrees(b, f, r)
		}
		if r := testcase.RuleOf(f, spec.RuleDifferentFrom); r != nil {
			across(b, testcase.Quick, r, "same", phrases.SameAs.With("label", f.Label, "other", r.Other.Label), map[string]testcase.Recipe{f.ID: {Make: testcase.Same, Of: r.Other.ID}}, testcase.Mark{Scale: r.ID, Name: r.Name, At: 1, Label: "same"})
		}
	}
}

// distances are two times as far apart as a rule across fields just lets them be, and just does not.
func distances(b *testcase.Builder) {
	used := map[string]bool{}
	for _, r := range b.Maker.Form.Across {
		for i, from := range r.Names {
			for _, to := range r.Names[i+1:] {
				if from.Kind != to.Kind || !slices.Contains([]spec.Kind{spec.Date, spec.Time, spec.DateTime}, from.Kind) {
					continue
				}
				for k, shift := range testcase.Apart(to, expression.ConstantsOf(r.Expression)) {
					units := shift / testcase.UnitOf(to)
					replace := map[string]testcase.Recipe{to.ID: {Make: testcase.Same, Of: from.ID, Shift: shift}}
					if e, ok := b.Expect(replace); !ok || len(e.Failing) > 1 || len(e.Failing) == 1 && e.Failing[0].Rule != r.ID {
						continue
					}
					words, title := distance(to.Kind, units), phrases.ApartBehind
					if units == 0 {
						title = phrases.TogetherWith
					}
					at := fmt.Sprint(from.ID, to.ID, shift)
					if used[at] {
						continue
					}
					used[at] = true
					across(b, testcase.Standard, r, fmt.Sprintf("%s.%s%+d", to.ID, from.ID, units), title.With("label", to.Label, "distance", words, "other", from.Label), replace, testcase.Mark{Scale: r.ID + " distance", Name: r.Name + " distance", At: float64(units) + float64(k)/100, Label: fmt.Sprintf("%+d %s", units, map[spec.Kind]string{spec.Date: "days", spec.Time: "minutes", spec.DateTime: "hours"}[to.Kind])})
				}
			}
		}
	}
}

// distance is how far a time lies behind another.
func distance(kind spec.Kind, units int) prose.Text {
	of := map[spec.Kind][5]phrases.Phrase{
		spec.Date:     {phrases.DaysBefore, phrases.DayBefore, phrases.SameDay, phrases.DayAfter, phrases.DaysAfter},
		spec.Time:     {phrases.MinutesBefore, phrases.MinuteBefore, phrases.SameMinute, phrases.MinuteAfter, phrases.MinutesAfter},
		spec.DateTime: {phrases.HoursBefore, phrases.HourBefore, phrases.SameHour, phrases.HourAfter, phrases.HoursAfter},
	}[kind]
	return of[max(-2, min(units, 2))+2].With("n", max(units, -units))
}

func across(b *testcase.Builder, depth testcase.Depth, r *spec.PreparedRule, role string, title prose.Text, replace map[string]testcase.Recipe, m testcase.Mark) {
	b.Add(depth, &testcase.Case{
		ID: b.ID(r.ID + "." + role), Title: title, Row: testcase.RowAcross, Technique: testcase.Partitioning, Covers: testcase.Covering(testcase.CoversPartition, r.ID, role), Mark: m,
		Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, replace)}},
	})
}

func agrees(b *testcase.Builder, f *spec.PreparedField, r *spec.PreparedRule) {
	across(b, testcase.Standard, r, "same", phrases.OfField.With("label", f.Label, "what", phrases.SameAgain.Text()), nil, testcase.Mark{Scale: r.ID, Name: r.Name, At: 0, Label: "same"})
	across(b, testcase.Quick, r, "differs", phrases.OfField.With("label", f.Label, "what", phrases.AnotherValue.Text()), map[string]testcase.Recipe{f.ID: {Make: testcase.Fresh}}, testcase.Mark{Scale: r.ID, Name: r.Name, At: 1, Label: "different"})
	across(b, testcase.Standard, r, "case", phrases.OfField.With("label", f.Label, "what", phrases.CapitalsDiffer.Text()), map[string]testcase.Recipe{f.ID: {Make: testcase.Same, Of: r.Other.ID, Change: testcase.OtherCase}}, testcase.Mark{Scale: r.ID, Name: r.Name, At: 2, Label: "capitals only"})
}
