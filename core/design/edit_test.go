package design_test

import (
	"slices"
	"testing"

	"oddtick/core/design"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func find(cases []*testcase.Case, id string) *testcase.Case {
	if i := slices.IndexFunc(cases, func(c *testcase.Case) bool { return c.ID == id }); i >= 0 {
		return cases[i]
	}
	return nil
}

func TestEditsSurviveThatCasesAreComputedAnew(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	edits := []spec.CaseEdit{
		{Case: "join/terms.unticked/http", Skip: "the terms are being rewritten", Tags: []string{"legal"}},
		{Case: "join/username.pattern.mutant.more_after/http", EveryDepth: true},
		{Case: "join/plots.range.max/http", Inputs: map[string]string{"plots": "9"}, Title: "nine plots"},
		{Case: "join/own.market_day/http", Added: true, Title: "market day", Inputs: map[string]string{"heard": "od", "plots": "4"}},
		{Case: "join/gone.length.max/http", Tags: []string{"x"}},
	}
	plain := d.Design(design.Plan{Depth: testcase.Quick})
	for range 2 {
		set := d.Design(design.Plan{Depth: testcase.Quick}, edits...)
		require.Len(t, set.Cases, len(plain.Cases)+2, "one of a greater depth and one of its own")
		assert.True(t, find(set.Cases, edits[0].Case).Off())
		assert.NotNil(t, find(set.Cases, edits[1].Case))
		typed := find(set.Cases, edits[2].Case)
		assert.Equal(t, []string{"plots.range"}, typed.Last().Breaks, "what is expected follows what is typed")
		assert.Equal(t, prose.Text("nine plots"), typed.Title)
		assert.Equal(t, []testcase.Cover{{Kind: testcase.CoversRule, Of: "plots.range"}}, typed.Covers, "what it covers follows too")
		at := func(s *design.Set, id string) int { return slices.Index(s.Cases, find(s.Cases, id)) }
		assert.Equal(t, at(plain, "join/plots.blank/http"), at(set, "join/plots.blank/http")-1, "only the case of greater depth stands before it")
		own := find(set.Cases, edits[3].Case)
		assert.Equal(t, testcase.RowOwn, own.Row)
		assert.True(t, own.Writes())
		require.Equal(t, []spec.CaseEdit{edits[4]}, set.Stale)
	}
	again := d.Design(design.Plan{Depth: testcase.Quick})
	require.Equal(t, len(plain.Cases), len(again.Cases), "edits leave nothing behind")
	require.Empty(t, find(again.Cases, edits[2].Case).Last().Breaks)
}

func TestAtMostNCasesCoverTheMost(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	all := d.Design(design.Plan{Depth: testcase.Standard}).Cases
	broken := func(cases []*testcase.Case) int {
		rules := map[string]bool{}
		for _, c := range cases {
			if len(c.Last().Breaks) == 1 && !slices.Contains([]string{"token", "method", "website"}, c.Last().Breaks[0]) {
				rules[c.Last().Breaks[0]] = true
			}
		}
		return len(rules)
	}
	total := broken(all)
	few := d.Design(design.Plan{Depth: testcase.Standard, AtMost: 30}).Cases
	require.Len(t, few, 30)
	require.Equal(t, total, broken(few), "%d rules go into 30 cases", total)
	more := d.Design(design.Plan{Depth: testcase.Standard, AtMost: 60}).Cases
	require.Equal(t, few, more[:30], "a longer choice begins with the shorter one")
	require.Len(t, d.Design(design.Plan{Depth: testcase.Standard, AtMost: 9999}).Cases, len(all))
}

// Each case of the order covers no less than any that comes later would have in its place.
func TestEachPrefixIsTheGreedyOne(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		var cases []*testcase.Case
		for range rapid.IntRange(1, 12).Draw(t, "cases") {
			covers := rapid.SliceOfDistinct(rapid.SampledFrom([]testcase.Cover{
				{Kind: testcase.CoversRule, Of: "a"},
				{Kind: testcase.CoversRule, Of: "b"},
				{Kind: testcase.CoversPair, Of: "x=1,y=2"},
				{Kind: testcase.CoversPair, Of: "x=2,y=1"},
				{Kind: testcase.CoversBoundary, Of: "a", Point: "max"},
				{Kind: testcase.CoversBoundary, Of: "a", Point: "min"},
				{Kind: testcase.CoversPartition, Of: "p", Point: "x"},
			}), rapid.ID[testcase.Cover]).Draw(t, "covers")
			cases = append(cases, &testcase.Case{Covers: covers})
		}
		worth := func(c *testcase.Case, before []*testcase.Case) (n int) {
			for _, what := range c.Covers {
				if slices.ContainsFunc(before, func(b *testcase.Case) bool { return slices.Contains(b.Covers, what) }) {
					continue
				}
				switch what.Kind {
				case testcase.CoversRule:
					n += 1_000_000
				case testcase.CoversPair:
					n++
				default:
					n += 1000
				}
			}
			return n
		}
		order := design.Prioritize(cases, len(cases))
		require.Len(t, order, len(cases))
		for i, c := range order {
			for _, later := range order[i+1:] {
				require.GreaterOrEqual(t, worth(c, order[:i]), worth(later, order[:i]))
			}
		}
	})
}
