package oracle

import (
	"strings"

	"oddtick/core/spec"
	"oddtick/core/submission"
)

// MistakeOf is the mistake in a submission that breaks a rule in the browser: the values of the rule's field, and its message. It is
// false where the submission does not break the rule alone.
func MistakeOf(p *spec.Prepared, w *World, s *submission.Submission, rule *spec.PreparedRule) (*submission.Mistake, bool) {
	e := Expect(p, w, s)
	for _, m := range e.Messages {
		if m.Rule == rule.ID && len(e.Failing) == 1 {
			return &submission.Mistake{Name: rule.Field.Name, Value: strings.Join(s.Values(rule.Field.Name), ", "), Message: m, MessageOn: rule.MessageOn}, true
		}
	}
	return nil, false
}
