package array

import (
	"context"
	"math/rand/v2"
)

// builder makes rows for a problem.
type builder struct {
	ctx    context.Context
	x      *tuples
	solve  *solver
	random *rand.Rand
	left   int // effort
}

// row builds the row of some candidates that covers most. Each begins with a missing combination, which makes sure that one is
// covered, and takes the other factors in random order, each at the level that covers most with those taken before (Cohen, Dalal,
// Fredman, Patton: The AETG system, 1997).
func (b *builder) row(candidates int) Row {
	var best Row
	most := -1
	for range candidates {
		row := b.candidate()
		n := 0
		for s := range b.x.offset {
			if b.x.count[b.x.at(int32(s), row)] == 0 {
				n++
			}
		}
		b.left -= len(b.x.offset)
		if n > most {
			best, most = row, n
		}
	}
	return best
}

func (b *builder) candidate() Row {
	x := b.x
	row := make(Row, len(x.levels))
	for f := range row {
		row[f] = Any
	}
	levels := make([]int, x.t)
	set := x.read(x.missing[b.random.IntN(len(x.missing))], levels)
	for i, f := range x.set(set) {
		row[f] = levels[i]
	}
	for _, f := range b.random.Perm(len(row)) {
		if row[f] == Any {
			row[f] = b.level(row, f)
		}
	}
	return row
}

// level is the one of a factor that covers most with the levels a row has.
func (b *builder) level(row Row, factor int) int {
	x := b.x
	n := x.levels[factor]
	covers := make([]int, n)
	row[factor] = 0
next:
	for _, s := range x.of[factor] {
		for _, f := range x.set(s) {
			if row[f] == Any {
				continue next
			}
		}
		at, stride := x.at(s, row), x.stride(s, factor)
		for level := range covers {
			if x.count[at+int32(level)*stride] == 0 {
				covers[level]++
			}
		}
	}
	row[factor] = Any
	b.left -= len(x.of[factor]) * (n + x.t)
	order := b.random.Perm(n)
	for {
		best := -1
		for _, level := range order {
			if covers[level] >= 0 && (best < 0 || covers[level] > covers[best]) {
				best = level
			}
		}
		if len(b.solve.of[factor]) == 0 {
			return best
		}
		row[factor] = best
		fits := b.solve.fits(row, factor) && b.solve.completable(row)
		row[factor] = Any
		if fits {
			return best
		}
		covers[best] = -1 // the row before could be completed, so that another level is left
	}
}
