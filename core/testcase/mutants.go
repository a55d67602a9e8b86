package testcase

import (
	"fmt"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// Mutants are made once for each rule.
func Mutants(s *FieldSets, r *spec.PreparedRule) ([]values.Mutant, error) {
	s.Mu.Lock()
	defer s.Mu.Unlock()
	if known, ok := s.Mutated[r]; ok {
		return known, nil
	}
	list, err := values.Mutants(r.Rule.Pattern.Is, DialectOf(r))
	if err != nil {
		return nil, err
	}
	if s.Mutated == nil {
		s.Mutated = map[*spec.PreparedRule][]values.Mutant{}
	}
	s.Mutated[r] = list
	return list, nil
}

// Mutant is the automaton within which a value tells a mutant apart: its own language, or what is not in it.
func Mutant(s *FieldSets, rule, role string, within bool) (*values.Automaton, error) {
	for _, r := range s.Rules {
		if LocalID(r) != rule || r.Kind != spec.RulePattern {
			continue
		}
		list, err := Mutants(s, r)
		if err != nil {
			return nil, err
		}
		for i := range list {
			if list[i].Role != role {
				continue
			}
			if within {
				return list[i].Auto, nil
			}
			return list[i].Without(), nil
		}
	}
	return nil, fmt.Errorf("the pattern of %s has no mutant %s", s.ID, role)
}

func DialectOf(r *spec.PreparedRule) values.Dialect {
	if r.Rule.Pattern.Dialect == "" {
		return values.DialectV
	}
	return values.Dialect(r.Rule.Pattern.Dialect)
}
