package engine_test

import (
	"context"
	"database/sql"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
	"golang.org/x/crypto/bcrypt"
)

const newWord = `form: word
page: /word
before: {signed_in: keeper}
fields:
  - {id: present, name: present, kind: password, rules: [{required: {message: Your present word?}}, {matches_secret: {stored: keepers.word, message: That is not it.}}]}
  - {id: next, name: next, kind: password, rules: [{required: {message: A new word?}}, {length: {min: 8, max: 40, in: bytes, message: 8 to 40.}}]}
  - {id: again, name: again, kind: password, rules: [{same_as: {field: next, message: They differ.}}]}
rejected: {status: 422}
accepted: {status: 303, to: /home, reply: "Your word is changed."}
stored: [{update: keepers, columns: {word: {secret: next, as: [bcrypt]}, nick: {unchanged: true}}}]
`

// lighthouse is a site on which a keeper signs in and takes a new word; lax does not look at the present one.
func lighthouse(t testing.TB, db *sql.DB, lax bool, asked *atomic.Int32) *httptest.Server {
	var mu sync.Mutex
	sessions := map[string]bool{}
	flash := map[string]string{}
	stored := func() (hash string) {
		if err := db.QueryRow("SELECT word FROM keepers WHERE nick = 'mara'").Scan(&hash); err != nil {
			t.Error(err)
		}
		return hash
	}
	page := func(w http.ResponseWriter, status int, errs map[string]string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(status)
		fmt.Fprint(w, "<!doctype html><title>Word</title><form method=post>")
		for _, name := range []string{"present", "next", "again"} {
			fmt.Fprintf(w, `<div><label for=%[1]s>%[1]s</label><input type=password id=%[1]s name=%[1]s><p class=error>%[2]s</p></div>`, name, errs[name])
		}
		fmt.Fprint(w, "<button>Change</button></form>")
	}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /in", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, "<form method=post action=/in><input name=nick><input type=password name=word><button>In</button></form>")
	})
	mux.HandleFunc("POST /in", func(w http.ResponseWriter, r *http.Request) {
		asked.Add(1)
		if r.PostFormValue("nick") != "mara" || bcrypt.CompareHashAndPassword([]byte(stored()), []byte(r.PostFormValue("word"))) != nil {
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, "<form method=post action=/in><input name=nick><input type=password name=word></form><p role=alert>Wrong.</p>")
			return
		}
		id := fmt.Sprint(time.Now().UnixNano())
		mu.Lock()
		sessions[id] = true
		mu.Unlock()
		http.SetCookie(w, &http.Cookie{Name: "s", Value: id, Path: "/", HttpOnly: true})
		http.Redirect(w, r, "/home", http.StatusSeeOther)
	})
	inside := func(serve func(w http.ResponseWriter, r *http.Request, id string)) http.HandlerFunc {
		return func(w http.ResponseWriter, r *http.Request) {
			c, err := r.Cookie("s")
			mu.Lock()
			known := err == nil && sessions[c.Value]
			mu.Unlock()
			if !known {
				http.Redirect(w, r, "/in", http.StatusSeeOther)
				return
			}
			serve(w, r, c.Value)
		}
	}
	mux.HandleFunc("GET /home", inside(func(w http.ResponseWriter, _ *http.Request, id string) {
		mu.Lock()
		defer mu.Unlock()
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, "<p role=status>%s</p>", flash[id])
		delete(flash, id)
	}))
	mux.HandleFunc("GET /word", inside(func(w http.ResponseWriter, _ *http.Request, _ string) { page(w, http.StatusOK, nil) }))
	mux.HandleFunc("POST /word", inside(func(w http.ResponseWriter, r *http.Request, id string) {
		present, next, errs := r.PostFormValue("present"), r.PostFormValue("next"), map[string]string{}
		if present == "" {
			errs["present"] = "Your present word?"
		}
		switch n := len(next); {
		case next == "":
			errs["next"] = "A new word?"
		case n < 8 || n > 40:
			errs["next"] = "8 to 40."
		}
		if len(errs) == 0 && next != r.PostFormValue("again") {
			errs["again"] = "They differ."
		}
		if len(errs) == 0 && !lax && bcrypt.CompareHashAndPassword([]byte(stored()), []byte(present)) != nil {
			errs["present"] = "That is not it."
		}
		if len(errs) > 0 {
			page(w, http.StatusUnprocessableEntity, errs)
			return
		}
		hash, err := bcrypt.GenerateFromPassword([]byte(next), bcrypt.MinCost)
		if err == nil {
			_, err = db.Exec("UPDATE keepers SET word = ? WHERE nick = 'mara'", string(hash))
		}
		if err != nil {
			w.WriteHeader(http.StatusInternalServerError)
			return
		}
		mu.Lock()
		flash[id] = "Your word is changed."
		mu.Unlock()
		http.Redirect(w, r, "/home", http.StatusSeeOther)
	}))
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	return server
}

// wordRun opens a run of the form on which a keeper takes a new word.
func wordRun(t testing.TB, site *spec.Site, depth testcase.Depth) (*target.Target, []*testcase.Case, error) {
	d := designerOf(t, newWord)
	all, _ := d.Cases(depth)
	cases, _ := target.Drivable(all)
	run, err := target.Open(context.Background(), target.Config{Site: site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	if err == nil {
		t.Cleanup(run.Close)
	}
	return run, cases, err
}

// TestAFormBehindASignInIsRunByWhoeverIsSignedIn, in both drivers; what a case changes of the account is restored, so that the next one
// can sign in.
func TestAFormBehindASignInIsRunByWhoeverIsSignedIn(t *testing.T) {
	t.Parallel()
	for _, lax := range []bool{false, true} {
		dsn := dbtest.DSN(t)
		dbtest.Exec(t, dsn, "CREATE TABLE keepers (id INT AUTO_INCREMENT PRIMARY KEY, nick VARCHAR(20), word VARCHAR(80))")
		db, err := sql.Open("mysql", dsn)
		require.NoError(t, err)
		t.Cleanup(func() { db.Close() })
		hash, err := bcrypt.GenerateFromPassword([]byte("Lamp-oil-77"), bcrypt.MinCost)
		require.NoError(t, err)
		_, err = db.Exec("INSERT INTO keepers (nick, word) VALUES ('mara', ?)", string(hash))
		require.NoError(t, err)
		var asked atomic.Int32
		server := lighthouse(t, db, lax, &asked)
		site := &spec.Site{
			Site: "lighthouse", Address: server.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}},
			SignIn: &spec.SignIn{Page: "/in", Name: "nick", Password: "word"}, Accounts: []spec.Account{{ID: "keeper", Name: "mara", Password: "Lamp-oil-77"}},
		}
		run, cases, err := wordRun(t, site, testcase.Standard)
		require.NoError(t, err)
		sink := &schedule.Collected{}
		require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
		results := map[string]*report.Result{}
		browser := 0
		for _, c := range cases {
			results[c.ID] = sink.Result(c.ID)
			if c.InBrowser() {
				browser++
			}
		}
		require.Positive(t, browser)
		odd := oddOnes(results)
		if !lax {
			require.Empty(t, strings.Join(odd, "\n"))
		} else {
			require.NotEmpty(t, odd)
			require.Equal(t, judge.Odd, results["word/present.matches_secret.other/http"].Verdict)
			for _, one := range odd {
				require.Contains(t, one, "word/present.")
			}
		}
		var left string
		require.NoError(t, db.QueryRow("SELECT word FROM keepers").Scan(&left))
		require.Equal(t, string(hash), left, "the account is unchanged")
	}
}

// TestASignInThatNeverSucceedsIsGivenUp before anything is submitted, and before an account is locked.
func TestASignInThatNeverSucceedsIsGivenUp(t *testing.T) {
	t.Parallel()
	dsn := dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE keepers (id INT AUTO_INCREMENT PRIMARY KEY, nick VARCHAR(20), word VARCHAR(80));\nINSERT INTO keepers (nick, word) VALUES ('mara', 'none')")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	var asked atomic.Int32
	server := lighthouse(t, db, false, &asked)
	site := &spec.Site{Site: "lighthouse", Address: server.URL, Databases: []spec.Database{{ID: "main", DSN: dsn}}, SignIn: &spec.SignIn{Page: "/in", Name: "nick", Password: "word"}, Accounts: []spec.Account{{ID: "keeper", Name: "mara", Password: "Lamp-oil-77"}}}
	_, _, err = wordRun(t, site, testcase.Quick)
	require.EqualError(t, err, "the account keeper cannot be signed in: the sign-in form is shown again: Wrong.")
	require.EqualValues(t, 1, asked.Load())
	site.Accounts = nil
	_, _, err = wordRun(t, site, testcase.Quick)
	require.EqualError(t, err, "before: the site document has no account keeper")

	// the word is changed by others in the middle of a run
	site.Accounts = []spec.Account{{ID: "keeper", Name: "mara", Password: "Lamp-oil-77"}}
	hash, err := bcrypt.GenerateFromPassword([]byte("Lamp-oil-77"), bcrypt.MinCost)
	require.NoError(t, err)
	_, err = db.Exec("UPDATE keepers SET word = ?", string(hash))
	require.NoError(t, err)
	run, cases, err := wordRun(t, site, testcase.Quick)
	require.NoError(t, err)
	_, err = db.Exec("UPDATE keepers SET word = 'none'")
	require.NoError(t, err)
	asked.Store(0)
	sink := &schedule.Collected{}
	require.NoError(t, schedule.Execute(context.Background(), run, sink, nil))
	for _, c := range cases {
		require.Equal(t, judge.NotObserved, sink.Result(c.ID).Verdict)
	}
	require.LessOrEqual(t, asked.Load(), int32(6), "a few tries at once, and no more")
}

// TestASignInWhoseCookieIsRefused is not taken for one: nobody is signed in then.
func TestASignInWhoseCookieIsRefused(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		cookie http.Cookie
		says   string
	}{
		"for HTTPS": {http.Cookie{Name: "sid", Value: "s", Secure: true, Path: "/"}, ""}, // this machine itself counts as secure
		"elsewhere": {http.Cookie{Name: "sid", Value: "s", Domain: "lighthouse.example", Path: "/"}, "the cookie sid is not kept: it is for lighthouse.example"},
		"kept":      {http.Cookie{Name: "sid", Value: "s", Path: "/logs"}, ""},
		"taken off": {http.Cookie{Name: "sid", Value: "", MaxAge: -1}, ""},
	} {
		server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Method == http.MethodPost {
				http.SetCookie(w, &c.cookie)
				http.Redirect(w, r, "/logs", http.StatusSeeOther)
				return
			}
			if r.URL.Path == "/in" {
				fmt.Fprint(w, "<form method=post><input name=nick><input type=password name=word></form>")
				return
			}
			fmt.Fprint(w, "<p>Logs</p>")
		}))
		site := &spec.Site{Address: server.URL, SignIn: &spec.SignIn{Page: "/in", Name: "nick", Password: "word"}, Accounts: []spec.Account{{ID: "keeper", Name: "mara", Password: "Lamp-oil-77"}}}
		reached := target.Reach(t.Context(), site)
		server.Close()
		last := reached[len(reached)-1]
		require.Equal(t, c.says == "", last.OK, "%s: %s", name, last.Says)
		require.Contains(t, last.Says, c.says, name)
	}
}
