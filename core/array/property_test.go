package array

import (
	"errors"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// constrained draws a small problem; the constraints are tables of forbidden combinations.
func constrained(t *rapid.T) Problem {
	p := Problem{Levels: rapid.SliceOfN(rapid.IntRange(1, 4), 2, 6).Draw(t, "levels"), Effort: 200_000}
	p.Strength = rapid.IntRange(1, min(3, len(p.Levels))).Draw(t, "strength")
	for range rapid.IntRange(0, 3).Draw(t, "constraints") {
		factors := rapid.SliceOfNDistinct(rapid.IntRange(0, len(p.Levels)-1), 1, 3, rapid.ID).Draw(t, "factors")
		size := 1
		for _, f := range factors {
			size *= p.Levels[f]
		}
		table := rapid.SliceOfN(rapid.IntRange(0, 2), size, size).Draw(t, "table")
		p.Constraints = append(p.Constraints, Constraint{factors, func(levels []int) bool {
			at := 0
			for i, f := range factors {
				at = at*p.Levels[f] + levels[i]
			}
			return table[at] > 0
		}})
	}
	for range rapid.IntRange(0, 2).Draw(t, "required") {
		row := make(Row, len(p.Levels))
		for f := range row {
			row[f] = rapid.IntRange(Any, p.Levels[f]-1).Draw(t, "level")
		}
		p.Required = append(p.Required, row)
	}
	if rapid.Bool().Draw(t, "negative") {
		p.Negative = rapid.SliceOfN(rapid.IntRange(0, 2), len(p.Levels), len(p.Levels)).Draw(t, "negatives")
	}
	return p
}

// every goes through all full rows.
func every(levels []int, visit func(Row)) {
	row := make(Row, len(levels))
	var next func(f int)
	next = func(f int) {
		if f == len(row) {
			visit(row)
			return
		}
		for level := range levels[f] {
			row[f] = level
			next(f + 1)
		}
	}
	next(0)
}

func keeps(p *Problem, row Row) bool {
	for _, c := range p.Constraints {
		levels := make([]int, len(c.Factors))
		for i, f := range c.Factors {
			levels[i] = row[f]
		}
		if !c.Allows(levels) {
			return false
		}
	}
	return true
}

func agrees(open, row Row) bool {
	for f, level := range open {
		if level != Any && level != row[f] {
			return false
		}
	}
	return true
}

func TestCoversWhatIsFeasible(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := constrained(t)
		var possible []Row
		every(p.Levels, func(row Row) {
			if keeps(&p, row) {
				possible = append(possible, slices.Clone(row))
			}
		})
		wanted := len(possible) > 0
		for _, open := range p.Required {
			wanted = wanted && slices.ContainsFunc(possible, func(row Row) bool { return agrees(open, row) })
		}
		a, err := Cover(p)
		if !wanted {
			var none *NoRowError
			require.True(t, errors.As(err, &none), "%v", err)
			return
		}
		require.NoError(t, err)
		feasible := 0
		missing := uncovered(p.Levels, p.Strength, a.Rows, func(factors, levels []int) bool {
			return slices.ContainsFunc(possible, func(row Row) bool {
				for i, f := range factors {
					if row[f] != levels[i] {
						return false
					}
				}
				return true
			})
		})
		require.Empty(t, missing)
		for _, row := range a.Rows {
			require.True(t, keeps(&p, row), "row %v breaks a constraint", row)
		}
		for i, open := range p.Required {
			require.True(t, agrees(open, a.Rows[i]), "required row %v became %v", open, a.Rows[i])
		}
		sets := uncovered(p.Levels, p.Strength, nil, nil)
		for _, s := range sets {
			if slices.ContainsFunc(possible, func(row Row) bool { return row[s[0][0]] == s[1][0] && holdsAll(row, s) }) {
				feasible++
			}
		}
		require.Equal(t, feasible, a.Tuples)
		require.Equal(t, len(sets)-feasible, a.Infeasible)
		require.GreaterOrEqual(t, len(a.Rows), a.Least)
		checkAlone(t, &p, a)

		again, err := Cover(p)
		require.NoError(t, err)
		require.Equal(t, a, again)
	})
}

func holdsAll(row Row, s [2][]int) bool {
	for i, f := range s[0] {
		if row[f] != s[1][i] {
			return false
		}
	}
	return true
}

// checkAlone: each negative level stands in exactly one row, with no other.
func checkAlone(t *rapid.T, p *Problem, a *Array) {
	want := 0
	for _, n := range p.Negative {
		want += n
	}
	require.Len(t, a.Alone, want)
	seen := map[[2]int]bool{}
	for _, row := range a.Alone {
		negative := 0
		for f, level := range row {
			if level >= p.Levels[f] {
				negative++
				require.False(t, seen[[2]int{f, level}])
				seen[[2]int{f, level}] = true
				require.Less(t, level, p.Levels[f]+p.Negative[f])
			}
		}
		require.Equal(t, 1, negative)
	}
}

func TestConstructions(t *testing.T) {
	for q := 2; q <= 16; q++ {
		f := newField(q)
		if f == nil {
			assert.Contains(t, []int{6, 10, 12, 14, 15}, q, "fields have as many elements as powers of primes")
			continue
		}
		levels := repeat([2]int{q, q + 1})
		assert.Empty(t, uncovered(levels, 2, orthogonal(f, q+1, 2), nil), "strength 2 of %d levels", q)
		if q <= 4 {
			columns := q + 1 + (1 - q%2)
			assert.Empty(t, uncovered(repeat([2]int{q, columns}), 3, orthogonal(f, columns, 3), nil), "strength 3 of %d levels", q)
		}
	}
	for factors := 2; factors < 40; factors++ {
		assert.Empty(t, uncovered(repeat([2]int{2, factors}), 2, binary(factors), nil), "%d factors of two levels", factors)
	}
}

func TestIllPut(t *testing.T) {
	for _, test := range []struct {
		p    Problem
		want string
	}{
		{Problem{Strength: 2}, "no factor"},
		{Problem{Levels: []int{2, 2}, Strength: 3}, "from 1 to the number of factors, 2"},
		{Problem{Levels: []int{2, 0}, Strength: 2}, "factor 2 has 0 levels"},
		{Problem{Levels: []int{2, 2}, Strength: 2, Required: []Row{{0}}}, "required row 1 has 1 levels for 2 factors"},
		{Problem{Levels: []int{2, 2}, Strength: 2, Required: []Row{{0, 2}}}, "factor 2 has no level 2"},
		{Problem{Levels: []int{2, 2}, Strength: 2, Negative: []int{1}}, "negative levels are given for 1 of 2"},
		{Problem{Levels: []int{2, 2}, Strength: 2, Constraints: []Constraint{{Factors: []int{4}}}}, "constraint 1: there is no factor 4"},
		{Problem{Levels: repeat([2]int{200, 3}), Strength: 2, Constraints: []Constraint{{Factors: []int{0, 1, 2}, Allows: func([]int) bool { return true }}}}, "ties more than"},
	} {
		_, err := Cover(test.p)
		assert.ErrorContains(t, err, test.want)
	}
}
