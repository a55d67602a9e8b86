package array

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
)

// Thorough is an effort of a few seconds.
const Thorough = 400_000_000

// smallEffort is what the search for fewer rows may spend when nothing is said: some hundredths of a second.
const smallEffort = 20_000_000

// Cover computes the rows. Errors: *TooLargeError, *NoRowError, or a plain one for a problem that is not well put.
func Cover(p Problem) (*Array, error) { return CoverContext(context.Background(), p) }

// CoverContext is Cover, given up with the context's error once the context is done.
func CoverContext(ctx context.Context, p Problem) (*Array, error) {
	if err := p.check(); err != nil {
		return nil, err
	}
	solve, err := newSolver(p.Levels, p.Constraints)
	if err != nil {
		return nil, err
	}
	open := make(Row, len(p.Levels))
	for f := range open {
		open[f] = Any
	}
	if !solve.completable(open) {
		return nil, &NoRowError{"at all"}
	}
	x := newTuples(p.Levels, p.Strength)
	random := rand.New(rand.NewPCG(1, uint64(p.Strength))) // #nosec G404 -- the same rows every time, and no secret
	b := &builder{ctx: ctx, x: x, solve: solve, random: random, left: p.Effort}
	if b.left == 0 {
		b.left = smallEffort
	}
	out := &Array{Tuples: len(x.count)}
	out.Infeasible = b.forbidInfeasible()
	out.Tuples -= out.Infeasible
	_, least := Estimate(p.Levels, p.Strength)
	out.Least = int(least)
	switch {
	case len(p.Constraints) > 0:
		out.Least = 1
	case p.Strength == 2 && slices.Max(p.Levels) == 2 && slices.Min(p.Levels) == 2:
		out.Least = len(binary(len(p.Levels))) // none is smaller
	}

	var rows []Row
	for i, required := range p.Required {
		row := slices.Clone(required)
		if !solve.completable(row) {
			return nil, &NoRowError{fmt.Sprintf("for required row %d", i+1)}
		}
		b.fill(row)
		x.add(row)
		rows = append(rows, row)
	}
	out.Rows = b.cover(rows, p.Levels, out.Least)
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	out.Alone = alone(&p, out.Rows)
	return out, nil
}

// cover adds rows to the required ones until nothing is missing, then shortens.
func (b *builder) cover(rows []Row, levels []int, least int) []Row {
	fixed := len(rows)
	known := []Row(nil)
	if fixed == 0 && len(b.solve.tables) == 0 {
		known = constructed(levels, b.x.t)
		for _, row := range known {
			for f := range row {
				row[f] %= levels[f] // a level the factor does not have may be any
			}
		}
	}
	if len(known) != least { // else nothing can be shorter
		candidates := max(2, min(50, b.left/4/max(1, len(b.x.offset)*b.x.t*2*(least+len(levels)/2))))
		for len(b.x.missing) > 0 && b.ctx.Err() == nil {
			row := b.row(candidates)
			b.x.add(row)
			rows = append(rows, row)
		}
	}
	if known != nil && (len(rows) == 0 || len(known) < len(rows)) {
		for _, row := range rows {
			b.x.remove(row)
		}
		for _, row := range known {
			b.x.add(row)
		}
		rows = known
	}
	whole := make([]Row, len(rows))
	for i, row := range rows {
		whole[i] = slices.Clone(row)
	}
	if shorter := b.shorten(rows, fixed, least); shorter != nil {
		return shorter
	}
	return whole
}

// fill decides a required row's open levels.
func (b *builder) fill(row Row) {
	for f := range row {
		if row[f] == Any {
			row[f] = b.level(row, f)
		}
	}
}

// forbidInfeasible takes the combinations that no row can have off the missing ones, and counts them.
func (b *builder) forbidInfeasible() int {
	if len(b.solve.tables) == 0 {
		return 0
	}
	x := b.x
	n := 0
	known := make([]bool, len(x.count)) // that a row can have it
	levels := make([]int, x.t)
	for tuple := range x.count {
		if known[tuple] {
			continue
		}
		if b.ctx.Err() != nil {
			break
		}
		row := make(Row, len(x.levels))
		for f := range row {
			row[f] = Any
		}
		bound := false
		set := x.read(int32(tuple), levels)
		for i, f := range x.set(set) {
			row[f] = levels[i]
			bound = bound || len(b.solve.of[f]) > 0
		}
		if !bound {
			continue
		}
		if !b.solve.complete(row) {
			x.forbid(int32(tuple))
			n++
			continue
		}
		// the row found shows others feasible too
		for f := range row {
			if row[f] == Any {
				row[f] = 0
			}
		}
		for s := range x.offset {
			known[x.at(int32(s), row)] = true
		}
	}
	return n
}

// alone makes a row for each negative level. Its other levels are those of a row of the array, so that they may stand together.
func alone(p *Problem, rows []Row) []Row {
	var out []Row
	for f, n := range p.Negative {
		for level := range n {
			row := slices.Clone(rows[len(out)%len(rows)])
			row[f] = p.Levels[f] + level
			out = append(out, row)
		}
	}
	return out
}
