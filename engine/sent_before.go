package engine

import (
	"slices"
	"strings"
	"sync"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// sentValues are the values that a run has sent for rules of uniqueness, as the rules compare them.
type sentValues struct {
	mu  sync.Mutex
	all map[sentValue]bool
}

type sentValue struct{ rule, value string }

// any tells whether one of the values was sent before.
func (s *sentValues) any(values []sentValue) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.ContainsFunc(values, func(v sentValue) bool { return s.all[v] })
}

func (s *sentValues) add(values []sentValue) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.all == nil {
		s.all = map[sentValue]bool{}
	}
	for _, v := range values {
		s.all[v] = true
	}
}

// freshOf are the values of a step that no row may hold, and that are made new at each try.
func (r *Run) freshOf(s *design.Step, needs []oracle.LookUp) []sentValue {
	var out []sentValue
	for i := range needs {
		l := &needs[i]
		if l.Must || l.Span != nil {
			continue
		}
		field := r.fieldOf(l.Rule)
		if slices.ContainsFunc(s.Inputs, func(in design.Input) bool { return in.Field == field && in.Recipe.Make == design.Fresh }) {
			out = append(out, sentValue{l.Rule, r.fold(l.Rule)(l.Value)})
		}
	}
	return out
}

// plainValues are the values that a run has sent in fields that are no secrets: a page that shows one of them shows no secret.
type plainValues struct {
	mu  sync.Mutex
	all map[string]bool
}

// shortestPlain is how long a value must be to hold a secret that is looked for.
const shortestPlain = 8

// take adds a submission's values, and tells which of its secrets stand in a value that was sent before, by the fields' ids.
func (v *plainValues) take(p *spec.Prepared, sent *oracle.Submission) []string {
	v.mu.Lock()
	defer v.mu.Unlock()
	var known []string
	for _, f := range p.Fields {
		text, _ := sent.Value(f.Name)
		if len(text) < shortestPlain {
			continue
		}
		if !f.Secret {
			if v.all == nil {
				v.all = map[string]bool{}
			}
			v.all[text] = true
			continue
		}
		for plain := range v.all {
			if strings.Contains(plain, text) {
				known = append(known, f.ID)
				break
			}
		}
	}
	return known
}
