package target

import (
	"context"
	"net/http"
	"slices"
	"time"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/driver"
	"oddtick/observe/browser"
	"oddtick/observe/web"
)

// browserVisitor is somebody new in the run's browser, which is started at its first use, and anew when it has ended by itself.
func (t *Target) browserVisitor(ctx context.Context) (*browser.Visitor, error) {
	t.browserMu.Lock()
	defer t.browserMu.Unlock()
	if t.browser != nil && t.browser.Gone() {
		t.browser.Close()
		t.browser = nil
	}
	if t.browser == nil {
		b, err := browser.Start(BrowserOptions(t.Config.Site, t.Client, t.Config.Timeout))
		if err != nil {
			return nil, err
		}
		t.browser = b
	}
	return t.browser.NewVisitor(ctx)
}

// BrowserOptions are those of a browser for a site.
func BrowserOptions(site *spec.Site, client *web.Client, timeout time.Duration) browser.Options {
	o := browser.Options{Address: site.Address, Allowed: client.Allowed, Dial: client.Dial, Headers: site.Headers, Authority: site.Authority, Language: site.Language, Timeout: timeout}
	if site.Authentication != nil {
		o.User, o.Password = site.Authentication.User, site.Authentication.Password
	}
	return o
}

// BrowserCookies are a visitor's cookies for a browser.
func BrowserCookies(v *web.Visitor) []browser.Cookie {
	var out []browser.Cookie
	for _, c := range v.Cookies() {
		out = append(out, browser.Cookie{Cookie: c.Cookie, From: c.From.String()})
	}
	return out
}

// NewVisitor is somebody new, by the driver of a case's steps.
func (t *Target) NewVisitor(ctx context.Context, c *testcase.Case) (driver.Visitor, error) {
	by := submission.HTTP
	if c.InBrowser() {
		by = submission.Browser
	}
	return t.VisitorBy(ctx, by, c.Language)
}

func (t *Target) VisitorBy(ctx context.Context, by submission.Driver, language string) (driver.Visitor, error) {
	w := t.Client.NewVisitor()
	if language != "" {
		w.SetLanguage(language)
	}
	if err := t.signedIn(ctx, w); err != nil {
		return nil, err
	}
	if by != submission.Browser {
		return &driver.OverHTTP{Visitor: w, Form: t.Form, Names: t.Names, Base: t.Config.Site.Address, Pages: &t.Pages}, nil
	}
	v, err := t.browserVisitor(ctx)
	if err != nil {
		return nil, err
	}
	if err := v.SetCookies(ctx, BrowserCookies(w)); err != nil {
		v.Close()
		return nil, err
	}
	return &driver.InBrowser{Visitor: v, Form: t.Form, Names: t.Names, Client: t.Client, TooManyPromised: promisesTooMany(t.Form)}, nil
}

// promisesTooMany tells whether the form itself promises the answer that there were too many requests.
func promisesTooMany(p *spec.Prepared) bool {
	const tooMany = http.StatusTooManyRequests
	return p.Form.Rejected.Status == tooMany || p.Form.Accepted.Status == tooMany || slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return r.Rejection != nil && r.Rejection.Status == tooMany
	})
}
