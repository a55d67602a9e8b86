package cover

import (
	"slices"

	"oddtick/core/design"
	"oddtick/core/prose"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// Shown is how much of one kind a run has shown.
type Shown struct {
	Kind Kind `json:"kind"`
	// Of Total, Covered have a case, and Observed one that was observed.
	Total    int `json:"total"`
	Covered  int `json:"covered"`
	Observed int `json:"observed"`
	// NotObserved has a case, and none that was observed; NotCovered has none. Each is told in words, up to maxTold.
	NotObserved []prose.Text `json:"not_observed,omitempty"`
	NotCovered  []prose.Text `json:"not_covered,omitempty"`
}

// maxTold is how many things of a kind are told one by one.
const maxTold = 100

// ShownBy tells what the observed cases of a set have shown, of all that there is to cover.
func ShownBy(d *design.Designer, set, all *design.Set, observed func(*testcase.Case) bool) []Shown {
	designed, seen := Of(d, set, all, nil), Of(d, set, all, observed)
	var out []Shown
	for i := range designed {
		one := Shown{Kind: designed[i].Kind, Total: designed[i].Total, Covered: designed[i].Covered, Observed: seen[i].Covered}
		for _, m := range designed[i].Missing {
			words := m.Words
			if m.Why != "" {
				words = phrases.NotCoveredAs.With("what", words, "why", m.Why)
			}
			one.NotCovered = append(one.NotCovered, words)
		}
		for _, m := range seen[i].Missing {
			if !slices.ContainsFunc(designed[i].Missing, func(x Missing) bool { return x.ID == m.ID }) {
				one.NotObserved = append(one.NotObserved, m.Words)
			}
		}
		one.NotCovered = one.NotCovered[:min(len(one.NotCovered), maxTold)]
		one.NotObserved = one.NotObserved[:min(len(one.NotObserved), maxTold)]
		out = append(out, one)
	}
	return out
}
