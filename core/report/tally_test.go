package report_test

import (
	"testing"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// TestACountAddsUp: every case is in one of its numbers, and what was not run is never as expected.
func TestACountAddsUp(t *testing.T) {
	t.Parallel()
	r := &report.Report{Results: map[string]*report.Result{}}
	for _, c := range []struct {
		id      string
		verdict judge.Verdict
	}{{"a", judge.AsExpected}, {"b", judge.Odd}, {"c", judge.NotObserved}, {"d", judge.DoesNotApply}, {"e", ""}, {"f", ""}} {
		r.Cases = append(r.Cases, &testcase.Case{ID: c.id})
		if c.verdict != "" {
			r.Results[c.id] = &report.Result{Case: c.id, Verdict: c.verdict}
		}
	}
	n := r.Tally()
	require.Equal(t, report.Tally{Total: 6, AsExpected: 1, Odd: 1, NotObserved: 1, DoesNotApply: 1, NotRun: 2}, n)
}
