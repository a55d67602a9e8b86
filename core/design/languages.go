package design

import (
	"cmp"
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

// pages makes the usual case once more in each other language in which the form's page or a reply is promised, and by each way in which the
// site lets a visitor choose the language.
func pages(b *testcase.Builder) {
	usual := b.Seen[b.ID("form.usual")]
	languages := b.Maker.Form.Languages()
	choice := b.Maker.Choice
	if usual == nil || b.Maker.Form.Form.Page == "" || len(languages) == 0 && choice == nil {
		return
	}
	usual.JudgesPage = true
	add := func(language string, by spec.ChosenBy) {
		in := usual.Name
		in.Language = language
		title := phrases.InLanguage.With("title", usual.Title, "language", language)
		if by != spec.ByHeader {
			in.Role += ".by_" + string(by)
			title = phrases.LanguageBy[string(by)].With("title", usual.Title, "language", language)
		}
		twin := b.Twin(usual, in, testcase.Covering(testcase.CoversGuess, "form", "in "+language+string(" by "+cmp.Or(by, "header"))))
		twin.Title, twin.Language, twin.ChosenBy, twin.JudgesPage = title, language, by, true
		b.Add(testcase.Standard, twin)
	}
	for _, language := range languages {
		if language == b.Maker.Language {
			continue
		}
		if choice == nil || choice.AcceptLanguage {
			add(language, spec.ByHeader)
		}
		if choice == nil {
			continue
		}
		for _, by := range choice.Ways() {
			if by != spec.ByUnknown {
				add(language, by)
			}
		}
	}
	if choice != nil && choice.AcceptLanguage && len(b.Maker.Languages) > 0 {
		add(b.Maker.Languages[0], spec.ByUnknown)
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
