package target

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
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
	return t.visitor(ctx, by, c)
}

// chooseLanguage makes a visitor ask for the language of a case, in its way.
func (t *Target) chooseLanguage(w *web.Visitor, c *testcase.Case) error {
	switch choice := t.Config.Site.LanguageChoice; c.ChosenBy {
	case spec.ByHeader:
		if c.Language != "" {
			w.SetLanguage(c.Language)
		}
	case spec.ByWeights:
		w.SetLanguage(unspoken + ", " + t.Config.Site.BrowserLanguage() + ";q=0.3, " + c.Language + ";q=0.8")
	case spec.ByUnknown:
		w.SetLanguage(unspoken)
	case spec.ByCookie:
		from, err := url.Parse(t.Config.Site.Address)
		if err != nil {
			return err
		}
		w.AddCookie(web.SetCookie{Cookie: &http.Cookie{Name: choice.Cookie, Value: c.Language, Path: "/"}, From: from})
	}
	return nil
}

// unspoken is a language that no site speaks: one for private use (BCP 47, 4.5).
const unspoken = "qaa"

// VisitorBy is somebody new, by a driver.
func (t *Target) VisitorBy(ctx context.Context, by submission.Driver) (driver.Visitor, error) {
	return t.visitor(ctx, by, &testcase.Case{})
}

// visitor is somebody new who is signed in where the form asks for it, asks for the language of a case, and uses a driver.
func (t *Target) visitor(ctx context.Context, by submission.Driver, c *testcase.Case) (driver.Visitor, error) {
	w := t.Client.NewVisitor()
	if err := t.signedIn(ctx, w); err != nil {
		return nil, err
	}
	if err := t.chooseLanguage(w, c); err != nil {
		return nil, err
	}
	if c.SendsTooMany() {
		w.TakeTooMany()
	}
	if by != submission.Browser {
		return t.OverHTTP(w), nil
	}
	if t.SignedInBefore() && t.Account.Session != "" && len(w.Cookies()) == 0 {
		return nil, fmt.Errorf("the session of the account %s is a token, which the page's script keeps in its own way; the browser cannot be given it", t.Account.ID)
	}
	v, err := t.browserVisitor(ctx)
	if err != nil {
		return nil, err
	}
	if err := v.SetCookies(ctx, BrowserCookies(w)); err != nil {
		v.Close()
		return nil, err
	}
	switch c.Browsing {
	case spec.Narrow:
		if err := v.UseNarrowScreen(ctx); err != nil {
			v.Close()
			return nil, err
		}
	case spec.Keyboard:
		v.UseKeyboard()
	}
	if in := t.Config.Site.SignInOf(t.Account); t.SignedInBefore() && t.Account.Session == "" && in != nil && in.Request != nil {
		if err := t.signInBrowser(ctx, v); err != nil {
			v.Close()
			return nil, fmt.Errorf("the account %s cannot be signed in with the browser: %w", t.Account.ID, err)
		}
	}
	return &driver.InBrowser{Visitor: v, Form: t.Form, Names: t.Names, Offered: t.Offered, Client: t.Client, TooManyPromised: promisesTooMany(t.Form)}, nil
}

// OverHTTP lets a visitor without a browser fill in the form.
func (t *Target) OverHTTP(w *web.Visitor) *driver.OverHTTP {
	return &driver.OverHTTP{ByScript: t.ByScript, Visitor: w, Form: t.Form, Names: t.Names, Base: t.Config.Site.Address, Pages: &t.Pages}
}

// SignedInAs is somebody new who signs in with an account, over HTTP.
func (t *Target) SignedInAs(ctx context.Context, account string) (*driver.OverHTTP, error) {
	i := slices.IndexFunc(t.Config.Site.Accounts, func(a spec.Account) bool { return a.ID == account })
	if i < 0 {
		return nil, fmt.Errorf("the site document has no account %s", account)
	}
	w := t.Client.NewVisitor()
	if err := SignInAs(ctx, w, t.Config.Site, &t.Config.Site.Accounts[i]); err != nil {
		return nil, fmt.Errorf("the account %s cannot be signed in: %w", account, err)
	}
	return t.OverHTTP(w), nil
}

// Stranger is somebody who is not signed in, over HTTP.
func (t *Target) Stranger() *driver.OverHTTP { return t.OverHTTP(t.Client.NewVisitor()) }

// storageLasts is how long what a page keeps of a signed-in account is given to further visitors, before one signs in anew.
const storageLasts = time.Minute

// storage is the local and session storage of a signed-in browser, and when it was read.
type storage struct {
	items *browser.Storage
	since time.Time
}

// signInBrowser signs a browser's visitor in on the site's own page, or gives it what that page kept of the sign-in before.
func (t *Target) signInBrowser(ctx context.Context, v *browser.Visitor) error {
	in := t.Config.Site.SignInOf(t.Account)
	t.browserMu.Lock()
	kept := t.kept
	t.browserMu.Unlock()
	if kept.items != nil && time.Since(kept.since) < storageLasts {
		return v.SetStorage(ctx, in.Page, kept.items)
	}
	items, err := signInDrawn(ctx, v, in, t.Account)
	if err != nil {
		return err
	}
	t.browserMu.Lock()
	t.kept = storage{items, time.Now()}
	t.browserMu.Unlock()
	return nil
}

// promisesTooMany tells whether the form itself promises the answer that there were too many requests.
func promisesTooMany(p *spec.Prepared) bool {
	const tooMany = http.StatusTooManyRequests
	return p.Form.Rejected.Status == tooMany || p.Form.Accepted.Status == tooMany || slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return r.Rejection != nil && r.Rejection.Status == tooMany
	})
}
