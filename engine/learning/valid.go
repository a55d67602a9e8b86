package learning

import (
	"cmp"
	"context"
	"maps"
	"strings"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/spec"
)

// findValid submits until something is accepted, and once more with varied values.
func (s *session) findValid(ctx context.Context) error {
	last, err := s.tryValues(ctx)
	if err != nil {
		return err
	}
	switch {
	case last.Accepted():
		s.without = len(s.seen) - 1
		if err := s.fillSecrets(ctx); err != nil {
			return err
		}
	case s.account() != nil && s.hasSecrets(): // they are asked for
		s.withSecrets, s.mark = true, len(s.target.Journal)
		if last, err = s.tryValues(ctx); err != nil {
			return err
		}
		s.without = len(s.seen) - 1
	}
	if last.Accepted() {
		return s.findFixed(ctx)
	}
	none := &NotAccepted{Attempts: s.made, Messages: last.SeenMessages(s.form), Values: maps.Clone(s.valid), Failure: last.Step.Failure}
	for i := range s.form.Fields {
		if f := &s.form.Fields[i]; f.IsSecret() {
			none.Values[f.ID] = []string{"…"}
		}
	}
	if x := last.Step.First(); x != nil {
		none.Status = x.Status
	}
	return none
}

// tryValues submits values until some are accepted, or there are none left to try. It returns the last submission.
func (s *session) tryValues(ctx context.Context) (last *draft.Probe, err error) {
	designer, err := design.New(s.target.Form, s.target.Config.Site)
	if err != nil {
		return nil, err
	}
	sample := designer.Sample(s.now.UnixMilli(), s.now)
	for i := range s.form.Fields {
		f := &s.form.Fields[i]
		if first, is := s.First[f.ID]; is {
			sample[f.ID] = first
		}
		if own := s.ofAccount(f); own != "" {
			sample[f.ID] = []string{own}
		}
		if s.leftBlank(f) {
			sample[f.ID] = []string{""}
		}
	}
	s.tries = newCandidates(s.form, sample, s.Values, func(f *spec.Field) bool { return s.leftBlank(f) || s.ofAccount(f) != "" })
	s.tries.listed(ctx, s.target)
	for range cmp.Or(s.Attempts, usualAttempts) {
		s.valid = s.tries.values()
		s.repeat(s.valid)
		if last, err = s.submit(ctx, s.valid, ""); err != nil || last.Accepted() {
			return last, err
		}
		if !s.tries.mend(last.SeenMessages(s.form)) {
			break
		}
	}
	return last, nil
}

// findFixed sends varied values, and keeps those as they are that are then refused. Digits alone may be a number with bounds, and are varied only
// where the same ones are refused.
func (s *session) findFixed(ctx context.Context) error {
	digits := map[string]bool{}
	for id, list := range s.valid {
		if len(list) == 1 && list[0] != "" && strings.Trim(list[0], "0123456789") == "" {
			digits[id], s.fixed[id] = true, true
		}
	}
	for range 2 * len(s.form.Fields) {
		p, err := s.submit(ctx, s.vary(), "")
		if err != nil || p.Accepted() {
			return err
		}
		changed := false
		for _, m := range p.SeenMessages(s.form) {
			switch {
			case m.Field == "":
			case digits[m.Field]:
				delete(digits, m.Field)
				delete(s.fixed, m.Field)
				changed = true
			case !s.fixed[m.Field]:
				s.fixed[m.Field], changed = true, true
			}
		}
		if !changed {
			break // what is refused is not said
		}
	}
	return s.takingBack(ctx)
}

// takingBack takes back what was written, and tells by the same values whether that was in their way.
func (s *session) takingBack(ctx context.Context) error {
	if len(s.target.Databases) == 0 || s.takesBack {
		return nil
	}
	if _, err := s.target.CleanUp(ctx, nil); err != nil {
		return nil // without the rights to delete rows they stay
	}
	s.takesBack, s.mark = true, 0
	p, err := s.submit(ctx, s.vary(), "")
	if err == nil && !p.Accepted() {
		s.takesBack = false
	}
	return err
}
