package readiness

import (
	"cmp"
	"time"

	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/testcase"
)

// AcceptedIn tells of a finding whether all that it has taken in was accepted, and is so still on a day.
func AcceptedIn(list []report.Acceptance, today time.Time) func(*finding.Finding) *Finding {
	by := map[string]*report.Acceptance{}
	for i := range list {
		by[list[i].Finding] = &list[i]
	}
	day := today.Format(time.DateOnly)
	return func(f *finding.Finding) *Finding {
		said := &Finding{}
		said.Accepted = f.All(func(id string) bool {
			a := by[id]
			if a == nil || a.Until != "" && a.Until < day {
				return false
			}
			if a.Until != "" && (said.Until == "" || a.Until < said.Until) {
				said.Until = a.Until
			}
			said.Link, said.Comment = cmp.Or(said.Link, a.Link), cmp.Or(said.Comment, a.Why)
			return true
		})
		return said
	}
}

// FactsOf are what a result tells of its form. accepted gives what was said of a finding: that it is accepted, and its severity where
// somebody named one.
func FactsOf(r *report.Report, found []finding.Finding, accepted func(*finding.Finding) *Finding) *Facts {
	f := &Facts{Run: max(r.Run, 1), Started: r.Started, Depth: r.Depth, Tally: r.Tally(), Findings: []Finding{}, Requirements: Requirements(r, found)}
	for _, c := range r.Left {
		if !c.Off() {
			f.Tally.Total++
			f.Tally.NotRun++
		}
	}
	for i := range found {
		one := *accepted(&found[i])
		one.ID, one.Headline = found[i].ID, found[i].Headline
		if one.Severity == "" {
			one.Severity = found[i].Severity
		}
		f.Findings = append(f.Findings, one)
	}
	for _, kind := range r.Coverage {
		f.Shown += kind.Observed
		f.Promised += kind.Total
	}
	if f.Depth == "" {
		f.Depth = testcase.Standard
	}
	return f
}
