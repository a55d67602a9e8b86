package promise

import (
	"cmp"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// States says of each state of a site when a visitor is in it, and what it may open.
func States(site *spec.Site) []prose.Text {
	out := []prose.Text{}
	for _, s := range site.States {
		text := prose.Text(cmp.Or(s.Title, s.ID))
		if s.When != "" {
			text += phrases.StateHolds.With("condition", s.When)
		}
		if len(s.MayOpen) > 0 {
			text += phrases.StateMayOpen.With("pages", strings.Join(s.MayOpen, ", "))
		}
		if len(s.Menu) > 0 {
			text += phrases.StateMenus.With("pages", strings.Join(s.Menu, ", "))
		}
		if s.Denied != "" {
			text += phrases.StateElse.With("path", s.Denied)
		}
		out = append(out, text)
	}
	return out
}

// Journeys says of each journey of a site its steps.
func Journeys(site *spec.Site) []prose.Text {
	out := []prose.Text{}
	for _, j := range site.Journeys {
		var steps []prose.Text
		for i := range j.Steps {
			step := Step(&j.Steps[i])
			if then := j.Steps[i].Then; then != "" {
				step = phrases.StepThen.With("step", step, "state", then)
			}
			steps = append(steps, step)
		}
		out = append(out, phrases.JourneySteps.With("journey", cmp.Or(j.Title, j.ID), "steps", prose.Join(steps, phrases.NextStep.Template())))
	}
	return out
}

var messagesAt = map[spec.Place]phrases.Phrase{spec.AtField: phrases.MessagesAtFields, spec.InSummary: phrases.MessagesInSummary, spec.OnNextPage: phrases.MessagesOnNextPage}

var reported = map[string]phrases.Phrase{spec.EveryFailingRule: phrases.EveryFailingRule, spec.FirstOfEachField: phrases.FirstOfEachField, spec.FirstOfAll: phrases.FirstOfAll}

var valuesKept = map[string]phrases.Phrase{spec.AllButSecrets: phrases.ValuesKept, spec.NoValues: phrases.NoValuesKept}

// Rejected says what is promised of a rejection, a part each.
func Rejected(r *spec.Rejected) []prose.Text {
	out := []prose.Text{messagesAt[r.Place].Text(), reported[r.Report].Text()}
	if kept, promised := valuesKept[r.ValuesKept]; promised {
		out = append(out, kept.Text())
	}
	if r.Status != 0 {
		out = append(out, phrases.HasStatus.With("status", r.Status))
	}
	if r.To != "" {
		out = append(out, phrases.GoesTo.With("path", r.To))
	}
	if r.Linked {
		out = append(out, phrases.EachRefers.Text())
	}
	return out
}

// Accepted says what is promised of an acceptance, a part each.
func Accepted(a *spec.Accepted) []prose.Text {
	out := []prose.Text{}
	if a.Status != 0 {
		out = append(out, phrases.HasStatus.With("status", a.Status))
	}
	if a.To != "" {
		out = append(out, phrases.GoesTo.With("path", a.To))
	}
	for _, r := range a.Reply {
		text := cmp.Or(r.Pattern, strings.Join(r.Words(), " / "))
		if r.When != "" {
			out = append(out, phrases.SaysWhen.With("text", text, "condition", r.When))
		} else {
			out = append(out, phrases.Says.With("text", text))
		}
	}
	if a.Form != "" {
		out = append(out, phrases.FormIs.With("state", a.Form))
	}
	return out
}

var asField = map[spec.Blank]phrases.Phrase{"": phrases.AsField, spec.BlankNull: phrases.AsFieldNull, spec.BlankEmpty: phrases.AsFieldEmpty, spec.BlankDefault: phrases.AsFieldDefault, spec.BlankUnchanged: phrases.AsFieldUnchanged}

// Source says where a column's value comes from.
func Source(s spec.Source) prose.Text {
	switch s.Kind() {
	case spec.SourceFrom:
		return asField[s.Blank].With("field", s.From)
	case spec.SourceSecret:
		hash := phrases.HashOf
		if s.Blank == spec.BlankUnchanged {
			hash = phrases.HashOfUnlessBlank
		}
		return hash.With("field", s.Secret, "kinds", cmp.Or(strings.Join(s.As, phrases.OrKind.Template()), phrases.SaltedAndSlow.Template()))
	case spec.SourceNow:
		return phrases.NowWithin.With("within", s.Now.Within)
	case spec.SourceConstant:
		if *s.Is == "" {
			return phrases.AlwaysEmpty.Text()
		}
		return phrases.Always.With("value", *s.Is)
	case spec.SourceNull:
		return phrases.HoldsNull.Text()
	case spec.SourceExpression:
		return prose.Text(s.Cel)
	case spec.SourceKeyOf:
		return phrases.KeyOfRowIn.With("table", s.KeyOf)
	case spec.SourceSignedIn:
		return phrases.SignedInKey.Text()
	case spec.SourceGenerated:
		return map[string]phrases.Phrase{"uuid": phrases.NewUUID, "sequence": phrases.NextNumber}[s.Generated].Text()
	case spec.SourceClient:
		return phrases.VisitorsAddress.Text()
	case spec.SourceDefault:
		return phrases.ColumnsDefault.Text()
	case spec.SourceUnchanged:
		return phrases.AsItWas.Text()
	}
	return phrases.Anything.Text()
}
