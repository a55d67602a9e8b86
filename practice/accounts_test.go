package practice_test

import (
	"context"
	"database/sql"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/mail"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

// holderOf visits a site that has its accounts and sends mails.
func holderOf(t testing.TB, faults ...string) *person {
	dsn := dbtest.DSN(t)
	received, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { received.Close() })
	site, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: faults, HashCost: 8, Accounts: true, Mail: received.Address()})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(false))
	t.Cleanup(server.Close)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	jar, _ := cookiejar.New(nil)
	return &person{t, &http.Client{Jar: jar}, server.URL, db, received}
}

// mailed is the mail that came to an address.
func (p *person) mailed(to string) mail.Mail {
	ctx, stop := context.WithTimeout(context.Background(), 10*time.Second)
	defer stop()
	m, ok := p.mails.Wait(ctx, 0, to)
	require.True(p.t, ok)
	return m
}

var linkForm = regexp.MustCompile(`/confirm\?code=\w+`)

// confirm follows the link in the mail to an address.
func (p *person) confirm(to string) (body string) {
	_, body = p.get(linkForm.FindString(p.mailed(to).Text))
	return body
}

// post sends a form of a page with its token. It returns the last page and where it is.
func (p *person) post(page, to string, form url.Values) (status int, at, body string) {
	_, text := p.get(page)
	found := token.FindStringSubmatch(text)
	require.NotNil(p.t, found, text)
	form.Set("_token", found[1])
	res, err := p.http.PostForm(p.address+to, form)
	require.NoError(p.t, err)
	defer res.Body.Close()
	out, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	return res.StatusCode, res.Request.URL.RequestURI(), string(out)
}

func (p *person) signIn(name, password string) (at, body string) {
	_, at, body = p.post("/sign-in", "/sign-in", url.Values{"login": {name}, "secret": {password}})
	return at, body
}

// as signs maple in.
func (p *person) as(name string) *person {
	for _, a := range practice.Accounts {
		if a.Name == name {
			at, _ := p.signIn(a.Name, a.Password)
			require.Equal(p.t, "/me", at)
		}
	}
	return p
}

var ownKey = regexp.MustCompile(`name="holder" value="([0-9]+)"`)

// details saves one's details, with changes.
func (p *person) details(changes map[string]string) (status int, at, body string) {
	_, page := p.get("/me")
	form := url.Values{"holder": {ownKey.FindStringSubmatch(page)[1]}, "display_name": {"Maple"}, "e_mail": {"maple@bed.test"}, "member_no": {"OS-9011"}}
	for name, value := range changes {
		form.Set(name, value)
	}
	return p.post("/me", "/me", form)
}

// opens tells whether a page opens.
func (p *person) opens(path string) bool {
	res, err := p.http.Get(p.address + path)
	require.NoError(p.t, err)
	defer res.Body.Close()
	return res.StatusCode == http.StatusOK && res.Request.URL.Path == path
}

func (p *person) stored(id, columns string) string {
	var out sql.NullString
	require.NoError(p.t, p.db.QueryRow("SELECT CONCAT_WS('|', "+columns+") FROM plot_holders WHERE id = ?", id).Scan(&out))
	return out.String
}

func TestAccounts(t *testing.T) {
	t.Parallel()
	for name, pages := range map[string]string{
		"maple":  "/me /me/password /wishes /members /awaiting /holders/11",
		"fern":   "/me /me/password /wishes /awaiting",
		"dew":    "/me /me/password /awaiting",
		"briar":  "/me /me/password /awaiting",
		"stella": "/me /me/password /wishes /members /stewards /awaiting /holders/11",
		"":       "",
	} {
		p := holderOf(t).as(name)
		for _, path := range []string{"/me", "/me/password", "/wishes", "/members", "/stewards", "/awaiting", "/holders/11"} {
			require.Equal(t, strings.Contains(pages+" ", path+" "), p.opens(path), "%s opens %s", name, path)
		}
	}
	p := holderOf(t)
	at, body := p.signIn("maple", "wrong")
	require.Equal(t, "/sign-in", at)
	_, unknown := p.signIn("nobody", "wrong")
	require.Contains(t, body, "do not belong together")
	require.Contains(t, unknown, "do not belong together")
	p.as("maple")
	_, at, body = p.details(map[string]string{"display_name": " Maple Row ", "e_mail": " Maple@Row.test", "reach": "post", "new_pass": ""})
	require.Equal(t, "/me", at)
	require.Contains(t, body, "Saved, Maple Row.")
	require.Equal(t, "Maple Row|maple@row.test|post|OS-9011", p.stored("11", "display_name, mail, reach_by, membership"))
	status, at, body := p.post("/me/password", "/me/password", url.Values{"present": {"Maple-plot-21"}, "new_pass": {"Another-plot-9"}, "new_again": {"Another-plot-9"}})
	require.Equal(t, http.StatusOK, status, at)
	require.Contains(t, body, "Your password is changed.")
	other := visitorOf(p)
	at, _ = other.signIn("Maple@Row.test", "Another-plot-9")
	require.Equal(t, "/me", at)
	_, _, body = p.post("/wishes", "/wishes", url.Values{"size": {"55"}, "area": {"hill"}, "share": {"half"}, "bees": {"yes"}, "hive": {"2"}, "neighbours": {"kids", "dogs"}})
	require.Contains(t, body, "Your wishes are noted.")
	var row string
	require.NoError(t, p.db.QueryRow("SELECT CONCAT_WS('|', size_m2, area_code, share, bees, hive_no, neighbours) FROM plot_wishes WHERE holder_id = 11").Scan(&row))
	require.Equal(t, "55|hill|half|1|2|kids,dogs", row)
	p.post("/me", "/sign-out", url.Values{})
	require.False(t, p.opens("/me"))
}

// accountFaults tell of each fault of the pages of accounts how it shows.
var accountFaults = map[string]func(p *person) bool{
	"session-kept": func(p *person) bool {
		p.get("/sign-in")
		before := p.cookie()
		return p.as("maple").cookie() == before
	},
	"cookie-readable": func(p *person) bool {
		res, err := p.http.Get(p.address + "/sign-in")
		require.NoError(p.t, err)
		res.Body.Close()
		return !strings.Contains(res.Header.Get("Set-Cookie"), "HttpOnly")
	},
	"cookie-trusted": func(p *person) bool {
		u, _ := url.Parse(p.address)
		p.as("maple").http.Jar.SetCookies(u, []*http.Cookie{{Name: "ostlewick", Value: "made-up.15"}})
		return p.opens("/stewards")
	},
	"mistakes-apart":    func(p *person) bool { _, body := p.signIn("nobody", "x"); return strings.Contains(body, "Nobody has") },
	"password-any-case": func(p *person) bool { at, _ := p.signIn("maple", "mAPLE-plot-21"); return at == "/me" },
	"never-locked": func(p *person) bool {
		for range 6 {
			p.signIn("maple", "wrong")
		}
		at, _ := p.signIn("maple", "Maple-plot-21")
		return at == "/me"
	},
	"open-redirect": func(p *person) bool {
		p.http.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
		_, text := p.get("/sign-in")
		res, err := p.http.PostForm(p.address+"/sign-in", url.Values{"_token": {token.FindStringSubmatch(text)[1]}, "login": {"maple"}, "secret": {"Maple-plot-21"}, "next": {"https://elsewhere.test/"}})
		require.NoError(p.t, err)
		res.Body.Close()
		return res.Header.Get("Location") == "https://elsewhere.test/"
	},
	"sign-out-keeps": func(p *person) bool {
		p.as("maple")
		kept := p.cookie()
		p.post("/me", "/sign-out", url.Values{})
		u, _ := url.Parse(p.address)
		p.http.Jar.SetCookies(u, []*http.Cookie{{Name: "ostlewick", Value: kept}})
		return p.opens("/me")
	},
	"members-open":   func(p *person) bool { return p.opens("/members") },
	"members-either": func(p *person) bool { return p.as("briar").opens("/members") },
	"wishes-skipped": func(p *person) bool { return p.as("fern").opens("/members") },
	"stewards-open":  func(p *person) bool { return p.as("maple").opens("/stewards") },
	"back-shows": func(p *person) bool {
		res, err := p.as("maple").http.Get(p.address + "/me")
		require.NoError(p.t, err)
		defer res.Body.Close()
		return res.Header.Get("Cache-Control") != "no-store"
	},
	"menu-stewards": func(p *person) bool {
		_, page := p.as("maple").get("/me")
		return strings.Contains(page, `<a href="/stewards">`)
	},
	"menu-members-lost": func(p *person) bool {
		_, page := p.as("maple").get("/me")
		return !strings.Contains(page, `<a href="/members">`)
	},
	"other-record": func(p *person) bool { return p.as("maple").opens("/holders/12") },
	"confirm-twice": func(p *person) bool {
		p.join(nil)
		p.confirm("moss@bed.test")
		return strings.Contains(p.confirm("moss@bed.test"), "is confirmed")
	},
	"confirm-other": func(p *person) bool {
		p.join(nil)
		p.confirm("moss@bed.test")
		return p.row("confirmed_at") == ""
	},
	"mail-secret": func(p *person) bool {
		p.join(nil)
		return strings.Contains(p.mailed("moss@bed.test").Text, "Maple-row-42")
	},
	"me-readonly": func(p *person) bool {
		p.as("maple").details(map[string]string{"member_no": "OS-1"})
		return p.stored("11", "membership") == "OS-1"
	},
	"hidden-trusted": func(p *person) bool {
		p.as("maple").details(map[string]string{"holder": "12", "display_name": "Moss", "e_mail": "moss@bed.test"})
		return p.stored("12", "display_name") == "Moss"
	},
	"me-second-row": func(p *person) bool {
		p.as("maple").details(map[string]string{"display_name": "Moss"})
		return p.stored("12", "display_name") == "Moss"
	},
	"me-touches": func(p *person) bool { p.as("maple").details(nil); return p.stored("11", "referral") == "me" },
	"blank-overwrites": func(p *person) bool {
		before := p.stored("11", "pass_hash")
		p.as("maple").details(nil)
		return p.stored("11", "pass_hash") != before
	},
	"present-unchecked": func(p *person) bool {
		before := p.stored("11", "pass_hash")
		p.as("maple").details(map[string]string{"present": "wrong", "new_pass": "Another-plot-9", "new_again": "Another-plot-9"})
		return p.stored("11", "pass_hash") != before
	},
	"me-own-refused": func(p *person) bool {
		s, _, _ := p.as("maple").details(nil)
		return s == http.StatusUnprocessableEntity
	},
	"me-unique-unchecked": func(p *person) bool {
		p.as("maple").details(map[string]string{"e_mail": "fern@bed.test"})
		return p.stored("11", "mail") == "fern@bed.test"
	},
	"password-present-unchecked": func(p *person) bool { return strings.Contains(p.as("maple").another("wrong"), "is changed") },
	"password-hash-kept": func(p *person) bool {
		before := p.stored("11", "pass_hash")
		return strings.Contains(p.as("maple").another("Maple-plot-21"), "is changed") && p.stored("11", "pass_hash") == before
	},
	"sessions-stay": func(p *person) bool {
		other := visitorOf(p).as("maple")
		p.as("maple").another("Maple-plot-21")
		return other.opens("/me")
	},
	"wishes-step": func(p *person) bool {
		_, _, body := p.as("maple").post("/wishes", "/wishes", url.Values{"size": {"26"}, "area": {"hill"}, "share": {"half"}})
		return strings.Contains(body, "are noted")
	},
	"wishes-first-neighbour": func(p *person) bool {
		p.as("maple").post("/wishes", "/wishes", url.Values{"size": {"25"}, "area": {"hill"}, "share": {"half"}, "neighbours": {"dogs", "music"}})
		var held string
		require.NoError(p.t, p.db.QueryRow("SELECT neighbours FROM plot_wishes WHERE holder_id = 11").Scan(&held))
		return held == "dogs"
	},
}

func (p *person) cookie() string {
	u, _ := url.Parse(p.address)
	for _, c := range p.http.Jar.Cookies(u) {
		if c.Name == "ostlewick" {
			return c.Value
		}
	}
	return ""
}

func (p *person) another(present string) (body string) {
	_, _, body = p.post("/me/password", "/me/password", url.Values{"present": {present}, "new_pass": {"Another-plot-9"}, "new_again": {"Another-plot-9"}})
	return body
}
