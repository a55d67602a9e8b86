package engine_test

import (
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

const shedForm = `form: sheds
page: /
fields:
  - {name: name, rules: [{required: {message: Name it.}}, {length: {max: 12, message: Shorter.}}]}
  - {name: metres, kind: number, rules: [{required: {message: How long?}}, {range: {min: 1, max: 9, message: 1 to 9.}}, {step: {by: 1, message: Whole.}}]}
rejected: {status: 422}
accepted: {status: 303, to: /done}
stored: [{insert: sheds, columns: {name: {from: name}, metres: {from: metres}}}]
`

// breaking is a site that is right but for what happens at its nth submission.
func breaking(t testing.TB, db *sql.DB, happens func(n int, w http.ResponseWriter) (answered bool)) *httptest.Server {
	var mu sync.Mutex
	n := 0
	form := func(w http.ResponseWriter, status int, name, metres string, errs map[string]string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(status)
		fmt.Fprintf(w, `<!doctype html><form method=post><label>Name <input name=name value=%q></label><p class=error>%s</p><label>Metres <input name=metres value=%q></label><p class=error>%s</p><button>Send</button></form>`, name, errs["name"], metres, errs["metres"])
	}
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/done":
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, "<p>Thanks</p>")
			return
		case r.Method != http.MethodPost:
			form(w, http.StatusOK, "", "", nil)
			return
		}
		mu.Lock()
		n++
		answered := happens(n, w)
		mu.Unlock()
		if answered {
			return
		}
		name, metres, errs := r.PostFormValue("name"), r.PostFormValue("metres"), map[string]string{}
		switch {
		case name == "":
			errs["name"] = "Name it."
		case len([]rune(name)) > 12:
			errs["name"] = "Shorter."
		}
		var size float64
		switch _, err := fmt.Sscanf(metres, "%g", &size); {
		case metres == "":
			errs["metres"] = "How long?"
		case err != nil || strings.ContainsAny(metres, " abc"):
			errs["metres"] = "That is not a number."
		case size < 1 || size > 9:
			errs["metres"] = "1 to 9."
		case size != float64(int(size)):
			errs["metres"] = "Whole."
		}
		if len(errs) > 0 {
			form(w, http.StatusUnprocessableEntity, name, metres, errs)
			return
		}
		if _, err := db.Exec("INSERT INTO sheds (name, metres) VALUES (?, ?)", name, metres); err != nil {
			t.Error(err)
		}
		http.Redirect(w, r, "/done", http.StatusSeeOther)
	}))
	t.Cleanup(server.Close)
	return server
}

// TestWhatBreaksMeanwhileEndsInAVerdict: answers with 503 now and then, a table whose columns change, connections to the database that
// are dropped. Each case has a verdict, nothing is called odd but what the site did, and the run goes on.
func TestWhatBreaksMeanwhileEndsInAVerdict(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		happens func(db *sql.DB, n int, w http.ResponseWriter) bool
		odd     string // of what is odd, how the site's answer ended
	}{
		"nothing": {func(*sql.DB, int, http.ResponseWriter) bool { return false }, ""},
		"answers with 503 now and then": {func(_ *sql.DB, n int, w http.ResponseWriter) bool {
			if n%7 == 3 {
				w.WriteHeader(http.StatusServiceUnavailable)
			}
			return n%7 == 3
		}, "status 503"},
		"a column comes and another goes": {func(db *sql.DB, n int, _ http.ResponseWriter) bool {
			for at, statement := range map[int]string{4: "ALTER TABLE sheds ADD COLUMN roof VARCHAR(10)", 12: "ALTER TABLE sheds DROP COLUMN door"} {
				if n == at {
					_, err := db.Exec(statement)
					require.NoError(t, err)
				}
			}
			return false
		}, ""},
		"connections are dropped": {func(db *sql.DB, n int, _ http.ResponseWriter) bool {
			if n%5 == 0 {
				dropOthers(t, db)
			}
			return false
		}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			dsn := dbtest.DSN(t)
			dbtest.Exec(t, dsn, "CREATE TABLE sheds (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(12) CHARACTER SET utf8mb4, metres INT, door VARCHAR(10))")
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			t.Cleanup(func() { db.Close() })
			server := breaking(t, db, func(n int, w http.ResponseWriter) bool { return c.happens(db, n, w) })
			results := runSome(t, shedForm, server.URL, dsn, testcase.Standard, func(c *testcase.Case) bool { return !c.InBrowser() })
			odd := 0
			for id, r := range results {
				if r.Verdict != judge.Odd {
					require.Contains(t, []judge.Verdict{judge.AsExpected, judge.NotObserved, judge.DoesNotApply}, r.Verdict)
					require.NotEmpty(t, r.Headline)
					continue
				}
				odd++
				require.NotEmpty(t, c.odd, "%s", strings.Join(oddOnes(map[string]*report.Result{id: r}), "\n"))
				require.Contains(t, r.Steps[len(r.Steps)-1].Judgement.Checks[0].Parts[0].Words.Observed, c.odd, id)
			}
			require.Equal(t, c.odd != "", odd > 0)
		})
	}
}

// dropOthers ends every other connection to a database.
func dropOthers(t testing.TB, db *sql.DB) {
	rows, err := db.Query("SELECT ID FROM information_schema.PROCESSLIST WHERE DB = DATABASE() AND ID <> CONNECTION_ID()")
	require.NoError(t, err)
	defer rows.Close()
	var ids []int64
	for rows.Next() {
		var id int64
		require.NoError(t, rows.Scan(&id))
		ids = append(ids, id)
	}
	for _, id := range ids {
		_, _ = db.Exec(fmt.Sprintf("KILL %d", id)) // it may have ended
	}
}

// TestTokensInAMetaElementOrACookieAreSentAlong, as a parameter and in the usual header; without the token neither is.
func TestTokensInAMetaElementOrACookieAreSentAlong(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ where, encoding, submit string }{{"meta", "form", ""}, {"cookie", "form", ""}, {"meta", "json", "submit: {to: /send, encoding: json}\n"}} {
		var mu sync.Mutex
		accepted, refused := 0, 0
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Content-Type", "text/html")
			switch {
			case r.URL.Path == "/done":
				fmt.Fprint(w, "<p>Thanks</p>")
			case r.Method == http.MethodPost:
				mu.Lock()
				defer mu.Unlock()
				if r.Header.Get("X-CSRF-Token") != "t0ken/=" {
					refused++
					w.WriteHeader(http.StatusForbidden)
					return
				}
				accepted++
				http.Redirect(w, r, "/done", http.StatusSeeOther)
			case c.where == "meta":
				fmt.Fprint(w, `<meta name="csrf" content="t0ken/="><form method=post><input name=a></form>`)
			default:
				http.SetCookie(w, &http.Cookie{Name: "csrf", Value: "t0ken%2F%3D", Path: "/"})
				fmt.Fprint(w, `<form method=post><input name=a></form>`)
			}
		}))
		defer server.Close()
		results := runOn(t, server.URL, "form: f\npage: /\ntoken: csrf\n"+c.submit+"fields: [{name: a}]\nrejected: {status: 403}\naccepted: {status: 303, to: /done}\n")
		require.Equal(t, judge.AsExpected, results["f/form.usual/http"].Verdict, "%v: %s", c, results["f/form.usual/http"].Headline)
		require.Equal(t, judge.AsExpected, results["f/form.without_token/http"].Verdict, "%v: %s", c, results["f/form.without_token/http"].Headline)
		require.Positive(t, accepted)
		require.Positive(t, refused)
	}
}
