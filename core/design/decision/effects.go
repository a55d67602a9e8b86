package decision

import (
	"oddtick/core/prose"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// effects finds for each condition two ways that differ in it and in the outcome only.
func effects(b *testcase.Builder, x *decision) {
	masks := masks(x)
	for i := range x.atoms {
		e := Effect{Condition: x.table.Conditions[i]}
		best, worth := uint32(0), -1
		for _, m := range masks {
			if m>>i&1 == 0 || x.ways[m^1<<i] == nil || x.outcome(m) == x.outcome(m^1<<i) {
				continue
			}
			// those that are cases already are preferred
			n := 0
			for _, one := range []uint32{m, m ^ 1<<i} {
				if _, known := x.cases[one]; known {
					n++
				}
			}
			if n > worth {
				best, worth = m, n
			}
		}
		if worth < 0 {
			e.Why = noEffect(b, x, i)
		} else {
			e.Holds = caseOf(b, x, best, testcase.Standard, testcase.Cover{Kind: testcase.CoversEffect, Of: x.table.ID, Point: e.Condition + " holds"})
			e.Fails = caseOf(b, x, best^1<<i, testcase.Standard, testcase.Cover{Kind: testcase.CoversEffect, Of: x.table.ID, Point: e.Condition + " fails"})
		}
		x.table.Effects = append(x.table.Effects, e)
	}
}

func noEffect(b *testcase.Builder, x *decision, i int) prose.Text {
	if len(x.atoms) <= 20 {
		decides := false
		for m := range uint32(1) << len(x.atoms) {
			decides = decides || x.outcome(m) != x.outcome(m^1<<i)
		}
		if !decides {
			return phrases.NeverChangesOutcome.Text()
		}
	}
	return phrases.NoTwoInputsDiffer.With("proof", x.proof())
}

func (x *decision) proof() prose.Text {
	switch {
	case x.whole && x.acceptedOnly:
		return phrases.AllTriedNoneAccepted.With("n", x.tries)
	case x.whole:
		return phrases.AllValuesTried.With("n", x.tries)
	}
	return phrases.NoneFoundAmong.With("n", x.tries)
}
