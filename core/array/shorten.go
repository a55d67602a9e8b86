package array

import "slices"

// shorten takes rows away as long as the others can be changed to cover all again within the effort. Of the neighbours one level away
// that cover a missing combination, the best that was not made lately is taken (Nurmela: Upper bounds for covering arrays by tabu
// search, 2004). The first fixed rows stay as they are.
func (b *builder) shorten(rows []Row, fixed, least int) []Row {
	x := b.x
	var complete []Row
	lately := map[[3]int]int{}
	moves := 0
	levels := make([]int, x.t)
	for b.left > 0 && b.ctx.Err() == nil {
		if len(x.missing) == 0 {
			complete = make([]Row, len(rows))
			for i, row := range rows {
				complete[i] = slices.Clone(row)
			}
			if len(rows) <= least || len(rows) == fixed {
				break
			}
			rows = b.drop(rows, fixed)
			clear(lately)
			continue
		}
		moves++
		if len(rows) == fixed {
			break
		}
		set := x.read(x.missing[b.random.IntN(len(x.missing))], levels)
		factors := x.set(set)
		bestRow, bestFactor, bestLevel, bestGain, ties := -1, 0, 0, 0, 0
		for r := fixed; r < len(rows); r++ {
			row := rows[r]
			factor, level, apart := 0, 0, 0
			for i, f := range factors {
				if row[f] != levels[i] {
					factor, level = int(f), levels[i]
					apart++
				}
			}
			b.left -= x.t
			if apart != 1 || !b.may(row, factor, level) {
				continue
			}
			if last, ok := lately[[3]int{r, factor, level}]; ok && moves-last < memory {
				continue
			}
			gain := x.gain(row, factor, level)
			b.left -= len(x.of[factor]) * x.t * 2
			switch {
			case bestRow < 0 || gain > bestGain:
				bestRow, bestFactor, bestLevel, bestGain, ties = r, factor, level, gain, 1
			case gain == bestGain:
				if ties++; b.random.IntN(ties) == 0 {
					bestRow, bestFactor, bestLevel = r, factor, level
				}
			}
		}
		if bestRow >= 0 {
			lately[[3]int{bestRow, bestFactor, rows[bestRow][bestFactor]}] = moves
			x.change(rows[bestRow], bestFactor, bestLevel)
			continue
		}
		b.put(rows[fixed+b.random.IntN(len(rows)-fixed)], factors, levels)
	}
	return complete
}

// memory is how many moves a change is not taken back.
const memory = 8

// drop removes the row that leaves the fewest combinations missing.
func (b *builder) drop(rows []Row, fixed int) []Row {
	at, fewest := -1, 0
	for r := fixed; r < len(rows); r++ {
		if n := b.x.alone(rows[r]); at < 0 || n < fewest {
			at, fewest = r, n
		}
		b.left -= len(b.x.offset) * b.x.t
	}
	b.x.remove(rows[at])
	return slices.Delete(rows, at, at+1)
}

// may tells whether a row keeps the constraints after a change.
func (b *builder) may(row Row, factor, level int) bool {
	if len(b.solve.of[factor]) == 0 {
		return true
	}
	old := row[factor]
	row[factor] = level
	fits := b.solve.fits(row, factor)
	row[factor] = old
	return fits
}

// put makes a row hold a whole combination, where the constraints let it.
func (b *builder) put(row Row, factors []int32, levels []int) {
	changed := slices.Clone(row)
	for i, f := range factors {
		changed[f] = levels[i]
	}
	b.left -= b.x.t
	if len(b.solve.tables) > 0 && !b.solve.valid(changed) {
		return
	}
	for i, f := range factors {
		if row[f] != levels[i] {
			b.x.change(row, int(f), levels[i])
			b.left -= len(b.x.of[f]) * b.x.t * 2
		}
	}
}
