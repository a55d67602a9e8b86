package judge

import (
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

func (j *judging) session() Check {
	c := &Check{Check: Session}
	promised := j.p.Form.Accepted.Session
	if promised == nil {
		promised = &spec.Session{}
	}
	if !(j.e.SessionRenewed || j.e.SignedIn || j.e.OthersEnd || promised.Cookie != nil) || j.e.Outcome != oracle.Accepted || j.observed.outcome != oracle.Accepted {
		c.irrelevant("session", "nothing is promised of the session here")
		return c.finish()
	}
	if j.e.SessionRenewed {
		renewed := false
		for name, digest := range j.o.CookiesAfter {
			if before, ok := j.o.CookiesBefore[name]; (!ok || before != digest) && (promised.Cookie == nil || promised.Cookie.Name == name) {
				renewed = true
			}
		}
		c.compare(renewed, "session id", "not renewed", "renewed", map[bool]string{true: "the cookie changed", false: "no cookie changed"}[renewed])
	}
	if j.e.SignedIn {
		j.signedIn(c)
	}
	if promised.Cookie != nil {
		j.cookie(c, promised.Cookie)
	}
	if j.e.OthersEnd {
		j.others(c)
	}
	return c.finish()
}

// signedIn: the page to which signing in leads is open to the visitor, who is not sent on from it.
func (j *judging) signedIn(c *Check) {
	final := j.o.Final()
	switch {
	case j.e.To == "":
		c.irrelevant("signed in", "no page is promised after signing in")
	case final.NotFollowed != "":
		c.irrelevant("signed in", final.NotFollowed)
	default:
		open := final.Status < 400 && j.leadsTo(final.URL, j.e.To)
		c.compare(open, "signed in", "not signed in", j.e.To+" opens", j.target(final.URL)+", "+j.status(final))
	}
}

// cookie compares the attributes with which the session's cookie was set last.
func (j *judging) cookie(c *Check, want *spec.Cookie) {
	var set []string // its attributes
	for i := range j.o.Exchanges {
		for _, h := range j.o.Exchanges[i].ResponseHeader {
			if !strings.EqualFold(h.Name, "Set-Cookie") {
				continue
			}
			parts := strings.Split(strings.ToLower(strings.ReplaceAll(h.Value, " ", "")), ";")
			if name, _, _ := strings.Cut(h.Value, "="); strings.TrimSpace(name) == want.Name {
				set = parts
			}
		}
	}
	if set == nil {
		c.irrelevant("cookie "+want.Name, "it was not set here")
		return
	}
	flag := func(name string, wanted, is bool) {
		if wanted {
			c.compare(is, "cookie "+want.Name+": "+name, "not "+name, name, map[bool]string{true: name, false: "not " + name}[is])
		}
	}
	has := func(attribute string) bool { return slices.Contains(set, attribute) }
	flag("http only", want.HTTPOnly, has("httponly"))
	flag("secure", want.Secure, has("secure"))
	flag("same site lax", want.SameSite == "lax", has("samesite=lax") || has("samesite=strict"))
	flag("same site strict", want.SameSite == "strict", has("samesite=strict"))
}

// others: another session of the account is no more.
func (j *judging) others(c *Check) {
	switch j.o.Beside {
	case "":
		c.irrelevant("other sessions", "no other session stood by")
	default:
		c.compare(j.o.Beside == "ended", "other sessions", "go on", "ended", j.o.Beside)
	}
}
