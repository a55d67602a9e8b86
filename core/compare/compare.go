// Package compare holds two results of one form against each other: what is newly odd, what no longer is, and what was put to the
// test in only one of them.
package compare

import (
	"maps"
	"slices"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
)

// Finding is what is odd for one reason, in one result or both.
type Finding struct {
	ID    string       `json:"id"`
	Cause report.Cause `json:"cause"`
	Row   string       `json:"row,omitempty"`
	Says  prose.Text   `json:"says"`
	// Before and After are its odd cases.
	Before []string `json:"before,omitempty"`
	After  []string `json:"after,omitempty"`
}

// Comparison is what changed from one result to the other.
type Comparison struct {
	NewlyOdd []Finding `json:"newly_odd"`
	StillOdd []Finding `json:"still_odd"`
	// NoLongerOdd are those whose cases were seen again, and were as expected.
	NoLongerOdd []Finding `json:"no_longer_odd"`
	// NotSeenAgain are those of whose cases none was observed the second time: whether they are odd still is not known.
	NotSeenAgain []Finding `json:"not_seen_again"`
	// NewlyCovered and NoLongerCovered are rules, partitions and boundaries that an observed case covers in only one of the results.
	NewlyCovered    []string `json:"newly_covered"`
	NoLongerCovered []string `json:"no_longer_covered"`
	// AddedCases and RetiredCases are only in one of them.
	AddedCases   []string `json:"added_cases"`
	RetiredCases []string `json:"retired_cases"`
}

// Of compares two results of the same form, the earlier one first.
func Of(before, after *report.Report) *Comparison {
	c := &Comparison{NewlyOdd: []Finding{}, StillOdd: []Finding{}, NoLongerOdd: []Finding{}, NotSeenAgain: []Finding{}, NewlyCovered: []string{}, NoLongerCovered: []string{}, AddedCases: []string{}, RetiredCases: []string{}}
	earlier, later := finding.Of(before), finding.Of(after)
	for i := range later {
		f := of(&later[i])
		f.After = later[i].Cases
		if later[i].All(func(id string) bool { return called(earlier, id) != nil }) {
			f.Before = called(earlier, f.ID).Cases
			c.StillOdd = append(c.StillOdd, f)
		} else {
			c.NewlyOdd = append(c.NewlyOdd, f)
		}
	}
	for i := range earlier {
		if !earlier[i].All(func(id string) bool { return called(later, id) == nil }) {
			continue // some of it is there still
		}
		f := of(&earlier[i])
		f.Before = earlier[i].Cases
		if slices.ContainsFunc(f.Before, func(id string) bool { return observed(after, id) }) {
			c.NoLongerOdd = append(c.NoLongerOdd, f)
		} else {
			c.NotSeenAgain = append(c.NotSeenAgain, f)
		}
	}
	c.NewlyCovered, c.NoLongerCovered = apart(covered(before), covered(after))
	c.AddedCases, c.RetiredCases = apart(cases(before), cases(after))
	return c
}

func of(f *finding.Finding) Finding {
	return Finding{ID: f.ID, Cause: f.Cause, Row: f.Row, Says: f.Headline}
}

// called is the finding of a list with a name, nil for none.
func called(list []finding.Finding, id string) *finding.Finding {
	for i := range list {
		if list[i].Called(id) {
			return &list[i]
		}
	}
	return nil
}

// observed tells whether a case's verdict says something.
func observed(r *report.Report, id string) bool {
	result := r.Results[id]
	return result != nil && (result.Verdict == judge.AsExpected || result.Verdict == judge.Odd)
}

func covered(r *report.Report) map[string]bool {
	out := map[string]bool{}
	for _, c := range r.Cases {
		if !observed(r, c.ID) {
			continue
		}
		for _, what := range c.Covers {
			out[what.String()] = true
		}
	}
	return out
}

func cases(r *report.Report) map[string]bool {
	out := map[string]bool{}
	for _, c := range r.Cases {
		out[c.ID] = true
	}
	return out
}

// apart are what only the second holds, and what only the first does, in alphabetical order.
func apart(a, b map[string]bool) (added, gone []string) {
	added, gone = []string{}, []string{}
	for _, x := range slices.Sorted(maps.Keys(b)) {
		if !a[x] {
			added = append(added, x)
		}
	}
	for _, x := range slices.Sorted(maps.Keys(a)) {
		if !b[x] {
			gone = append(gone, x)
		}
	}
	return added, gone
}
