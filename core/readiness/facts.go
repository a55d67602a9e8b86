package readiness

import (
	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/testcase"
)

// FactsOf are what a result tells of its form. accepted gives, of a finding that somebody accepted, until when, and why; nil where nothing
// is known of that.
func FactsOf(r *report.Report, found []finding.Finding, accepted func(*finding.Finding) *Finding) *Facts {
	f := &Facts{Run: max(r.Run, 1), Started: r.Started, Depth: r.Depth, Tally: r.Tally(), Findings: []Finding{}, Requirements: Requirements(r, found)}
	for _, c := range r.Left {
		if !c.Off() {
			f.Tally.Total++
			f.Tally.NotRun++
		}
	}
	for i := range found {
		one := Finding{}
		if accepted != nil {
			if said := accepted(&found[i]); said != nil {
				one = *said
			}
		}
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
