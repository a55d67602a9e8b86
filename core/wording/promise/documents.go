package promise

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"oddtick/core/spec"
)

// Step say what the step does.
func Step(s *spec.JourneyStep) string {
	switch {
	case s.Submit != "":
		return "submit " + s.Submit
	case s.WaitFor == "mail":
		return "wait for the mail"
	case s.WaitFor != "":
		return "wait for " + s.WaitFor
	case s.Read != nil:
		return "read the code from " + s.Read.Column
	case s.Open == spec.TheLink:
		return "follow the link"
	case s.Open != "":
		return "open " + s.Open
	case s.SignIn == spec.Joined:
		return "sign in as who has joined"
	}
	return "sign in as " + s.SignIn
}

// Edit say what is changed, a part each.
func Edit(e *spec.CaseEdit) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	if e.Own {
		say("written by hand")
	}
	if e.Off != "" {
		say("switched off: %s", e.Off)
	}
	if e.Kept {
		say("kept at every depth")
	}
	if len(e.Tags) > 0 {
		say("tagged %s", strings.Join(e.Tags, ", "))
	}
	if e.Title != "" {
		say("titled %q", e.Title)
	}
	for _, id := range slices.Sorted(maps.Keys(e.Inputs)) {
		say("another value of %s", id)
	}
	for _, id := range e.Absent {
		say("%s left out", id)
	}
	if len(out) == 0 {
		say("as it is computed")
	}
	return out
}
