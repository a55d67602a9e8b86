package decision

import (
	"math/bits"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// cube is a merged column: the conditions in care hold as in mask, the others either way.
type cube struct{ mask, care uint32 }

// columns merges the full table and makes a case of every column that some input goes.
func columns(b *testcase.Builder, x *decision) {
	n := len(x.atoms)
	merged := merge(n, x.outcome)
	firsts := map[string]bool{}
	for _, c := range merged {
		column := Column{Outcome: x.outcome(c.mask)}
		for i := range n {
			switch {
			case c.care>>i&1 == 0:
				column.Entries = append(column.Entries, Either)
			case c.mask>>i&1 == 1:
				column.Entries = append(column.Entries, Yes)
			default:
				column.Entries = append(column.Entries, No)
			}
		}
		var inside []uint32
		for _, m := range masks(x) {
			if m&c.care == c.mask {
				inside = append(inside, m)
			}
		}
		if len(inside) == 0 {
			column.Infeasible = x.infeasible(c)
			x.table.Columns = append(x.table.Columns, column)
			continue
		}
		chosen := inside[0]
		for _, m := range inside {
			if _, known := x.cases[m]; known {
				chosen = m
				break
			}
		}
		depth := testcase.Standard
		if x.first(column.Outcome) && !firsts[column.Outcome] {
			firsts[column.Outcome] = true
			depth = testcase.Quick
		}
		column.Case = caseOf(b, x, chosen, depth, testcase.Cover{Kind: testcase.CoversColumn, Of: x.table.ID, Point: ColumnText(column.Entries)})
		for _, m := range inside {
			caseOf(b, x, m, testcase.Thorough)
		}
		x.table.Columns = append(x.table.Columns, column)
	}
}

// ColumnText writes a column's entries as y, n and -.
func ColumnText(entries []Entry) string {
	var out strings.Builder
	for _, e := range entries {
		out.WriteByte(map[Entry]byte{Yes: 'y', No: 'n', Either: '-'}[e])
	}
	return out.String()
}

// firsts makes one case of each outcome, where there is no table.
func firsts(b *testcase.Builder, x *decision) {
	seen := map[string]bool{}
	for _, m := range masks(x) {
		if outcome := x.outcome(m); !seen[outcome] {
			seen[outcome] = true
			caseOf(b, x, m, testcase.Quick)
		}
	}
}

// merge joins columns that differ in one condition and have one outcome, until none are left. Every input goes one column.
func merge(n int, outcome func(uint32) string) []cube {
	all := uint32(1)<<n - 1
	var list []cube
	for m := range uint32(1) << n {
		list = append(list, cube{m, all})
	}
	slices.SortFunc(list, func(a, b cube) int { return order(b.mask, a.mask, n) })
	for merged := true; merged; {
		merged = false
		for i := n - 1; i >= 0; i-- {
			var kept []cube
			gone := map[cube]bool{}
			index := map[cube]bool{}
			for _, c := range list {
				index[c] = true
			}
			for _, c := range list {
				if gone[c] {
					continue
				}
				other := cube{c.mask ^ 1<<i, c.care}
				if c.care>>i&1 == 1 && index[other] && !gone[other] && outcome(c.mask) == outcome(other.mask) {
					gone[c], gone[other] = true, true
					kept = append(kept, cube{c.mask &^ (1 << i), c.care &^ (1 << i)})
					merged = true
					continue
				}
				kept = append(kept, c)
			}
			list = kept
		}
	}
	return list
}

// infeasible names the fewest entries of a column that no input has together.
func (x *decision) infeasible(c cube) prose.Text {
	cared := []int{}
	for i := range x.atoms {
		if c.care>>i&1 == 1 {
			cared = append(cared, i)
		}
	}
	for size := 1; size <= len(cared); size++ {
		for subset := range uint32(1) << len(cared) {
			if bits.OnesCount32(subset) != size {
				continue
			}
			var care uint32
			for k, i := range cared {
				if subset>>k&1 == 1 {
					care |= 1 << i
				}
			}
			if x.seen(care, c.mask&care) {
				continue
			}
			var words []prose.Text
			for _, i := range cared {
				switch {
				case care>>i&1 == 0:
				case c.mask>>i&1 == 1:
					words = append(words, prose.Text(x.table.Conditions[i]))
				default:
					words = append(words, phrases.ConditionNot.With("condition", x.table.Conditions[i]))
				}
			}
			if size == 1 {
				return phrases.NeverSo.With("condition", words[0], "proof", x.proof())
			}
			return phrases.NeverTogether.With("conditions", prose.Join(words, phrases.And.Template()), "proof", x.proof())
		}
	}
	return x.proof()
}

func (x *decision) seen(care, mask uint32) bool {
	for m := range x.ways {
		if m&care == mask {
			return true
		}
	}
	return false
}
