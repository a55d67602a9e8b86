package target

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/core/address"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
	"oddtick/engine/driver"
	"oddtick/observe/browser"
	"oddtick/observe/page"
	"oddtick/observe/web"

	"github.com/pquerna/otp/totp"
)

// SignInAs signs a visitor in, or gives it the session that an account began elsewhere.
func SignInAs(ctx context.Context, v *web.Visitor, site *spec.Site, a *spec.Account) error {
	if a.Session != "" {
		return giveSession(v, site, a)
	}
	s := site.SignInOf(a)
	if s == nil {
		return fmt.Errorf("the site document does not say how to sign in")
	}
	if a.CodeSecret == "" {
		if s.Code != "" {
			return fmt.Errorf("a one-time code is asked for, and the account %s has no code_secret", a.ID)
		}
		return signInOnce(ctx, v, s, a, "")
	}
	code, used, err := codes.next(ctx, a, false)
	if err != nil {
		return err
	}
	if err = signInOnce(ctx, v, s, a, code); err == nil || !used {
		return err
	}
	// it was sent before within its half minute; a site that takes each code once takes the next one
	if code, _, err = codes.next(ctx, a, true); err != nil {
		return err
	}
	return signInOnce(ctx, v, s, a, code)
}

// signInOnce signs a visitor in by page or by request, with a one-time code where there is one.
func signInOnce(ctx context.Context, v *web.Visitor, s *spec.SignIn, a *spec.Account, code string) error {
	if s.Request != nil {
		return signInByRequest(ctx, v, s, a, code)
	}
	return signInByPage(ctx, v, s, a, code)
}

// codePeriod is for how long one code is shown (RFC 6238, 5.2).
const codePeriod = 30 * time.Second

// usedCodes is the period in which each account's last code was sent, and which accounts' sites take a code only once.
type usedCodes struct {
	mu    sync.Mutex
	last  map[string]int64 // by the account's secret
	once  map[string]bool
	now   func() time.Time
	after func(time.Duration) <-chan time.Time
}

func newUsedCodes() *usedCodes {
	return &usedCodes{last: map[string]int64{}, once: map[string]bool{}, now: time.Now, after: time.After}
}

var codes = newUsedCodes()

// next is an account's code of now (RFC 6238), and whether it was sent before. Where a site was seen to take each only once, or a new one
// is asked for, it waits for the next period in place of that.
func (u *usedCodes) next(ctx context.Context, a *spec.Account, another bool) (code string, used bool, err error) {
	for {
		now := u.now()
		period := now.Unix() / int64(codePeriod/time.Second)
		u.mu.Lock()
		used = u.last[a.CodeSecret] == period
		u.once[a.CodeSecret] = u.once[a.CodeSecret] || another
		wait := used && u.once[a.CodeSecret]
		if !wait {
			u.last[a.CodeSecret] = period
		}
		u.mu.Unlock()
		if !wait {
			code, err = totp.GenerateCode(a.CodeSecret, now)
			if err != nil {
				err = fmt.Errorf("the code_secret of the account %s is not in base 32; copy it from where the site shows it", a.ID)
			}
			return code, used, err
		}
		select {
		case <-ctx.Done():
			return "", used, ctx.Err()
		case <-u.after(now.Truncate(codePeriod).Add(codePeriod).Sub(now)):
		}
	}
}

// signInByPage fills in the sign-in form of a page. The code stands in the same form, or in that of the page that follows.
func signInByPage(ctx context.Context, v *web.Visitor, s *spec.SignIn, a *spec.Account, code string) error {
	if !v.Own(s.Page) {
		return fmt.Errorf("the sign-in page %s is of another host than the site; passwords go to the site's own address only", s.Page)
	}
	values := map[string]string{s.Name: a.Name, s.Password: a.Password}
	exchanges, err := v.Open(ctx, s.Page)
	before, err := pageHolding(slices.Sorted(maps.Keys(values)), exchanges, err)
	if err != nil {
		return err
	}
	later := s.Code != "" && (before.Form == nil || before.Form.Control(s.Code) == nil)
	if s.Code != "" && !later {
		values[s.Code] = code
	}
	exchanges, err = enterInto(ctx, v, before, s.Page, values)
	if err := shownAgain(v, s.Password, exchanges, err); err != nil || !later {
		return err
	}
	asked, err := pageHolding([]string{s.Code}, exchanges, nil)
	if err != nil || asked.Form == nil || asked.Form.Control(s.Code) == nil {
		return err // it may not be asked for each time
	}
	exchanges, err = enterInto(ctx, v, asked, address.Path(asked.URL), map[string]string{s.Code: code})
	return shownAgain(v, s.Code, exchanges, err)
}

// signInDrawn signs a visitor of the browser in on the page itself, and returns what its scripts keep of it.
func signInDrawn(ctx context.Context, v *browser.Visitor, s *spec.SignIn, a *spec.Account) (*browser.Storage, error) {
	enter := browser.SigningIn{Page: s.Page, Name: browser.Credential{Control: s.Name, Value: a.Name}, Password: browser.Credential{Control: s.Password, Value: a.Password}}
	if s.Code != "" && a.CodeSecret != "" {
		code, _, err := codes.next(ctx, a, false)
		if err != nil {
			return nil, err
		}
		enter.Code = &browser.Credential{Control: s.Code, Value: code}
	}
	return v.SignIn(ctx, enter)
}

// shownAgain tells why a visitor was not signed in by a form: it is shown again, with a control of its own.
func shownAgain(v *web.Visitor, control string, exchanges []observation.Exchange, err error) error {
	after, err := pageHolding([]string{control}, exchanges, err)
	if err != nil {
		return err
	}
	refused := v.Refused()
	if after.Form != nil && after.Form.Control(control) != nil {
		says := alarms(after)
		if refused != "" {
			says += " (" + refused + ")"
		}
		return fmt.Errorf("the sign-in form is shown again: %s", says)
	}
	if refused != "" && len(v.Cookies()) == 0 {
		return errors.New(refused)
	}
	return nil
}

// signInByRequest signs a visitor in as the page's script does, by a JSON request whose answer holds a token.
func signInByRequest(ctx context.Context, v *web.Visitor, s *spec.SignIn, a *spec.Account, code string) error {
	r := s.Request
	answer, err := post(ctx, v, r.To, r.Members(s), map[string]string{"name": a.Name, "password": a.Password, "code": code})
	if err != nil {
		return err
	}
	if r.RefreshToken != "" {
		token, err := selected(r.RefreshToken, answer)
		if err != nil {
			return err
		}
		v.SetRefreshToken(token)
	}
	if r.Token == "" {
		return nil // a cookie says who it is
	}
	token, err := selected(r.Token, answer)
	if err != nil {
		return err
	}
	v.SetBearer(token)
	return nil
}

// RenewToken asks for a new bearer token with a refresh token, and sends that one from then on.
func RenewToken(ctx context.Context, v *web.Visitor, r *spec.RefreshRequest, refresh string) error {
	answer, err := post(ctx, v, r.To, r.Body, map[string]string{"refresh_token": refresh})
	if err != nil {
		return err
	}
	token, err := selected(r.Token, answer)
	if err != nil {
		return err
	}
	v.SetBearer(token)
	return nil
}

// post sends members as a JSON object to a path of the site's own, with values in the places of their texts. A status of 400 or more is
// a StatusError.
func post(ctx context.Context, v *web.Visitor, to string, members, values map[string]string) (*observation.Exchange, error) {
	if !v.Own(to) {
		return nil, fmt.Errorf("the address %s is of another host than the site; passwords go to the site's own address only", to)
	}
	body := map[string]string{}
	for name, text := range members {
		body[name] = template.Fill(text, func(name string) (string, bool) {
			value, known := values[name]
			return value, known
		})
	}
	text, err := json.Marshal(body)
	if err != nil {
		return nil, err
	}
	exchanges, err := v.PostJSON(ctx, to, string(text))
	if err != nil {
		return nil, err
	}
	last := &exchanges[len(exchanges)-1]
	if last.Status >= 400 {
		return nil, &StatusError{To: to, Status: last.Status}
	}
	return last, nil
}

// StatusError is an answer that refuses.
type StatusError struct {
	To     string
	Status int
}

func (e *StatusError) Error() string { return fmt.Sprintf("%s answers with status %d", e.To, e.Status) }

// selected is what a JSONPath query selects of an answer.
func selected(query string, answer *observation.Exchange) (string, error) {
	token, err := spec.Selected(query, answer.Body)
	if err != nil {
		return "", fmt.Errorf("the answer of %s: %w", address.Path(answer.URL), err)
	}
	return token, nil
}

// pageHolding is the page of the last answer, with the form that holds controls of some names.
func pageHolding(names []string, exchanges []observation.Exchange, err error) (*observation.Page, error) {
	if err != nil {
		return nil, err
	}
	last := exchanges[len(exchanges)-1]
	return page.Read(last.Body, last.URL, names)
}

// fillIn opens a page, enters values by their request names into the form that holds them, and sends it as it stands otherwise. It
// returns the page that comes of it.
func fillIn(ctx context.Context, v *web.Visitor, path string, values map[string]string) (*observation.Page, error) {
	names := slices.Sorted(maps.Keys(values))
	exchanges, err := v.Open(ctx, path)
	before, err := pageHolding(names, exchanges, err)
	if err != nil {
		return nil, err
	}
	exchanges, err = enterInto(ctx, v, before, path, values)
	return pageHolding(names, exchanges, err)
}

// enterInto enters values into the form of a page that was opened, and sends it.
func enterInto(ctx context.Context, v *web.Visitor, before *observation.Page, path string, values map[string]string) ([]observation.Exchange, error) {
	names := slices.Sorted(maps.Keys(values))
	if before.Form == nil || slices.ContainsFunc(names, func(name string) bool { return before.Form.Control(name) == nil }) {
		return nil, fmt.Errorf("the page %s holds no form with the names %s", path, strings.Join(names, " and "))
	}
	if !v.Own(before.Form.Action) {
		return nil, fmt.Errorf("the form on %s is sent to another host, %s; what is entered there goes to the site's own address only", path, before.Form.Action)
	}
	var pairs []submission.Pair
	entered := map[string]bool{}
	for i := range before.Form.Controls {
		c := &before.Form.Controls[i]
		value, given := values[c.Name]
		switch {
		case given && !entered[c.Name]:
			pairs = append(pairs, submission.Pair{Name: c.Name, Value: value})
			entered[c.Name] = true
		case !given && driver.Successful(c):
			pairs = append(pairs, submission.Pair{Name: c.Name, Value: c.Value})
		}
	}
	return v.Submit(ctx, before.Form, pairs, "")
}

// alarms are the texts of a page that call for attention, each once.
func alarms(p *observation.Page) string {
	var out []string
	for _, t := range p.Texts {
		if t.Alarm && !slices.Contains(out, t.Text) {
			out = append(out, t.Text)
		}
	}
	return strings.Join(out, " ")
}
