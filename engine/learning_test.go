package engine_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/universal"
	"oddtick/engine/learning"
	"oddtick/engine/manual"

	"github.com/stretchr/testify/require"
)

// TestTheJoinFormIsLearned from its page and its tables alone: no rule is written, and no value given. What was learned is true of the
// site, and shows faults that it has later.
func TestTheJoinFormIsLearned(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	text := imported(t, address)
	run := openForm(t, text, address, dsn)
	found, err := learning.Form(t.Context(), run, []byte(text), learning.Options{})
	require.NoError(t, err)
	learned := string(found.Text)
	for _, rule := range []string{
		"- required: {message: Choose a username.}", "- length: {min: 3, max: 20, message: Use 3 to 20 characters.}", `- characters: {of: 'a-zA-Z0-9\-', message: "Use letters, digits and hyphens only."}`,
		"- unique: {column: plot_holders.login_name, ignoring: [case], message: That username is taken.}", "normalize: [trim]", "normalize: [trim, lower]", "- length: {max: 190, message: Use at most 190 characters.}",
		"- length: {min: 10, max: 72, in: bytes, message: Use 10 to 72 bytes.}", `- pattern: {is: "(?=.*[A-Za-z])(?=.*[0-9]).*", message: Use at least a letter and a digit.}`, "- same_as: {field: pass, message: The two passwords differ.}", `- pattern: {is: 'OS-\d{4}', message: A membership number is OS- and four digits.}`,
		`- range: {min: "1900-01-01", max: today - 18 years, message: You must be 18 or over.}`, "- range: {min: 1, max: 4, message: You can ask for 1 to 4 plots.}", "- one_of_options: {message: Choose one of the answers.}",
		"- must_be_checked: {message: Please accept the rules of the association.}", "pass_hash: {secret: pass, as: [argon2id]}", "plots_wanted: {from: plots}", "rejected: {status: 422",
	} {
		require.Contains(t, learned, rule, learned)
	}
	require.LessOrEqual(t, found.Submissions, 200)
	for _, f := range found.Fields {
		require.LessOrEqual(t, f.Asked, 50, f.Field)
	}
	require.NotEmpty(t, run.Journal, "what it wrote can be taken back")
	require.Empty(t, found.Unusual, "it breaks no promise that holds on every form")

	form, err := spec.ReadForm("join.yaml", found.Text)
	require.NoError(t, err)
	_, err = form.Prepare()
	require.NoError(t, err)
	require.Empty(t, strings.Join(oddOnes(runAll(t, learned, address, dsn, testcase.Standard)), "\n"), "all of it is true")
	for _, fault := range []string{"username-cut", "plots-five", "born-day-early", "email-case-kept", "secret-base64"} {
		faulty, other := ostlewick(t, fault)
		require.NotEmpty(t, oddOnes(runAll(t, learned, faulty, other, testcase.Standard)), fault)
	}
}

// TestWhatCannotBeGuessedIsAskedFor: with what the site said; a tester's value then goes first.
func TestWhatCannotBeGuessedIsAskedFor(t *testing.T) {
	t.Parallel()
	address := strict(t)
	run := openForm(t, "form: f\npage: /code\nfields: [{name: code}]\n", address, "")
	_, err := learning.Form(t.Context(), run, []byte("form: f\npage: /code\nfields: [{name: code}]\n"), learning.Options{Values: manual.Values{"code": {"x"}}})
	var none *learning.NotAccepted
	require.ErrorAs(t, err, &none)
	require.ErrorContains(t, err, "That is not a code.")
	require.Equal(t, 1, none.Attempts)
}

// TestAFieldThatCountsUnderAConditionIsLearned with the condition: the hives, where there are bees.
func TestAFieldThatCountsUnderAConditionIsLearned(t *testing.T) {
	t.Parallel()
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		wrong := ""
		if n, err := strconv.Atoi(r.PostFormValue("hives")); r.Method == http.MethodPost && r.PostFormValue("bees") != "" && (err != nil || n < 1 || n > 9) {
			wrong = "Say how many hives, 1 to 9."
		}
		if r.Method == http.MethodPost && wrong == "" {
			http.Redirect(w, r, "/done", http.StatusSeeOther)
			return
		}
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(w, `<form method=post action=/><label>Bees <input type=checkbox name=bees value=yes></label><p><label>Hives <input name=hives aria-describedby=e></label><span id=e class=error>%s</span></p><button>Go</button></form>`, wrong)
	}))
	t.Cleanup(server.Close)
	read, err := learning.Page(t.Context(), &spec.Site{Site: "s", Address: server.URL}, "/", "", "")
	require.NoError(t, err)
	run := openForm(t, string(read.Document), server.URL, "")
	found, err := learning.Form(t.Context(), run, read.Document, learning.Options{})
	require.NoError(t, err)
	form, err := spec.ReadForm("f.yaml", found.Text)
	require.NoError(t, err)
	require.Equal(t, "bees", form.Fields[1].When, string(found.Text))
	require.Contains(t, string(found.Text), `- required: {message: "Say how many hives, 1 to 9."}`)
	require.Contains(t, string(found.Text), `- range: {min: 1, max: 9, message: "Say how many hives, 1 to 9."}`)
}

// TestWhatBreaksPromisesOfEveryFormIsFoundWithoutRules: from the page alone, of a site with faults; and what no page sends is asked of what was
// learned.
func TestWhatBreaksPromisesOfEveryFormIsFoundWithoutRules(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t, "username-cut", "secret-base64", "refill-email-lost", "token-unchecked", "list-fails", "role-taken")
	text := imported(t, address)
	run := openForm(t, text, address, dsn)
	found, err := learning.Form(t.Context(), run, []byte(text), learning.Options{})
	require.NoError(t, err)
	promises := func(list []universal.Unusual) (out []string) {
		for _, u := range list {
			out = append(out, string(u.Promise))
		}
		slices.Sort(out)
		return slices.Compact(out)
	}
	require.Equal(t, []string{"secret_stored_reversible", "stored_cut", "values_lost"}, promises(found.Unusual))
	asked, err := learning.Requests(t.Context(), run.Config.Site, found.Text, time.Now().UnixMilli(), false)
	require.NoError(t, err)
	require.Equal(t, []string{"server_error", "surplus_parameter_stored", "token_not_checked"}, promises(asked))

	short, err := learning.Form(t.Context(), openForm(t, text, address, dsn), []byte(text), learning.Options{Most: 40})
	require.NoError(t, err, "what was learned until then is written")
	require.LessOrEqual(t, short.Submissions, 45, "a trace is made as a whole")
	require.NotEmpty(t, short.Text)
}

// TestARunNamesWhatIsUnusual of a form whose document says little, and not what a document speaks of.
func TestARunNamesWhatIsUnusual(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t, "no-redirect")
	text := imported(t, address)
	form, err := spec.ReadForm("join.yaml", []byte(text))
	require.NoError(t, err)
	unusual := func(of *report.Report) (out []string) {
		for _, u := range of.Unusual() {
			require.NotEmpty(t, u.Cases)
			out = append(out, string(u.Promise)+" "+u.Field)
		}
		return out
	}
	r := report.New(form, &spec.Site{Site: "s"})
	r.Results = runAll(t, text, address, dsn, testcase.Quick)
	for id := range r.Results {
		r.Cases = append(r.Cases, &testcase.Case{ID: id})
	}
	require.Equal(t, []string{"reload_repeats "}, unusual(r))
	r.Decided = []spec.UnusualDecision{{Promise: universal.ReloadRepeats, Is: spec.Usual}}
	require.Empty(t, unusual(r))
}
