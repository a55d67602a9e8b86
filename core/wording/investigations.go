package wording

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/investigate"
)

// Limit say what was found.
func Limit(l *investigate.Limit) string {
	switch {
	case l.Open:
		return "no limit is promised" + open(l)
	case l.AsPromised && l.Whole == "":
		return "as promised: " + l.Promised
	case l.Unlimited && l.Whole != "":
		return fmt.Sprintf("promised %s; no limit was found, and beyond %s values are not stored whole", l.Promised, l.Whole)
	case l.Unlimited:
		return fmt.Sprintf("promised %s; no limit was found as far as %s", l.Promised, l.Probes[len(l.Probes)-1].Value)
	case l.Found == "":
		return fmt.Sprintf("promised %s; nothing near it is taken", l.Promised)
	case l.Whole != "":
		return fmt.Sprintf("promised %s; taken to %s, and stored whole only to %s", l.Promised, l.Found, l.Whole)
	}
	return fmt.Sprintf("promised %s; taken to %s", l.Promised, l.Found)
}

// open says what was found where nothing is promised.
func open(l *investigate.Limit) string {
	farthest := l.Found
	if l.Unlimited {
		farthest = l.Probes[slices.IndexFunc(l.Probes, func(p investigate.Probe) bool {
			return !slices.ContainsFunc(l.Probes, func(o investigate.Probe) bool { return o.At > p.At })
		})].Value
	}
	switch {
	case farthest == "":
		return ", and not even a usual value is taken"
	case l.Whole != "":
		return fmt.Sprintf("; taken to %s, and stored whole only to %s", farthest, l.Whole)
	case l.Unlimited:
		return ", and none was found as far as " + farthest
	}
	return "; taken to " + farthest
}

// Investigation say how often it shows, and with what.
func Investigation(f *investigate.Investigation) string {
	often := fmt.Sprintf("always: %d of %d", f.Odd, f.Times)
	switch f.Odd {
	case f.Times:
	case 0:
		often = fmt.Sprintf("not shown again: 0 of %d, which does not say that it is mended", f.Times)
	default:
		often = fmt.Sprintf("intermittent: %d of %d", f.Odd, f.Times)
	}
	switch {
	case f.Simplest == nil || f.Odd < f.Times:
	case len(f.Fields) == 0:
		often += "; usual values show it"
	default:
		often += "; it takes no more than an unusual " + strings.Join(f.Fields, ", ")
	}
	if f.Limit != nil {
		often += "; " + Limit(f.Limit)
	}
	return often
}
