package values

import (
	"encoding/binary"
	"fmt"
	"slices"
)

// MaxStates is the most states an automaton may have; a set that needs more is refused with a TooLargeError.
const MaxStates = 20_000

// TooLargeError says that a set cannot be computed within MaxStates.
type TooLargeError struct{ What string }

func (e *TooLargeError) Error() string {
	return fmt.Sprintf("%s needs more than %d states to compute with; simplify it, or split it into two rules", e.What, MaxStates)
}

// placeKind is what an assertion can know of the input before its place.
type placeKind int

const (
	placeStart placeKind = iota
	placeAfterWord
	placeAfterOther
)

// Pattern builds the automaton of all whole values that match an ECMA-262 pattern.
//
// Look-aheads are carried as obligations: a state is a set of threads, each a place in the program with the states that its
// look-aheads' own automata have reached; this is the subset construction on an alternating automaton (Chandra, Kozen,
// Stockmeyer 1981) in which all but the main branch are determined first.
func Pattern(source string, dialect Dialect) (*Automaton, error) {
	tree, err := parsePattern(source, dialect)
	if err != nil {
		return nil, err
	}
	return compileTree(tree, source)
}

// compileTree makes the automaton of a parsed pattern.
func compileTree(tree *node, source string) (*Automaton, error) {
	var sets []Runes
	prog, err := compilePattern(tree, &sets, source)
	if err != nil {
		return nil, err
	}
	alpha := newAlphabet(sets)
	what := fmt.Sprintf("the pattern %q", source)
	if err := prog.determineLooks(alpha, what); err != nil {
		return nil, err
	}
	d := newDetermination(prog, alpha)
	auto, _, err := d.run(what, []placeKind{placeStart})
	if err != nil {
		return nil, err
	}
	return auto.minimal(), nil
}

func (p *program) determineLooks(alpha *alphabet, what string) error {
	for _, l := range p.looks {
		if err := l.body.determineLooks(alpha, what); err != nil {
			return err
		}
		d := newDetermination(l.body, alpha)
		auto, starts, err := d.run(what, []placeKind{placeStart, placeAfterWord, placeAfterOther})
		if err != nil {
			return err
		}
		l.auto = auto
		copy(l.starts[:], starts)
		l.dead = auto.deadStates()
		l.full = auto.unreaching(false, auto.lone)
	}
	return nil
}

// obligation is a look-ahead under way: which one, and the state its automaton is in.
type obligation struct{ look, state int32 }

type thread struct {
	pc          int
	obligations []obligation // sorted
}

type determination struct {
	prog      *program
	alpha     *alphabet
	word      []bool // by class: its characters are word characters
	known     map[string]int32
	threads   [][]thread
	places    []placeKind
	automaton *Automaton
}

func newDetermination(prog *program, alpha *alphabet) *determination {
	d := &determination{prog: prog, alpha: alpha, known: map[string]int32{}, word: make([]bool, alpha.classes)}
	for class := range d.word {
		d.word[class] = wordRunes.Has(alpha.sample[class])
	}
	d.automaton = &Automaton{alphabet: alpha}
	return d
}

func (d *determination) run(what string, starts []placeKind) (*Automaton, []int32, error) {
	var ids []int32
	for _, place := range starts {
		ids = append(ids, d.state([]thread{{pc: d.prog.start()}}, place))
	}
	a := d.automaton
	for at := 0; at < len(d.threads); at++ {
		if len(d.threads) > MaxStates {
			return nil, nil, &TooLargeError{What: what}
		}
		ends := d.closure(at, -1)
		a.accept[at] = slices.ContainsFunc(ends, func(t thread) bool { return d.prog.code[t.pc].op == opMatch && d.fulfilled(t) })
		for class := range d.alpha.classes {
			to := d.step(d.closure(at, class), class)
			place := placeAfterOther
			if d.word[class] {
				place = placeAfterWord
			}
			a.next[at*d.alpha.classes+class] = d.state(to, place)
		}
	}
	return a, ids, nil
}

// state returns the number of the state made of these threads, new or known.
func (d *determination) state(threads []thread, place placeKind) int32 {
	slices.SortFunc(threads, compareThreads)
	threads = slices.CompactFunc(threads, func(a, b thread) bool { return compareThreads(a, b) == 0 })
	if len(threads) == 0 {
		place = placeAfterOther
	}
	key := []byte{byte(place)}
	for _, t := range threads {
		key = binary.AppendVarint(key, int64(t.pc))
		key = binary.AppendVarint(key, int64(len(t.obligations)))
		for _, o := range t.obligations {
			key = binary.AppendVarint(key, int64(o.look))
			key = binary.AppendVarint(key, int64(o.state))
		}
	}
	if id, ok := d.known[string(key)]; ok {
		return id
	}
	id := int32(len(d.threads))
	d.known[string(key)] = id
	d.threads = append(d.threads, threads)
	d.places = append(d.places, place)
	d.automaton.accept = append(d.automaton.accept, false)
	d.automaton.next = append(d.automaton.next, make([]int32, d.alpha.classes)...)
	return id
}

func compareThreads(a, b thread) int {
	if a.pc != b.pc {
		return a.pc - b.pc
	}
	return slices.CompareFunc(a.obligations, b.obligations, compareObligations)
}

func compareObligations(a, b obligation) int {
	if a.look != b.look {
		return int(a.look - b.look)
	}
	return int(a.state - b.state)
}

// closure follows what reads no character. class is the character that comes next, -1 the end of the value.
func (d *determination) closure(state, class int) []thread {
	place := d.places[state]
	var out []thread
	var seen map[string]bool
	plain := map[int]bool{}
	var visit func(t thread)
	visit = func(t thread) {
		if len(t.obligations) == 0 {
			if plain[t.pc] {
				return
			}
			plain[t.pc] = true
		} else {
			if plain[t.pc] {
				return // the same place with fewer obligations is there already
			}
			key := fmt.Sprint(t)
			if seen[key] {
				return
			}
			if seen == nil {
				seen = map[string]bool{}
			}
			seen[key] = true
		}
		i := d.prog.code[t.pc]
		switch i.op {
		case opSplit:
			visit(thread{i.next, t.obligations})
			if i.other != i.next {
				visit(thread{i.other, t.obligations})
			}
		case opAssert:
			if d.holds(i.assert, place, class) {
				visit(thread{i.next, t.obligations})
			}
		case opLook:
			l := d.prog.looks[i.look]
			if obligations, ok := d.withObligation(t.obligations, obligation{int32(i.look), l.starts[place]}); ok {
				visit(thread{i.next, obligations})
			}
		default:
			out = append(out, t)
		}
	}
	for _, t := range d.threads[state] {
		visit(t)
	}
	return out
}

func (d *determination) holds(a assertion, place placeKind, class int) bool {
	before := place == placeAfterWord
	after := class >= 0 && d.word[class]
	switch a {
	case assertStart:
		return place == placeStart
	case assertEnd:
		return class < 0
	case assertWord:
		return before != after
	default:
		return before == after
	}
}

// withObligation adds a obligation. It is false when the obligation can no longer be met; a obligation that cannot fail is left out.
func (d *determination) withObligation(obligations []obligation, o obligation) ([]obligation, bool) {
	l := d.prog.looks[o.look]
	sure, lost := l.full[o.state], l.dead[o.state]
	if l.negative {
		sure, lost = lost, sure
	}
	if lost {
		return nil, false
	}
	if sure {
		return obligations, true
	}
	at, found := slices.BinarySearchFunc(obligations, o, compareObligations)
	if found {
		return obligations, true
	}
	return slices.Insert(slices.Clone(obligations), at, o), true
}

func (d *determination) step(threads []thread, class int) []thread {
	var out []thread
next:
	for _, t := range threads {
		i := d.prog.code[t.pc]
		if i.op != opRunes || !d.alpha.within[i.runes][class] {
			continue
		}
		var obligations []obligation
		for _, o := range t.obligations {
			auto := d.prog.looks[o.look].auto
			moved := obligation{o.look, auto.next[int(o.state)*d.alpha.classes+class]}
			var ok bool
			if obligations, ok = d.withObligation(obligations, moved); !ok {
				continue next
			}
		}
		out = append(out, thread{i.next, obligations})
	}
	return out
}

func (d *determination) fulfilled(t thread) bool {
	for _, o := range t.obligations {
		l := d.prog.looks[o.look]
		if l.auto.accept[o.state] == l.negative {
			return false
		}
	}
	return true
}
