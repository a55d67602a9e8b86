package design

import (
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// languages makes one case that breaks each rule alone once more in each other language in which its message is promised.
func (s *sheet) languages() {
	seen := map[string]bool{}
	for _, c := range slices.Clone(s.cases) {
		last := c.Last()
		if last.Driver != oracle.HTTP || last.Do != Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] {
			continue
		}
		broken := last.Breaks[0]
		for _, language := range s.d.spokenOf(broken) {
			seen[broken] = true
			in := c.name
			in.language = language
			twin := s.twin(c, in, cover(CoversMessage, broken, "in "+language))
			twin.Title += ", asked for in " + language
			twin.Language = language
			s.add(Standard, twin)
		}
	}
}

// spokenOf are the languages, but the usual one, in which a rule's message is promised, in alphabetical order.
func (d *Designer) spokenOf(ruleID string) []string {
	i := slices.IndexFunc(d.p.Rules, func(r *spec.PreparedRule) bool { return r.ID == ruleID })
	if i < 0 || d.p.Rules[i].Message == nil {
		return nil
	}
	languages := slices.Sorted(maps.Keys(d.p.Rules[i].Message.Texts))
	return slices.DeleteFunc(languages, func(l string) bool { return l == d.language })
}
