package engine_test

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"fmt"
	"html/template"
	"net/http"
	"net/http/httptest"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
	"unicode/utf8"

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

// runAll runs a form's cases that need no browser against a site and returns each case's latest result.
func runAll(t testing.TB, formText, address, dsn string, depth testcase.Depth) map[string]*report.Result {
	return runSome(t, formText, address, dsn, depth, func(c *testcase.Case) bool { return !c.InBrowser() })
}

func inBoth(*testcase.Case) bool { return true }

func runSome(t testing.TB, formText, address, dsn string, depth testcase.Depth, pick func(*testcase.Case) bool) map[string]*report.Result {
	return runUntil(t, formText, address, dsn, depth, pick, func(*report.Result) bool { return false })
}

// runUntil runs some of a form's cases until one gives what is looked for.
func runUntil(t testing.TB, formText, address, dsn string, depth testcase.Depth, pick func(*testcase.Case) bool, found func(*report.Result) bool) map[string]*report.Result {
	d := designerOf(t, formText)
	all, omitted := d.Cases(depth)
	require.Empty(t, omitted)
	drivable, _ := target.Drivable(all)
	cases := slices.DeleteFunc(drivable, func(c *testcase.Case) bool { return !pick(c) })
	site := &spec.Site{Site: "site", Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}
	run, err := target.Open(context.Background(), target.Config{Site: site, Designer: d, Cases: cases, Number: time.Now().UnixNano()})
	require.NoError(t, err)
	defer run.Close()
	ctx, stop := context.WithCancel(context.Background())
	defer stop()
	sink := &schedule.Collected{OnDone: func(r *report.Result) {
		if found(r) {
			stop()
		}
	}}
	if err := schedule.Execute(ctx, run, sink, nil); ctx.Err() == nil {
		require.NoError(t, err)
	}
	require.Zero(t, sink.Foreign)
	out := map[string]*report.Result{}
	for _, c := range cases {
		r := sink.Result(c.ID)
		if r == nil && ctx.Err() != nil {
			continue
		}
		require.NotNil(t, r, c.ID)
		out[c.ID] = r
	}
	return out
}

// oddOnes are the cases that are not as expected, with their first odd or unobserved part.
func oddOnes(results map[string]*report.Result) []string {
	var out []string
	for id, r := range results {
		if r.Verdict == judge.AsExpected {
			continue
		}
		line := fmt.Sprintf("%s is %s: %s", id, r.Verdict, r.Headline)
		for _, s := range r.Steps {
			for _, c := range s.Judgement.Checks {
				for _, p := range c.Parts {
					if p.Verdict == judge.Odd || p.Verdict == judge.NotObserved {
						line += fmt.Sprintf("\n    %s, %s: expected %q, observed %q %s", c.Check, p.Words.Name, p.Words.Expected, p.Words.Observed, p.Words.Why)
					}
				}
			}
		}
		out = append(out, line)
	}
	return out
}

// moorings is a site that answers with its own page: messages in a list above the form, one a field, thanks on the same page.
const mooringsForm = `form: mooring
page: /mooring.php
submit: {method: POST, to: /mooring.php}
fields:
  - {name: boatName, label: Boat, normalize: [trim], rules: [{required: {message: Boat name is missing}}, {length: {min: 2, max: 12, message: Boat name must have 2 to 12 characters}}]}
  - {name: owner, label: Owner, normalize: [collapse], rules: [{required: {}}, {length: {max: 30}}]}
  - {name: metres, label: Metres, kind: number, rules: [{required: {message: {part: length}}}, {number: {message: {part: length}}}, {range: {min: 2.5, max: 30, message: {part: length}}}]}
  - {name: berth, label: Berth, kind: single_choice, options: [{label: North quay, value: "1"}, {label: South quay, value: "2"}], rules: [{required: {message: Pick a berth}}, {one_of_options: {message: Pick a berth}}]}
  - {name: arrives, label: Arrives, kind: date, rules: [{range: {min: today}}]}
  - {name: tools, label: Tools on board, kind: checkbox, value: "1"}
phases: together
rejected: {place: summary, report: first_of_each_field}
accepted: {status: 200, reply: "Thank you, {owner}!", form: blank}
stored:
  - insert: boats
    columns: {name: {from: boatname}, owner: {from: owner}, metres: {from: metres}, quay: {from: berth}, arrives: {from: arrives, blank: null}, has_tools: {from: tools}}
`

const mooringsPage = `<html><head><title>Moorings</title></head><body><h1>Ask for a mooring</h1>
{{if .Thanks}}<div class="notice success">Thank you, {{.Thanks}}!</div>{{end}}
{{if .Errors}}<div class="alert alert-danger"><p>Please correct:</p><ul>{{range .Errors}}<li>{{.}}</li>{{end}}</ul></div>{{end}}
<form method=post>
<label>Boat <input name=boatName value="{{.V.boatName}}"></label> <small>2 to 12 characters</small><br>
<label>Owner <input name=owner value="{{.V.owner}}"></label><br>
Length in metres <input name=metres value="{{.V.metres}}"><br>
<select name=berth><option value="">--</option><option value=1 {{if eq .V.berth "1"}}selected{{end}}>North quay</option><option value=2 {{if eq .V.berth "2"}}selected{{end}}>South quay</option></select><br>
<input type=date name=arrives value="{{.V.arrives}}"><br>
<input type=checkbox name=tools value=1 {{if .V.tools}}checked{{end}}> Tools on board<br>
<input type=submit name=go value=Send></form></body></html>`

// table is a site's own database.
type table interface {
	Exec(query string, args ...any) (sql.Result, error)
	QueryRow(query string, args ...any) *sql.Row
}

func moorings(t *testing.T, db table) http.Handler {
	page := template.Must(template.New("").Parse(mooringsPage))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		data := map[string]any{"V": map[string]string{"boatName": "", "owner": "", "metres": "", "berth": "", "arrives": "", "tools": ""}}
		if r.Method == http.MethodPost {
			f := func(name string) string { return r.PostFormValue(name) }
			boat, owner := strings.TrimSpace(f("boatName")), strings.Join(strings.Fields(f("owner")), " ")
			var errs []string
			if boat == "" {
				errs = append(errs, "Boat name is missing")
			} else if n := utf8.RuneCountInString(boat); n < 2 || n > 12 {
				errs = append(errs, "Boat name must have 2 to 12 characters")
			}
			if n := utf8.RuneCountInString(owner); n == 0 || n > 30 {
				errs = append(errs, "Check the owner")
			}
			var metres float64
			if _, err := fmt.Sscanf(f("metres")+"|", "%g|", &metres); err != nil || strings.Contains(f("metres"), "_") || metres < 2.5 || metres > 30 {
				errs = append(errs, "The length is not right")
			}
			if f("berth") != "1" && f("berth") != "2" {
				errs = append(errs, "Pick a berth")
			}
			var arrives any
			if f("arrives") != "" {
				day, err := time.Parse("2006-01-02", f("arrives"))
				if arrives = f("arrives"); err != nil || f("arrives") < time.Now().UTC().Format("2006-01-02") || day.Year() > 9000 {
					errs = append(errs, "Arrival cannot be")
				}
			}
			if len(errs) == 0 {
				if _, err := db.Exec("INSERT INTO boats (name, owner, metres, quay, arrives, has_tools) VALUES (?, ?, ?, ?, ?, ?)", boat, owner, f("metres"), f("berth"), arrives, f("tools") == "1"); err != nil {
					t.Error(err)
				}
				data["Thanks"] = owner
			} else {
				data["Errors"] = errs
				data["V"] = map[string]string{"boatName": f("boatName"), "owner": f("owner"), "metres": f("metres"), "berth": f("berth"), "arrives": f("arrives"), "tools": f("tools")}
			}
		}
		if err := page.Execute(w, data); err != nil {
			t.Error(err)
		}
	})
}

// lanterns is a site that redirects after a rejection too: messages and values wait in the session, each message right behind its
// control in a table, only the first of all.
const lanternsForm = `form: lantern
page: /account/new
token: [csrf]
fields:
  - {name: "account[nick]", label: Nick, rules: [{required: {message: Nick please.}}, {pattern: {is: '[a-z]{4,9}', message: Four to nine small letters.}}, {unique: {column: accounts.nick, message: This nick belongs to somebody.}}]}
  - {name: "account[mail]", label: Mail, kind: email, normalize: [trim], rules: [{required: {message: Mail please.}}, {email: {message: Mail looks odd.}}]}
  - {name: "account[secret]", label: Secret, kind: password, rules: [{required: {message: Secret please.}}, {length: {min: 8, max: 64, message: Eight to 64 characters.}}]}
  - {name: "account[again]", label: Again, kind: password, rules: [{same_as: {field: account_secret, message: Not the same.}}]}
rejected: {status: 302, to: /account/new, place: field, report: first_of_all, values_kept: all_but_secrets}
accepted: {status: 302, to: /account/done}
stored:
  - insert: accounts
    columns: {nick: {from: account_nick}, mail: {from: account_mail}, secret: {secret: account_secret}, created: {now: {within: 10s}}}
`

const lanternsPage = `<!doctype html><html><body><h2>New account</h2><form action="/account" method="post" id="f"><input type="hidden" name="csrf" value="{{.Token}}"><table>
{{range .Rows}}<tr><td>{{.Label}}</td><td><input {{if .Secret}}type="password" {{end}}name="{{.Name}}" value="{{.Value}}"> {{if .Error}}<span class="field-err">{{.Error}}</span>{{end}}</td></tr>{{end}}
</table><button>Create</button></form></body></html>`

type lanternState struct{ field, text, nick, mail string }

func lanterns(t *testing.T, db table) http.Handler {
	page := template.Must(template.New("").Parse(lanternsPage))
	var mu sync.Mutex
	states := map[string]lanternState{}
	mux := http.NewServeMux()
	mux.HandleFunc("GET /account/new", func(w http.ResponseWriter, r *http.Request) {
		id := fmt.Sprint(time.Now().UnixNano())
		if c, err := r.Cookie("sid"); err == nil {
			id = c.Value
		} else {
			http.SetCookie(w, &http.Cookie{Name: "sid", Value: id, Path: "/"})
		}
		mu.Lock()
		st := states[id]
		delete(states, id)
		mu.Unlock()
		type row struct {
			Label, Name, Value, Error string
			Secret                    bool
		}
		rows := []row{{Label: "Nick", Name: "account[nick]", Value: st.nick}, {Label: "Mail", Name: "account[mail]", Value: st.mail}, {Label: "Secret", Name: "account[secret]", Secret: true}, {Label: "Again", Name: "account[again]", Secret: true}}
		for i := range rows {
			if rows[i].Name == st.field {
				rows[i].Error = st.text
			}
		}
		if err := page.Execute(w, map[string]any{"Token": "t" + id, "Rows": rows}); err != nil {
			t.Error(err)
		}
	})
	mux.HandleFunc("GET /account/done", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<p>Done.</p>") })
	mux.HandleFunc("POST /account", func(w http.ResponseWriter, r *http.Request) {
		c, err := r.Cookie("sid")
		if err != nil || r.PostFormValue("csrf") != "t"+c.Value {
			http.Error(w, "Forbidden", http.StatusForbidden)
			return
		}
		nick, mail, secret := r.PostFormValue("account[nick]"), strings.TrimSpace(r.PostFormValue("account[mail]")), r.PostFormValue("account[secret]")
		var field, text string
		say := func(f, s string) {
			if field == "" {
				field, text = f, s
			}
		}
		switch {
		case nick == "":
			say("account[nick]", "Nick please.")
		case !regexp.MustCompile(`^[a-z]{4,9}$`).MatchString(nick):
			say("account[nick]", "Four to nine small letters.")
		}
		switch {
		case mail == "":
			say("account[mail]", "Mail please.")
		case !regexp.MustCompile(`^[\w.+-]+@[\w-]+(\.[\w-]+)+$`).MatchString(mail):
			say("account[mail]", "Mail looks odd.")
		}
		switch n := utf8.RuneCountInString(secret); {
		case n == 0:
			say("account[secret]", "Secret please.")
		case n < 8 || n > 64:
			say("account[secret]", "Eight to 64 characters.")
		}
		if r.PostFormValue("account[again]") != secret {
			say("account[again]", "Not the same.")
		}
		if field == "" {
			var n int
			if err := db.QueryRow("SELECT COUNT(*) FROM accounts WHERE nick = ?", nick).Scan(&n); err != nil {
				t.Error(err)
			}
			if n > 0 {
				say("account[nick]", "This nick belongs to somebody.")
			}
		}
		if field != "" {
			mu.Lock()
			states[c.Value] = lanternState{field, text, nick, r.PostFormValue("account[mail]")}
			mu.Unlock()
			http.Redirect(w, r, "/account/new", http.StatusFound)
			return
		}
		taken := func() { // somebody was faster
			mu.Lock()
			states[c.Value] = lanternState{"account[nick]", "This nick belongs to somebody.", nick, r.PostFormValue("account[mail]")}
			mu.Unlock()
			http.Redirect(w, r, "/account/new", http.StatusFound)
		}
		digest := sha256.Sum256([]byte(secret))
		hash, err := bcrypt.GenerateFromPassword([]byte(hex.EncodeToString(digest[:])), bcrypt.MinCost)
		if err != nil {
			t.Error(err)
		}
		if _, err := db.Exec("INSERT INTO accounts (nick, mail, secret, created) VALUES (?, ?, ?, ?)", nick, mail, string(hash), time.Now().UTC().Format("2006-01-02 15:04:05")); err != nil {
			taken()
			return
		}
		http.Redirect(w, r, "/account/done", http.StatusFound)
	})
	return mux
}

// TestSitesOfOtherConventions: a site without faults gives no odd tick, however it is built; a fault in it does.
func TestSitesOfOtherConventions(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name, form, tables, fault string
		site                      func(*testing.T, table) http.Handler
		shows                     []string
	}{
		{
			"messages above the form", mooringsForm, `CREATE TABLE boats (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(12) NOT NULL, owner VARCHAR(40), metres DECIMAL(6,2), quay TINYINT, arrives DATE, has_tools BIT(1), seen TIMESTAMP DEFAULT CURRENT_TIMESTAMP)`,
			"ALTER TABLE boats MODIFY metres INT",
			moorings,
			[]string{"mooring/metres.range.min/http"},
		},
		{
			"redirect after a rejection", lanternsForm, `CREATE TABLE accounts (nick VARCHAR(20) PRIMARY KEY, mail VARCHAR(100), secret VARCHAR(100), created DATETIME)`,
			"CREATE TRIGGER t BEFORE INSERT ON accounts FOR EACH ROW SET NEW.mail = UPPER(NEW.mail)",
			lanterns,
			[]string{"lantern/account_mail.valid/http", "lantern/form.usual/http"},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			dsn := dbtest.DSN(t)
			dbtest.Exec(t, dsn, c.tables)
			db, err := sql.Open("mysql", dsn)
			require.NoError(t, err)
			defer db.Close()
			server := httptest.NewServer(c.site(t, db))
			defer server.Close()
			require.Empty(t, strings.Join(oddOnes(runSome(t, c.form, server.URL, dsn, testcase.Thorough, inBoth)), "\n"))
			dbtest.Exec(t, dsn, c.fault)
			faulty := runAll(t, c.form, server.URL, dsn, testcase.Standard)
			for _, id := range c.shows {
				require.Equal(t, judge.Odd, faulty[id].Verdict, id)
			}
		})
	}
}
