package wording

import (
	"slices"

	"oddtick/core/investigate"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Limit says where a site's limit was found.
func Limit(l *investigate.Limit) prose.Text {
	switch {
	case l.Open:
		return phrases.NoLimitPromised.With("found", open(l))
	case l.AsPromised && l.Whole == "":
		return phrases.LimitAsPromised.With("promised", l.Promised)
	case l.Unlimited && l.Whole != "":
		return phrases.UnlimitedNotWhole.With("promised", l.Promised, "whole", l.Whole)
	case l.Unlimited:
		return phrases.Unlimited.With("promised", l.Promised, "max", l.Probes[len(l.Probes)-1].Value)
	case l.Found == "":
		return phrases.NothingNear.With("promised", l.Promised)
	case l.Whole != "":
		return phrases.PromisedTakenWhole.With("promised", l.Promised, "max", l.Found, "whole", l.Whole)
	}
	return phrases.PromisedTaken.With("promised", l.Promised, "max", l.Found)
}

// open says what was found where nothing is promised.
func open(l *investigate.Limit) prose.Text {
	farthest := l.Found
	if l.Unlimited {
		farthest = l.Probes[slices.IndexFunc(l.Probes, func(p investigate.Probe) bool {
			return !slices.ContainsFunc(l.Probes, func(o investigate.Probe) bool { return o.At > p.At })
		})].Value
	}
	switch {
	case farthest == "":
		return phrases.NothingTaken.Text()
	case l.Whole != "":
		return phrases.TakenStoredTo.With("max", farthest, "whole", l.Whole)
	case l.Unlimited:
		return phrases.NoneFoundTo.With("max", farthest)
	}
	return phrases.TakenTo.With("max", farthest)
}

// labelsOf are the labels of fields by their ids.
func labelsOf(form *spec.Prepared, ids []string) []prose.Text {
	out := make([]prose.Text, len(ids))
	for i, id := range ids {
		out[i] = prose.Text(writer{form: form}.label(id))
	}
	return out
}

// Investigation says how often an odd case of a form shows again, and with what.
func Investigation(form *spec.Prepared, f *investigate.Investigation) prose.Text {
	often := phrases.Intermittent
	switch f.Odd {
	case f.Times:
		often = phrases.AlwaysShown
	case 0:
		often = phrases.NotShownAgain
	}
	out := often.With("n", f.Odd, "times", f.Times)
	switch {
	case f.Simplest == nil || f.Odd < f.Times:
	case len(f.Fields) == 0:
		out += phrases.UsualShowIt.Text()
	default:
		out += phrases.UnusualFields.With("fields", prose.Join(labelsOf(form, f.Fields), ", "))
	}
	if f.Limit != nil {
		out += phrases.AndLimit.With("limit", Limit(f.Limit))
	}
	return out
}
