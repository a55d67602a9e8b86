package values

import (
	"fmt"
	"slices"
)

// Mutant is a pattern with one likely mistake in it: what an implementer may have written instead.
type Mutant struct {
	// Role names the mistake and, from the second on, its number; Words says it: "if anything might follow", without the if.
	Role, Words string
	Auto        *Automaton
	without     *Automaton
}

// Without accepts what the mutant does not.
func (m *Mutant) Without() *Automaton { return m.without }

// mostMutants bounds how many are made of one pattern, and mostMutantStates their states altogether.
const (
	mostMutants      = 60
	mostMutantStates = 20_000
)

// Mutants makes the mutants of a pattern that accept another set of values than it, in the order in which the pattern is read
// (mutation of the syntax: Offutt, Ammann and Liu, Mutation testing implements grammar-based testing, 2006). Mutants too large to
// compute with are left out.
func Mutants(source string, dialect Dialect) ([]Mutant, error) {
	tree, err := parsePattern(source, dialect)
	if err != nil {
		return nil, err
	}
	original, err := Pattern(source, dialect)
	if err != nil {
		return nil, err
	}
	m := &mutation{source: source, original: original, count: map[string]int{}, root: tree}
	any := &node{kind: nodeRepeat, max: -1, subs: []*node{{kind: nodeClass, runes: AnyRune()}}}
	m.try("line_end_after", "a line end might follow", &node{kind: nodeConcat, subs: []*node{tree, {kind: nodeRepeat, max: 1, subs: []*node{{kind: nodeClass, runes: RunesOf('\n')}}}}})
	m.try("more_before", "anything might stand before", &node{kind: nodeConcat, subs: []*node{any, tree}})
	m.try("more_after", "anything might follow", &node{kind: nodeConcat, subs: []*node{tree, any}})
	m.try("ignoring_case", "small and capital letters were alike", folded(tree))
	m.walk(tree)
	return m.out, nil
}

// LineEndsMatter tells whether a pattern has a dot, which takes every character but line ends. Whether an implementation's dot takes
// them differs, so that a value with a line end says little of such a pattern.
func LineEndsMatter(source string, dialect Dialect) bool {
	tree, err := parsePattern(source, dialect)
	return err == nil && tree.hasDot()
}

func (n *node) hasDot() bool {
	return n.kind == nodeClass && slices.Equal(n.runes, dotRunes) || slices.ContainsFunc(n.subs, (*node).hasDot)
}

type mutation struct {
	source   string
	root     *node
	original *Automaton
	out      []Mutant
	count    map[string]int
}

// try keeps a mutant if it accepts other values.
func (m *mutation) try(role, words string, tree *node) {
	if len(m.out) >= mostMutants || len(m.out)*m.original.States() > mostMutantStates {
		return
	}
	auto, err := compileTree(tree, m.source)
	if err != nil {
		return
	}
	more, err := auto.And(m.original.Not())
	if err != nil {
		return
	}
	less, err := m.original.And(auto.Not())
	if err != nil || more.Empty() && less.Empty() {
		return
	}
	if m.count[role]++; m.count[role] > 1 {
		role = fmt.Sprintf("%s_%d", role, m.count[role])
	}
	m.out = append(m.out, Mutant{role, words, auto, auto.Not()})
}

// changed tries the whole pattern with one node replaced.
func (m *mutation) changed(at *node, role, words string, with node) {
	old := *at
	*at = with
	m.try(role, words, m.root)
	*at = old
}

func (m *mutation) walk(n *node) {
	switch n.kind {
	case nodeClass:
		if len(n.runes) == 1 && n.runes[0] == (Range{'.', '.'}) {
			m.changed(n, "any_for_dot", "any character might stand for the dot", node{kind: nodeClass, runes: AnyRune()})
		}
		if len(n.runes) > 1 && len(n.runes) <= 6 {
			for i := range n.runes {
				if !printableASCII(n.runes[i].Lo) || !printableASCII(n.runes[i].Hi) {
					continue
				}
				rest := append(append(Runes{}, n.runes[:i]...), n.runes[i+1:]...)
				m.changed(n, "class_less", rangeWords(n.runes[i])+" were not among the characters", node{kind: nodeClass, runes: rest})
			}
		}
		m.changed(n, "optional", "a character might be left out", node{kind: nodeRepeat, max: 1, subs: []*node{{kind: nodeClass, runes: n.runes}}})
	case nodeRepeat:
		body := n.subs
		if n.min > 0 {
			m.changed(n, "fewer", "it were repeated one time less", node{kind: nodeRepeat, min: n.min - 1, max: n.max, subs: body})
		}
		if n.max < 0 || n.min < n.max {
			m.changed(n, "at_least_more", "it had to be repeated one time more", node{kind: nodeRepeat, min: n.min + 1, max: n.max, subs: body})
		}
		if n.max > 0 {
			m.changed(n, "more", "it might be repeated one time more", node{kind: nodeRepeat, min: n.min, max: n.max + 1, subs: body})
		}
		if n.max > 1 && n.max > n.min {
			m.changed(n, "at_most_less", "it might be repeated one time less at most", node{kind: nodeRepeat, min: n.min, max: n.max - 1, subs: body})
		}
	case nodeAlternate:
		for i := range n.subs {
			if len(n.subs) > 1 {
				rest := append(append([]*node{}, n.subs[:i]...), n.subs[i+1:]...)
				m.changed(n, "alternative_less", "an alternative were missing", node{kind: nodeAlternate, subs: rest})
			}
		}
	case nodeLook:
		m.changed(n, "look_ahead_less", "a look-ahead were missing", node{kind: nodeConcat})
		return
	}
	for _, sub := range n.subs {
		m.walk(sub)
	}
}

func rangeWords(r Range) string {
	if r.Lo == r.Hi {
		return fmt.Sprintf("%q", r.Lo)
	}
	return fmt.Sprintf("%c to %c", r.Lo, r.Hi)
}

// folded is a pattern whose classes hold ASCII letters of either case.
func folded(n *node) *node {
	out := *n
	out.subs = make([]*node, len(n.subs))
	for i, sub := range n.subs {
		out.subs[i] = folded(sub)
	}
	if n.kind == nodeClass {
		for r := 'a'; r <= 'z'; r++ {
			capital := r - 'a' + 'A'
			switch {
			case n.runes.Has(r) && !out.runes.Has(capital):
				out.runes = out.runes.Or(RunesOf(capital))
			case n.runes.Has(capital) && !out.runes.Has(r):
				out.runes = out.runes.Or(RunesOf(r))
			}
		}
	}
	return &out
}
