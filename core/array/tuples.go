package array

import "sort"

// tuples counts how often each combination of levels of t factors stands in the rows so far.
type tuples struct {
	levels  []int
	t       int
	factors []int32 // t for each set of factors
	offset  []int32 // where a set's combinations begin
	of      [][]int32
	count   []int16
	// missing lists the combinations no row has, and place where each stands in it; -1 for one that has a row or cannot have one.
	missing []int32
	place   []int32
}

func newTuples(levels []int, t int) *tuples {
	x := &tuples{levels: levels, t: t, of: make([][]int32, len(levels))}
	pick := make([]int32, 0, t)
	total := int32(0)
	var choose func(from int)
	choose = func(from int) {
		if len(pick) == t {
			set := int32(len(x.offset))
			size := int32(1)
			for _, f := range pick {
				x.of[f] = append(x.of[f], set)
				size *= int32(levels[f])
			}
			x.factors = append(x.factors, pick...)
			x.offset = append(x.offset, total)
			total += size
			return
		}
		for f := from; f <= len(levels)-(t-len(pick)); f++ {
			pick = append(pick, int32(f))
			choose(f + 1)
			pick = pick[:len(pick)-1]
		}
	}
	choose(0)
	x.count = make([]int16, total)
	x.missing = make([]int32, total)
	x.place = make([]int32, total)
	for i := range x.missing {
		x.missing[i], x.place[i] = int32(i), int32(i)
	}
	return x
}

// set is the factors of one set.
func (x *tuples) set(s int32) []int32 { return x.factors[int(s)*x.t : int(s+1)*x.t] }

// at is the number of the combination that a row has of a set.
func (x *tuples) at(s int32, row Row) int32 {
	i := 0
	for _, f := range x.set(s) {
		i = i*x.levels[f] + row[f]
	}
	return x.offset[s] + int32(i)
}

// stride is how far apart the combinations of a set are whose level of a factor is one apart.
func (x *tuples) stride(s int32, factor int) int32 {
	n := int32(1)
	set := x.set(s)
	for i := len(set) - 1; int(set[i]) != factor; i-- {
		n *= int32(x.levels[set[i]])
	}
	return n
}

// read tells a combination's set and levels, in the order of the set's factors.
func (x *tuples) read(tuple int32, levels []int) (set int32) {
	set = int32(sort.Search(len(x.offset), func(i int) bool { return x.offset[i] > tuple })) - 1
	rest := int(tuple - x.offset[set])
	factors := x.set(set)
	for i := len(factors) - 1; i >= 0; i-- {
		n := x.levels[factors[i]]
		levels[i] = rest % n
		rest /= n
	}
	return set
}

func (x *tuples) cover(tuple int32) {
	if x.count[tuple]++; x.count[tuple] == 1 {
		x.strike(tuple)
	}
}

func (x *tuples) uncover(tuple int32) {
	if x.count[tuple]--; x.count[tuple] == 0 {
		x.place[tuple] = int32(len(x.missing))
		x.missing = append(x.missing, tuple)
	}
}

// strike takes a combination off the missing ones.
func (x *tuples) strike(tuple int32) {
	at, last := x.place[tuple], x.missing[len(x.missing)-1]
	x.missing[at], x.place[last] = last, at
	x.missing, x.place[tuple] = x.missing[:len(x.missing)-1], -1
}

// forbid makes a combination one that is never missing.
func (x *tuples) forbid(tuple int32) {
	x.strike(tuple)
	x.count[tuple] = 1 << 14 // never falls to 0
}

func (x *tuples) add(row Row) {
	for s := range x.offset {
		x.cover(x.at(int32(s), row))
	}
}

func (x *tuples) remove(row Row) {
	for s := range x.offset {
		x.uncover(x.at(int32(s), row))
	}
}

// alone is the number of combinations that only this row has.
func (x *tuples) alone(row Row) int {
	n := 0
	for s := range x.offset {
		if x.count[x.at(int32(s), row)] == 1 {
			n++
		}
	}
	return n
}

// change sets one level of a row that has been added.
func (x *tuples) change(row Row, factor, level int) {
	for _, s := range x.of[factor] {
		x.uncover(x.at(s, row))
	}
	row[factor] = level
	for _, s := range x.of[factor] {
		x.cover(x.at(s, row))
	}
}

// gain is how many fewer combinations would be missing after a change.
func (x *tuples) gain(row Row, factor, level int) int {
	by := int32(level - row[factor])
	n := 0
	for _, s := range x.of[factor] {
		old := x.at(s, row)
		if x.count[old] == 1 {
			n--
		}
		if x.count[old+by*x.stride(s, factor)] == 0 {
			n++
		}
	}
	return n
}
