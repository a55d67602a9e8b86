package engine_test

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"

	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/engine/target"
	"oddtick/formats/ddl"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

// TestThePageReadsTheSameAfterItsScripts: over HTTP and in a real browser.
func TestThePageReadsTheSameAfterItsScripts(t *testing.T) {
	t.Parallel()
	address, _ := ostlewick(t)
	read := func(scripts bool) *page.Described {
		text, at, err := target.FetchPage(context.Background(), &spec.Site{Site: "s", Address: address}, "/join", "", scripts, "", 1<<20)
		require.NoError(t, err)
		d, err := page.Describe(text, at)
		require.NoError(t, err)
		for i := range d.Forms[0].Fields { // a token is new each time
			if d.Forms[0].Fields[i].Token {
				d.Forms[0].Fields[i].Value = ""
			}
		}
		return d
	}
	plain := read(false)
	require.Len(t, plain.Forms, 1)
	names := []string{}
	for _, f := range plain.Forms[0].Fields {
		names = append(names, f.Name+" "+f.Type+" "+f.Label)
	}
	require.Equal(t, []string{
		"_token hidden ", "ref hidden ", "username text Username", "e_mail email E-mail", "pass password Password", "pass_again password Password again", "member_no text Membership number, if you have one",
		"born_on date Date of birth", "plots number Plots wanted", "heard select How you heard of us", "terms checkbox I accept the rules of the association", "website text Leave this blank",
	}, names)
	require.Equal(t, plain, read(true))
}

// TestTheTablesGiveTheSameDraftLiveAndAsSQL: what the server itself writes as SQL, read, against its information schema.
func TestTheTablesGiveTheSameDraftLiveAndAsSQL(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	site := &spec.Site{Site: "s", Address: address, Databases: []spec.Database{{ID: "main", DSN: dsn}}}
	live, err := target.ReadSchema(context.Background(), site)
	require.NoError(t, err)
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer db.Close()
	var text strings.Builder
	for _, table := range live.Tables {
		var name, create string
		require.NoError(t, db.QueryRow("SHOW CREATE TABLE `"+table.Name+"`").Scan(&name, &create))
		text.WriteString(create + ";\n")
	}
	asSQL, err := ddl.Read(text.String(), "mariadb")
	require.NoError(t, err)
	form, err := spec.ReadForm("join.yaml", []byte(joinText(t)))
	require.NoError(t, err)
	form.Stored = nil
	written := func(v any) string {
		b, err := json.MarshalIndent(v, "", " ")
		require.NoError(t, err)
		return string(b)
	}
	require.Equal(t, "plot_holders", draft.Tables(live, form)[0], "the likeliest table comes first")
	require.Equal(t, written(draft.FromSchema(asSQL, "plot_holders", form)), written(draft.FromSchema(live, "plot_holders", form)))
	_, err = target.ReadSchema(context.Background(), &spec.Site{Site: "s", Address: address})
	require.ErrorContains(t, err, "names no database")
}

// TestASiteIsReached: extra headers and authentication go along, an account signs in by the site's own form, and a wrong one is told.
func TestASiteIsReached(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		user, password, _ := r.BasicAuth()
		if user != "stage" || password != "door" || r.Header.Get("X-Key") != "k" {
			w.WriteHeader(http.StatusUnauthorized)
			return
		}
		w.Header().Set("Content-Type", "text/html")
		if r.Method == http.MethodPost && r.PostFormValue("pw") == "right" && r.PostFormValue("t") == "1" {
			_, _ = w.Write([]byte("<p>Welcome</p>"))
			return
		}
		_, _ = w.Write([]byte(`<form method=post action=/in><input type=hidden name=t value=1><input name=who><input type=password name=pw></form><p class=error>No such member.</p>`))
	}))
	defer server.Close()
	site := &spec.Site{
		Site: "s", Address: server.URL, Headers: map[string]string{"X-Key": "k"}, Authentication: &spec.Authentication{User: "stage", Password: "door"}, SignIn: &spec.SignIn{Page: "/in", Name: "who", Password: "pw"},
		Accounts: []spec.Account{{ID: "amy", Name: "amy", Password: "right"}, {ID: "bob", Name: "bob", Password: "wrong"}}, Databases: []spec.Database{{ID: "main", DSN: "root@tcp(127.0.0.1:1)/x"}},
	}
	got := target.Reach(context.Background(), site)
	require.Len(t, got, 4)
	require.True(t, got[0].OK, got[0].Says)
	require.False(t, got[1].OK)
	require.Contains(t, got[1].Says, "cannot be reached")
	require.True(t, got[2].OK, got[2].Says)
	require.False(t, got[3].OK)
	require.Contains(t, got[3].Says, "No such member.")
	site.Authentication.Password = "x"
	require.Contains(t, target.Reach(context.Background(), site)[0].Says, "rejects the given user and password")
}

// TestAttackAPasswordForAnotherHost: an account's password goes to the site's own address alone.
func TestAttackAPasswordForAnotherHost(t *testing.T) {
	t.Parallel()
	var got atomic.Int32
	far := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		if r.Method == http.MethodPost {
			got.Add(1)
		}
	}))
	defer far.Close()
	own := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, `<form method=post action="%s/in"><input name=who><input type=password name=pw></form>`, far.URL)
	}))
	defer own.Close()
	for _, page := range []string{"/in", far.URL + "/in"} {
		site := &spec.Site{Site: "s", Address: own.URL, Allowed: []string{strings.TrimPrefix(far.URL, "http://")}, SignIn: &spec.SignIn{Page: page, Name: "who", Password: "pw"}, Accounts: []spec.Account{{ID: "amy", Name: "amy", Password: "right"}}}
		reached := target.Reach(t.Context(), site)
		require.False(t, reached[1].OK)
		require.Contains(t, reached[1].Says, "site's own address only")
	}
	require.Zero(t, got.Load())
}
