package judge

import (
	"slices"
	"strconv"
	"strings"
	"time"

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
	if !(j.e.SessionRenewed || j.e.SessionKept || j.e.SessionEnded || j.e.NoCookies || j.e.SignedIn || j.e.OthersEnd || len(j.e.Cookies) > 0) || j.e.Outcome != oracle.Accepted || j.observed.outcome != oracle.Accepted {
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
	if j.e.SessionKept || j.e.SessionEnded {
		sessionIDs(j, c, promised)
	}
	if j.e.NoCookies {
		names := cookiesSet(j)
		c.compare(len(names) == 0, of(NoCookie), CookieIsSet, is(None), asText(strings.Join(names, ", "), None))
	}
	for i := range j.e.Cookies {
		cookie(j, c, &j.e.Cookies[i])
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

// sessionIDs: the id of the session is the same as before, or there is none any more.
func sessionIDs(j *judging, c *Check, promised *spec.Session) {
	of := of(SessionID)
	for name, before := range j.o.CookiesBefore {
		if promised.Cookie != nil && promised.Cookie.Name != name {
			continue
		}
		after, there := j.o.CookiesAfter[name]
		switch {
		case j.e.SessionKept && (!there || after != before):
			c.odd(of, NotKept, is(NoCookieChanged), is(CookieChanged))
			return
		case j.e.SessionEnded && there && after == before:
			c.odd(of, NotEnded, is(CookieChanged), is(NoCookieChanged))
			return
		}
	}
	if j.e.SessionKept {
		c.asExpected(of, is(NoCookieChanged), is(NoCookieChanged))
	} else {
		c.asExpected(of, is(CookieChanged), is(CookieChanged))
	}
}

// cookiesSet are the names of the cookies that the answer to the submission sets.
func cookiesSet(j *judging) []string {
	var out []string
	for i := range j.o.Exchanges {
		for _, h := range j.o.Exchanges[i].ResponseHeader {
			if name, _, _ := strings.Cut(h.Value, "="); strings.EqualFold(h.Name, "Set-Cookie") {
				out = append(out, strings.TrimSpace(name))
			}
		}
	}
	return out
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
	switch {
	case want.Lasts == spec.CookieNotSet:
		c.compare(set == nil || lasts(set, j.o.At) < 0, ofMember(Cookie, want.Name), CookieIsSet, is(None), either(set == nil, None, CookieChanged))
		return
	case set == nil && (want.Lasts == "" || want.When == ""):
		c.notApplicable(ofMember(Cookie, want.Name), is(NotSetHere))
		return
	case set == nil:
		c.odd(ofMember(Cookie, want.Name), CookieMissing, is(ACookie), is(None))
		return
	}
	if want.Lasts != "" {
		got := lasts(set, j.o.At)
		c.compare(sameLife(want.Lasts, got), ofMember(CookieLife, want.Name), OtherLife, withText(AsText, want.Lasts), withText(AsText, lifeText(got)))
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

// lasts is for how long a cookie is kept that is set with some attributes (RFC 6265, 4.1.2): 0 until the browser is closed, less for one that
// is taken back.
func lasts(attributes []string, at time.Time) time.Duration {
	var out time.Duration
	for _, a := range attributes {
		name, value, _ := strings.Cut(a, "=")
		switch name {
		case "max-age":
			seconds, err := strconv.Atoi(value)
			if err != nil {
				continue
			}
			if seconds <= 0 {
				return -1
			}
			return time.Duration(seconds) * time.Second
		case "expires":
			for _, layout := range []string{"Mon,02Jan200615:04:05", "Mon,02-Jan-200615:04:05", "Mon,02-Jan-0615:04:05"} {
				if t, err := time.Parse(layout, strings.TrimSuffix(value, "gmt")); err == nil {
					if out = t.Sub(at); out <= 0 {
						out = -1
					}
				}
			}
		}
	}
	return out
}

// sameLife tells whether a cookie is kept as long as is promised, give or take what clocks differ in.
func sameLife(promised string, got time.Duration) bool {
	want, err := time.ParseDuration(promised)
	if err != nil { // until the browser is closed
		return got == 0
	}
	return (want - got).Abs() <= max(2*time.Minute, want/100)
}

func lifeText(d time.Duration) string {
	if d <= 0 {
		return spec.SessionCookie
	}
	return d.Round(time.Minute).String()
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
