package design

import (
	"maps"
	"slices"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
)

// languages makes one case that breaks each rule alone once more in each other language in which its message is promised.
func languages(s *testcase.Builder) {
	seen := map[string]bool{}
	for _, c := range slices.Clone(s.Cases) {
		last := c.Last()
		if last.Driver != submission.HTTP || last.Do != testcase.Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] {
			continue
		}
		broken := last.Breaks[0]
		for _, language := range spokenOf(s.Maker, broken) {
			seen[broken] = true
			in := c.Name
			in.Language = language
			twin := s.Twin(c, in, testcase.Covering(testcase.CoversMessage, broken, "in "+language))
			twin.Title += ", asked for in " + language
			twin.Language = language
			s.Add(testcase.Standard, twin)
		}
	}
}

// spokenOf are the languages, but the usual one, in which a rule's message is promised, in alphabetical order.
func spokenOf(d *testcase.Maker, ruleID string) []string {
	i := slices.IndexFunc(d.Form.Rules, func(r *spec.PreparedRule) bool { return r.ID == ruleID })
	if i < 0 || d.Form.Rules[i].Message == nil {
		return nil
	}
	languages := slices.Sorted(maps.Keys(d.Form.Rules[i].Message.Texts))
	return slices.DeleteFunc(languages, func(l string) bool { return l == d.Language })
}
