package design

import (
	"cmp"
	"iter"
	"maps"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
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

// repliesUnder makes the usual case once more in each other language in which a reply or a mail is promised under a condition that does not hold
// in it, with values under which it does.
func repliesUnder(b *testcase.Builder) {
	usual := b.Seen[b.ID("form.usual")]
	if usual == nil || b.Maker.Form.Form.Page == "" || b.Maker.Choice != nil && !b.Maker.Choice.AcceptLanguage {
		return
	}
	usually, _ := varsOf(b, nil)
	for text, languages := range spokenUnder(b.Maker.Form) {
		condition := b.Maker.Form.Compile(text)
		languages = slices.DeleteFunc(languages, func(l string) bool { return l == b.Maker.Language })
		if condition == nil || len(languages) == 0 || condition.Truth(usually, false) {
			continue
		}
		assignments(b, text, nil, func(replace map[string]testcase.Recipe) bool {
			vars, ok := varsOf(b, replace)
			if !ok || !condition.Truth(vars, false) {
				return true
			}
			if e, ok := b.Expect(replace); !ok || e.Outcome != oracle.Accepted {
				return true
			}
			for _, language := range languages {
				in := usual.Name
				in.Role += ".where." + values.Token(values.Seed(0, text), 6)
				in.Language = language
				twin := b.Twin(usual, in, testcase.Covering(testcase.CoversGuess, "form", "where "+text+" in "+language))
				twin.Title, twin.Language = phrases.InLanguage.With("title", phrases.SaidUnder.With("title", usual.Title, "condition", prose.Text(text)), "language", language), language
				twin.Steps[0].Inputs = b.Inputs(0, replace)
				b.Add(testcase.Standard, twin)
			}
			return false
		})
	}
}

// spokenUnder are the languages of replies and mails that are promised under a condition, by the condition, in the form's order.
func spokenUnder(p *spec.Prepared) iter.Seq2[string, []string] {
	var conditions []string
	languages := map[string]map[string]bool{}
	add := func(when string, texts ...map[string]string) {
		if when == "" {
			return
		}
		if languages[when] == nil {
			languages[when], conditions = map[string]bool{}, append(conditions, when)
		}
		for _, one := range texts {
			for language := range one {
				languages[when][language] = true
			}
		}
	}
	for _, r := range p.Replies {
		add(r.When, r.Texts)
	}
	for i := range p.Form.Accepted.Mails {
		for _, m := range []*spec.Message{p.Form.Accepted.Mails[i].Subject, p.Form.Accepted.Mails[i].Text} {
			if m != nil {
				add(p.Form.Accepted.Mails[i].When, m.Texts)
			}
		}
	}
	return func(yield func(string, []string) bool) {
		for _, when := range conditions {
			if !yield(when, slices.Sorted(maps.Keys(languages[when]))) {
				return
			}
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
