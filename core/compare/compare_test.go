package compare_test

import (
	"testing"

	"oddtick/core/compare"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// result is a run of cases: what each is odd for, "" for as expected, "?" for not observed.
func result(odd map[string]string) *report.Report {
	r := &report.Report{Form: "f", Results: map[string]*report.Result{}}
	for _, id := range []string{"a", "b", "c", "d"} {
		why, in := odd[id]
		if !in {
			continue
		}
		r.Cases = append(r.Cases, &testcase.Case{ID: id, Row: "row", Covers: []testcase.Cover{{Kind: testcase.CoversRule, Of: id}}, Steps: []testcase.Step{{Do: testcase.Submit}}})
		one := &report.Result{Case: id, Verdict: judge.AsExpected}
		switch why {
		case "":
		case "?":
			one.Verdict = judge.NotObserved
		default:
			one.Verdict, one.Headline, one.Cause = judge.Odd, prose.Text("Odd: "+why), &report.Cause{Check: judge.Messages, Subject: judge.Subject{Aspect: judge.MessageText, Rule: why}, Difference: judge.Missing}
		}
		r.Results[id] = one
	}
	return r
}

func parts(list []compare.Finding) []string {
	out := []string{}
	for _, f := range list {
		out = append(out, f.Cause.Subject.Rule)
	}
	return out
}

// TestASequenceOfRuns: faults come and go.
func TestASequenceOfRuns(t *testing.T) {
	t.Parallel()
	runs := []map[string]string{
		{"a": "", "b": "", "c": ""},
		{"a": "x", "b": "", "c": ""},
		{"a": "x", "b": "x", "c": "y"},
		{"a": "", "b": "", "c": "?", "d": ""},
		{"a": "", "b": "x", "d": ""},
	}
	for i, want := range []struct{ newly, still, no, unseen, added, retired []string }{
		{[]string{"x"}, []string{}, []string{}, []string{}, []string{}, []string{}},
		{[]string{"y"}, []string{"x"}, []string{}, []string{}, []string{}, []string{}},
		{[]string{}, []string{}, []string{"x"}, []string{"y"}, []string{"d"}, []string{}},
		{[]string{"x"}, []string{}, []string{}, []string{}, []string{}, []string{"c"}},
	} {
		c := compare.Of(result(runs[i]), result(runs[i+1]))
		require.Equal(t, want.newly, parts(c.NewlyOdd), i)
		require.Equal(t, want.still, parts(c.StillOdd), i)
		require.Equal(t, want.no, parts(c.NoLongerOdd), i)
		require.Equal(t, want.unseen, parts(c.NotSeenAgain), "what was not observed is not called mended")
		require.Equal(t, want.added, c.AddedCases)
		require.Equal(t, want.retired, c.RetiredCases)
	}
	c := compare.Of(result(runs[2]), result(runs[3]))
	require.Equal(t, []string{"rule d"}, c.NewlyCovered)
	require.Equal(t, []string{"rule c"}, c.NoLongerCovered, "a case that is not observed covers nothing")
	require.Equal(t, []string{"a", "b"}, c.NoLongerOdd[0].Before)
}

// TestALesserFindingDoesNotHideAGreater: a name in another case was taken before; now the very same name is, too, and what follows from it.
func TestALesserFindingDoesNotHideAGreater(t *testing.T) {
	t.Parallel()
	taken := func(rules map[string]string) *report.Report {
		r := result(map[string]string{"a": rules["a"], "b": rules["b"]})
		for id, rule := range rules {
			r.Results[id].Cause = &report.Cause{Row: "name", Rule: "name.unique", Variant: rule, Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.OtherRows}, Difference: judge.RowInserted}
		}
		return r
	}
	lesser, greater := taken(map[string]string{"b": "case"}), taken(map[string]string{"a": "same", "b": "case"})
	c := compare.Of(lesser, greater)
	require.Len(t, c.NewlyOdd, 1)
	require.Equal(t, "same", c.NewlyOdd[0].Cause.Variant)
	require.Empty(t, c.StillOdd)
	require.Empty(t, c.NoLongerOdd, "the lesser is there still, within the greater")
	c = compare.Of(greater, lesser)
	require.Empty(t, c.NewlyOdd)
	require.Len(t, c.StillOdd, 1)
	require.Equal(t, []string{"a", "b"}, c.StillOdd[0].Before)
}

// TestEveryFindingIsSomewhere: of any two results each finding stands in just one list, and a result compared with itself tells
// nothing new.
func TestEveryFindingIsSomewhere(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) *report.Report {
			odd := map[string]string{}
			for _, id := range []string{"a", "b", "c", "d"} {
				if why := rapid.SampledFrom([]string{"", "?", "x", "y", "-"}).Draw(t, name+id); why != "-" {
					odd[id] = why
				}
			}
			return result(odd)
		}
		before, after := draw("before"), draw("after")
		c := compare.Of(before, after)
		require.Len(t, after.Causes(), len(c.NewlyOdd)+len(c.StillOdd))
		require.Len(t, before.Causes(), len(c.StillOdd)+len(c.NoLongerOdd)+len(c.NotSeenAgain))
		same := compare.Of(before, before)
		require.Empty(t, same.NewlyOdd)
		require.Empty(t, same.NoLongerOdd)
		require.Empty(t, same.NewlyCovered)
		require.Len(t, same.StillOdd, len(before.Causes()))
		back := compare.Of(after, before)
		require.Equal(t, c.NewlyCovered, back.NoLongerCovered)
		require.Equal(t, c.AddedCases, back.RetiredCases)
	})
}
