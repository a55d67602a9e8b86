package testcase

import (
	"fmt"
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

func BaseNumber(f *spec.PreparedField) string {
	base := values.Whole(1)
	if f.Example != "" {
		return f.Example
	}
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
	for _, day := range []string{"1974-03-07", "1990-05-07", "2020-05-07", "2026-03-07", "2035-05-07"} {
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

// FarLength is a length far beyond every limit of the field.
const FarLength = 5000

// ChosenTogether parts the values of several choices in a recipe's text (U+001F, unit separator).
const ChosenTogether = "\x1f"
