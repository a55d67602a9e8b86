package practice_test

import (
	"context"
	"database/sql"
	"fmt"
	"io"
	"maps"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/internal/localdb/dbtest"
	"oddtick/observe/mail"
	"oddtick/practice"

	"github.com/stretchr/testify/require"
)

func TestMain(m *testing.M) { dbtest.Main(m) }

// person is a visitor with a browser's cookies, without Odd Tick.
type person struct {
	t       testing.TB
	http    *http.Client
	address string
	db      *sql.DB
	mails   *mail.Receiver // nil where the site sends none
}

func visit(t testing.TB, faults ...string) *person {
	dsn := dbtest.DSN(t)
	site, err := practice.Open(context.Background(), practice.Config{DSN: dsn, Faults: faults, HashCost: 8})
	require.NoError(t, err)
	t.Cleanup(func() { site.Close() })
	server := httptest.NewServer(site.Handler(true))
	t.Cleanup(server.Close)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	jar, _ := cookiejar.New(nil)
	return &person{t, &http.Client{Jar: jar}, server.URL, db, nil}
}

// visitorOf is another visitor of the same site.
func visitorOf(p *person) *person {
	jar, _ := cookiejar.New(nil)
	return &person{p.t, &http.Client{Jar: jar}, p.address, p.db, p.mails}
}

func (p *person) get(path string) (int, string) {
	res, err := p.http.Get(p.address + path)
	require.NoError(p.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	return res.StatusCode, string(body)
}

var token = regexp.MustCompile(`name="_token" value="([0-9a-f]+)"`)

// join fills the form in well, with changes, and sends it. It returns the last page and where it is.
func (p *person) join(changes map[string]string) (status int, at, body string) {
	_, page := p.get("/join")
	form := url.Values{
		"_token": {token.FindStringSubmatch(page)[1]}, "ref": {"web"}, "username": {"maple-row"}, "e_mail": {"moss@bed.test"}, "pass": {"Maple-row-42"}, "pass_again": {"Maple-row-42"},
		"member_no": {""}, "born_on": {"1974-03-07"}, "plots": {"2"}, "heard": {"nb"}, "terms": {"yes"}, "website": {""},
	}
	for name, value := range changes {
		if value == "-" {
			form.Del(name)
			continue
		}
		form.Set(name, value)
	}
	res, err := p.http.PostForm(p.address+"/join", form)
	require.NoError(p.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	return res.StatusCode, res.Request.URL.RequestURI(), string(text)
}

func (p *person) row(columns string) string { return p.rowOf("plot_holders", columns) }

func (p *person) rowOf(table, columns string) string {
	var out sql.NullString
	err := p.db.QueryRow("SELECT CONCAT_WS('|', " + columns + ") FROM " + table + " ORDER BY id DESC LIMIT 1").Scan(&out)
	if err == sql.ErrNoRows {
		return "no row"
	}
	require.NoError(p.t, err)
	return out.String
}

func (p *person) rows() int {
	var n int
	require.NoError(p.t, p.db.QueryRow("SELECT COUNT(*) FROM plot_holders").Scan(&n))
	return n
}

func TestJoining(t *testing.T) {
	t.Parallel()
	p := visit(t)
	status, at, body := p.join(map[string]string{"username": " maple-row ", "e_mail": " Moss@Bed.test", "member_no": "OS-0042"})
	require.Equal(t, http.StatusOK, status)
	require.Equal(t, "/waiting-list", at)
	require.Contains(t, body, "Welcome, maple-row. You are on the waiting list.")
	require.Equal(t, "maple-row|moss@bed.test|OS-0042|1974-03-07|2|nb|1|web|holder|blank", p.row("login_name, mail, membership, born, plots_wanted, heard_code, agreed, referral, role, IFNULL(confirmed_at, 'blank')"))
	require.True(t, strings.HasPrefix(p.row("pass_hash"), "$argon2id$"))
	_, again := p.get("/waiting-list")
	require.NotContains(t, again, "Welcome,", "the greeting is shown once")
}

func TestRejections(t *testing.T) {
	t.Parallel()
	p := visit(t)
	p.join(nil)
	other := map[string]string{"username": "fern", "e_mail": "fern@bed.test"}
	for name, c := range map[string]struct {
		changes map[string]string
		says    string
	}{
		"blank":          {map[string]string{"username": " "}, "Choose a username."},
		"short":          {map[string]string{"username": "ab"}, "Use 3 to 20 characters."},
		"letters":        {map[string]string{"username": "a_b"}, "Use letters, digits and hyphens only."},
		"taken":          {map[string]string{"username": "MAPLE-row"}, "That username is taken."},
		"no address":     {map[string]string{"e_mail": "bed.test"}, "That is not an e-mail address."},
		"address taken":  {map[string]string{"e_mail": "MOSS@bed.test "}, "We know that address already."},
		"long address":   {map[string]string{"e_mail": strings.Repeat("a", 182) + "@bed.test"}, "Use at most 190 characters."},
		"short password": {map[string]string{"pass": "a1", "pass_again": "a1"}, "Use 10 to 72 bytes."},
		"only letters":   {map[string]string{"pass": "maple-maple", "pass_again": "maple-maple"}, "Use at least a letter and a digit."},
		"differ":         {map[string]string{"pass_again": "maple"}, "The two passwords differ."},
		"membership":     {map[string]string{"member_no": "OS-1"}, "A membership number is OS- and four digits."},
		"young":          {map[string]string{"born_on": time.Now().AddDate(-17, 0, 0).Format("2006-01-02")}, "You must be 18 or over."},
		"no day":         {map[string]string{"born_on": "2001-02-30"}, "That is not a date."},
		"no number":      {map[string]string{"plots": "two"}, "Enter a number."},
		"five":           {map[string]string{"plots": "5"}, "You can ask for 1 to 4 plots."},
		"half":           {map[string]string{"plots": "1.5"}, "Plots are given whole."},
		"not offered":    {map[string]string{"heard": "zz"}, "Choose one of the answers."},
		"terms":          {map[string]string{"terms": "-"}, "Please accept the rules of the association."},
	} {
		changes := map[string]string{}
		for k, v := range other {
			changes[k] = v
		}
		for k, v := range c.changes {
			changes[k] = v
		}
		status, _, body := p.join(changes)
		require.Equal(t, http.StatusUnprocessableEntity, status, name)
		require.Contains(t, body, c.says, name)
		require.Equal(t, 1, strings.Count(body, `class="error"`), name)
		require.NotContains(t, body, `type="password" value="M`, name)
		require.Equal(t, 1, p.rows(), name)
	}
	status, _, body := p.join(map[string]string{"username": "a!", "plots": "9", "e_mail": "fern@bed.test"})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Equal(t, 3, strings.Count(body, `class="error"`), "all errors at once")
	require.Contains(t, body, `value="fern@bed.test"`, "values are filled in again")
	status, _, _ = p.join(map[string]string{"_token": "wrong"})
	require.Equal(t, http.StatusForbidden, status)
	status, _, _ = p.join(map[string]string{"website": "x"})
	require.Equal(t, http.StatusUnprocessableEntity, status)
}

// TestEveryFaultShows: each fault changes what a visitor or a row can show, and that is not so without it.
func TestEveryFaultShows(t *testing.T) {
	t.Parallel()
	young := time.Now().AddDate(-18, 0, 1).Format("2006-01-02")
	wide := "a1" + strings.Repeat("é", 40)
	message := func(p *person, changes map[string]string) string {
		_, _, body := p.join(changes)
		return body
	}
	shows := map[string]func(p *person) bool{
		"username-cut": func(p *person) bool {
			p.join(map[string]string{"username": "maple-row-digger-0421"})
			return p.row("login_name") == "maple-row-digger-042"
		},
		"username-two": func(p *person) bool { p.join(map[string]string{"username": "ab"}); return p.rows() == 1 },
		"password-characters": func(p *person) bool {
			p.join(map[string]string{"pass": wide, "pass_again": wide})
			return p.rows() == 1
		},
		"born-day-early": func(p *person) bool { p.join(map[string]string{"born_on": young}); return p.rows() == 1 },
		"plots-five":     func(p *person) bool { p.join(map[string]string{"plots": "5"}); return p.row("plots_wanted") == "5" },
		"plots-half":     func(p *person) bool { p.join(map[string]string{"plots": "2.5"}); return p.row("plots_wanted") == "2" },
		"email-case-kept": func(p *person) bool {
			p.join(map[string]string{"e_mail": "Moss@bed.test"})
			return p.row("mail") == "Moss@bed.test"
		},
		"username-untrimmed": func(p *person) bool { p.join(map[string]string{"username": " maple"}); return p.rows() == 0 },
		"membership-zeros": func(p *person) bool {
			p.join(map[string]string{"member_no": "OS-0042"})
			return p.row("membership") == "OS-42"
		},
		"born-swapped": func(p *person) bool { p.join(nil); return p.row("born") == "1974-07-03" },
		"heard-label":  func(p *person) bool { p.join(nil); return p.row("heard_code") == "From a neighbour" },
		"heard-empty": func(p *person) bool {
			p.join(map[string]string{"heard": ""})
			return p.row("heard_code IS NULL") == "0"
		},
		"terms-reversed": func(p *person) bool { p.join(nil); return p.row("agreed") == "0" },
		"username-case": func(p *person) bool {
			p.join(nil)
			p.join(map[string]string{"username": "MAPLE-row", "e_mail": "b@bed.test"})
			return p.rows() == 2
		},
		"email-spaces-new": func(p *person) bool {
			p.join(nil)
			p.join(map[string]string{"username": "fern", "e_mail": " moss@bed.test"})
			return p.rows() == 2
		},
		"message-text": func(p *person) bool {
			return strings.Contains(message(p, map[string]string{"member_no": "x"}), "made of letters")
		},
		"message-missing": func(p *person) bool {
			return !strings.Contains(message(p, map[string]string{"born_on": young}), "18 or over")
		},
		"message-misplaced": func(p *person) bool {
			return strings.Contains(message(p, map[string]string{"born_on": young}), `id="plots-error-0"`)
		},
		"message-hidden": func(p *person) bool {
			return strings.Contains(message(p, map[string]string{"e_mail": ""}), `id="e_mail-error-0" hidden`)
		},
		"message-first-only": func(p *person) bool {
			return strings.Count(message(p, map[string]string{"username": "", "plots": ""}), `class="error"`) == 1
		},
		"message-untied": func(p *person) bool {
			return !strings.Contains(message(p, map[string]string{"username": ""}), `aria-describedby="username-error-0"`)
		},
		"reply-again": func(p *person) bool {
			p.join(nil)
			_, body := p.get("/waiting-list")
			return strings.Contains(body, "Welcome,")
		},
		"reply-missing": func(p *person) bool { return !strings.Contains(message(p, nil), "Welcome,") },
		"refill-lost": func(p *person) bool {
			return !strings.Contains(message(p, map[string]string{"plots": ""}), `value="maple-row"`)
		},
		"refill-email-lost": func(p *person) bool {
			return !strings.Contains(message(p, map[string]string{"plots": ""}), `value="moss@bed.test"`)
		},
		"refill-password": func(p *person) bool {
			return strings.Contains(message(p, map[string]string{"plots": ""}), `value="Maple-row-42"`)
		},
		"secret-plain":     func(p *person) bool { p.join(nil); return p.row("pass_hash") == "Maple-row-42" },
		"secret-base64":    func(p *person) bool { p.join(nil); return p.row("pass_hash") == "TWFwbGUtcm93LTQy" },
		"secret-fast-hash": func(p *person) bool { p.join(nil); return p.row("pass_hash = SHA2('Maple-row-42', 256)") == "1" },
		"secret-one-salt": func(p *person) bool {
			p.join(nil)
			p.join(map[string]string{"username": "fern", "e_mail": "b@bed.test"})
			return p.row("(SELECT COUNT(DISTINCT pass_hash) FROM plot_holders)") == "1"
		},
		"secret-in-redirect": func(p *person) bool { _, at, _ := p.join(nil); return strings.Contains(at, "Maple-row-42") },
		"long-input-fails": func(p *person) bool {
			s, _, _ := p.join(map[string]string{"username": strings.Repeat("a", 1001)})
			return s == 500
		},
		"no-redirect":      func(p *person) bool { _, at, _ := p.join(nil); return at == "/join" },
		"redirect-nowhere": func(p *person) bool { s, _, _ := p.join(nil); return s == 404 },
		"token-unchecked":  func(p *person) bool { p.join(map[string]string{"_token": "-"}); return p.rows() == 1 },
		"token-any": func(p *person) bool {
			_, page := visitorOf(p).get("/join")
			p.join(map[string]string{"_token": token.FindStringSubmatch(page)[1]})
			return p.rows() == 1
		},
		"token-lost": func(p *person) bool {
			_, _, body := p.join(map[string]string{"username": ""})
			return token.FindString(body) == ""
		},
		"get-joins": func(p *person) bool {
			_, page := p.get("/join")
			p.get("/join?username=maple&e_mail=moss@bed.test&pass=Maple-row-42&pass_again=Maple-row-42&born_on=1974-03-07&plots=2&terms=yes&_token=" + token.FindStringSubmatch(page)[1])
			return p.rows() == 1
		},
		"list-fails": func(p *person) bool { s, _, _ := p.join(map[string]string{"username[]": "maple"}); return s == 500 },
		"username-race": func(p *person) bool {
			for round := range 20 { // each is a chance
				var wg sync.WaitGroup
				for i := range 6 {
					wg.Go(func() {
						visitorOf(p).join(map[string]string{"username": fmt.Sprintf("fern-%d", round), "e_mail": fmt.Sprintf("fern-%d-%d@bed.test", round, i)})
					})
				}
				wg.Wait()
				if p.rows() > round+1 {
					return true
				}
			}
			return false
		},
		"role-taken": func(p *person) bool { p.join(map[string]string{"role": "steward"}); return p.row("role") == "steward" },
	}
	maps.Copy(shows, harvestFaults)
	maps.Copy(shows, helpFaults)
	maps.Copy(shows, bookingFaults)
	maps.Copy(shows, accountFaults)
	require.Len(t, shows, len(practice.Faults))
	slots := make(chan struct{}, 4)
	for _, f := range practice.Faults {
		t.Run(f.Name, func(t *testing.T) {
			t.Parallel()
			slots <- struct{}{}
			defer func() { <-slots }()
			show := shows[f.Name]
			require.NotNil(t, show)
			begin := visit
			if accountFaults[f.Name] != nil {
				begin = holderOf
			}
			require.False(t, show(begin(t)), "it shows without the fault")
			require.True(t, show(begin(t, f.Name)), "it does not show with the fault")
			for _, other := range practice.Faults {
				if f.Hides(other) {
					require.False(t, shows[other.Name](begin(t, f.Name, other.Name)), "%s shows beside it", other.Name)
				}
			}
		})
	}
}

func TestFaultsAreSwitchedWhileItRuns(t *testing.T) {
	t.Parallel()
	p := visit(t, "username-cut")
	p.join(map[string]string{"username": "maple-row-digger-0421"})
	require.Equal(t, 1, p.rows())
	res, err := p.http.PostForm(p.address+"/switches", url.Values{"fault": {"plots-five", "username-case"}})
	require.NoError(t, err)
	defer res.Body.Close()
	_, page := p.get("/switches")
	require.Equal(t, 2, strings.Count(page, " checked"))
	status, _, _ := p.join(map[string]string{"username": "maple-row-digger-0422"})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	p.join(map[string]string{"plots": "5", "e_mail": "fern@bed.test"})
	require.Equal(t, 2, p.rows())
	res, err = p.http.PostForm(p.address+"/switches", url.Values{"fault": {"none"}})
	require.NoError(t, err)
	defer res.Body.Close()
	require.Equal(t, http.StatusBadRequest, res.StatusCode)
}

func TestWhatCannotStartSaysWhy(t *testing.T) {
	t.Parallel()
	for dsn, says := range map[string]string{"nonsense": "cannot be read", "root@tcp(127.0.0.1:1)/": "names no database", "root@tcp(127.0.0.1:1)/x": "create the practice site's database x"} {
		_, err := practice.Open(context.Background(), practice.Config{DSN: dsn})
		require.ErrorContains(t, err, says)
	}
	_, err := practice.Open(context.Background(), practice.Config{Faults: []string{"no-such"}})
	require.ErrorContains(t, err, `there is no fault "no-such"`)
}

func TestEnteredTextIsEscaped(t *testing.T) {
	t.Parallel()
	p := visit(t)
	_, _, body := p.join(map[string]string{"username": `"><script>x</script>`})
	require.NotContains(t, body, "<script>x")
	require.Contains(t, body, fmt.Sprintf("value=%q", "&#34;&gt;&lt;script&gt;x&lt;/script&gt;"))
}
