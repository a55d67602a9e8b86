package sweep

import (
	"context"
	"fmt"
	"slices"

	"oddtick/core/access"
	"oddtick/core/address"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/engine/target"
	"oddtick/observe/browser"
	"oddtick/observe/page"
)

// backAfterSignOut looks in a browser whether going back shows a page that was seen before signing out. The page is closed to guests.
func (s *sweep) backAfterSignOut(ctx context.Context, v *access.Visitor, closed string) {
	seen := SessionSeen{Look: PressBack, What: phrases.BackButton.Text(), Account: v.Account, Expected: phrases.IsNotShown.With("page", closed), Verdict: judge.NotObserved}
	defer func() { s.report.Sessions = append(s.report.Sessions, seen) }()
	var account *spec.Account
	for i := range s.site.Accounts {
		if s.site.Accounts[i].ID == v.Account {
			account = &s.site.Accounts[i]
		}
	}
	by := s.client.NewVisitor()
	if err := target.SignInAs(ctx, by, s.site, account); err != nil {
		seen.Why = phrases.CannotSignInMore.With("account", v.Account, "error", err)
		return
	}
	shown, err := s.goBack(ctx, func(b *browser.Visitor) error {
		if err := b.SetCookies(ctx, target.BrowserCookies(by)); err != nil {
			return err
		}
		at, err := b.Open(ctx, closed, nil)
		if err != nil {
			return err
		}
		if !s.stands(closed, at) {
			return fmt.Errorf("%s does not open in the browser when signed in", closed)
		}
		from := "/" // a page to go back from
		if in := s.site.SignInOf(account); in != nil {
			from = in.Page
		}
		if _, err := b.Open(ctx, from, nil); err != nil {
			return err
		}
		return s.leave(ctx, by)
	})
	if err != nil {
		seen.Why = prose.Text(err.Error())
		return
	}
	seen.Observed, seen.Verdict = phrases.LeadsTo.With("path", address.Path(shown.Address)), judge.AsExpected
	if s.stands(closed, shown) {
		seen.Observed, seen.Verdict = phrases.IsShown.With("page", closed), judge.Odd
	}
}

// goBack does something in a browser of its own, and then presses its back button.
func (s *sweep) goBack(ctx context.Context, before func(*browser.Visitor) error) (*browser.Seen, error) {
	b, err := browser.Start(target.BrowserOptions(s.site, s.client, s.timeout))
	if err != nil {
		return nil, err
	}
	defer b.Close()
	v, err := b.NewVisitor(ctx)
	if err != nil {
		return nil, err
	}
	defer v.Close()
	if err := before(v); err != nil {
		return nil, err
	}
	return v.Back(ctx)
}

// stands tells whether what a browser shows is a page, and not the sign-in form in its place.
func (s *sweep) stands(path string, seen *browser.Seen) bool {
	if seen == nil || seen.Failure != "" || !address.SamePath(seen.Address, path) {
		return false
	}
	if n := len(seen.Exchanges); n > 0 && seen.Exchanges[n-1].Status >= 400 {
		return false
	}
	return !slices.ContainsFunc(s.site.WaysToSignIn(), func(in *spec.SignIn) bool {
		p, err := page.ReadDrawn(seen.HTML, seen.Address, []string{in.Name, in.Password})
		return err == nil && p.Form != nil && p.Form.Control(in.Name) != nil && p.Form.Control(in.Password) != nil
	})
}
