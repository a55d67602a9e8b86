package judge

import (
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

func session(j *judging) Check {
	c := &Check{Check: Session}
	promised := j.p.Form.Accepted.Session
	if promised == nil {
		promised = &spec.Session{}
	}
	if !(j.e.SessionRenewed || j.e.SignedIn || j.e.OthersEnd || promised.Cookie != nil) || j.e.Outcome != oracle.Accepted || j.observed.outcome != oracle.Accepted {
		c.notApplicable(of(Whole), is(NothingPromisedOfSession))
		return c.finish()
	}
	if j.e.SessionRenewed {
		renewed := false
		for name, digest := range j.o.CookiesAfter {
			if before, ok := j.o.CookiesBefore[name]; (!ok || before != digest) && (promised.Cookie == nil || promised.Cookie.Name == name) {
				renewed = true
			}
		}
		c.compare(renewed, of(SessionID), NotRenewed, is(Renewed), either(renewed, CookieChanged, NoCookieChanged))
	}
	if j.e.SignedIn {
		signedIn(j, c)
	}
	if promised.Cookie != nil {
		cookie(j, c, promised.Cookie)
	}
	if j.e.OthersEnd {
		others(j, c)
	}
	return c.finish()
}

// signedIn: the page to which signing in leads is open to the visitor, who is not sent on from it.
func signedIn(j *judging, c *Check) {
	final := j.o.Final()
	switch {
	case j.e.To == "":
		c.notApplicable(of(SignedInAfter), is(NoPagePromised))
	case final.NotFollowed != "":
		c.notApplicable(of(SignedInAfter), withText(Because, final.NotFollowed))
	default:
		to, _ := j.withRows(j.e.To)
		open := final.Status < 400 && j.leadsTo(final.URL, to)
		c.compare(open, of(SignedInAfter), NotSignedIn, withText(PageIsOpen, j.e.To), Value{Is: PageAnswers, Text: j.target(final.URL), N: final.Status})
	}
}

// cookie compares the attributes with which the session's cookie was set last.
func cookie(j *judging, c *Check, want *spec.Cookie) {
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
		c.notApplicable(ofMember(Cookie, want.Name), is(NotSetHere))
		return
	}
	flag := func(flag CookieAttribute, wanted, set bool) {
		if wanted {
			subject := Subject{Aspect: CookieFlag, Member: want.Name, Attribute: flag}
			c.compare(set, subject, FlagMissing, Value{Is: FlagSet, Of: string(flag)}, Value{Is: map[bool]Term{true: FlagSet, false: FlagNotSet}[set], Of: string(flag)})
		}
	}
	has := func(attribute string) bool { return slices.Contains(set, attribute) }
	flag(HTTPOnly, want.HTTPOnly, has("httponly"))
	flag(Secure, want.Secure, has("secure"))
	flag(SameSiteLax, want.SameSite == "lax", has("samesite=lax") || has("samesite=strict"))
	flag(SameSiteStrict, want.SameSite == "strict", has("samesite=strict"))
}

// others: another session of the account is no more.
func others(j *judging, c *Check) {
	if j.o.OtherSession == "" {
		c.notApplicable(of(OtherSessions), is(NoOtherSession))
		return
	}
	ended := j.o.OtherSession == observation.SessionEnded
	c.compare(ended, of(OtherSessions), SessionsGoOn, is(SessionIsEnded), either(ended, SessionIsEnded, SessionIsOn))
}

// CookieAttribute is one that a cookie may have to be set with.
type CookieAttribute string

// The attributes.
const (
	HTTPOnly       CookieAttribute = "http_only"
	Secure         CookieAttribute = "secure"
	SameSiteLax    CookieAttribute = "same_site_lax"
	SameSiteStrict CookieAttribute = "same_site_strict"
)
