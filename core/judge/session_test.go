package judge_test

import (
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// entered is somebody who has signed in well.
func entered(t testing.TB) (*spec.Prepared, *oracle.Expectation, *observation.Step) {
	p := prepared(t, `form: enter
page: /enter
fields: [{name: who}]
accepted: {status: 303, to: /in, session: {signed_in: keeper, id: renewed, others: ended, cookie: {name: s, http_only: true, secure: true, same_site: lax}}}
`)
	sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "who", Value: "mara"}}}
	e := oracle.Expect(p, &oracle.World{Driver: submission.HTTP}, sent)
	o := &observation.Step{
		Sent: sent, Before: &observation.Page{URL: "http://s/enter"}, After: &observation.Page{URL: "http://s/in"}, Changes: []observation.Change{},
		CookiesBefore: map[string]string{"s": "1"}, CookiesAfter: map[string]string{"s": "2"}, OtherSession: "ended",
		Exchanges: []observation.Exchange{
			{Method: "POST", URL: "http://s/enter", Status: 303, Location: "http://s/in", ResponseHeader: []observation.Header{{Name: "Set-Cookie", Value: "s=…; Path=/; HttpOnly; Secure; SameSite=Strict"}}},
			{Method: "GET", URL: "http://s/in", Status: 200},
		},
	}
	return p, e, o
}

func TestSessionsAreJudged(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		change func(*observation.Step)
		odd    []string
	}{
		"well":                    {func(*observation.Step) {}, []string{}},
		"kept id":                 {func(o *observation.Step) { o.CookiesAfter = o.CookiesBefore }, []string{"session id: not renewed"}},
		"another cookie changed":  {func(o *observation.Step) { o.CookiesAfter = map[string]string{"s": "1", "theme": "dark"} }, []string{"session id: not renewed"}},
		"readable by scripts":     {func(o *observation.Step) { o.Exchanges[0].ResponseHeader[0].Value = "s=…; Secure; SameSite=Lax" }, []string{"cookie s: http only: not HttpOnly"}},
		"not secure, same site":   {func(o *observation.Step) { o.Exchanges[0].ResponseHeader[0].Value = "s=…; httponly" }, []string{"cookie s: secure: not Secure", "cookie s: same site lax: not SameSite=Lax"}},
		"another cookie was set":  {func(o *observation.Step) { o.Exchanges[0].ResponseHeader[0].Value = "theme=…" }, []string{}},
		"sent back":               {func(o *observation.Step) { o.Exchanges[1].URL = "http://s/enter?next=/in" }, []string{"signed in: not signed in"}},
		"others go on":            {func(o *observation.Step) { o.OtherSession = "goes on" }, []string{"other sessions: go on"}},
		"nobody stood by":         {func(o *observation.Step) { o.OtherSession = "" }, []string{}},
		"the page does not exist": {func(o *observation.Step) { o.Exchanges[1].Status = 403 }, []string{"signed in: not signed in"}},
	} {
		p, e, o := entered(t)
		c.change(o)
		got := []string{}
		for _, check := range worded(p, e, o, nil).Checks {
			for _, part := range check.Parts {
				if check.Check == judge.Session && part.Verdict == judge.Odd {
					got = append(got, part.Subject.Older()+": "+kindOf(&part))
				}
			}
		}
		require.Equal(t, c.odd, got, name)
	}
}

// TestARefusalThatWillDo: of an altered value either is right, but nothing may be half done.
func TestARefusalThatWillDo(t *testing.T) {
	t.Parallel()
	p, e, o := entered(t)
	e.MayRefuse = true
	require.Equal(t, judge.AsExpected, worded(p, e, o, nil).Verdict)
	o.Exchanges = []observation.Exchange{{Method: "POST", URL: "http://s/enter", Status: 403}}
	refused := worded(p, e, o, nil)
	require.Equal(t, judge.AsExpected, refused.Verdict)
	require.Equal(t, "Rejected, as expected", string(refused.Headline))
	o.Watched, o.Changes = []string{"keepers"}, []observation.Change{{Table: "keepers", Kind: observation.Changed, Key: "8"}}
	require.Equal(t, judge.Odd, worded(p, e, o, nil).Verdict)
}

// TestWhatNoPageSends: any answer will do but a failure.
func TestWhatNoPageSends(t *testing.T) {
	t.Parallel()
	p, _, o := entered(t)
	e := &oracle.Expectation{Outcome: oracle.Answered}
	require.Equal(t, judge.AsExpected, worded(p, e, o, nil).Verdict)
	o.Exchanges = []observation.Exchange{{Method: "POST", URL: "http://s/enter", Status: 500}}
	failed := worded(p, e, o, nil)
	require.Equal(t, judge.Odd, failed.Checks[0].Verdict)
	require.Equal(t, "Failed; it should have been answered", string(failed.Headline))
	for _, c := range failed.Checks[1:] {
		require.Equal(t, judge.DoesNotApply, c.Verdict, c.Check)
	}
}

func TestASecretIsFoundInAText(t *testing.T) {
	t.Parallel()
	require.Equal(t, "plain", judge.Shown("Maple-row-42", "Your password is Maple-row-42."))
	require.Equal(t, "base64", judge.Shown("Maple-row-42", "TWFwbGUtcm93LTQy"))
	require.Empty(t, judge.Shown("Maple-row-42", "Welcome, maple-row."))
	require.Empty(t, judge.Shown("abc", "abc"), "too short to tell")
}
