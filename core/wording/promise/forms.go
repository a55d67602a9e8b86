package promise

import (
	"cmp"
	"fmt"
	"strings"

	"oddtick/core/spec"
)

func States(site *spec.Site) []string {
	out := []string{}
	for _, s := range site.States {
		text := cmp.Or(s.Title, s.ID)
		if s.Holds != "" {
			text += ": " + s.Holds
		}
		if len(s.May) > 0 {
			text += "; may open " + strings.Join(s.May, ", ")
		}
		if len(s.Offers) > 0 {
			text += "; menus offer " + strings.Join(s.Offers, ", ")
		}
		if s.Else != "" {
			text += "; else sent to " + s.Else
		}
		out = append(out, text)
	}
	return out
}

func Journeys(site *spec.Site) []string {
	out := []string{}
	for _, j := range site.Journeys {
		var steps []string
		for _, s := range j.Steps {
			step := Step(&s)
			if s.Then != "" {
				step += ", then " + s.Then
			}
			steps = append(steps, step)
		}
		out = append(out, cmp.Or(j.Title, j.ID)+": "+strings.Join(steps, " → "))
	}
	return out
}

func Rejected(r *spec.Rejected) []string {
	out := []string{"messages " + map[spec.Place]string{spec.AtField: "at their fields", spec.InSummary: "in the summary", spec.OnNextPage: "on the next page"}[r.At], r.Report}
	if r.Refilled != "" {
		out = append(out, "refilled: "+r.Refilled)
	}
	if r.Status != 0 {
		out = append(out, status(r.Status))
	}
	if r.To != "" {
		out = append(out, "to "+r.To)
	}
	if r.Tied {
		out = append(out, "each control refers to its message")
	}
	return out
}

func Accepted(a *spec.Accepted) []string {
	out := []string{}
	if a.Status != 0 {
		out = append(out, status(a.Status))
	}
	if a.To != "" {
		out = append(out, "to "+a.To)
	}
	for _, r := range a.Reply {
		text := "says “" + r.Text + r.Otherwise + "”"
		if r.When != "" {
			text += " when " + r.When
		}
		out = append(out, text)
	}
	if a.Form != "" {
		out = append(out, "the form is "+a.Form)
	}
	return out
}

func status(status int) string {
	return fmt.Sprintf("status %d", status)
}

func Source(s spec.Source) string {
	switch s.Kind() {
	case spec.SourceFrom:
		text := "as " + s.From
		if s.Blank != "" {
			text += ", " + map[spec.Blank]string{spec.BlankNull: "NULL", spec.BlankEmpty: "the empty text", spec.BlankDefault: "its default"}[s.Blank] + " when blank"
		}
		return text
	case spec.SourceSecret:
		return "hash of " + s.Secret + ": " + cmp.Or(strings.Join(s.As, " or "), "salted and slow")
	case spec.SourceNow:
		return "now, " + s.Now
	case spec.SourceConstant:
		return "always " + cmp.Or(string(*s.Is), "the empty text")
	case spec.SourceNull:
		return "NULL"
	case spec.SourceExpression:
		return s.Cel
	case spec.SourceKeyOf:
		return "the key of the row in " + s.KeyOf
	case spec.SourceSignedIn:
		return "the signed-in user's key"
	case spec.SourceGenerated:
		return map[string]string{"uuid": "a new UUID", "sequence": "the next number"}[s.Generated]
	case spec.SourceClient:
		return "the visitor's address"
	case spec.SourceDefault:
		return "the column's default"
	case spec.SourceUntouched:
		return "as it was"
	}
	return "anything"
}
