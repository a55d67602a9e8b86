package universal

import (
	"slices"

	"oddtick/core/judge"
	"oddtick/core/oracle"
)

// Unwritten leaves out what a document speaks of: there its promises alone are judged.
func Unwritten(list []Unusual, e *oracle.Expectation, j *judge.Judgement) []Unusual {
	return slices.DeleteFunc(list, func(u Unusual) bool {
		p, _ := Of(u.Promise)
		switch u.Promise {
		case ServerError, InternalsShown, GetWrites, RedirectBroken, MarkupUnescaped:
			return judged(j, p.Check, judge.Odd)
		case ReloadRepeats:
			return e != nil && e.Status != 0
		case CookieReadable:
			return e != nil && (len(e.Cookies) > 0 || e.SessionRenewed) || judged(j, p.Check, judge.Odd)
		}
		return judged(j, p.Check, judge.Odd, judge.AsExpected)
	})
}

// judged tells whether a check came to one of these verdicts.
func judged(j *judge.Judgement, name judge.CheckName, verdicts ...judge.Verdict) bool {
	return j != nil && slices.ContainsFunc(j.Checks, func(c judge.Check) bool { return c.Check == name && slices.Contains(verdicts, c.Verdict) })
}
