package engine

import (
	"context"
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/web"
)

// Drivable parts cases into those that a run makes, and those it leaves because they are switched off.
func Drivable(cases []*design.Case) (made, left []*design.Case) {
	for _, c := range cases {
		if Left(c) == "" {
			made = append(made, c)
		} else {
			left = append(left, c)
		}
	}
	return made, left
}

// Left says why a run leaves a case out; "" for one that it makes.
func Left(c *design.Case) string {
	if c.Off() {
		return "it is switched off: " + c.Edit.Off
	}
	return ""
}

// InBrowser tells whether a case's steps are made in a browser.
func InBrowser(c *design.Case) bool {
	return slices.ContainsFunc(c.Steps, func(s design.Step) bool { return s.Driver == oracle.Browser })
}

// browserVisitor is somebody new in the run's browser, which is started at its first use, and anew when it has ended by itself.
func (r *Run) browserVisitor(ctx context.Context) (*browser.Visitor, error) {
	r.browserMu.Lock()
	defer r.browserMu.Unlock()
	if r.browser != nil && r.browser.Gone() {
		r.browser.Close()
		r.browser = nil
	}
	if r.browser == nil {
		b, err := browser.Start(browserOptions(r.c.Site, r.client, r.c.Timeout))
		if err != nil {
			return nil, err
		}
		r.browser = b
	}
	return r.browser.NewVisitor(ctx)
}

// browserOptions are those of a browser for a site.
func browserOptions(site *spec.Site, client *web.Client, timeout time.Duration) browser.Options {
	o := browser.Options{Address: site.Address, Allowed: client.Allowed, Dial: client.Dial, Headers: site.Headers, Authority: site.Authority, Language: site.Language, Timeout: timeout}
	if site.Authentication != nil {
		o.User, o.Password = site.Authentication.User, site.Authentication.Password
	}
	return o
}

// inBrowserCookies are a visitor's cookies for a browser.
func inBrowserCookies(v *web.Visitor) []browser.Cookie {
	var out []browser.Cookie
	for _, c := range v.Held() {
		out = append(out, browser.Cookie{Cookie: c.Cookie, From: c.From.String()})
	}
	return out
}
