package design

import (
	"fmt"
	"strings"

	"oddtick/core/spec"
	"oddtick/core/values"
)

// mutantOf begins the Miss of a recipe whose value tells a mutant of a pattern apart: "mutant pattern.more_after".
const mutantOf = "mutant "

// syntax are values that tell a field's pattern apart from its likely mistakes: one that only the mistaken pattern takes, or one that
// it refuses.
func (s *sheet) syntax(f *spec.PreparedField) {
	if s.d.sets[f.ID] == nil || rule(f, spec.RuleAgrees) != nil {
		return
	}
	for _, r := range f.Rules {
		if r.Kind != spec.RulePattern || r.Layer != spec.OnServer {
			continue
		}
		list, err := s.d.sets[f.ID].mutants(r)
		if err != nil {
			s.omitted = append(s.omitted, Omission{About: r.ID, Why: err.Error()})
			continue
		}
		id := localID(r)
		for i, m := range list {
			about := cover(CoversMutant, r.ID, m.Role)
			invalid := Recipe{Make: Fresh, Breaks: id, Miss: mutantOf + id + "." + m.Role}
			valid := Recipe{Make: Fresh, Miss: mutantOf + id + "." + m.Role}
			mark := Mark{string(r.Kind), 300 + float64(i), strings.ReplaceAll(m.Role, "_", " ")}
			if _, ok := s.draft(f, invalid); ok {
				s.one(Thorough, f, id+".mutant."+m.Role, "would pass if "+m.Words, Syntax, about, invalid, mark)
			} else if _, ok := s.draft(f, valid); ok {
				s.one(Thorough, f, id+".mutant."+m.Role, "would be refused if "+m.Words, Syntax, about, valid, mark)
			}
		}
	}
}

// mutants are made once for each rule.
func (s *fieldSets) mutants(r *spec.PreparedRule) ([]values.Mutant, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if known, ok := s.mutated[r]; ok {
		return known, nil
	}
	list, err := values.Mutants(r.Rule.Pattern.Is, dialectOf(r))
	if err != nil {
		return nil, err
	}
	if s.mutated == nil {
		s.mutated = map[*spec.PreparedRule][]values.Mutant{}
	}
	s.mutated[r] = list
	return list, nil
}

// mutant is the automaton within which a value tells a mutant apart: its own language, or what is not in it.
func (s *fieldSets) mutant(role string, within bool) (*values.Automaton, error) {
	for _, r := range s.Rules {
		name, ok := strings.CutPrefix(role, localID(r)+".")
		if !ok || r.Kind != spec.RulePattern {
			continue
		}
		list, err := s.mutants(r)
		if err != nil {
			return nil, err
		}
		for i := range list {
			if list[i].Role != name {
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

func dialectOf(r *spec.PreparedRule) values.Dialect {
	if r.Rule.Pattern.Dialect == "" {
		return values.DialectV
	}
	return values.Dialect(r.Rule.Pattern.Dialect)
}
