package values

import "math/bits"

// minimal merges states that no input tells apart, and classes that no state tells apart.
func (a *Automaton) minimal() *Automaton {
	a = a.mergeClasses() // there are often hundreds of classes and a dozen that differ
	group, groups := a.equivalenceClasses()
	out := &Automaton{alphabet: a.alphabet, next: make([]int32, groups*a.classes), accept: make([]bool, groups)}
	for s, g := range group {
		out.accept[g] = a.accept[s]
		for c := range a.classes {
			out.next[int(g)*a.classes+c] = group[a.next[s*a.classes+c]]
		}
	}
	return out.mergeClasses()
}

// equivalenceClasses numbers by state the groups of states that no input tells apart, in the order of their first states (Hopcroft 1971).
func (a *Automaton) equivalenceClasses() (group []int32, groups int) {
	p := newPartition(a.accept)
	into := a.backwards()
	var waiting []int32
	waits := make([]bool, len(a.accept))
	for b := range p.begin {
		waiting, waits[b] = append(waiting, int32(b)), true
	}
	var splitter []int32
	for len(waiting) > 0 {
		b := waiting[len(waiting)-1]
		waiting = waiting[:len(waiting)-1]
		waits[b] = false
		splitter = append(splitter[:0], p.order[p.begin[b]:p.end[b]]...) // it may itself be split meanwhile
		for c := range a.classes {
			for _, to := range splitter {
				for _, from := range into.of(int(to)*a.classes + c) {
					p.mark(from)
				}
			}
			for _, old := range p.touched {
				fresh, ok := p.split(old)
				if !ok {
					continue
				}
				if !waits[old] && p.size(old) < p.size(fresh) {
					fresh = old
				}
				waits[fresh] = true
				waiting = append(waiting, fresh)
			}
			p.touched = p.touched[:0]
		}
	}
	return p.numbered()
}

// reverse lists by transition target and class the states that it comes from.
type reverse struct{ first, from []int32 }

func (a *Automaton) backwards() reverse {
	r := reverse{make([]int32, len(a.next)+1), make([]int32, len(a.next))}
	at := func(i int) int { return int(a.next[i])*a.classes + i%a.classes }
	for i := range a.next {
		r.first[at(i)+1]++
	}
	for i := range a.next {
		r.first[i+1] += r.first[i]
	}
	filled := make([]int32, len(a.next))
	for i := range a.next {
		k := at(i)
		r.from[r.first[k]+filled[k]] = int32(i / a.classes)
		filled[k]++
	}
	return r
}

func (r reverse) of(i int) []int32 { return r.from[r.first[i]:r.first[i+1]] }

// partition is of states into blocks. Those of a block stand together in order, the marked ones at its begin.
type partition struct {
	order, at, block   []int32 // at is a state's place in order
	begin, end, marked []int32 // by block
	touched            []int32 // blocks with states that are marked
}

// newPartition parts those that are accepted from those that are not.
func newPartition(accept []bool) *partition {
	p := &partition{order: make([]int32, 0, len(accept)), at: make([]int32, len(accept)), block: make([]int32, len(accept))}
	for _, accepted := range []bool{true, false} {
		begin := int32(len(p.order))
		for s, yes := range accept {
			if yes == accepted {
				p.at[s], p.block[s] = int32(len(p.order)), int32(len(p.begin))
				p.order = append(p.order, int32(s))
			}
		}
		if end := int32(len(p.order)); end > begin {
			p.begin, p.end, p.marked = append(p.begin, begin), append(p.end, end), append(p.marked, 0)
		}
	}
	return p
}

func (p *partition) size(b int32) int32 { return p.end[b] - p.begin[b] }

func (p *partition) mark(s int32) {
	b := p.block[s]
	to := p.begin[b] + p.marked[b]
	from := p.at[s]
	if from < to {
		return // it is marked
	}
	if p.marked[b] == 0 {
		p.touched = append(p.touched, b)
	}
	p.marked[b]++
	other := p.order[to]
	p.order[to], p.order[from] = s, other
	p.at[s], p.at[other] = to, from
}

// split makes the marked states of a block a block of their own, unless all are.
func (p *partition) split(b int32) (fresh int32, ok bool) {
	n := p.marked[b]
	p.marked[b] = 0
	if n == p.size(b) {
		return 0, false
	}
	fresh = int32(len(p.begin))
	p.begin, p.end, p.marked = append(p.begin, p.begin[b]), append(p.end, p.begin[b]+n), append(p.marked, 0)
	p.begin[b] += n
	for _, s := range p.order[p.begin[fresh]:p.end[fresh]] {
		p.block[s] = fresh
	}
	return fresh, true
}

// numbered are the blocks by state, numbered in the order of their first states.
func (p *partition) numbered() (group []int32, groups int) {
	number := make([]int32, len(p.begin)) // from 1
	group = make([]int32, len(p.block))
	for s, b := range p.block {
		if number[b] == 0 {
			groups++
			number[b] = int32(groups)
		}
		group[s] = number[b] - 1
	}
	return group, groups
}

// digest stands for a list of numbers: 128 bits, so that two lists that differ will not meet in one.
type digest [2]uint64

func (d digest) add(v int32) digest {
	return digest{(d[0] ^ uint64(uint32(v))) * 0x9E3779B97F4A7C15, bits.RotateLeft64(d[1], 23)*0xBF58476D1CE4E5B9 + uint64(uint32(v)) + 1}
}

func (a *Automaton) mergeClasses() *Automaton {
	alpha := &alphabet{}
	known := map[digest]uint16{}
	renamed := make([]uint16, a.classes)
	var kept []int
	for c := range a.classes {
		column := digest{}.add(int32(runeLen(a.sample[c])))
		for s := range a.accept {
			column = column.add(a.next[s*a.classes+c])
		}
		id, ok := known[column]
		if !ok {
			id = uint16(len(known))
			known[column] = id
			alpha.sample = append(alpha.sample, a.sample[c])
			kept = append(kept, c)
		}
		renamed[c] = id
	}
	if len(kept) == a.classes {
		return a
	}
	alpha.classes = len(kept)
	for i, lo := range a.cuts {
		class := renamed[a.class[i]]
		if k := len(alpha.class); k > 0 && alpha.class[k-1] == class {
			continue
		}
		alpha.cuts = append(alpha.cuts, lo)
		alpha.class = append(alpha.class, class)
	}
	alpha.fillASCII()
	out := &Automaton{alphabet: alpha, accept: a.accept, next: make([]int32, len(a.accept)*alpha.classes)}
	for s := range a.accept {
		for k, c := range kept {
			out.next[s*alpha.classes+k] = a.next[s*a.classes+c]
		}
	}
	return out
}
