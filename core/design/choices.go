package design

import "oddtick/core/spec"

// choices takes each option once.
func (s *sheet) choices(f *spec.PreparedField) {
	if f.Kind != spec.OneChoice && f.Kind != spec.SeveralChoices {
		return
	}
	for i, o := range f.Options {
		if o.Value == "" {
			continue
		}
		label := o.Label
		if label == "" {
			label = o.Value
		}
		s.one(Quick, f, "option."+o.Value, label, EachChoice, []string{"option " + f.ID + " " + o.Value}, Recipe{Make: Fixed, Text: o.Value}, Mark{"choice", float64(i), o.Value})
	}
}
