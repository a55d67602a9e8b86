package values

import (
	"fmt"
	"slices"
)

// Mutant is a pattern with one likely mistake in it: what an implementer may have written instead.
type Mutant struct {
	// Role is the mistake and, from the second on, its number.
	Role    string
	Mistake Mistake
	// Of are the characters that are missing, of a ClassLess.
	Of Range
	// Counted: another number of repetitions is asked for than one that the pattern names, which is not 0 or 1.
	Counted bool
	Auto    *Automaton
	without *Automaton
}

// Mistake is a way in which a pattern may have been written wrongly.
type Mistake string

// The mistakes that are made.
const (
	LineEndAfter    Mistake = "line_end_after"   // a line end may follow
	MoreBefore      Mistake = "more_before"      // anything may stand before
	MoreAfter       Mistake = "more_after"       // anything may follow
	IgnoringCase    Mistake = "ignoring_case"    // small and capital letters are alike
	AnyForDot       Mistake = "any_for_dot"      // any character stands for a dot
	ClassLess       Mistake = "class_less"       // some characters are not among those allowed
	Optional        Mistake = "optional"         // a character may be left out
	RepeatedFewer   Mistake = "fewer"            // the least number of repetitions is one less
	AtLeastMore     Mistake = "at_least_more"    // the least number of repetitions is one more
	RepeatedMore    Mistake = "more"             // the most repetitions are one more
	AtMostLess      Mistake = "at_most_less"     // the most repetitions are one less
	AlternativeLess Mistake = "alternative_less" // an alternative is missing
	LookAheadLess   Mistake = "look_ahead_less"  // a look-ahead is missing
)

// Without accepts what the mutant does not.
func (m *Mutant) Without() *Automaton { return m.without }

// maxMutants bounds how many are made of one pattern, and maxMutantStates their states altogether.
const (
	maxMutants      = 60
	maxMutantStates = 20_000
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
	m := &mutation{source: source, original: original, count: map[Mistake]int{}, root: tree}
	any := &node{kind: nodeRepeat, max: -1, subs: []*node{{kind: nodeClass, runes: AnyRune()}}}
	m.try(LineEndAfter, Range{}, &node{kind: nodeConcat, subs: []*node{tree, {kind: nodeRepeat, max: 1, subs: []*node{{kind: nodeClass, runes: RunesOf('\n')}}}}})
	m.try(MoreBefore, Range{}, &node{kind: nodeConcat, subs: []*node{any, tree}})
	m.try(MoreAfter, Range{}, &node{kind: nodeConcat, subs: []*node{tree, any}})
	m.try(IgnoringCase, Range{}, folded(tree))
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
	count    map[Mistake]int
	counted  bool // of the mutant that is tried
}

// try keeps a mutant if it accepts other values.
func (m *mutation) try(mistake Mistake, of Range, tree *node) {
	if len(m.out) >= maxMutants || len(m.out)*m.original.States() > maxMutantStates {
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
	role := string(mistake)
	if m.count[mistake]++; m.count[mistake] > 1 {
		role = fmt.Sprintf("%s_%d", mistake, m.count[mistake])
	}
	m.out = append(m.out, Mutant{Role: role, Mistake: mistake, Of: of, Counted: m.counted, Auto: auto, without: auto.Not()})
}

// changed tries the whole pattern with one node replaced.
func (m *mutation) changed(at *node, mistake Mistake, with node) {
	m.changedOf(at, mistake, Range{}, with)
}

func (m *mutation) changedOf(at *node, mistake Mistake, of Range, with node) {
	old := *at
	*at = with
	m.try(mistake, of, m.root)
	*at = old
}

func (m *mutation) walk(n *node) {
	switch n.kind {
	case nodeClass:
		if len(n.runes) == 1 && n.runes[0] == (Range{'.', '.'}) {
			m.changed(n, AnyForDot, node{kind: nodeClass, runes: AnyRune()})
		}
		if len(n.runes) > 1 && len(n.runes) <= 6 {
			for i := range n.runes {
				if !printableASCII(n.runes[i].Lo) || !printableASCII(n.runes[i].Hi) {
					continue
				}
				rest := append(append(Runes{}, n.runes[:i]...), n.runes[i+1:]...)
				m.changedOf(n, ClassLess, n.runes[i], node{kind: nodeClass, runes: rest})
			}
		}
		m.changed(n, Optional, node{kind: nodeRepeat, max: 1, subs: []*node{{kind: nodeClass, runes: n.runes}}})
	case nodeRepeat:
		body := n.subs
		m.counted = n.min > 1 || n.max > 1
		if n.min > 0 {
			m.changed(n, RepeatedFewer, node{kind: nodeRepeat, min: n.min - 1, max: n.max, subs: body})
		}
		if n.max < 0 || n.min < n.max {
			m.changed(n, AtLeastMore, node{kind: nodeRepeat, min: n.min + 1, max: n.max, subs: body})
		}
		if n.max > 0 {
			m.changed(n, RepeatedMore, node{kind: nodeRepeat, min: n.min, max: n.max + 1, subs: body})
		}
		if n.max > 1 && n.max > n.min {
			m.changed(n, AtMostLess, node{kind: nodeRepeat, min: n.min, max: n.max - 1, subs: body})
		}
		m.counted = false
	case nodeAlternate:
		for i := range n.subs {
			if len(n.subs) > 1 {
				rest := append(append([]*node{}, n.subs[:i]...), n.subs[i+1:]...)
				m.changed(n, AlternativeLess, node{kind: nodeAlternate, subs: rest})
			}
		}
	case nodeLook:
		m.changed(n, LookAheadLess, node{kind: nodeConcat})
		return
	}
	for _, sub := range n.subs {
		m.walk(sub)
	}
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
