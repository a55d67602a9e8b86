package formats_test

import (
	"bytes"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/formats/junit"
	"oddtick/formats/steps"

	"github.com/stretchr/testify/require"
)

// TestStepsBeginWithSigningIn, where the form is for somebody who has: the password is named by its account, and never shown.
func TestStepsBeginWithSigningIn(t *testing.T) {
	t.Parallel()
	r := oddReport()
	form := &spec.Form{Before: &spec.Before{SignedIn: "mara"}}
	r.DescribeSite(&spec.Site{Address: "http://yard.test/", Accounts: []spec.Account{{ID: "mara", Name: "mara@yard.test", Password: "over the bar"}}, SignIn: &spec.SignIn{Page: "/in", Name: "nick", Password: "pass"}}, form)
	var result *report.Result
	for _, one := range r.Results {
		if one.Verdict == judge.Odd && len(one.Steps) > 0 && one.Steps[0].Observation != nil {
			result = one
		}
	}
	require.NotNil(t, result)
	list := steps.Of(r, result)
	require.Equal(t, "Sign in at http://yard.test/in.", list[0].Do)
	require.Equal(t, []steps.Value{{Field: "nick", Text: "mara@yard.test"}, {Field: "pass", Text: "the password of the account mara", Secret: true}}, list[0].Values)
	command, ok := steps.Curl(r, result)
	require.True(t, ok)
	require.True(t, strings.HasPrefix(command, "curl -s -c cookies.txt 'http://yard.test/in'\n"), command)
	require.Contains(t, command, "'pass=SECRET'")
	require.NotContains(t, command, "over the bar")
	r.SignIn = nil
	r.DescribeSite(&spec.Site{}, form)
	require.Nil(t, r.SignIn, "a site that does not say how")
}

// TestWhatDoesNotApplyIsNoPassedTest: nor is what was not run.
func TestWhatDoesNotApplyIsNoPassedTest(t *testing.T) {
	t.Parallel()
	r := oddReport()
	for _, one := range r.Results {
		one.Verdict = judge.DoesNotApply
	}
	var b bytes.Buffer
	require.NoError(t, junit.Write(&b, r))
	require.Equal(t, len(r.Cases), strings.Count(b.String(), "<skipped"))
}
