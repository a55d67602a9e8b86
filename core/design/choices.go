package design

import (
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// choices takes each option once.
func choices(b *testcase.Builder, f *spec.PreparedField) {
	if f.Kind != spec.SingleChoice && f.Kind != spec.MultipleChoice {
		return
	}
	if f.Kind == spec.MultipleChoice && len(f.Options) > 1 {
		all := make([]string, len(f.Options))
		for i, o := range f.Options {
			all[i] = o.Value
		}
		covers := testcase.Covering(testcase.CoversPartition, f.ID, "several")
		b.AddFieldCase(testcase.Quick, f, "several", phrases.AllChosen.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed, Text: strings.Join(all, testcase.ChosenTogether)}, testcase.Mark{Scale: "choice", At: float64(len(all)), Label: "all"})
	}
	for i, o := range f.Options {
		if o.Value == "" {
			continue
		}
		label := o.Label
		if label == "" {
			label = o.Value
		}
		b.AddFieldCase(testcase.Quick, f, "option."+o.Value, prose.Text(label), testcase.EachChoice, testcase.Covering(testcase.CoversOption, f.ID, o.Value), testcase.Recipe{Make: testcase.Fixed, Text: o.Value}, testcase.Mark{Scale: "choice", At: float64(i), Label: o.Value, Given: true})
	}
}
