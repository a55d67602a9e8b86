// Package sweep opens every page of a site as a guest and as each account, and compares with what their states promise.
package sweep

import (
	"cmp"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/access"
	"oddtick/core/address"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
	"oddtick/engine/target"
	"oddtick/observe/database"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// Opening is one page as one visitor opened it.
type Opening struct {
	Account  string        `json:"account"` // "" is a guest
	State    string        `json:"state"`
	Page     string        `json:"page"` // its id
	Path     string        `json:"path"` // as it was opened
	Expected prose.Text    `json:"expected"`
	Observed prose.Text    `json:"observed"`
	Opened   bool          `json:"opened"`
	Verdict  judge.Verdict `json:"verdict"`
	// Why is the reason of a verdict that needs one; of an odd one the slip that would explain it.
	Why prose.Text `json:"why,omitempty"`
}

// Look is what was looked at beyond pages.
type Look string

// What is looked at.
const (
	LookAtMenus Look = "menus"
	AlterCookie Look = "altered_cookie"
	AlterToken  Look = "altered_token"
	KeepCookies Look = "old_cookies" // after signing out
	PressBack   Look = "back_button" // after signing out
	StayIdle    Look = "idle"
	GrowOld     Look = "old_session"
	RenewToken  Look = "renewed_token"
)

// SessionSeen is what was seen of a session beyond a page.
type SessionSeen struct {
	Look     Look          `json:"look" enum:"menus,altered_cookie,altered_token,old_cookies,back_button,idle,old_session,renewed_token"`
	What     prose.Text    `json:"what"`
	Account  string        `json:"account"`
	Expected prose.Text    `json:"expected"`
	Observed prose.Text    `json:"observed"`
	Verdict  judge.Verdict `json:"verdict"`
	Why      prose.Text    `json:"why,omitempty"`
}

// AccessReport is who could open what.
type AccessReport struct {
	Started  time.Time        `json:"started"`
	Took     time.Duration    `json:"took"` // nanoseconds
	Pages    []access.Page    `json:"pages"`
	Visitors []access.Visitor `json:"visitors"`
	// Conditions are the parts of the states' conditions, whose truth the visitors name.
	Conditions []string      `json:"conditions"`
	Openings   []Opening     `json:"openings"`
	Sessions   []SessionSeen `json:"sessions"`
	// CleanedUp is what became of what was to be taken back, nil where nothing was.
	CleanedUp *database.Undone `json:"cleaned_up,omitempty"`
	// Lacking are mixes of the conditions that no account has, so that a slip in a condition may not show.
	Lacking []prose.Text `json:"lacking,omitempty"`
	// LeftOut are what was not looked at, and why: accounts that may be locked, as a run of the sign-in form locks them, and timeouts that are too long to wait
	// for.
	LeftOut []prose.Text `json:"left_out,omitempty"`
}

// Verdicts counts what was judged.
func (r *AccessReport) Verdicts() map[judge.Verdict]int {
	out := map[judge.Verdict]int{}
	for _, o := range r.Openings {
		out[o.Verdict]++
	}
	for _, s := range r.Sessions {
		out[s.Verdict]++
	}
	return out
}

// sweep opens every page as every visitor.
type sweep struct {
	site   *spec.Site
	m      *access.Matrix
	client *web.Client
	dbs    target.Databases
	report *AccessReport
	keys   map[string]string // of the visitors' rows, by account
	// signed are the visitors that are signed in, by account; failed why one could not be.
	signed map[string]*web.Visitor
	failed map[string]prose.Text
	menus  map[string]menuSeen // by account
	// timeout is for one answer.
	timeout time.Duration
	maxWait time.Duration
}

// Options are how access is looked at.
type Options struct {
	// Timeout is for one answer.
	Timeout time.Duration
	// CleanUp takes back what was changed of the accounts' own rows; other rows that changed meanwhile may be others' doing, and stay.
	CleanUp bool
	// MaxWait is how long is waited at once, at most, for a session to end; UsualWait where it is 0.
	MaxWait time.Duration
}

// UsualWait is how long is waited at most for a session to end, where nothing is said.
const UsualWait = 30 * time.Second

// AsOne opens pages as one visitor, whose row has a key.
func AsOne(site *spec.Site, m *access.Matrix, client *web.Client, dbs target.Databases, v access.Visitor, key string, by *web.Visitor) *sweep {
	return &sweep{
		site: site, m: m, client: client, dbs: dbs, keys: map[string]string{v.Account: key}, signed: map[string]*web.Visitor{v.Account: by}, failed: map[string]prose.Text{},
		report: &AccessReport{Visitors: []access.Visitor{v}},
	}
}

// Access opens every page of a site as a guest and as each account, over HTTP, and compares with what the states promise. Nothing
// is submitted but the sign-in form, once for each account, and for each timeout that is promised.
func Access(ctx context.Context, site *spec.Site, o Options) (*AccessReport, error) {
	m, err := access.New(site)
	if err != nil {
		return nil, target.Cannot("%w", err)
	}
	if len(site.States) == 0 || len(site.Pages) == 0 {
		return nil, target.Cannot("the site document has no states or no pages; add them under states: and pages:")
	}
	client, err := web.NewClient(target.WebOptions(site, o.Timeout))
	if err != nil {
		return nil, target.Cannot("%w", err)
	}
	defer client.Close()
	r := &target.Target{Config: target.Config{Site: site}}
	if err := r.Connect(ctx, nil); err != nil {
		return nil, err
	}
	defer func() { _ = r.Databases.Close() }() // it was only read
	s := &sweep{
		site: site, m: m, client: client, dbs: r.Databases, keys: map[string]string{}, signed: map[string]*web.Visitor{}, failed: map[string]prose.Text{}, menus: map[string]menuSeen{}, timeout: o.Timeout, maxWait: cmp.Or(o.MaxWait, UsualWait),
		report: &AccessReport{Started: time.Now().UTC(), Pages: m.Pages(), Conditions: append([]string{}, m.Conditions...), Openings: []Opening{}, Sessions: []SessionSeen{}},
	}
	if o.CleanUp && len(r.Databases) > 0 {
		if err := r.Databases.Begin(ctx); err != nil {
			return nil, target.Cannot("%w", err)
		}
	}
	if err := s.visitors(ctx); err != nil {
		return nil, err
	}
	s.leaveOutLocked()
	for _, p := range s.report.Pages {
		for i := range s.report.Visitors {
			if ctx.Err() != nil {
				return nil, ctx.Err()
			}
			s.report.Openings = append(s.report.Openings, s.Open(ctx, &s.report.Visitors[i], p))
		}
	}
	s.explain()
	s.judgeMenus()
	s.report.Lacking = m.Lacking(s.report.Visitors)
	s.sessions(ctx)
	s.timeouts(ctx)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if o.CleanUp && len(r.Databases) > 0 {
		if s.report.CleanedUp, err = s.takeBack(ctx, r); err != nil {
			return nil, fmt.Errorf("clean up: %w", err)
		}
	}
	s.report.Took = time.Since(s.report.Started)
	return s.report, nil
}

// takeBack takes back what changed of the accounts' own rows: those of the visitors' table, and of the tables that belong to it.
func (s *sweep) takeBack(ctx context.Context, r *target.Target) (*database.Undone, error) {
	changes, err := r.Databases.Changes(ctx)
	if err != nil || s.site.Visitors == nil {
		return &database.Undone{}, err
	}
	of := s.site.Visitors
	keys := map[string]bool{}
	for _, key := range s.keys {
		keys[key] = key != ""
	}
	var own []observation.Change
	for _, c := range changes {
		column := ""
		if c.Table == of.Table {
			column = of.Key
		}
		for _, has := range of.Has {
			if table, key, _ := strings.Cut(has, "."); table == c.Table {
				column = key
			}
		}
		row := c.Before
		if row == nil {
			row = c.After
		}
		if cell, known := observation.CellOf(row, column); known && keys[cell.Value] {
			own = append(own, c)
		}
	}
	done, err := r.CleanUp(ctx, own)
	if done != nil && len(own) < len(changes) {
		done.Left = append(done.Left, fmt.Sprintf("%d rows of others, or of tables that the document does not tie to the accounts", len(changes)-len(own)))
	}
	return done, err
}

// visitors are a guest and all accounts that can be signed in; what is stored about them is read where it can be.
func (s *sweep) visitors(ctx context.Context) error {
	guest := access.Visitor{}
	s.m.Place(&guest, s.nobody(), "")
	s.report.Visitors = append(s.report.Visitors, guest)
	s.signed[""] = s.client.NewVisitor()
	for i := range s.site.Accounts {
		a := &s.site.Accounts[i]
		facts, err := s.Facts(ctx, a)
		if err != nil {
			return err
		}
		v := access.Visitor{Account: a.ID}
		s.m.Place(&v, facts, a.State)
		s.report.Visitors = append(s.report.Visitors, v)
		by := s.client.NewVisitor()
		if err := target.SignInAs(ctx, by, s.site, a); err != nil {
			s.failed[a.ID] = phrases.CannotSignIn.With("account", a.ID, "error", err)
			continue
		}
		s.signed[a.ID] = by
	}
	return nil
}

// leaveOutLocked takes accounts out of the visitors that may be locked and cannot be signed in, where another account is in their state.
func (s *sweep) leaveOutLocked() {
	for i := range s.site.Accounts {
		a := &s.site.Accounts[i]
		at := slices.IndexFunc(s.report.Visitors, func(v access.Visitor) bool { return v.Account == a.ID })
		if !a.MayBeLocked || s.failed[a.ID] == "" || at < 0 {
			continue
		}
		state := s.report.Visitors[at].State
		if slices.ContainsFunc(s.report.Visitors, func(v access.Visitor) bool { return v.Account != "" && v.State == state && s.signed[v.Account] != nil }) {
			s.report.Visitors = slices.Delete(s.report.Visitors, at, at+1)
			s.report.LeftOut = append(s.report.LeftOut, phrases.LeftOutLocked.With("account", a.ID, "state", state))
		}
	}
}

// nobody is what is stored about a guest.
func (s *sweep) nobody() map[string]any {
	facts := map[string]any{"signed_in": false}
	table := s.site.Visitors
	if table == nil || len(s.dbs) == 0 {
		return nil
	}
	for name := range table.Has {
		facts[name] = false
	}
	return facts
}

// Facts are what is stored about an account; nil where it is not known.
func (s *sweep) Facts(ctx context.Context, a *spec.Account) (map[string]any, error) {
	table := s.site.VisitorsOf(a)
	if table == nil || len(s.dbs) == 0 {
		return nil, nil
	}
	db, can := s.dbs.Of(table.Table).(target.Finder)
	if !can {
		return nil, nil
	}
	row, err := db.Find(ctx, table.Table, observation.Cell{Column: table.Name, Value: a.Name})
	if err != nil || row == nil {
		return nil, err
	}
	facts := map[string]any{"signed_in": true}
	for _, c := range row {
		facts[c.Column] = c.Value
		if c.Null {
			facts[c.Column] = nil
		}
	}
	key, _ := observation.CellOf(row, table.Key)
	s.keys[a.ID] = key.Value
	for name, at := range table.Has {
		of, column, _ := strings.Cut(at, ".")
		db, can := s.dbs.Of(of).(target.Finder)
		if !can {
			return nil, nil
		}
		row, err := db.Find(ctx, of, observation.Cell{Column: column, Value: key.Value})
		if err != nil {
			return nil, target.Cannot("visitors.has.%s: %w", name, err)
		}
		facts[name] = row != nil
	}
	return facts, nil
}

// keyFor is the key that stands in a page's path: one's own, or another visitor's.
func (s *sweep) keyFor(v *access.Visitor, p access.Page) (key string, why prose.Text) {
	own := s.keys[v.Account]
	if !p.Others && v.Account != "" {
		if own == "" {
			return "", phrases.NoOwnKey.Text()
		}
		return own, ""
	}
	for _, other := range s.report.Visitors {
		if key := s.keys[other.Account]; key != "" && key != own {
			return key, ""
		}
	}
	return "", phrases.NoOtherKey.Text()
}

func (s *sweep) Open(ctx context.Context, v *access.Visitor, p access.Page) Opening {
	o := Opening{Account: v.Account, State: v.State, Page: p.ID, Path: p.Path, Verdict: judge.NotObserved}
	e := s.m.Expect(v.State, p)
	o.Expected = promise.Access(e)
	switch {
	case v.Why != "":
		o.Why = v.Why
		return o
	case s.failed[v.Account] != "":
		o.Why = s.failed[v.Account]
		return o
	case strings.Contains(p.Path, "{key}"):
		key, why := s.keyFor(v, p)
		if why != "" {
			o.Why = why
			return o
		}
		o.Path = strings.ReplaceAll(p.Path, "{key}", url.PathEscape(key))
	}
	exchanges, err := s.signed[v.Account].Look(ctx, o.Path)
	if err != nil || len(exchanges) == 0 {
		o.Why = phrases.PageNotAnswered.With("error", err)
		return o
	}
	opened, seen := s.seen(o.Path, exchanges)
	o.Observed, o.Opened, o.Verdict = seen, opened, judge.Odd
	if opened && e.Opens {
		s.lookAtMenus(v.Account, &exchanges[len(exchanges)-1])
	}
	first, final := &exchanges[0], &exchanges[len(exchanges)-1]
	switch {
	case e.Opens:
		if opened {
			o.Verdict = judge.AsExpected
		}
	case opened || final.Status >= 500:
	case e.To == spec.Forbidden:
		if first.Status == http.StatusUnauthorized || first.Status == http.StatusForbidden || first.Status == http.StatusNotFound {
			o.Verdict = judge.AsExpected
		}
	case e.To == "" || address.SamePath(first.Location, e.To) || address.SamePath(final.URL, e.To):
		o.Verdict = judge.AsExpected
	}
	return o
}

// seen says what became of a page.
func (s *sweep) seen(path string, exchanges []observation.Exchange) (opened bool, words prose.Text) {
	first, final := &exchanges[0], &exchanges[len(exchanges)-1]
	switch {
	case first.Location != "" && !address.SamePath(final.URL, path):
		return false, phrases.LeadsTo.With("path", address.Path(first.Location))
	case final.Status >= 400:
		return false, phrases.StatusOf.With("status", final.Status)
	case s.asksToSignIn(path, final):
		return false, phrases.ShowsSignInForm.Text()
	}
	return true, phrases.Opens.Text()
}

// asksToSignIn: in place of the page its answer holds the form for signing in.
func (s *sweep) asksToSignIn(path string, x *observation.Exchange) bool {
	return slices.ContainsFunc(s.site.WaysToSignIn(), func(in *spec.SignIn) bool {
		if address.SamePath(in.Page, path) {
			return false
		}
		p, err := page.Read(x.Body, x.URL, []string{in.Name, in.Password})
		return err == nil && p.Form != nil && p.Form.Control(in.Name) != nil && p.Form.Control(in.Password) != nil
	})
}

// explain looks, for each page with something odd, for a slip that would explain it.
func (s *sweep) explain() {
	for _, p := range s.report.Pages {
		var seen []access.Seen
		odd := false
		for i := range s.report.Openings {
			o := &s.report.Openings[i]
			if o.Page != p.ID || o.Verdict == judge.NotObserved {
				continue
			}
			v := s.report.Visitors[slices.IndexFunc(s.report.Visitors, func(v access.Visitor) bool { return v.Account == o.Account })]
			seen = append(seen, access.Seen{Visitor: v, Opened: o.Opened})
			odd = odd || o.Verdict == judge.Odd
		}
		if !odd {
			continue
		}
		why := s.m.Explain(p, seen)
		for i := range s.report.Openings {
			if o := &s.report.Openings[i]; o.Page == p.ID && o.Verdict == judge.Odd {
				o.Why = why
			}
		}
	}
}

// sessions looks, with the first account that can be signed in, at what an altered cookie opens, and an old one after signing out.
func (s *sweep) sessions(ctx context.Context) {
	add := func(look Look, what prose.Text, account string, expected, observed prose.Text, verdict judge.Verdict, why prose.Text) {
		s.report.Sessions = append(s.report.Sessions, SessionSeen{look, what, account, expected, observed, verdict, why})
	}
	for i := range s.report.Visitors {
		v := &s.report.Visitors[i]
		by := s.signed[v.Account]
		closed := s.closedToGuests(v)
		if v.Account == "" || by == nil || closed == "" {
			continue
		}
		held := by.Cookies()
		if len(held) == 0 && by.Bearer() != "" {
			s.alterToken(ctx, v, by.Bearer(), closed)
			return
		}
		opens := func(cookies []web.SetCookie) (bool, prose.Text) {
			other := s.client.NewVisitor()
			other.SetCookies(cookies)
			exchanges, err := other.Open(ctx, closed)
			if err != nil || len(exchanges) == 0 {
				return false, prose.Text(fmt.Sprint(err))
			}
			return s.seen(closed, exchanges)
		}
		if yes, seen := opens(held); !yes {
			add(AlterCookie, phrases.AlteredCookie.Text(), v.Account, "", seen, judge.NotObserved, phrases.SameCookiesFail.With("page", closed))
			return
		}
		found := false
		for k, c := range held {
			without := slices.Delete(slices.Clone(held), k, k+1)
			if yes, _ := opens(without); yes {
				continue // it is not what says who is signed in
			}
			found = true
			for n, altered := range Alterations(c.Value) {
				with := slices.Clone(held)
				forged := *c.Cookie
				forged.Value = altered
				with[k].Cookie = &forged
				yes, seen := opens(with)
				verdict := judge.AsExpected
				if yes {
					verdict = judge.Odd
				}
				add(AlterCookie, []phrases.Phrase{phrases.FirstAltered, phrases.LastAltered, phrases.NumberAltered}[min(n, 2)].With("cookie", c.Name), v.Account, phrases.DoesNotOpen.With("page", closed), seen, verdict, "")
				if yes {
					break
				}
			}
		}
		if !found {
			add(AlterCookie, phrases.AlteredCookie.Text(), v.Account, phrases.DoesNotOpen.With("page", closed), "", judge.NotObserved, phrases.NoCookieSays.Text())
		}
		s.signOut(ctx, v, by, closed, opens, add)
		return
	}
}

// alterToken looks whether an altered bearer token opens a page.
func (s *sweep) alterToken(ctx context.Context, v *access.Visitor, token, closed string) {
	for n, altered := range Alterations(token) {
		other := s.client.NewVisitor()
		other.SetBearer(altered)
		seen := SessionSeen{Look: AlterToken, What: []phrases.Phrase{phrases.TokenFirst, phrases.TokenLast, phrases.TokenNumber}[min(n, 2)].Text(), Account: v.Account, Expected: phrases.DoesNotOpen.With("page", closed), Verdict: judge.AsExpected}
		exchanges, err := other.Open(ctx, closed)
		yes := false
		if err != nil || len(exchanges) == 0 {
			seen.Verdict, seen.Why = judge.NotObserved, phrases.PageNotAnswered.With("error", err)
		} else if yes, seen.Observed = s.seen(closed, exchanges); yes {
			seen.Verdict = judge.Odd
		}
		s.report.Sessions = append(s.report.Sessions, seen)
		if yes {
			return
		}
	}
}

// closedToGuests is a page that opened for a visitor and is closed to guests; "" for none.
func (s *sweep) closedToGuests(v *access.Visitor) string {
	for _, o := range s.report.Openings {
		p := s.report.Pages[slices.IndexFunc(s.report.Pages, func(p access.Page) bool { return p.ID == o.Page })]
		if o.Account == v.Account && o.Opened && o.Verdict == judge.AsExpected && !s.m.Expect(s.report.Visitors[0].State, p).Opens {
			return o.Path
		}
	}
	return ""
}

// Alterations are a secret's text with one thing changed: its first and its last character, and each number in it.
func Alterations(value string) []string {
	// what pads base64, percent-encoded too, may be changed without a change of what is encoded
	bare := strings.TrimRight(value, "=")
	for strings.HasSuffix(strings.ToUpper(bare), "%3D") {
		bare = bare[:len(bare)-len("%3D")]
	}
	if bare == "" {
		return nil
	}
	other := otherCharacter(bare)
	last := len(bare) - 1
	out := []string{other(bare[0]) + value[1:], bare[:last] + other(bare[last]) + value[len(bare):]}
	for i := 0; i < len(value); i++ {
		end := i
		for end < len(value) && value[end] >= '0' && value[end] <= '9' {
			end++
		}
		bounded := (i == 0 || !Alphanumeric(value[i-1])) && (end == len(value) || !Alphanumeric(value[end]))
		if n, err := strconv.ParseUint(value[i:end], 10, 62); err == nil && bounded {
			out = append(out, value[:i]+strconv.FormatUint(n+1, 10)+value[end:])
		}
		if end > i {
			i = end
		}
	}
	return out
}

// inBase64 are the characters of base64 in the order of their values, without the last two, in which its kinds differ (RFC 4648).
const inBase64 = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"

// otherCharacter gives, for a character of a text, another one. In a hexadecimal number it is a digit; elsewhere one that differs in
// the first two of the six bits that base64 makes of it, as the last ones of a text may mean nothing.
func otherCharacter(of string) func(byte) string {
	digits := strings.Trim(strings.ToLower(of), "0123456789abcdef") == ""
	return func(c byte) string {
		switch at := strings.IndexByte(inBase64, c); {
		case digits && c == '0':
			return "1"
		case digits:
			return "0"
		case at < 0:
			return "a"
		case (at+32)%64 < len(inBase64):
			return inBase64[(at+32)%64 : (at+32)%64+1]
		default:
			return inBase64[at^16 : at^16+1]
		}
	}
}

func Alphanumeric(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// signOut signs out, and looks whether the session's old cookies still open a page.
func (s *sweep) signOut(ctx context.Context, v *access.Visitor, by *web.Visitor, closed string, opens func([]web.SetCookie) (bool, prose.Text), add func(look Look, what prose.Text, account string, expected, observed prose.Text, verdict judge.Verdict, why prose.Text)) {
	what := phrases.OldCookies.Text()
	if s.site.SignOut == nil {
		add(KeepCookies, what, v.Account, phrases.DoesNotOpen.With("page", closed), "", judge.NotObserved, phrases.NoSignOut.Text())
		return
	}
	held := by.Cookies()
	if err := s.leave(ctx, by); err != nil {
		add(KeepCookies, what, v.Account, "", "", judge.NotObserved, prose.Text(err.Error()))
		return
	}
	yes, seen := opens(held)
	verdict := judge.AsExpected
	if yes {
		verdict = judge.Odd
	}
	add(KeepCookies, what, v.Account, phrases.DoesNotOpen.With("page", closed), seen, verdict, "")
	switch {
	case s.site.SignOut.Back == "":
	case yes:
		add(PressBack, phrases.BackButton.Text(), v.Account, phrases.IsNotShown.With("page", closed), "", judge.NotObserved, phrases.SessionGoesOn.Text())
	default:
		s.backAfterSignOut(ctx, v, closed)
	}
}

// leave signs a visitor out.
func (s *sweep) leave(ctx context.Context, by *web.Visitor) error {
	out := s.site.SignOut
	exchanges, err := by.Open(ctx, out.Page)
	if err != nil || len(exchanges) == 0 {
		return fmt.Errorf("%s cannot be opened: %v", out.Page, err)
	}
	last := exchanges[len(exchanges)-1]
	form, err := page.FormTo(last.Body, last.URL, out.To)
	if err != nil || form == nil {
		return fmt.Errorf("the page %s holds no form that leads to %s", out.Page, out.To)
	}
	_, err = by.Submit(ctx, form, target.SuccessfulPairs(form), "")
	return err
}
