package design

import (
	"maps"
	"slices"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// languages makes one case that breaks each rule alone once more in each other language in which its message is promised.
func languages(b *testcase.Builder) {
	seen := map[string]bool{}
	for _, c := range slices.Clone(b.Cases) {
		last := c.Last()
		if last.Driver != submission.HTTP || last.Do != testcase.Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] {
			continue
		}
		broken := last.Breaks[0]
		for _, language := range spokenOf(b.Maker, broken) {
			seen[broken] = true
			in := c.Name
			in.Language = language
			twin := b.Twin(c, in, testcase.Covering(testcase.CoversMessage, broken, "in "+language))
			twin.Title = phrases.InLanguage.With("title", c.Title, "language", language)
			twin.Language = language
			b.Add(testcase.Standard, twin)
		}
	}
}

// spokenOf are the languages, but the usual one, in which a rule's message is promised, in alphabetical order.
func spokenOf(m *testcase.Maker, ruleID string) []string {
	i := slices.IndexFunc(m.Form.Rules, func(r *spec.PreparedRule) bool { return r.ID == ruleID })
	if i < 0 || m.Form.Rules[i].Message == nil {
		return nil
	}
	languages := slices.Sorted(maps.Keys(m.Form.Rules[i].Message.Texts))
	return slices.DeleteFunc(languages, func(l string) bool { return l == m.Language })
}
