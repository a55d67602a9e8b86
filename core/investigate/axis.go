package investigate

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// Axis is one end of a rule's range as a line of whole numbers, on which a site's real limit is looked for: lengths, or steps of a
// number or days away from the promised bound. What is promised to be taken lies at 0 and, for the upper end, below it.
type Axis struct {
	d    *testcase.Maker
	rule *spec.PreparedRule
	end  testcase.End
	// Far is the farthest place beyond the bound at which a limit is looked for; Near the farthest within it.
	Far, Near int64
	// Open: nothing is promised at this end, so that any value is promised to be taken. The usual value lies at 0.
	Open bool
}

// How far a limit is looked for that nobody promised.
const (
	openLength = 70_000  // beyond 65,535 bytes, where a column of type TEXT ends
	openNumber = 1 << 40 // steps: beyond 32 bits
)

// AxisOf is an end of a rule of length or range, or, of a field that is named in place of a rule, the end at which nothing is promised.
// The error says why there is none.
func AxisOf(m *testcase.Maker, ruleID string, end testcase.End) (*Axis, error) {
	if f := m.Form.Field(ruleID); f != nil {
		return openAxis(m, f, end)
	}
	for _, f := range m.Form.Fields {
		for _, r := range f.Rules {
			if r.ID != ruleID {
				continue
			}
			s := &Axis{d: m, rule: r, end: end, Far: 1 << 20, Near: 1 << 20}
			lower := end == testcase.Lower
			switch {
			case r.Kind == spec.RuleLength && lower && r.Limit.Min > 0:
				s.Far, s.Near = int64(r.Limit.Min)-1, s.within(r.Limit.Max-r.Limit.Min)
				return s, nil
			case r.Kind == spec.RuleLength && !lower && r.Limit.Max >= 0:
				s.Far, s.Near = max(testcase.FarLength, int64(r.Limit.Max)*10)-int64(r.Limit.Max), s.within(r.Limit.Max-max(1, r.Limit.Min))
				return s, nil
			case r.Kind == spec.RuleRange && (lower && (r.MinNumber != nil || r.MinDay != nil) || !lower && (r.MaxNumber != nil || r.MaxDay != nil)):
				if r.MinDay != nil || r.MaxDay != nil {
					s.Far, s.Near = testcase.WidestSpan*10, testcase.WidestSpan
				}
				return s, nil
			}
			return nil, fmt.Errorf("the rule %s has no limit at that end; a limit is looked for at an end of a length, or of a range of numbers or days", ruleID)
		}
	}
	return nil, fmt.Errorf("the form has no rule %s", ruleID)
}

// openAxis is an end of a field's lengths, numbers or days that no rule bounds.
func openAxis(m *testcase.Maker, f *spec.PreparedField, end testcase.End) (*Axis, error) {
	for _, r := range f.Rules {
		if s, err := AxisOf(m, r.ID, end); err == nil {
			return nil, fmt.Errorf("%s has a limit at that end: %s", f.ID, s.rule.ID)
		}
	}
	r := &spec.PreparedRule{ID: f.ID + ".open", Field: f, Rule: &spec.Rule{Range: &spec.RangeRule{}}}
	s := &Axis{d: m, rule: r, end: end, Open: true, Near: 0}
	switch {
	case f.Kind == spec.Number:
		usual, err := usualText(m, f)
		if err != nil {
			return nil, err
		}
		n, err := values.ParseDecimal(usual)
		if err != nil {
			return nil, fmt.Errorf("the usual value of %s, %q, is not a number", f.ID, usual)
		}
		r.Kind, r.MinNumber, r.MaxNumber, s.Far = spec.RuleRange, &n, &n, openNumber
		return s, nil
	case f.Kind == spec.Date:
		usual, err := usualText(m, f)
		if err != nil {
			return nil, err
		}
		r.Kind, r.Rule.Range.Min, r.Rule.Range.Max, s.Far = spec.RuleRange, spec.Scalar(usual), spec.Scalar(usual), testcase.WidestSpan
		return s, nil
	case m.Sets[f.ID] == nil:
		return nil, fmt.Errorf("%s has neither lengths, numbers nor days", f.ID)
	case end == testcase.Lower:
		return nil, fmt.Errorf("a length has no limit below; leave %s blank to see whether it is required", f.ID)
	}
	usual, err := usualText(m, f)
	if err != nil {
		return nil, err
	}
	r.Limit.Unit = values.Characters
	if length := testcase.RuleOf(f, spec.RuleLength); length != nil {
		r.Limit.Unit = length.Limit.Unit
	}
	least := max(1, r.Limit.Unit.Length(usual))
	r.Kind, r.Limit.Max, s.Far = spec.RuleLength, least, openLength-int64(least)
	if _, err := s.Case(1); err != nil {
		return nil, fmt.Errorf("no rule bounds the length of %s, and yet: %w", f.ID, err)
	}
	return s, nil
}

// usualText is a field's usual value on a reference day.
func usualText(m *testcase.Maker, f *spec.PreparedField) (string, error) {
	all, err := m.Resolve(&testcase.Case{ID: m.Form.Form.Form + "/" + f.ID + ".usual", Steps: []testcase.Step{{Inputs: m.BaseInputs()}}}, 0, &testcase.Env{Now: testcase.ReferenceDay})
	return all[f.ID], err
}

// OpenEndOf is the field of a case with a usual value, where nothing is promised of how long or large its values may be.
func OpenEndOf(m *testcase.Maker, c *testcase.Case) (field string, ok bool) {
	if len(c.Steps) != 1 || c.Last().Driver != submission.HTTP {
		return "", false
	}
	for _, what := range c.Covers {
		if what.Kind == testcase.CoversPartition && what.Point == testcase.ValidPoint {
			if _, err := AxisOf(m, what.Of, testcase.Upper); err == nil {
				return what.Of, true
			}
		}
	}
	return "", false
}

// EndOf is the end of a rule's range that a case of boundary values is about; ok is false for any other case, and where no limit can be
// looked for.
func EndOf(m *testcase.Maker, c *testcase.Case) (ruleID string, end testcase.End, ok bool) {
	if len(c.Steps) != 1 || c.Last().Driver != submission.HTTP {
		return "", "", false
	}
	for _, what := range c.Covers {
		if what.Kind != testcase.CoversBoundary {
			continue
		}
		for _, end := range []testcase.End{testcase.Lower, testcase.Upper} {
			if _, err := AxisOf(m, what.Of, end); err == nil && strings.HasPrefix(what.Point, string(end)) {
				return what.Of, end, true
			}
		}
	}
	return "", "", false
}

// within is how far inside a range can be looked, where its other end is known.
func (s *Axis) within(span int) int64 {
	if span < 0 {
		return s.Near
	}
	return int64(span)
}

// Text is a place on the scale as a tester would say it.
func (s *Axis) Text(at int64) string {
	switch r := s.rule; {
	case r.Kind == spec.RuleLength:
		return strconv.FormatInt(s.length(at), 10) + " " + string(r.Limit.Unit)
	case s.numeric():
		return s.number(at)
	default:
		return s.day(at)
	}
}

// Rule is the rule whose limit is looked for.
func (s *Axis) Rule() *spec.PreparedRule { return s.rule }

func (s *Axis) numeric() bool { return s.rule.MinNumber != nil || s.rule.MaxNumber != nil }

// outward is a step away from what is promised to be taken.
func (s *Axis) outward(at int64) int64 {
	if s.end == testcase.Lower {
		return -at
	}
	return at
}

func (s *Axis) length(at int64) int64 {
	if s.end == testcase.Lower {
		return int64(s.rule.Limit.Min) - at
	}
	return int64(s.rule.Limit.Max) + at
}

func (s *Axis) number(at int64) string {
	bound := s.rule.MaxNumber
	if s.end == testcase.Lower {
		bound = s.rule.MinNumber
	}
	return bound.Add(testcase.StepOf(s.rule.Field).Times(s.outward(at))).String()
}

func (s *Axis) day(at int64) string {
	bound := s.rule.Rule.Range.Max
	if s.end == testcase.Lower {
		bound = s.rule.Rule.Range.Min
	}
	if at == 0 {
		return string(bound)
	}
	return testcase.ShiftText(string(bound), int(s.outward(at)))
}

// Case sends a value at a place on the scale: at most 0 is promised to be taken. The error says that there is no such value.
func (s *Axis) Case(at int64) (*testcase.Case, error) {
	r := s.rule
	var recipe testcase.Recipe
	switch {
	case r.Kind == spec.RuleLength:
		recipe = testcase.Recipe{Make: testcase.Fresh, Unit: r.Limit.Unit, Length: int(s.length(at))}
		if at > 0 && !s.Open {
			recipe.Breaks = testcase.LocalID(r)
		}
	case s.numeric():
		recipe = testcase.Recipe{Make: testcase.Fixed, Text: s.number(at)}
	default:
		recipe = testcase.Recipe{Make: testcase.Day, Text: s.day(at), Zone: r.Rule.Range.Zone}
	}
	sheet := s.d.NewBuilder(context.Background(), map[testcase.Draft]string{})
	role := fmt.Sprintf("%s.%s.at.%d", testcase.LocalID(r), s.end, at)
	sheet.AddFieldCase(testcase.Thorough, r.Field, role, prose.Text(s.Text(at)), testcase.Boundaries, nil, recipe, testcase.Mark{Scale: testcase.ScaleOf(r.Field), At: float64(at), Label: s.Text(at)})
	if c := sheet.Seen[sheet.ID(r.Field.ID+"."+role)]; c != nil && c.Last().Driver == submission.HTTP {
		return c, nil
	}
	why := phrases.NoValueHas.With("value", s.Text(at))
	if n := len(sheet.Omitted); n > 0 {
		why = sheet.Omitted[n-1].Why
	}
	return nil, fmt.Errorf("%s: %s", s.Text(at), why)
}
