package engine_test

import (
	"regexp"
	"testing"

	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// membership numbers are made anew in each run.
var membership = regexp.MustCompile(`OS-\d+`)

// findingsOf are the findings of some of a form's cases over HTTP, in words.
func findingsOf(t *testing.T, form string, pick func(*testcase.Case) bool, faults ...string) []string {
	project := ostlewickProject(t, faults...)
	var cases []*testcase.Case
	results := runForm(t, project, form, testcase.Standard, func(c *testcase.Case) bool {
		wanted := !c.InBrowser() && pick(c)
		if wanted {
			cases = append(cases, c)
		}
		return wanted
	}, never)
	var out []string
	for _, f := range finding.Of(&report.Report{Form: form, Cases: cases, Results: results}) {
		out = append(out, membership.ReplaceAllString(string(f.Says()), "OS-…"))
	}
	return out
}

func all(*testcase.Case) bool { return true }

// TestAFaultIsAFinding: with the faults of the demo on, each is one finding, named for what is wrong.
func TestAFaultIsAFinding(t *testing.T) {
	t.Parallel()
	require.ElementsMatch(t, []string{
		"Accepted, and cut short: 21 characters",
		"Accepted, and plot_holders.membership holds OS-… for OS-…",
		"Accepted, and plot_holders.mail is in another case",
		"Rejected, but the message of Date of birth stands at another place: 1899-12-31, today - 18 years + 1 day, 2999-12-31",
		"Accepted, should be rejected by the server: Username a second time (case)",
	}, findingsOf(t, "join", all, "username-cut", "membership-zeros", "email-case-kept", "message-misplaced", "username-case"))
}

// TestFaultsOfOneField are findings of their own, at both ends of a rule and in what is unique.
func TestFaultsOfOneField(t *testing.T) {
	t.Parallel()
	require.ElementsMatch(t, []string{"Accepted, should be rejected by the server: 2 characters", "Accepted, and cut short: 21 characters"},
		findingsOf(t, "join", all, "username-two", "username-cut"))
	require.ElementsMatch(t, []string{"Accepted, should be rejected by the server: Username a second time (case)", "Accepted, should be rejected by the server: Username a second time (together)"}, findingsOf(t, "join", all, "username-case", "username-race"))
}

// TestOneFaultDoesNotHideAnother: what is odd in every case leaves what is odd in one a finding of its own.
func TestOneFaultDoesNotHideAnother(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		faults []string
		says   []string
	}{
		"secret in every acceptance, and one too early": {[]string{"secret-in-redirect", "born-day-early"}, []string{"Accepted, but the secret is shown, plain in the redirect to /waiting-list", "Accepted, should be rejected by the server: today - 18 years + 1 day"}},
		"message and value of one rejection":            {[]string{"message-untied", "refill-email-lost"}, []string{"Rejected, but the message of Username is not tied to its field", "Rejected, but E-mail is not refilled"}},
		"no reply to any, and case":                     {[]string{"reply-missing", "username-case"}, []string{"Accepted, but the success reply is missing", "Accepted, should be rejected by the server: Username a second time (case)"}},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			require.ElementsMatch(t, c.says, findingsOf(t, "join", all, c.faults...))
		})
	}
}
