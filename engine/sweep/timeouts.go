package sweep

import (
	"context"
	"fmt"
	"slices"
	"time"

	"oddtick/core/access"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/engine/target"
	"oddtick/observe/web"
)

// usedWithin is the part of a timeout after which the session must still be open. beyond is how much longer than the timeout is waited
// until it must have ended, as a server's clock starts a little later.
const (
	usedWithin = 0.75
	beyond     = time.Second / 2
)

// timeouts looks, for each way to sign in, whether sessions end when they should and not before, and at the renewing of tokens.
func (s *sweep) timeouts(ctx context.Context) {
	for _, in := range s.site.WaysToSignIn() {
		idle, absolute := in.Timeouts()
		refresh := in.Request != nil && in.Request.Refresh != nil
		if idle == 0 && absolute == 0 && !refresh {
			continue
		}
		account, closed := s.whoSignsIn(in)
		if account == nil {
			s.report.LeftOut = append(s.report.LeftOut, phrases.NoClosedPage.With("page", in.Page))
			continue
		}
		p := &probe{s, account, closed}
		if s.shortEnough(idle, account) {
			p.idle(ctx, idle)
		}
		if s.shortEnough(absolute, account) {
			p.old(ctx, absolute, idle)
		}
		if refresh {
			p.renew(ctx, in.Request.Refresh)
		}
	}
}

// whoSignsIn is an account that signs in so, with a page that opened for it and is closed to guests; nil where there is none.
func (s *sweep) whoSignsIn(in *spec.SignIn) (*spec.Account, string) {
	for i := range s.site.Accounts {
		a := &s.site.Accounts[i]
		at := slices.IndexFunc(s.report.Visitors, func(v access.Visitor) bool { return v.Account == a.ID })
		if at < 0 || a.Session != "" || s.signed[a.ID] == nil || s.site.SignInOf(a) != in {
			continue
		}
		if closed := s.closedToGuests(&s.report.Visitors[at]); closed != "" {
			return a, closed
		}
	}
	return nil, ""
}

// shortEnough tells whether a timeout is promised and short enough to be waited for.
func (s *sweep) shortEnough(timeout time.Duration, a *spec.Account) bool {
	if timeout > s.maxWait {
		s.report.LeftOut = append(s.report.LeftOut, phrases.TooLongToWait.With("time", timeout, "account", a.ID, "most", s.maxWait))
	}
	return timeout > 0 && timeout <= s.maxWait
}

// probe is an account with a page that is open to it and closed to guests.
type probe struct {
	*sweep
	account *spec.Account
	closed  string
}

// look waits, opens the page, and adds whether it opens as it should. It tells whether that was as expected.
func (p *probe) look(ctx context.Context, by *web.Visitor, after time.Duration, look Look, what prose.Text, should bool) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(after):
	}
	seen := SessionSeen{Look: look, What: what, Account: p.account.ID, Expected: phrases.DoesNotOpen.With("page", p.closed), Verdict: judge.Odd}
	if should {
		seen.Expected = phrases.StillOpens.With("page", p.closed)
	}
	exchanges, err := by.Look(ctx, p.closed)
	opened := false
	if err != nil || len(exchanges) == 0 {
		seen.Verdict, seen.Why = judge.NotObserved, phrases.PageNotAnswered.With("error", err)
	} else if opened, seen.Observed = p.seen(p.closed, exchanges); opened == should {
		seen.Verdict = judge.AsExpected
	}
	p.report.Sessions = append(p.report.Sessions, seen)
	return seen.Verdict == judge.AsExpected
}

// signIn signs in a new visitor. Where that fails, it adds why and returns nil.
func (p *probe) signIn(ctx context.Context, look Look, what prose.Text) *web.Visitor {
	by := p.client.NewVisitor()
	if err := target.SignInAs(ctx, by, p.site, p.account); err != nil {
		p.report.Sessions = append(p.report.Sessions, SessionSeen{Look: look, What: what, Account: p.account.ID, Verdict: judge.NotObserved, Why: phrases.CannotSignInMore.With("account", p.account.ID, "error", err)})
		return nil
	}
	return by
}

func part(of time.Duration, share float64) time.Duration {
	return time.Duration(float64(of) * share).Round(time.Millisecond)
}

// idle looks whether the session goes on while it is used, for longer than the timeout, and ends when it is not.
func (p *probe) idle(ctx context.Context, timeout time.Duration) {
	used := part(timeout, usedWithin)
	by := p.signIn(ctx, StayIdle, phrases.WhileUsed.With("time", used))
	if by == nil {
		return
	}
	for range 2 {
		if !p.look(ctx, by, used, StayIdle, phrases.WhileUsed.With("time", used), true) {
			return
		}
	}
	p.look(ctx, by, timeout+beyond, StayIdle, phrases.AfterIdle.With("time", timeout), false)
}

// old looks whether the session goes on for most of the timeout and ends after it, however often it is used.
func (p *probe) old(ctx context.Context, timeout, idle time.Duration) {
	began := time.Now()
	by := p.signIn(ctx, GrowOld, phrases.AfterTime.With("time", timeout))
	if by == nil {
		return
	}
	until := func(since time.Duration) time.Duration {
		for idle > 0 && since-time.Since(began) > idle/2 && ctx.Err() == nil {
			select {
			case <-ctx.Done():
			case <-time.After(idle / 2):
			}
			_, _ = by.Look(ctx, p.closed) // only so that it is used
		}
		return max(0, since-time.Since(began))
	}
	most := part(timeout, usedWithin)
	if p.look(ctx, by, until(most), GrowOld, phrases.AfterTime.With("time", most), true) {
		// counted from when the answer to the sign-in was there
		p.look(ctx, by, until(timeout+beyond), GrowOld, phrases.AfterTime.With("time", timeout), false)
	}
}

// renew checks that a renewed token opens the page, and that an altered refresh token gives no new one.
func (p *probe) renew(ctx context.Context, r *spec.RefreshRequest) {
	what := phrases.RenewedToken.Text()
	by := p.signIn(ctx, RenewToken, what)
	if by == nil {
		return
	}
	refresh := by.RefreshToken()
	seen := SessionSeen{Look: RenewToken, What: what, Account: p.account.ID, Expected: phrases.NewToken.Text(), Verdict: judge.Odd}
	if altered := Alterations(refresh); len(altered) > 0 {
		forged := p.client.NewVisitor()
		seen := SessionSeen{Look: RenewToken, What: phrases.AlteredRefresh.Text(), Account: p.account.ID, Expected: phrases.NoNewToken.Text(), Observed: phrases.NewToken.Text(), Verdict: judge.Odd}
		if err := target.RenewToken(ctx, forged, r, altered[1]); err != nil {
			seen.Observed, seen.Verdict = prose.Text(fmt.Sprint(err)), judge.AsExpected
		}
		p.report.Sessions = append(p.report.Sessions, seen)
	}
	by.SetBearer("")
	if err := target.RenewToken(ctx, by, r, refresh); err != nil {
		seen.Observed = prose.Text(err.Error())
		p.report.Sessions = append(p.report.Sessions, seen)
		return
	}
	p.look(ctx, by, 0, RenewToken, what, true)
}
