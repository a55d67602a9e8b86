package report_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/report"

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
		r.Cases = append(r.Cases, &design.Case{ID: c.id})
		if c.verdict != "" {
			r.Results[c.id] = &report.Result{Case: c.id, Verdict: c.verdict}
		}
	}
	n := r.Tally()
	require.Equal(t, report.Tally{Total: 6, AsExpected: 1, Odd: 1, NotObserved: 1, DoesNotApply: 1, NotRun: 2}, n)
	require.Equal(t, "6 cases, 1 as expected, 1 odd, 1 not observed, 1 not applicable, 2 not run", n.Words())
	require.Equal(t, "1 odd, 4 of 6 cases run", n.Verdict())
	require.False(t, n.Clear())
	for tally, words := range map[report.Tally]string{
		{Total: 123, NotRun: 123}:                 "nothing was run, 0 of 123 cases",
		{Total: 162, AsExpected: 60, NotRun: 102}: "nothing odd so far, 60 of 162 cases run",
		{Total: 3, AsExpected: 2, NotObserved: 1}: "nothing odd in 3 cases, 1 not observed",
		{Total: 3, AsExpected: 3}:                 "nothing odd in 3 cases",
		{Total: 3, AsExpected: 1, Odd: 2}:         "2 odd of 3 cases",
		{Total: 2, DoesNotApply: 2}:               "nothing odd in 2 cases",
	} {
		require.Equal(t, words, tally.Verdict())
		require.Equal(t, tally.Total == tally.AsExpected && tally.Total > 0, tally.Clear(), words)
	}
}
