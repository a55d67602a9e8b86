package learn

import (
	"strings"
	"unicode"

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
		l.out.SecretUnchecked = true
		return nil
	}
	swapped := strings.Map(func(r rune) rune {
		if unicode.IsUpper(r) {
			return unicode.ToLower(r)
		}
		return unicode.ToUpper(r)
	}, l.f.Usual)
	if swapped == l.f.Usual {
		return nil
	}
	capitals, err := l.value(swapped)
	l.out.Wrong, l.out.AnyCase = p.Answer, err == nil && capitals.Accepted
	return err
}

// unknown asks for the message for an account that does not exist.
func (l *learner) unknown() error {
	p, err := l.value("x" + l.f.Usual)
	l.out.Wrong = p.Answer
	return err
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
