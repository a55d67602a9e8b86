package design

import (
	"fmt"
)

// effects finds for each condition two ways that differ in it and in the outcome only.
func (s *sheet) effects(x *decision) {
	masks := s.masks(x)
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
			e.Why = s.noEffect(x, i)
		} else {
			e.Holds = s.caseOf(x, best, Standard, Cover{CoversEffect, x.table.ID, e.Condition + " holds"})
			e.Fails = s.caseOf(x, best^1<<i, Standard, Cover{CoversEffect, x.table.ID, e.Condition + " fails"})
		}
		x.table.Effects = append(x.table.Effects, e)
	}
}

func (s *sheet) noEffect(x *decision, i int) string {
	if len(x.atoms) <= 20 {
		decides := false
		for m := range uint32(1) << len(x.atoms) {
			decides = decides || x.outcome(m) != x.outcome(m^1<<i)
		}
		if !decides {
			return "whether it holds never changes the outcome"
		}
	}
	return "no two inputs differ in it and in the outcome alone; " + x.proof()
}

func (x *decision) proof() string {
	switch {
	case x.whole && x.acceptedOnly:
		return fmt.Sprintf("all %d combinations of the fields' values were tried, and none is accepted", x.tries)
	case x.whole:
		return fmt.Sprintf("all %d combinations of the fields' values were tried", x.tries)
	}
	return fmt.Sprintf("none were found among %d combinations of the fields' values", x.tries)
}
