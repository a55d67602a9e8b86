package finding

import (
	"cmp"
	"slices"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/testcase"
)

// Severity is how grave a finding is. Its kind of difference proposes one, and a tester may say another.
type Severity string

// The severities.
const (
	Critical Severity = "critical" // a secret or a session is at risk
	Major    Severity = "major"    // data are lost or wrong, the site fails, a rule is not enforced, or a right value is rejected
	Minor    Severity = "minor"    // somebody is hindered: a lost value, a missing message, a wrong redirect
	Trivial  Severity = "trivial"  // the wording, place or moment of a message
)

// Severities lists them, the gravest first.
var Severities = []Severity{Critical, Major, Minor, Trivial}

// Compare orders severities, the gravest first.
func (s Severity) Compare(other Severity) int {
	return cmp.Compare(slices.Index(Severities, s), slices.Index(Severities, other))
}

// ofDifference are the severities of differences that are graver or less grave than the others of their check.
var ofDifference = map[judge.Difference]Severity{
	judge.InternalsShown: Critical, judge.ServerError: Major, judge.NoAnswer: Major, judge.OtherHost: Critical,
	judge.Missing: Minor, judge.Hidden: Minor, judge.OtherRule: Minor, judge.NotExpected: Minor, judge.NotShown: Minor,
}

// SeverityOf proposes how grave a cause is.
func SeverityOf(c *report.Cause) Severity {
	if s, own := ofDifference[c.Difference]; own {
		return s
	}
	switch c.Check {
	case judge.Secrets, judge.Session:
		return Critical
	case judge.StoredData, judge.Outcome:
		return Major
	case judge.Messages:
		return Trivial
	}
	return Minor
}

// graver orders findings: the gravest first, and of the same severity lost and wrong data and server errors before the rest.
func graver(a, b *Finding) int {
	return cmp.Or(a.Severity.Compare(b.Severity), cmp.Compare(a.rank(), b.rank()))
}

// rank orders findings of one severity.
func (f *Finding) rank() int {
	switch c := &f.Cause; {
	case c.Check == judge.StoredData, c.Observed == string(oracle.Failed), c.Row == testcase.RowUniqueness:
		return 0
	case c.Check == judge.Outcome:
		return 1
	}
	return 2
}
