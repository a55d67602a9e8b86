package wording_test

import (
	"testing"

	"oddtick/core/report"
	"oddtick/core/wording"

	"github.com/stretchr/testify/require"
)

func TestCountsAddUp(t *testing.T) {
	t.Parallel()
	n := report.Tally{Total: 6, AsExpected: 1, Odd: 1, NotObserved: 1, DoesNotApply: 1, NotRun: 2}
	require.EqualValues(t, "6 cases, 1 as expected, 1 odd, 1 not observed, 1 not applicable, 2 not run", wording.Counts(n))
	require.EqualValues(t, "1 case, 1 as expected, 0 odd, 0 not observed", wording.Counts(report.Tally{Total: 1, AsExpected: 1}))
	require.EqualValues(t, "1 odd, 4 of 6 cases run", wording.Verdict(n))
	for words, tally := range map[string]report.Tally{
		"nothing was run, 0 of 123 cases":         {Total: 123, NotRun: 123},
		"nothing odd so far, 60 of 162 cases run": {Total: 162, AsExpected: 60, NotRun: 102},
		"nothing odd in 3 cases, 1 not observed":  {Total: 3, AsExpected: 2, NotObserved: 1},
		"nothing odd in 3 cases":                  {Total: 3, AsExpected: 3},
		"2 odd of 3 cases":                        {Total: 3, AsExpected: 1, Odd: 2},
		"nothing odd in 2 cases":                  {Total: 2, DoesNotApply: 2},
	} {
		require.EqualValues(t, words, wording.Verdict(tally))
	}
	r := &report.Report{Rows: map[string]string{"name": "Name of the shed"}}
	require.Equal(t, []string{"Several fields", "Uniqueness", "Name of the shed", "other"}, []string{wording.Row(r, ""), wording.Row(r, "uniqueness"), wording.Row(r, "name"), wording.Row(r, "other")})
}
