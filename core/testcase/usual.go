package testcase

import (
	"fmt"
	"slices"
	"strconv"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// StepOf is the distance to the next number: the step, or one in the last place of the bounds or of the decimals allowed.
func StepOf(f *spec.PreparedField) values.Decimal {
	if r := RuleOf(f, spec.RuleStep); r != nil {
		return r.By
	}
	scale := 0
	if r := RuleOf(f, spec.RuleDecimals); r != nil {
		scale = r.Rule.Decimals.Max
	}
	if r := RuleOf(f, spec.RuleRange); r != nil {
		for _, b := range []*values.Decimal{r.MinNumber, r.MaxNumber} {
			if b != nil {
				scale = max(scale, b.Scale())
			}
		}
	}
	d, err := values.ParseDecimal("1e-" + strconv.Itoa(scale))
	if err != nil {
		panic(err)
	}
	return d
}

// BaseNumber is a usual number: it passes the rules of every layer where one does, else the server's.
func BaseNumber(f *spec.PreparedField) string {
	if f.Example != "" {
		return f.Example
	}
	usual := serverNumber(f)
	if passesEveryLayer(f, usual) {
		return usual
	}
	for _, r := range f.Rules {
		var candidates []values.Decimal
		switch {
		case r.Kind == spec.RuleStep:
			candidates = append(candidates, r.From.Add(r.By), r.From)
		case r.Kind == spec.RuleRange && r.MinNumber != nil:
			candidates = append(candidates, r.MinNumber.Add(StepOf(f)), *r.MinNumber)
		}
		if r.Kind == spec.RuleRange && r.MaxNumber != nil {
			candidates = append(candidates, r.MaxNumber.Sub(StepOf(f)), *r.MaxNumber)
		}
		for _, n := range candidates {
			if passesEveryLayer(f, n.String()) {
				return n.String()
			}
		}
	}
	return usual
}

// passesEveryLayer tells whether a value passes all rules of its own form on the reference day, those of browser and database too.
func passesEveryLayer(f *spec.PreparedField, text string) bool {
	v := f.ValueOf(text, true)
	for _, r := range f.Rules {
		if !r.Passes(&v, ReferenceDay) {
			return false
		}
	}
	return true
}

// hasInAnyLayer tells whether a field has a rule of one of the kinds, in whichever layer.
func hasInAnyLayer(f *spec.PreparedField, kinds ...spec.RuleKind) bool {
	return slices.ContainsFunc(f.Rules, func(r *spec.PreparedRule) bool { return slices.Contains(kinds, r.Kind) })
}

// serverNumber is a usual number by the server's rules.
func serverNumber(f *spec.PreparedField) string {
	base := values.Whole(1)
	r := RuleOf(f, spec.RuleRange)
	if r == nil {
		return base.String()
	}
	switch {
	case r.MinNumber != nil:
		base = r.MinNumber.Add(StepOf(f))
		if r.MaxNumber != nil && base.Cmp(*r.MaxNumber) > 0 {
			base = *r.MinNumber
		}
	case r.MaxNumber != nil && r.MaxNumber.Cmp(base) < 0:
		base = r.MaxNumber.Sub(StepOf(f))
	}
	return base.String()
}

func ShiftText(text string, days int) string {
	b, err := values.ParseDateBound(text)
	if err == nil && !b.Relative() {
		return b.Shift(days).On(ReferenceDay).Format(values.DateLayout)
	}
	sign := "+"
	if days < 0 {
		sign, days = "-", -days
	}
	return fmt.Sprintf("%s %s %d day", text, sign, days)
}

// BaseDay is a day well within the range, that tells day and month apart.
func BaseDay(f *spec.PreparedField) Recipe {
	if f.Example != "" {
		return Recipe{Make: Fixed, Text: f.Example}
	}
	days := []string{"1974-03-07", "1990-05-07", "2020-05-07", "2026-03-07", "2035-05-07"}
	for _, day := range days {
		if passesEveryLayer(f, day) {
			return Recipe{Make: Fixed, Text: day}
		}
	}
	if day, ok := boundInEveryLayer(f); ok {
		return day
	}
	for _, day := range days {
		if Passes(f, day, nil, ReferenceDay) {
			return Recipe{Make: Fixed, Text: day}
		}
	}
	r := RuleOf(f, spec.RuleRange)
	for _, bound := range []spec.Scalar{r.Rule.Range.Min, r.Rule.Range.Max} {
		if bound != "" {
			return Recipe{Make: Day, Text: string(bound), Zone: r.Rule.Range.Zone}
		}
	}
	return Recipe{Make: Fixed, Text: "2026-03-22"}
}

// boundInEveryLayer is a bound of a layer's range that the rules of all layers let pass.
func boundInEveryLayer(f *spec.PreparedField) (Recipe, bool) {
	for _, r := range f.Rules {
		if r.Kind != spec.RuleRange {
			continue
		}
		for _, bound := range []spec.Scalar{r.Rule.Range.Min, r.Rule.Range.Max} {
			if day, err := values.ParseDateBound(string(bound)); err == nil && passesEveryLayer(f, day.On(ReferenceDay).Format(values.DateLayout)) {
				return Recipe{Make: Day, Text: string(bound), Zone: r.Rule.Range.Zone}, true
			}
		}
	}
	return Recipe{}, false
}

// FarLength is a length far beyond every limit of the field.
const FarLength = 5000

// ChosenTogether parts the values of several choices in a recipe's text (U+001F, unit separator).
const ChosenTogether = "\x1f"
