package values

import (
	"slices"
	"sort"
	"sync"
	"unicode/utf8"
)

// alphabet cuts the code points into classes that no set in use tells apart.
type alphabet struct {
	cuts    []rune   // interval i reaches from cuts[i] to cuts[i+1]-1
	class   []uint16 // by interval
	ascii   [utf8.RuneSelf]uint16
	classes int
	sample  []rune   // by class: one of its members
	within  [][]bool // by set it was made from, by class
}

// newAlphabet also cuts where UTF-8 and UTF-16 change their length, so that all characters of a class count alike in every unit.
func newAlphabet(sets []Runes) *alphabet {
	cutSet := map[rune]bool{0: true, 0x80: true, 0x800: true, surrogateMin: true, surrogateMax + 1: true, 0x10000: true}
	for _, set := range sets {
		for _, r := range set {
			cutSet[r.Lo] = true
			if r.Hi < utf8.MaxRune {
				cutSet[r.Hi+1] = true
			}
		}
	}
	a := &alphabet{}
	for r := range cutSet {
		a.cuts = append(a.cuts, r)
	}
	slices.Sort(a.cuts)
	known := map[string]uint16{}
	key := make([]byte, len(sets)+1)
	for _, lo := range a.cuts {
		for s, set := range sets {
			key[s] = 0
			if set.Has(lo) {
				key[s] = 1
			}
		}
		key[len(sets)] = byte(runeLen(lo))
		id, ok := known[string(key)]
		if !ok {
			id = uint16(len(known))
			known[string(key)] = id
			a.sample = append(a.sample, lo)
		}
		a.class = append(a.class, id)
	}
	a.classes = len(known)
	a.within = make([][]bool, len(sets))
	for s, set := range sets {
		a.within[s] = make([]bool, a.classes)
		for c, r := range a.sample {
			a.within[s][c] = set.Has(r)
		}
	}
	a.fillASCII()
	return a
}

// runeLen is the rune's length in UTF-8; a surrogate, which no value holds, is told apart by 0.
func runeLen(r rune) int {
	if r >= surrogateMin && r <= surrogateMax {
		return 0
	}
	return utf8.RuneLen(r)
}

func (a *alphabet) fillASCII() {
	for r := range rune(utf8.RuneSelf) {
		a.ascii[r] = a.search(r)
	}
}

func (a *alphabet) search(r rune) uint16 {
	return a.class[sort.Search(len(a.cuts), func(i int) bool { return a.cuts[i] > r })-1]
}

func (a *alphabet) of(r rune) uint16 {
	if r < utf8.RuneSelf {
		return a.ascii[r]
	}
	return a.search(r)
}

// Automaton is a complete deterministic automaton over code points. State 0 is the start.
type Automaton struct {
	*alphabet
	next   []int32 // state*classes + class
	accept []bool

	deadOnce, choiceOnce, plainOnce sync.Once
	dead                            []bool
	deadPlain                       []bool     // dead where only printable ASCII may follow
	choice                          [][]Range  // by class: its ranges, preferred first
	order                           [][]uint16 // by state: the classes that can stand next, preferred first
}

// deadStates marks the states from which nothing is accepted any more.
func (a *Automaton) deadStates() []bool {
	a.deadOnce.Do(func() { a.dead = a.unreaching(true, a.lone) })
	return a.dead
}

// lone tells whether a class holds characters that can stand in a text; surrogates cannot.
func (a *Automaton) lone(class int) bool { return runeLen(a.sample[class]) > 0 }

// deadPlainStates marks the states from which printable ASCII alone leads to nothing that is accepted.
func (a *Automaton) deadPlainStates() []bool {
	a.plainOnce.Do(func() {
		choice, _ := a.choices(false)
		a.deadPlain = a.unreaching(true, func(class int) bool { return len(choice[class]) > 0 && printableASCII(choice[class][0].Lo) })
	})
	return a.deadPlain
}

// AnyString accepts every string.
func AnyString() *Automaton {
	alpha := newAlphabet(nil)
	return &Automaton{alphabet: alpha, next: make([]int32, alpha.classes), accept: []bool{true}}
}

// Only accepts the strings made of these runes alone.
func Only(runes Runes) *Automaton {
	alpha := newAlphabet([]Runes{runes})
	a := &Automaton{alphabet: alpha, next: make([]int32, 2*alpha.classes), accept: []bool{true, false}}
	for c := range alpha.classes {
		a.next[alpha.classes+c] = 1
		if !alpha.within[0][c] {
			a.next[c] = 1
		}
	}
	return a
}

// States is the number of states.
func (a *Automaton) States() int { return len(a.accept) }

// Matches reports whether the whole value is accepted. A value that is not UTF-8 never is.
func (a *Automaton) Matches(value string) bool {
	state := int32(0)
	for i, r := range value {
		if r == utf8.RuneError {
			if _, size := utf8.DecodeRuneInString(value[i:]); size == 1 {
				return false
			}
		}
		state = a.next[int(state)*a.classes+int(a.of(r))]
	}
	return a.accept[state]
}

// Not accepts what a does not.
func (a *Automaton) Not() *Automaton {
	accept := make([]bool, len(a.accept))
	for i, yes := range a.accept {
		accept[i] = !yes
	}
	return &Automaton{alphabet: a.alphabet, next: a.next, accept: accept}
}

// And accepts what both accept.
func (a *Automaton) And(b *Automaton) (*Automaton, error) {
	alpha, fromA, fromB := joinAlphabets(a.alphabet, b.alphabet)
	out := &Automaton{alphabet: alpha}
	type pair struct{ a, b int32 }
	known := map[pair]int32{{0, 0}: 0}
	list := []pair{{0, 0}}
	for at := 0; at < len(list); at++ {
		if len(list) > MaxStates {
			return nil, &TooLargeError{What: "the intersection of two rules"}
		}
		p := list[at]
		out.accept = append(out.accept, a.accept[p.a] && b.accept[p.b])
		for c := range alpha.classes {
			to := pair{a.next[int(p.a)*a.classes+int(fromA[c])], b.next[int(p.b)*b.classes+int(fromB[c])]}
			id, ok := known[to]
			if !ok {
				id = int32(len(list))
				known[to] = id
				list = append(list, to)
			}
			out.next = append(out.next, id)
		}
	}
	if len(list) > 100 && len(list) <= max(len(a.accept), len(b.accept))+8 {
		return out.mergeClasses(), nil // it has hardly grown: minimising is not worth the work
	}
	return out.minimal(), nil
}

func joinAlphabets(a, b *alphabet) (joined *alphabet, fromA, fromB []uint16) {
	joined = &alphabet{}
	joined.cuts = append(slices.Clone(a.cuts), b.cuts...)
	slices.Sort(joined.cuts)
	joined.cuts = slices.Compact(joined.cuts)
	known := map[[2]uint16]uint16{}
	for _, lo := range joined.cuts {
		key := [2]uint16{a.search(lo), b.search(lo)}
		id, ok := known[key]
		if !ok {
			id = uint16(len(known))
			known[key] = id
			joined.sample = append(joined.sample, lo)
			fromA = append(fromA, key[0])
			fromB = append(fromB, key[1])
		}
		joined.class = append(joined.class, id)
	}
	joined.classes = len(known)
	joined.fillASCII()
	return joined, fromA, fromB
}

// Empty reports whether nothing at all is accepted.
func (a *Automaton) Empty() bool { return a.deadStates()[0] }

// unreaching marks the states from which no state with accept == wanted can be reached by the classes that may be used.
func (a *Automaton) unreaching(wanted bool, may func(class int) bool) []bool {
	n := len(a.accept)
	back := make([][]int32, n)
	for s := range n {
		for c := range a.classes {
			if !may(c) {
				continue
			}
			to := a.next[s*a.classes+c]
			if k := len(back[to]); k == 0 || back[to][k-1] != int32(s) {
				back[to] = append(back[to], int32(s))
			}
		}
	}
	out := make([]bool, n)
	var queue []int32
	for s := range n {
		out[s] = a.accept[s] != wanted
		if !out[s] {
			queue = append(queue, int32(s))
		}
	}
	for len(queue) > 0 {
		s := queue[0]
		queue = queue[1:]
		for _, from := range back[s] {
			if out[from] {
				out[from] = false
				queue = append(queue, from)
			}
		}
	}
	return out
}
