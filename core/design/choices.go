package design

import (
	"strings"

	"oddtick/core/spec"
)

// chosenTogether parts the values of several choices in a recipe's text (U+001F, unit separator).
const chosenTogether = "\x1f"

// choices takes each option once.
func (s *sheet) choices(f *spec.PreparedField) {
	if f.Kind != spec.OneChoice && f.Kind != spec.SeveralChoices {
		return
	}
	if f.Kind == spec.SeveralChoices && len(f.Options) > 1 {
		all := make([]string, len(f.Options))
		for i, o := range f.Options {
			all[i] = o.Value
		}
		covers := cover(CoversPartition, f.ID, "several")
		s.one(Quick, f, "several", "all of them", Partitioning, covers, Recipe{Make: Fixed, Text: strings.Join(all, chosenTogether)}, Mark{"choice", float64(len(all)), "all"})
	}
	for i, o := range f.Options {
		if o.Value == "" {
			continue
		}
		label := o.Label
		if label == "" {
			label = o.Value
		}
		s.one(Quick, f, "option."+o.Value, label, EachChoice, cover(CoversOption, f.ID, o.Value), Recipe{Make: Fixed, Text: o.Value}, Mark{"choice", float64(i), o.Value})
	}
}
