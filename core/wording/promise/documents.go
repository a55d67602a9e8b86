package promise

import (
	"maps"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Step says what a step of a journey does.
func Step(s *spec.JourneyStep) prose.Text {
	switch {
	case s.Submit != "":
		return phrases.SubmitForm.With("form", s.Submit)
	case s.WaitFor == "mail":
		return phrases.WaitForMail.Text()
	case s.WaitFor != "":
		return phrases.WaitForWhat.With("what", s.WaitFor)
	case s.Read != nil:
		return phrases.ReadCodeFrom.With("column", s.Read.Column)
	case s.Open == spec.TheLink:
		return phrases.FollowLink.Text()
	case s.Open != "":
		return phrases.OpenPage.With("page", s.Open)
	case s.SignIn == spec.NewMember:
		return phrases.SignInAsNew.Text()
	}
	return phrases.SignInAs.With("account", s.SignIn)
}

// Edit says what an edit of a case changes, a part each.
func Edit(e *spec.CaseEdit) []prose.Text {
	var out []prose.Text
	say := func(p phrases.Phrase, places ...any) { out = append(out, p.With(places...)) }
	if e.Added {
		say(phrases.WrittenByHand)
	}
	if e.Skip != "" {
		say(phrases.SwitchedOff, "why", e.Skip)
	}
	if e.EveryDepth {
		say(phrases.KeptAtEachDepth)
	}
	if len(e.Tags) > 0 {
		say(phrases.TaggedWith, "tags", strings.Join(e.Tags, ", "))
	}
	if e.Title != "" {
		say(phrases.TitledAs, "title", e.Title)
	}
	for _, id := range slices.Sorted(maps.Keys(e.Inputs)) {
		say(phrases.OtherValueOf, "field", id)
	}
	for _, id := range e.Absent {
		say(phrases.LeftOutField, "field", id)
	}
	if len(out) == 0 {
		say(phrases.AsComputed)
	}
	return out
}
