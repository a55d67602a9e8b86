package engine_test

import (
	"context"
	"maps"
	"slices"
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/observe/page"
	"oddtick/observe/web"

	"github.com/stretchr/testify/require"
)

// take applies the proposals that are chosen beforehand.
func take(t testing.TB, text string, d *draft.Draft) string {
	form, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err)
	out := []byte(text)
	for _, p := range draft.Propose(form, d) {
		if !p.Chosen {
			continue
		}
		out, err = document.Apply(out, p.Edits)
		require.NoError(t, err, "%s: %s", p.About, p.Words)
	}
	_, err = spec.ReadForm("f.yaml", out)
	require.NoError(t, err, "%s", out)
	return string(out)
}

func openForm(t testing.TB, text, address, dsn string) *target.Target {
	d := designerOf(t, text)
	site := &spec.Site{Site: "s", Address: address}
	if dsn != "" {
		site.Databases = []spec.Database{{ID: "main", DSN: dsn, Ignore: []string{"mail_log"}}}
	}
	run, err := target.Open(context.Background(), target.Config{Site: site, Designer: d, Number: 1})
	require.NoError(t, err)
	t.Cleanup(run.Close)
	return run
}

// imported is a form document made of a page alone.
func imported(t testing.TB, address string) string {
	client, err := web.NewClient(web.Options{Address: address})
	require.NoError(t, err)
	defer client.Close()
	exchanges, err := client.NewVisitor().Open(context.Background(), "/join")
	require.NoError(t, err)
	last := exchanges[len(exchanges)-1]
	described, err := page.Describe(last.Body, last.URL)
	require.NoError(t, err)
	require.Len(t, described.Forms, 1)
	return take(t, "form: join\npage: /join\n", draft.FromPage(&described.Forms[0], last.URL))
}

var valid = manual.Values{
	"username": {"maple-row-17"}, "e_mail": {"maple.row@example.test"}, "pass": {"brook-side-42"}, "pass_again": {"brook-side-42"}, "member_no": {"OS-0417"}, "born_on": {"1974-03-07"},
	"plots": {"2"}, "heard": {"od"}, "terms": {"yes"}, "website": {""},
}

func TestATraceTellsWhereEveryValueGoes(t *testing.T) {
	t.Parallel()
	address, dsn := ostlewick(t)
	text := imported(t, address)
	run := openForm(t, text, address, dsn)
	probes, err := manual.Trace(context.Background(), run, valid, nil)
	require.NoError(t, err)
	form, err := spec.ReadForm("f.yaml", []byte(text))
	require.NoError(t, err)
	db, err := run.Schema(context.Background())
	require.NoError(t, err)
	traced := draft.FromTrace(form, probes, db, nil)
	require.True(t, traced.Accepted)
	text = take(t, text, traced.Draft)
	require.Empty(t, traced.Messages)
	stored := map[string]string{}
	for _, f := range traced.Fields {
		for _, s := range f.Stored {
			stored[f.Field] = s.Column + ": " + string(s.Change)
		}
	}
	require.Equal(t, map[string]string{
		"ref": "plot_holders.referral: unchanged", "username": "plot_holders.login_name: trim", "e_mail": "plot_holders.mail: trim, then lower", "pass": "plot_holders.pass_hash: stored argon2id",
		"member_no": "plot_holders.membership: trim", "born_on": "plot_holders.born: unchanged", "plots": "plot_holders.plots_wanted: unchanged", "heard": "plot_holders.heard_code: unchanged", "terms": "plot_holders.agreed: checked as 1",
	}, stored)
	require.Contains(t, text, `reply: "Welcome, {username}. You are on the waiting list."`)
	require.Contains(t, text, "login_name: {from: username}")
	require.Contains(t, text, "- unique: {column: plot_holders.login_name, ignoring: [case], message: That username is taken.}")
	require.Contains(t, text, "- range: {min: 1, max: 4, message: You can ask for 1 to 4 plots.}", "the limits are the page's, the message is what was said beyond them")
	require.Contains(t, text, "- step: {by: 1, from: 1, message: Plots are given whole.}")

	// what no submission shows is written by hand; then the form is judged as by the file that ships
	out, err := document.Apply([]byte(text), byHand)
	require.NoError(t, err)
	require.Empty(t, oddOnes(runAll(t, string(out), address, dsn, testcase.Standard)))
	faulty, dsn2 := ostlewick(t, "username-cut", "email-case-kept", "message-text", "refill-email-lost", "secret-base64")
	mine, shipped := causesOf(runAll(t, string(out), faulty, dsn2, testcase.Standard)), causesOf(runAll(t, joinText(t), faulty, dsn2, testcase.Standard))
	require.NotEmpty(t, shipped)
	require.Equal(t, shipped, mine)
}

func edit(path, value string) document.Edit {
	return document.Edit{Do: document.Insert, Path: path, At: -1, Value: []byte(value)}
}

var byHand = []document.Edit{
	edit("fields[username].rules", `{"length":{"min":3,"max":20,"message":"Use 3 to 20 characters."}}`),
	edit("fields[username].rules", `{"pattern":{"is":"[A-Za-z0-9\\-]+","message":"Use letters, digits and hyphens only."}}`),
	edit("fields[e_mail].rules", `{"length":{"max":190,"message":"Use at most 190 characters."}}`),
	edit("fields[pass].rules", `{"length":{"min":10,"max":72,"in":"bytes","message":"Use 10 to 72 bytes."}}`),
	edit("fields[pass].rules", `{"pattern":{"is":"(?=.*[A-Za-z])(?=.*[0-9]).*","message":"Use at least a letter and a digit."}}`),
	edit("fields[member_no].rules", `{"pattern":{"is":"OS-[0-9]{4}","message":"A membership number is OS- and four digits."}}`),
	edit("fields[born_on].rules", `{"range":{"min":"1900-01-01","max":"today - 18 years","zone":"Europe/London","message":"You must be 18 or over."}}`),
}

// causesOf are the causes of a run's odd cases, without the fields' ids, which are the page's in one document and the tester's in the
// other.
func causesOf(results map[string]*report.Result) []string {
	seen := map[string]bool{}
	for _, r := range results {
		if r.Cause != nil {
			older := r.Cause.Older()
			seen[older.Check+": "+older.Kind] = true
		}
	}
	return slices.Sorted(maps.Keys(seen))
}
