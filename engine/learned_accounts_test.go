package engine_test

import (
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/learning"
	"oddtick/engine/target"
	"oddtick/formats/recorded"

	"github.com/stretchr/testify/require"
)

// TestFormsOfAccountsAreLearned with the names and passwords of the site's accounts: what is learned is true of the site, the passwords are what they
// were before, and nothing stays that was written.
func TestFormsOfAccountsAreLearned(t *testing.T) {
	t.Parallel()
	for form, c := range map[string]struct {
		page, as string
		rules    []string
	}{
		"sign_in": {"/sign-in", "", []string{"sign_in_with: maple", `matches_secret: {stored: plot_holders.pass_hash, of: login, ignoring: [case], message: That name and that password do not belong together.}`}},
		"password": {"/me/password", "maple", []string{
			"- matches_secret: {stored: plot_holders.pass_hash, message: That is not your present password.}", "- length: {min: 10, max: 72, in: bytes, message: Use 10 to 72 bytes.}",
			"update: plot_holders", "row: signed_in", "pass_hash: {secret: new_pass, as: [argon2id]}",
		}},
		"me":     {"/me", "maple", []string{`when: 'new_pass != ""'`, "blank: unchanged", "row: signed_in", "unique: {column: plot_holders.mail"}},
		"wishes": {"/wishes", "maple", []string{`where: {holder_id: "{signed_in}"}`, "when: bees"}},
	} {
		t.Run(form, func(t *testing.T) {
			t.Parallel()
			project := ostlewickProject(t)
			read, err := learning.Page(t.Context(), project.Site, c.page, c.as, "")
			require.NoError(t, err)
			known, err := spec.ReadForm("", read.Document)
			require.NoError(t, err)
			prepared, err := known.Prepare()
			require.NoError(t, err)
			d, err := design.New(prepared, project.Site)
			require.NoError(t, err)
			run, err := target.Open(t.Context(), target.Config{Site: project.Site, Designer: d, Number: time.Now().UnixNano()})
			require.NoError(t, err)
			defer run.Close()
			found, err := learning.Form(t.Context(), run, read.Document, learning.Options{})
			require.NoError(t, err)
			done, err := run.CleanUp(t.Context(), nil)
			require.NoError(t, err)
			require.Empty(t, done.Left)
			for _, rule := range c.rules {
				require.Contains(t, string(found.Text), rule)
			}
			learned, err := spec.ReadForm("", found.Text)
			require.NoError(t, err)
			learned.Form = "learned"
			project.Forms = append(project.Forms, learned)
			results := runForm(t, project, "learned", testcase.Standard, func(c *testcase.Case) bool { return !c.InBrowser() }, func(*report.Result) bool { return false })
			require.NotEmpty(t, results)
			require.Empty(t, strings.Join(oddOnes(results), "\n"))
		})
	}
}

// TestAFormThatAScriptSendsIsLearned over HTTP, once it was seen in a browser what the script sends; one that a button opens is read with its name.
func TestAFormThatAScriptSendsIsLearned(t *testing.T) {
	t.Parallel()
	project := shedsProject(t)
	read, err := learning.Page(t.Context(), project.Site, "/keys", "", "Ask for a key")
	require.NoError(t, err)
	require.Contains(t, string(read.Document), `opened_by: "Ask for a key"`)
	require.Contains(t, string(read.Document), "label: Number of keys")

	read, err = learning.Page(t.Context(), project.Site, "/sign-in", "", "")
	require.NoError(t, err)
	opened, err := learning.Open(t.Context(), project.Site, read.Document, nil)
	require.NoError(t, err)
	defer opened.Close()
	require.Contains(t, string(opened.Document), "submit: {method: POST, to: /api/session, encoding: json}")
	found, err := learning.Form(t.Context(), opened.Target, opened.Document, learning.Options{FromPage: read, Sent: opened.Sent, First: opened.First})
	require.NoError(t, err)
	require.Contains(t, string(found.Text), "matches_secret: {stored: tenants.pass_hash")
	require.Contains(t, string(found.Text), "rejected: {status: 401}")
	require.Empty(t, found.Unusual)
	names := []string{}
	for _, f := range found.Draft.Fields { // under the names under which the script sends them
		names = append(names, f.Name)
	}
	require.Equal(t, []string{"email", "password"}, names)
}

// TestAThingThatCanBeBookedOnceIsLearned from what a recorded request tells: what was booked is taken back before the next submission, and the last day
// lies behind the first.
func TestAThingThatCanBeBookedOnceIsLearned(t *testing.T) {
	t.Parallel()
	project := ostlewickProject(t)
	day := time.Now().AddDate(0, 0, 3).Format(time.DateOnly)
	list, err := recorded.Read(`curl http://127.0.0.1/api/bookings --json '{"tool": "x", "from": "` + day + `", "to": "` + day + `", "reason": ""}'`)
	require.NoError(t, err)
	text := take(t, "form: booking\nsubmit: {method: POST, to: /api/bookings, encoding: json}\n", list[0].Draft(""))
	opened, err := learning.Open(t.Context(), project.Site, []byte(text), nil)
	require.NoError(t, err)
	defer opened.Close()
	found, err := learning.Form(t.Context(), opened.Target, opened.Document, learning.Options{})
	require.NoError(t, err)
	for _, rule := range []string{`must_hold: "to >= from"`, "- one_of_options: {message: There is no such tool.}", "range: {min: today, message: from lies in the past.}", "reason: {from: reason"} {
		require.Contains(t, string(found.Text), rule)
	}
	require.NotContains(t, string(found.Text), "14 days", "how long a tool is lent hangs on its first day")
}
