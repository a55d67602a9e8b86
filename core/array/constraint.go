package array

import (
	"fmt"
	"slices"
)

// Constraint says which levels of some factors may stand together in a row.
type Constraint struct {
	Factors []int
	// Allows is asked once for every combination of the factors' levels, in their order.
	Allows func(levels []int) bool
}

// maxCombined is the largest number of combinations of the factors of one constraint.
const maxCombined = 2_000_000

// maxNodes bounds the search for one completion.
const maxNodes = 200_000

// solver tells whether a partial row can be completed.
type solver struct {
	levels []int
	tables []table
	of     [][]int // by factor: its tables
	bound  []int   // the factors that stand in any table
	nodes  int
}

type table struct {
	factors []int
	allowed []bool
}

func newSolver(levels []int, constraints []Constraint) (*solver, error) {
	s := &solver{levels: levels, of: make([][]int, len(levels))}
	for i, c := range constraints {
		size := 1
		for _, f := range c.Factors {
			if size *= levels[f]; size > maxCombined {
				return nil, fmt.Errorf("constraint %d ties more than %d combinations together; split it, or leave levels out", i+1, maxCombined)
			}
		}
		t := table{c.Factors, make([]bool, size)}
		at := make([]int, len(c.Factors))
		for n := range size {
			rest := n
			for k := len(at) - 1; k >= 0; k-- {
				at[k] = rest % levels[c.Factors[k]]
				rest /= levels[c.Factors[k]]
			}
			t.allowed[n] = c.Allows(at)
		}
		for _, f := range c.Factors {
			if !slices.Contains(s.of[f], i) {
				s.of[f] = append(s.of[f], i)
			}
			if !slices.Contains(s.bound, f) {
				s.bound = append(s.bound, f)
			}
		}
		s.tables = append(s.tables, t)
	}
	slices.Sort(s.bound)
	return s, nil
}

// fits tells whether the tables that hold a factor still allow something; levels that are Any are open.
func (s *solver) fits(row Row, factor int) bool {
	for _, i := range s.of[factor] {
		if !s.open(&s.tables[i], row, 0, 0) {
			return false
		}
	}
	return true
}

// open: some combination that agrees with the row is allowed.
func (s *solver) open(t *table, row Row, k, at int) bool {
	if k == len(t.factors) {
		return t.allowed[at]
	}
	f := t.factors[k]
	if row[f] != Any {
		return s.open(t, row, k+1, at*s.levels[f]+row[f])
	}
	for level := range s.levels[f] {
		if s.open(t, row, k+1, at*s.levels[f]+level) {
			return true
		}
	}
	return false
}

// valid tells whether a full row keeps every constraint.
func (s *solver) valid(row Row) bool {
	for _, f := range s.bound {
		if !s.fits(row, f) {
			return false
		}
	}
	return true
}

// complete fills the open levels of the factors that stand in constraints, least first; the row is left as it was when it cannot.
func (s *solver) complete(row Row) bool {
	for _, f := range s.bound {
		if row[f] != Any && !s.fits(row, f) {
			return false
		}
	}
	s.nodes = 0
	return s.search(row)
}

// completable is complete without filling.
func (s *solver) completable(row Row) bool {
	return len(s.tables) == 0 || s.complete(slices.Clone(row))
}

func (s *solver) search(row Row) bool {
	if s.nodes++; s.nodes > maxNodes {
		return false
	}
	// the factor with the fewest levels left is decided first
	best, choices := -1, []int(nil)
	for _, f := range s.bound {
		if row[f] != Any {
			continue
		}
		var left []int
		for level := range s.levels[f] {
			row[f] = level
			if s.fits(row, f) {
				left = append(left, level)
			}
		}
		row[f] = Any
		if best < 0 || len(left) < len(choices) {
			best, choices = f, left
		}
		if len(choices) <= 1 {
			break
		}
	}
	if best < 0 {
		return true
	}
	for _, level := range choices {
		row[best] = level
		if s.search(row) {
			return true
		}
	}
	row[best] = Any
	return false
}
