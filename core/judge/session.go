package judge

import "oddtick/core/oracle"

func (j *judging) session() Check {
	c := &Check{Check: Session}
	if promised := j.p.Form.Accepted.Session; promised != nil && promised.SignedIn != "" {
		c.irrelevant("signed in", "who is signed in is not judged from a single form")
	}
	if !j.e.SessionRenewed || j.observed.outcome != oracle.Accepted {
		c.irrelevant("session", "nothing is promised of the session here")
		return c.finish()
	}
	renewed := false
	for name, digest := range j.o.CookiesAfter {
		if before, ok := j.o.CookiesBefore[name]; !ok || before != digest {
			renewed = true
		}
	}
	c.compare(renewed, "session id", "not renewed", "renewed", map[bool]string{true: "a cookie changed", false: "no cookie changed"}[renewed])
	return c.finish()
}
