package report_test

import (
	"fmt"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/report"

	"github.com/stretchr/testify/require"
)

// TestWhatShowsEverywhereIsSetApart: a case that is odd in nothing else is told from one that is.
func TestWhatShowsEverywhereIsSetApart(t *testing.T) {
	t.Parallel()
	plain := report.Cause{Check: judge.Secrets, Subject: judge.Subject{Field: "password"}, Difference: judge.StoredOtherwise}
	cut := report.Cause{Check: judge.StoredData, Row: "name", Difference: judge.CutShort}
	reasons := func(list ...report.Cause) (out []report.Reason) {
		for _, c := range list {
			out = append(out, report.Reason{Cause: c})
		}
		return out
	}
	var results []report.Summary
	for i := range 20 {
		results = append(results, report.Summary{Case: fmt.Sprint("c", i), Row: "form", Reasons: reasons(plain)})
	}
	results[3].Reasons = reasons(plain, cut)
	groups := report.ByCause(results)
	require.Len(t, groups, 2)
	require.True(t, groups[0].Widespread(60))
	require.False(t, groups[0].Widespread(61), "less than a third")
	require.False(t, groups[1].Widespread(3), "too few to hide anything")
	odd := report.OddChecksOf(groups, 60)
	require.True(t, odd.OnlyWidespread("c1"))
	require.False(t, odd.OnlyWidespread("c3"))
	require.True(t, odd.WidespreadIn("c3", judge.Secrets))
	require.False(t, odd.WidespreadIn("c3", judge.StoredData))
	require.False(t, odd.WidespreadIn("c3", judge.Outcome), "it follows from what is odd besides")
	require.True(t, odd.WidespreadIn("c1", judge.Outcome))
	require.Nil(t, report.OddChecksOf(groups, 61))
	require.False(t, report.OddChecksOf(groups, 61).OnlyWidespread("c1"))
}
