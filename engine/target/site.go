package target

import (
	"context"
	"fmt"
	"slices"
	"time"

	"oddtick/core/address"
	"oddtick/core/observation"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/engine/driver"
	"oddtick/observe/browser"
	"oddtick/observe/database"
	"oddtick/observe/web"
)

// WebOptions say how a site is reached.
func WebOptions(site *spec.Site, timeout time.Duration) web.Options {
	o := web.Options{Address: site.Address, Allowed: site.Allowed, Timeout: timeout, Headers: site.Headers, Authority: site.Authority, Language: site.Language}
	if site.Authentication != nil {
		o.User, o.Password = site.Authentication.User, site.Authentication.Password
	}
	return o
}

// CheckSite tells what of a site's settings, and of its environments', cannot be used. Nothing is contacted.
func CheckSite(site *spec.Site) error {
	for _, at := range site.Everywhere() {
		if err := checkPlace(at); err != nil {
			if at.Environment() != "" {
				err = fmt.Errorf("in the environment %s, %w", at.Environment(), err)
			}
			return err
		}
	}
	return nil
}

func checkPlace(site *spec.Site) error {
	client, err := web.NewClient(WebOptions(site, 0))
	if err != nil {
		return err
	}
	client.Close()
	for _, d := range site.Databases {
		if d.DSN != "" {
			if err := database.CheckDSN(d.Kind, d.DSN); err != nil {
				return err
			}
		}
	}
	return nil
}

// pageTimeout is for opening one page to be read.
const pageTimeout = 30 * time.Second

// FetchPage opens a page of a site, by its path or its whole address, and returns its text and where it was found. With scripts it is
// the page as it stands after its scripts have run, and after what is named openedBy was pressed; as an account it is opened by whoever that is, once signed in. An address outside the
// site's allowed ones is refused before any connection.
func FetchPage(ctx context.Context, site *spec.Site, path string, as string, scripts bool, openedBy string, maxBody int) (text, at string, err error) {
	o := WebOptions(site, pageTimeout)
	o.MaxBody = maxBody
	client, err := web.NewClient(o)
	if err != nil {
		return "", "", err
	}
	defer client.Close()
	visitor := client.NewVisitor()
	if as != "" {
		i := slices.IndexFunc(site.Accounts, func(a spec.Account) bool { return a.ID == as })
		if i < 0 {
			return "", "", fmt.Errorf("the site document has no account %s to sign in", as)
		}
		if err := SignInAs(ctx, visitor, site, &site.Accounts[i]); err != nil {
			return "", "", fmt.Errorf("the account %s cannot be signed in: %w", as, err)
		}
	}
	exchanges, err := visitor.Open(ctx, path)
	if err != nil {
		return "", "", err
	}
	last := exchanges[len(exchanges)-1]
	switch {
	case site.SignInAt(last.URL) != nil && site.SignInAt(path) != site.SignInAt(last.URL):
		why := "it is for those who are signed in; write before: {signed in: …} with an account of the site"
		if as != "" {
			why = "though " + as + " signed in"
		}
		return "", "", fmt.Errorf("%s leads to the sign-in page %s, %s", path, address.Path(last.URL), why)
	case last.NotFollowed != "":
		return "", "", fmt.Errorf("it redirects to another host: %s; add the host to the allowed ones", last.NotFollowed)
	case last.Status >= 400:
		return "", "", fmt.Errorf("%s answers with status %d", last.URL, last.Status)
	case last.Truncated:
		return "", "", fmt.Errorf("it is larger than %d MB", maxBody>>20)
	}
	if !scripts {
		return last.Body, last.URL, nil
	}
	before := browser.Before{Cookies: BrowserCookies(visitor), OpenedBy: openedBy}
	if as != "" {
		account := &site.Accounts[slices.IndexFunc(site.Accounts, func(a spec.Account) bool { return a.ID == as })]
		if in := site.SignInOf(account); in != nil && in.Request != nil && account.Session == "" {
			before.SignIn = func(ctx context.Context, v *browser.Visitor) error {
				_, err := signInDrawn(ctx, v, in, account)
				return err
			}
		}
	}
	text, err = browser.Drawn(ctx, browser.Options{Address: last.URL, Allowed: client.Allowed, Dial: client.Dial, Headers: site.Headers, Authority: site.Authority, Language: o.Language, User: o.User, Password: o.Password}, before)
	return text, last.URL, err
}

// ReadSchema reads the tables of a site's databases.
func ReadSchema(ctx context.Context, site *spec.Site) (*schema.Database, error) {
	r := &Target{Config: Config{Site: site}}
	defer r.Close()
	if err := r.Connect(ctx, nil); err != nil {
		return nil, err
	}
	if len(r.Databases) == 0 {
		return nil, Cannot("the site names no database; add one in its settings, or give the tables as SQL")
	}
	return r.Schema(ctx)
}

// Reached is one thing that was tried to be reached.
type Reached struct {
	What string `json:"what"`
	OK   bool   `json:"ok"`
	Says string `json:"says"`
}

// Reach tries a site's address, its databases and the sign-in of its accounts.
func Reach(ctx context.Context, site *spec.Site) []Reached {
	var out []Reached
	add := func(what string, err error, says string) {
		r := Reached{What: what, OK: err == nil, Says: says}
		if err != nil {
			r.Says = err.Error()
		}
		out = append(out, r)
	}
	client, err := web.NewClient(WebOptions(site, pageTimeout))
	if err != nil {
		add("the address", err, "")
		return out
	}
	defer client.Close()
	exchanges, err := client.NewVisitor().Open(ctx, "/")
	says := ""
	if err == nil {
		last := exchanges[len(exchanges)-1]
		says = fmt.Sprintf("answers with status %d", last.Status)
		if last.Status == 401 {
			err = fmt.Errorf("asks for HTTP authentication and rejects the given user and password")
		}
	}
	add(site.Address, err, says)
	for _, d := range site.Databases {
		if d.DSN == "" {
			continue
		}
		db, err := openDatabase(ctx, &d, nil)
		says := ""
		if err == nil {
			says = fmt.Sprintf("%d tables watched", len(db.Tables()))
			if w, tells := db.(interface{ Way() string }); tells {
				says += " (" + w.Way() + ")"
			}
			_ = db.Close()
		}
		add("database "+d.ID, err, says)
	}
	for i := range site.Accounts {
		add("account "+site.Accounts[i].ID, signIn(ctx, client, site, &site.Accounts[i]), "signs in")
	}
	return out
}

// signIn signs an account in by the site's own form. A page that shows the form again is a failure.
func signIn(ctx context.Context, client *web.Client, site *spec.Site, a *spec.Account) error {
	return SignInAs(ctx, client.NewVisitor(), site, a)
}

// SuccessfulPairs are what a form sends as it stands.
func SuccessfulPairs(form *observation.Form) []submission.Pair {
	var pairs []submission.Pair
	for i := range form.Controls {
		if c := &form.Controls[i]; driver.Successful(c) && c.Name != "" {
			pairs = append(pairs, submission.Pair{Name: c.Name, Value: c.Value})
		}
	}
	return pairs
}
