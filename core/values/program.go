package values

import "fmt"

// program is a pattern as instructions, after Thompson (1968): an instruction reads a character, forks, asserts something of
// its place, or demands a look-ahead.
type program struct {
	code  []instruction
	looks []*look
}

type opcode uint8

const (
	opRunes opcode = iota
	opSplit
	opAssert
	opLook
	opMatch
)

type instruction struct {
	op     opcode
	next   int
	other  int // opSplit
	runes  int // opRunes: index into the alphabet's sets
	assert assertion
	look   int
}

// look is a look-ahead as an automaton of its own, over "the inner pattern, then anything".
type look struct {
	body     *program
	negative bool
	auto     *Automaton
	starts   [3]int32 // by placeKind
	dead     []bool   // state: no input is accepted from here
	full     []bool   // state: every input is accepted from here
}

const maxProgram = 200_000

type compiler struct {
	prog    *program
	sets    *[]Runes
	pattern string
}

func compilePattern(tree *node, sets *[]Runes, pattern string) (*program, error) {
	c := &compiler{prog: &program{}, sets: sets, pattern: pattern}
	// code is emitted back to front: every instruction knows the one that follows
	end := c.emit(instruction{op: opMatch})
	start, err := c.compile(tree, end)
	if err != nil {
		return nil, err
	}
	// the start is always the last instruction
	c.emit(instruction{op: opSplit, next: start, other: start})
	return c.prog, nil
}

func (p *program) start() int { return len(p.code) - 1 }

func (c *compiler) emit(i instruction) int {
	c.prog.code = append(c.prog.code, i)
	return len(c.prog.code) - 1
}

func (c *compiler) set(runes Runes) int {
	for i, known := range *c.sets {
		if equalRunes(known, runes) {
			return i
		}
	}
	*c.sets = append(*c.sets, runes)
	return len(*c.sets) - 1
}

func equalRunes(a, b Runes) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

func (c *compiler) compile(n *node, next int) (int, error) {
	if len(c.prog.code) > maxProgram {
		return 0, &PatternError{Pattern: c.pattern, Problem: fmt.Sprintf("its repetitions multiply to more than %d steps", maxProgram), Remedy: "say the length as a length rule", Uncomputed: true}
	}
	switch n.kind {
	case nodeClass:
		return c.emit(instruction{op: opRunes, runes: c.set(n.runes), next: next}), nil
	case nodeConcat:
		var err error
		for i := len(n.subs) - 1; i >= 0; i-- {
			if next, err = c.compile(n.subs[i], next); err != nil {
				return 0, err
			}
		}
		return next, nil
	case nodeAlternate:
		at := -1
		for _, sub := range n.subs {
			start, err := c.compile(sub, next)
			if err != nil {
				return 0, err
			}
			if at >= 0 {
				start = c.emit(instruction{op: opSplit, next: at, other: start})
			}
			at = start
		}
		return at, nil
	case nodeRepeat:
		return c.repeat(n, next)
	case nodeAssert:
		if n.assert == assertWord || n.assert == assertNotWord {
			c.set(wordRunes)
		}
		return c.emit(instruction{op: opAssert, assert: n.assert, next: next}), nil
	case nodeLook:
		rest := &node{kind: nodeRepeat, max: -1, subs: []*node{{kind: nodeClass, runes: AnyRune()}}}
		body, err := compilePattern(&node{kind: nodeConcat, subs: []*node{n.subs[0], rest}}, c.sets, c.pattern)
		if err != nil {
			return 0, err
		}
		c.prog.looks = append(c.prog.looks, &look{body: body, negative: n.negative})
		return c.emit(instruction{op: opLook, look: len(c.prog.looks) - 1, next: next}), nil
	}
	panic("values: unknown node")
}

func (c *compiler) repeat(n *node, next int) (int, error) {
	sub := n.subs[0]
	var err error
	if n.max < 0 {
		loop := c.emit(instruction{op: opSplit, other: next})
		body, err := c.compile(sub, loop)
		if err != nil {
			return 0, err
		}
		c.prog.code[loop].next = body
		next = loop
	} else {
		after := next
		for range n.max - n.min {
			start, err := c.compile(sub, next)
			if err != nil {
				return 0, err
			}
			next = c.emit(instruction{op: opSplit, next: start, other: after})
		}
	}
	for range n.min {
		if next, err = c.compile(sub, next); err != nil {
			return 0, err
		}
	}
	return next, nil
}
