package engine_test

import (
	"database/sql"
	"fmt"
	"html"
	"net/http"
	"net/http/httptest"
	"net/smtp"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine/journey"
	"oddtick/observe/mail"

	"github.com/stretchr/testify/require"
)

// passOffice is a site that mails a code, which is entered in a second form. lax takes a code a second time, and any code at all where
// blind is set.
type passOffice struct {
	db         *sql.DB
	mails      string
	lax, blind bool
}

func (o *passOffice) page(w http.ResponseWriter, status int, text, form string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	fmt.Fprintf(w, "<!doctype html><title>Pass</title><h1>Pass</h1><p>%s</p>%s", html.EscapeString(text), form)
}

const (
	askForm  = `<form method="post" action="/pass"><label>E-mail <input name="mail" type="email"></label><button>Ask</button></form>`
	codeForm = `<form method="post" action="/code"><label>Code <input name="code"></label><button>Enter</button></form>`
)

func (o *passOffice) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch r.Method + " " + r.URL.Path {
	case "GET /pass":
		o.page(w, http.StatusOK, "", askForm)
	case "GET /code":
		o.page(w, http.StatusOK, "", codeForm)
	case "POST /pass":
		to := r.PostFormValue("mail")
		res, err := o.db.Exec("INSERT INTO passes (mail, code) VALUES (?, ?)", to, "")
		if err != nil || !strings.Contains(to, "@") {
			o.page(w, http.StatusUnprocessableEntity, "Enter an e-mail address.", askForm)
			return
		}
		id, _ := res.LastInsertId()
		code := fmt.Sprintf("%06d", 480213+7919*id)
		_, _ = o.db.Exec("UPDATE passes SET code = ? WHERE id = ?", code, id)
		if o.mails != "" {
			_ = smtp.SendMail(o.mails, nil, "pass@office.test", []string{to}, []byte("To: "+to+"\r\nSubject: Your pass of 2026\r\n\r\nYour code is "+code+".\r\n"))
		}
		http.Redirect(w, r, "/code", http.StatusSeeOther)
	case "POST /code":
		query := "UPDATE passes SET used = 1 WHERE code = ? AND used IS NULL"
		if o.lax {
			query = "UPDATE passes SET used = COALESCE(used, 0) + 1 WHERE code = ?"
		}
		if o.blind {
			query = "UPDATE passes SET used = 1 WHERE id = (SELECT MAX(id) FROM passes) AND ? <> ''"
		}
		res, err := o.db.Exec(query, r.PostFormValue("code"))
		if n, _ := res.RowsAffected(); err != nil || n == 0 {
			o.page(w, http.StatusUnprocessableEntity, "That code will not do.", codeForm)
			return
		}
		o.page(w, http.StatusOK, "Your pass is ready.", "")
	default:
		http.NotFound(w, r)
	}
}

const (
	askDocument = `form: ask
page: /pass
submit: {method: POST, to: /pass}
fields: [{id: mail, name: mail, label: E-mail, kind: email, rules: [{required: {message: Enter an e-mail address.}}]}]
rejected: {status: 422}
accepted: {status: 303, to: /code}
stored: [{insert: passes, columns: {mail: {from: mail}}}]
`
	codeDocument = `form: enter
page: /code
submit: {method: POST, to: /code}
fields: [{id: code, name: code, label: Code, rules: [{required: {message: That code will not do.}}, {pattern: {is: '[0-9]{6}', message: That code will not do.}}]}]
rejected: {status: 422}
accepted: {status: 200, reply: Your pass is ready.}
stored: [{update: passes, columns: {used: {is: 1}}}]
`
	passSite = `site: office
visitors: {table: passes, key: id, name: mail}
journeys:
  - id: pass
    steps:
      - {submit: ask}
      - %s
      - {submit: enter, with: {code: "{code}"}, message_if_invalid: That code will not do.}
`
)

// passWalks walks the journey; how is its second step, which gets hold of the code.
func passWalks(t *testing.T, office passOffice, how string) map[string]journey.Walk {
	file := filepath.Join(t.TempDir(), "pass.db")
	db, err := sql.Open("sqlite", "file:"+file+"?_pragma=busy_timeout(5000)&_pragma=journal_mode(wal)")
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	_, err = db.Exec("CREATE TABLE passes (id INTEGER PRIMARY KEY, mail VARCHAR(200) NOT NULL, code VARCHAR(6) NOT NULL, used INTEGER)")
	require.NoError(t, err)
	mails, err := mail.Listen("127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { mails.Close() })
	office.db, office.mails = db, mails.Address()
	server := httptest.NewServer(&office)
	t.Cleanup(server.Close)
	project, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: fmt.Appendf(nil, passSite, how)}, {Name: "ask.yaml", Text: []byte(askDocument)}, {Name: "enter.yaml", Text: []byte(codeDocument)}})
	require.NoError(t, err)
	project.Site.Address, project.Site.Databases = server.URL, []spec.Database{{ID: "main", Kind: "sqlite", DSN: "file:" + file}}
	j, err := journey.Open(t.Context(), project, mails, time.Now().UnixNano(), 5*time.Second)
	require.NoError(t, err)
	defer j.Close()
	r, err := j.Walk(t.Context(), &project.Site.Journeys[0], nil)
	require.NoError(t, err)
	out := map[string]journey.Walk{}
	for _, w := range r.Walks {
		out[strings.TrimPrefix(w.ID, "pass/")] = w
	}
	return out
}

// TestCodesAreReadAndEntered: from the mail or from the table; used twice or altered they are refused.
func TestCodesAreReadAndEntered(t *testing.T) {
	t.Parallel()
	const byMail, byTable = `{wait_for: mail, code: 'code is ([0-9]{6})'}`, `{read: {column: passes.code, where: mail, is: "{mail}"}}`
	for name, c := range map[string]struct {
		office passOffice
		how    string
		odd    []string
		says   string
	}{
		"by mail":  {passOffice{}, byMail, nil, ""},
		"by table": {passOffice{}, byTable, nil, ""},
		"twice":    {passOffice{lax: true}, byMail, []string{"code_twice"}, "submit enter again: Accepted; it should have been rejected by the server"},
		"any code": {passOffice{blind: true}, byMail, []string{"code_altered", "code_twice"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			all := passWalks(t, c.office, c.how)
			require.Len(t, all, 3)
			for id, w := range all {
				want := judge.AsExpected
				for _, odd := range c.odd {
					if odd == id {
						want = judge.Odd
						require.Contains(t, w.Headline, c.says)
					}
				}
				require.Equal(t, want, w.Verdict, "%s: %s\n%s", id, w.Headline, oddParts(w))
			}
		})
	}
}

func TestCodesThatAreNotThere(t *testing.T) {
	t.Parallel()
	for how, says := range map[string]string{
		`{wait_for: mail, code: 'PIN ([0-9]+)'}`:                 "wait for the mail: nothing in the mail matches PIN ([0-9]+)",
		`{wait_for: mail}`:                                       "submit enter: no code has been read; wait for a mail with code:, or read it from a table with read:",
		`{read: {column: passes.code, where: mail, is: nobody}}`: "read the code from passes.code: passes.code holds no code where mail is nobody",
	} {
		whole := passWalks(t, passOffice{}, how)["whole"]
		require.Equal(t, judge.NotObserved, whole.Verdict)
		require.EqualValues(t, says, whole.Headline)
	}
}
