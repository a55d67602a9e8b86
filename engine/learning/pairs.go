package learning

import (
	"context"
	"slices"
	"strconv"

	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/core/wording/phrases"
)

// maxPairs is how many pairs of fields are tried.
const maxPairs = 12

// pairs finds bounds of days and numbers that are another field's value: they move with it. Where they are in order, a rule says so; the bound itself
// is dropped, as it was only that of the day.
func (s *session) pairs(ctx context.Context, fields []*learn.Learned) error {
	left := maxPairs
	for _, b := range fields {
		at := slices.IndexFunc(b.Rules, func(r learn.Rule) bool { return r.Range != nil })
		for _, a := range fields {
			of, with := s.fieldOf(b), s.fieldOf(a)
			if at < 0 || a == b || of.Kind != with.Kind || of.Kind != spec.Date && of.Kind != spec.Number || left == 0 {
				continue
			}
			left--
			gone, err := s.pair(ctx, with, of, &b.Rules[at])
			if err != nil {
				return err
			}
			if gone {
				b.Rules = slices.Delete(b.Rules, at, at+1)
				break
			}
		}
	}
	return nil
}

// pair tells whether nothing of b's range is left once what moves with a is dropped.
func (s *session) pair(ctx context.Context, a, b *spec.Field, r *learn.Rule) (gone bool, err error) {
	if len(s.valid[a.ID]) != 1 {
		return false, nil
	}
	usual := s.valid[a.ID][0]
	greater, known := moved(a.Kind, usual, 1)
	if !known {
		return false, nil
	}
	for i, beyond := range r.Proofs {
		if low := i == 0 && r.Range.Min != ""; !low {
			accepted, err := s.together(ctx, a, greater, b, beyond.Value)
			if err != nil {
				return false, err
			}
			if accepted { // what was too great is not where the other is greater
				r.Range.Max = ""
			}
			continue
		}
		least, _ := moved(b.Kind, beyond.Value, 1)
		next, _ := moved(b.Kind, beyond.Value, 2)
		still, err := s.together(ctx, a, greater, b, least)
		if err != nil {
			return false, err
		}
		also, err := s.together(ctx, a, greater, b, next)
		if err != nil {
			return false, err
		}
		if !still && also { // what was enough is not where the other is greater, but one more is
			r.Range.Min = ""
			s.order(a, b, usual, least, beyond.Message)
		}
	}
	return r.Range.Min == "" && r.Range.Max == "", nil
}

// together submits two values, with all others as usual.
func (s *session) together(ctx context.Context, a *spec.Field, inA string, b *spec.Field, inB string) (bool, error) {
	values := s.vary()
	values[a.ID], values[b.ID] = []string{inA}, []string{inB}
	p, err := s.submit(ctx, values, "") // two fields differ from what is accepted
	return err == nil && p.Accepted(), err
}

// order remembers that b is at least what a is, or more.
func (s *session) order(a, b *spec.Field, usual, least, message string) {
	sign := ""
	switch more, _ := moved(a.Kind, usual, 1); least {
	case usual:
		sign = ">="
	case more:
		sign = ">"
	default:
		return // a distance of its own, which is left to the tester
	}
	rule := map[string]any{"id": b.ID + "_order", "must_hold": b.ID + " " + sign + " " + a.ID, "at_field": b.ID}
	if message != "" {
		rule["message"] = message
	}
	s.across = append(s.across, rule)
}

// sayOrders adds to a draft which fields are in order.
func (s *session) sayOrders(d *draft.Draft) {
	if len(s.across) > 0 && len(s.form.Across) == 0 {
		d.Say("across", s.across, phrases.LearnedFrom.With("n", s.made))
	}
}

// moved is a day or a whole number so many further; known is false for other values.
func moved(kind spec.Kind, value string, by int) (text string, known bool) {
	if kind == spec.Number {
		n, err := strconv.Atoi(value)
		return strconv.Itoa(n + by), err == nil
	}
	day, err := values.ParseDate(value)
	if err != nil {
		return "", false
	}
	return day.UTC().AddDate(0, 0, by).Format(values.DateLayout), true
}
