package engine_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"oddtick/core/draft"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/engine/manual"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// strict is a site that takes no spaces around a code, says what is wrong in a summary, and keeps nothing in a database.
func strict(t testing.TB) string {
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		wrong := ""
		if r.Method == http.MethodPost {
			code := r.PostFormValue("code")
			switch {
			case code == "":
				wrong = "Please give a code."
			case strings.TrimSpace(code) != code || len(code) != 4:
				wrong = "That is not a code."
			default:
				http.Redirect(w, r, "/done?code="+code, http.StatusFound)
				return
			}
		}
		if r.URL.Path == "/done" {
			fmt.Fprintf(w, "<p>Your code is %s.</p>", r.URL.Query().Get("code"))
			return
		}
		fmt.Fprintf(w, `<form method=post action=/code><div role=alert>%s</div><label>Code <input name=code value="%s"></label><button>Go</button></form>`, wrong, r.PostFormValue("code"))
	}))
	t.Cleanup(server.Close)
	return server.URL
}

func TestATryWorksBeforeAnyRuleIsWritten(t *testing.T) {
	t.Parallel()
	run := openForm(t, "form: f\npage: /code\nfields: [{name: code}]\n", strict(t), "")
	tried, _, err := manual.Try(context.Background(), run, manual.Values{"code": {"abcd"}}, manual.Way{Driver: submission.HTTP})
	require.NoError(t, err)
	require.Empty(t, tried.Failure)
	require.Equal(t, 302, tried.Observation.First().Status)
	require.Equal(t, []submission.Pair{{Name: "code", Value: "abcd"}}, tried.Observation.Sent.Pairs)
	require.Contains(t, tried.Observation.Final().Body, "Your code is abcd.")
	tried, _, err = manual.Try(context.Background(), run, manual.Values{"code": {"x"}}, manual.Way{Driver: submission.HTTP})
	require.NoError(t, err)
	texts := tried.Observation.NewTexts()
	require.Len(t, texts, 1)
	require.Equal(t, "That is not a code.", texts[0].Text)
}

// TestATryTellsControlsOfOneNameApart by their order.
func TestATryTellsControlsOfOneNameApart(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_ = r.ParseForm()
		fmt.Fprintf(w, `<form method=post><input name="knot[]"><input name="knot[]"><button>Go</button></form><p>%s</p>`, strings.Join(r.PostForm["knot[]"], " before "))
	}))
	t.Cleanup(server.Close)
	run := openForm(t, "form: f\npage: /\nfields: [{id: first, name: 'knot[]'}, {id: second, name: 'knot[]'}]\n", server.URL, "")
	tried, _, err := manual.Try(t.Context(), run, manual.Values{"second": {"reef"}, "first": {"bowline"}}, manual.Way{Driver: submission.HTTP})
	require.NoError(t, err)
	require.Contains(t, tried.Observation.Final().Body, "bowline before reef")
}

func TestATryIsHeldAgainstTheRules(t *testing.T) {
	t.Parallel()
	run := openForm(t, "form: f\npage: /code\nfields: [{name: code, rules: [{length: {min: 3, max: 4, message: Three or four.}}]}]\nrejected: {place: summary}\n", strict(t), "")
	tried, _, err := manual.Try(context.Background(), run, manual.Values{"code": {"abc"}}, manual.Way{Driver: submission.HTTP})
	require.NoError(t, err)
	require.EqualValues(t, "Rejected; it should have been accepted", tried.Judgement.Headline)
	require.Equal(t, oracle.Accepted, tried.Expectation.Outcome)
	tried, _, err = manual.Try(context.Background(), run, manual.Values{"code": {"abcde"}}, manual.Way{Driver: submission.HTTP})
	require.NoError(t, err)
	require.Equal(t, oracle.RejectedByServer, tried.Expectation.Outcome)
	require.Contains(t, tried.Judgement.Headline, "message")
}

// TestATraceTakesItsMarksOffWhereTheyAreRefused: a site that trims nothing still takes the plain value.
func TestATraceTakesItsMarksOffWhereTheyAreRefused(t *testing.T) {
	t.Parallel()
	address := strict(t)
	text := "form: f\npage: /code\nfields: [{name: code}]\n"
	run := openForm(t, text, address, "")
	probes, err := manual.Trace(context.Background(), run, manual.Values{"code": {"abcd"}}, nil)
	require.NoError(t, err)
	kinds := []string{}
	for i := range probes {
		kinds = append(kinds, fmt.Sprintf("%s %q %t", probes[i].Kind, probes[i].Values["code"], probes[i].Accepted()))
	}
	require.Equal(t, []string{`blank [""] false`, `wrong ["?"] false`, `valid [" abcd "] false`, `valid ["abcd"] true`, `again ["abcd"] true`}, kinds)
	form, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err)
	traced := draft.FromTrace(form, probes, nil, nil)
	require.True(t, traced.Accepted)
	require.Equal(t, "/done?code=abcd", traced.To)
	require.Equal(t, "Your code is {code}.", traced.Reply)
	require.Equal(t, []string{"Your code is abcd."}, traced.Fields[0].Shown)
	require.Empty(t, traced.Fields[0].Stored, "no database is watched")
	said := map[string]any{}
	for _, s := range traced.Draft.Form {
		said[s.Path] = s.Value
	}
	require.Equal(t, "summary", said["rejected.place"])
	require.Equal(t, 302, said["accepted.status"])
}

func TestATraceWhoseValuesAreNotTakenSaysWhatTheSiteSays(t *testing.T) {
	t.Parallel()
	run := openForm(t, "form: f\npage: /code\nfields: [{name: code}]\n", strict(t), "")
	probes, err := manual.Trace(context.Background(), run, manual.Values{"code": {"toolong"}}, nil)
	require.NoError(t, err)
	form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /code\nfields: [{name: code}]\n"))
	require.NoError(t, err)
	traced := draft.FromTrace(form, probes, nil, nil)
	require.False(t, traced.Accepted)
	require.Equal(t, "That is not a code.", traced.Messages[0].Text)
	require.Less(t, len(probes), 8, "it does not go on for ever")
}

func TestWhatCannotBeOpenedIsSaid(t *testing.T) {
	t.Parallel()
	address := strict(t)
	site := &spec.Site{Site: "s", Address: address}
	for path, says := range map[string]string{"http://192.0.2.1/x": "not among the site's allowed addresses", "/none\x7f": "cannot be read"} {
		_, _, err := target.FetchPage(context.Background(), site, path, "", false, "", 1<<20)
		require.ErrorContains(t, err, says)
	}
	_, _, err := target.FetchPage(context.Background(), site, "/code", "", false, "", 10)
	require.ErrorContains(t, err, "larger than")
	for _, wrong := range []*spec.Site{{Address: "nowhere"}, {Address: address, Authority: "x"}, {Address: address, Databases: []spec.Database{{DSN: "::"}}}} {
		require.Error(t, target.CheckSite(wrong))
	}
	require.NoError(t, target.CheckSite(site))
}
