package learn

import (
	"strings"

	"oddtick/core/spec"
)

// matchesSecret asks whether another secret than the account's is refused.
func (l *learner) matchesSecret() error {
	p, err := l.value(l.f.Usual + "x")
	switch {
	case err != nil:
		return err
	case broken(p) && l.f.Column != "":
		l.rule(spec.Rule{MatchesSecret: &spec.MatchesSecret{Stored: l.f.Column}}, p)
	case p.Accepted:
		l.out.Taken = append(l.out.Taken, p)
	}
	return nil
}

// anyCase asks whether an account's name may be written in other capitals.
func (l *learner) anyCase() error {
	upper := strings.ToUpper(l.f.Usual)
	if upper == l.f.Usual {
		upper = strings.ToLower(upper)
	}
	if upper == l.f.Usual {
		return nil
	}
	p, err := l.value(upper)
	l.out.AnyCase = err == nil && p.Accepted
	return err
}
