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

// coming days change with the day of the run.
var today = regexp.MustCompile(`20\d\d-\d\d-\d\d`)

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
		out = append(out, today.ReplaceAllString(membership.ReplaceAllString(string(f.Headline), "OS-…"), "20…"))
	}
	return out
}

func all(*testcase.Case) bool { return true }

// TestAFaultIsAFinding: with the faults of the demo on, each is one finding, named for what is wrong.
func TestAFaultIsAFinding(t *testing.T) {
	t.Parallel()
	require.ElementsMatch(t, []string{
		"Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters",
		"Membership number: “OS-…” stored instead of “OS-…” (plot_holders.membership)",
		"E-mail stored with other capitals than promised (plot_holders.mail)",
		"Message for Date of birth shown at the wrong place: at the control plots (1899-12-31, today - 18 years + 1 day, 2999-12-31)",
		"Username accepted twice when only its capitals differ",
	}, findingsOf(t, "join", all, "username-cut", "membership-zeros", "email-case-kept", "message-misplaced", "username-case"))
}

// TestFaultsOfOneField are findings of their own, at both ends of a rule and in what is unique.
func TestFaultsOfOneField(t *testing.T) {
	t.Parallel()
	require.ElementsMatch(t, []string{"Username of 2 characters accepted (promised: 3 to 20 characters)", "Username of 21 characters accepted (promised: 3 to 20 characters), stored cut to 20 characters"},
		findingsOf(t, "join", all, "username-two", "username-cut"))
	require.ElementsMatch(t, []string{"Username accepted twice when only its capitals differ", "Username accepted more than once when submitted at the same moment"}, findingsOf(t, "join", all, "username-case", "username-race"))
}

// TestOneFaultDoesNotHideAnother: what is odd in every case leaves what is odd in one a finding of its own.
func TestOneFaultDoesNotHideAnother(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		faults []string
		says   []string
	}{
		"secret in every acceptance, and one too early": {[]string{"secret-in-redirect", "born-day-early"}, []string{"Password shown in the redirect to /waiting-list (in plain text)", "Date of birth 20… accepted (promised: 1900-01-01 to 18 years before today)"}},
		"message and value of one rejection":            {[]string{"message-untied", "refill-email-lost"}, []string{"Message for Username is not linked to its field (aria-describedby)", "E-mail is lost after a rejection"}},
		"no reply to any, and case":                     {[]string{"reply-missing", "username-case"}, []string{"Accepted, but the success reply is missing", "Username accepted twice when only its capitals differ"}},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			require.ElementsMatch(t, c.says, findingsOf(t, "join", all, c.faults...))
		})
	}
}
