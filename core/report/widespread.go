package report

import (
	"slices"

	"oddtick/core/judge"
)

// How many cases a cause must show in to be widespread: at least so many, and this share of those that were run.
const (
	widespreadCases = 10
	widespreadShare = 3 // one in three
)

// Widespread tells whether a group shows in so many of the cases that were run that what else is odd in them would not be seen: a password
// stored in plain text, a value that is lost after every rejection.
func (g *CauseGroup) Widespread(ran int) bool {
	return len(g.Cases) >= widespreadCases && len(g.Cases)*widespreadShare >= ran
}

// OddChecks are, by case, the checks that show widespread causes, and those that show others. What follows from a difference shows in
// checks that are in neither.
type OddChecks struct{ Widespread, Others map[string][]judge.CheckName }

// OddChecksOf tells which checks of which cases show what; nil where nothing is widespread.
func OddChecksOf(groups []CauseGroup, ran int) *OddChecks {
	if !slices.ContainsFunc(groups, func(g CauseGroup) bool { return g.Widespread(ran) }) {
		return nil
	}
	out := &OddChecks{map[string][]judge.CheckName{}, map[string][]judge.CheckName{}}
	for i := range groups {
		g, into := &groups[i], out.Others
		if g.Widespread(ran) {
			into = out.Widespread
		}
		for _, id := range g.Cases {
			for _, c := range append([]Cause{g.Cause}, g.Merged...) {
				if !slices.Contains(into[id], c.Check) {
					into[id] = append(into[id], c.Check)
				}
			}
		}
	}
	return out
}

// OnlyWidespread tells whether an odd case is odd in nothing but what is widespread.
func (o *OddChecks) OnlyWidespread(id string) bool { return o != nil && len(o.Others[id]) == 0 }

// WidespreadIn tells whether a check of a case is odd only in what is widespread.
func (o *OddChecks) WidespreadIn(id string, check judge.CheckName) bool {
	return o.OnlyWidespread(id) || o != nil && slices.Contains(o.Widespread[id], check) && !slices.Contains(o.Others[id], check)
}
