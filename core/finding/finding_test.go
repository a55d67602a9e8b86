package finding_test

import (
	"testing"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

const length = "length, characters"

// tick is a case with its place on a scale and what is odd about it, "" for nothing.
type tick struct {
	id, scale, label, variant, odd string
	at                             float64
	driver                         submission.Driver
	covers                         []testcase.Cover
}

func written(ticks ...tick) *report.Report {
	r := &report.Report{Form: "plot", Results: map[string]*report.Result{}}
	for _, t := range ticks {
		if t.driver == "" {
			t.driver = submission.HTTP
		}
		r.Cases = append(r.Cases, &testcase.Case{ID: t.id, Row: "name", Mark: testcase.Mark{Scale: t.scale, At: t.at, Label: t.label, Variant: t.variant}, Covers: t.covers, Steps: []testcase.Step{{Driver: t.driver}}})
		one := &report.Result{Case: t.id, Verdict: judge.AsExpected, Headline: "Accepted, as expected"}
		if t.odd != "" {
			one.Verdict, one.Headline = judge.Odd, prose.Text("Accepted, and "+t.odd)
			one.Cause = &report.Cause{Row: "name", Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "plots", Column: "name"}, Difference: judge.Difference(t.odd)}
		}
		r.Results[t.id] = one
	}
	return r
}

func TestAFindingTellsWhereItShows(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		ticks []tick
		where string
	}{
		"one place":      {[]tick{{id: "a", scale: length, at: 21, label: "21", odd: "cut short"}}, "21 characters"},
		"trimmed":        {[]tick{{id: "a", scale: length, at: 2, label: "2", odd: "x"}, {id: "b", scale: length, at: 2.5, label: "2", variant: "trimmed", odd: "x", covers: []testcase.Cover{{Kind: testcase.CoversBoundary, Of: "name.length", Point: "min-1 trimmed"}}}}, "2 characters"},
		"a stretch":      {[]tick{{id: "a", scale: length, at: 20, label: "20"}, {id: "b", scale: length, at: 21, label: "21", odd: "cut short"}, {id: "c", scale: length, at: 190, label: "190", odd: "cut short"}}, "21 to 190 characters"},
		"two ends":       {[]tick{{id: "a", scale: "date", at: -3, label: "1899-12-31", odd: "late"}, {id: "b", scale: "date", at: 9, label: "2000-01-01"}, {id: "c", scale: "date", at: 99, label: "2999-12-31", odd: "late"}}, "1899-12-31, 2999-12-31"},
		"a choice":       {[]tick{{id: "a", scale: "choice", at: 1, label: "Weir", odd: "lost"}}, ""},
		"a blank one":    {[]tick{{id: "a", scale: length, at: -1e12, label: "blank", odd: "NULL"}, {id: "b", scale: length, at: 3, label: "3", odd: "NULL"}}, ""},
		"no length":      {[]tick{{id: "a", scale: length, at: 12.3, label: "other capitals", odd: "x"}}, ""},
		"several scales": {[]tick{{id: "a", scale: length, at: 3, label: "3", odd: "x"}, {id: "b", scale: "pattern", at: 3, label: "dot", odd: "x"}}, ""},
	} {
		found := finding.Of(written(c.ticks...))
		require.Len(t, found, 1, name)
		require.Equal(t, c.where, found[0].Where, name)
	}
	require.Empty(t, finding.Of(written(tick{id: "a", scale: length, at: 3})))
}

// TestWhatIsTakenIsToldByItsLabels where it lies on no scale, since a field has several rules.
func TestWhatIsTakenIsToldByItsLabels(t *testing.T) {
	t.Parallel()
	r := written(tick{id: "a", scale: "pattern", at: 1, label: "dot", odd: "x"}, tick{id: "b", scale: "pattern", at: 2, label: "space", odd: "x"}, tick{id: "c", scale: "Name", at: 2, label: "other capitals", odd: "x"})
	r.Results["a"].Cause.Rule, r.Results["b"].Cause.Rule = "name.pattern", "name.pattern"
	r.Results["c"].Cause.Rule, r.Results["c"].Cause.Variant = "name.unique", "case"
	r.Cases[2].Row = testcase.RowUniqueness
	found := finding.Of(r)
	require.Len(t, found, 2)
	require.Equal(t, "dot, space", found[0].Where)
	require.EqualValues(t, "Accepted, and x", found[1].Headline)

	r.Results["a"].Cause.Rule, r.Results["a"].Cause.Variant = "name.unique", "case"
	r.Results["b"].Cause.Rule, r.Results["b"].Cause.Variant = "name.unique", "same"
	found = finding.Of(r)
	require.Len(t, found, 1)
	require.Equal(t, "b", found[0].Simplest, "what the others follow from is looked at")
}

func TestTheSimplestCaseIsShownFirst(t *testing.T) {
	t.Parallel()
	found := finding.Of(written(
		tick{id: "in a browser", odd: "lost", scale: length, at: 1, driver: submission.Browser},
		tick{id: "long", odd: "lost", scale: length, at: 190},
		tick{id: "short", odd: "lost", scale: length, at: 4},
		tick{id: "as short", odd: "lost", scale: length, at: 4},
		tick{id: "other", odd: "in another case", scale: length, at: 1},
	))
	require.Len(t, found, 2)
	require.Equal(t, "short", found[0].Simplest)
	require.Equal(t, []string{"in a browser", "long", "short", "as short"}, found[0].Cases)
	require.EqualValues(t, "Accepted, and lost", found[0].Headline)
}

func TestAFindingKeepsItsNameFromRunToRun(t *testing.T) {
	t.Parallel()
	before := finding.Of(written(tick{id: "a", odd: "lost"}, tick{id: "b", odd: "NULL"}))
	after := finding.Of(written(tick{id: "c", odd: "NULL"}, tick{id: "a", odd: "lost"}))
	require.Equal(t, before[0].ID, after[1].ID)
	require.Equal(t, before[1].ID, after[0].ID)
	require.NotEqual(t, before[0].ID, before[1].ID)
	require.Regexp(t, `^[a-z2-7]{8}$`, before[0].ID)
	require.NotEqual(t, finding.NameOf("plot", before[0].Cause).ID, finding.NameOf("shed", before[0].Cause).ID)
}
