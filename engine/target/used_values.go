package target

import (
	"slices"
	"strings"
	"sync"

	"oddtick/core/spec"
	"oddtick/core/submission"
)

// usualTexts are what everybody finds on the pages that submissions lead to, by address; kept for a run.
type usualTexts struct {
	mu sync.Mutex
	at map[string][]string
}

// On gives the texts of a page; known is whether it was looked at.
func (u *usualTexts) On(path string) (texts []string, known bool) {
	u.mu.Lock()
	defer u.mu.Unlock()
	texts, known = u.at[path]
	return texts, known
}

func (u *usualTexts) Keep(path string, texts []string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if u.at == nil {
		u.at = map[string][]string{}
	}
	u.at[path] = texts
}

// sentValues are the values that a run has sent for rules of uniqueness, as the rules compare them.
type sentValues struct {
	mu  sync.Mutex
	all map[SentValue]bool
}

// SentValue is a value as the rule of uniqueness compares it.
type SentValue struct{ Rule, Value string }

// Any tells whether one of the values was sent before.
func (s *sentValues) Any(values []SentValue) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.ContainsFunc(values, func(v SentValue) bool { return s.all[v] })
}

func (s *sentValues) Add(values []SentValue) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.all == nil {
		s.all = map[SentValue]bool{}
	}
	for _, v := range values {
		s.all[v] = true
	}
}

// PlainValues are the values that a run has sent in fields that are no secrets: a page that shows one of them shows no secret.
type PlainValues struct {
	mu  sync.Mutex
	all map[string]bool
}

// shortestPlain is how long a value must be to hold a secret that is looked for.
const shortestPlain = 8

// Take adds a submission's values, and tells which of its secrets stand in a value that was sent before, by the fields' ids.
func (v *PlainValues) Take(p *spec.Prepared, sent *submission.Submission) []string {
	v.mu.Lock()
	defer v.mu.Unlock()
	var known []string
	for _, f := range p.Fields {
		text, _ := sent.Of(f)
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
