package values

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Dialect names the syntax a pattern is written in.
type Dialect string

const (
	// DialectV is ECMA-262 with the v flag: what HTML's pattern attribute uses.
	DialectV Dialect = "v"
	// DialectU is ECMA-262 with the u flag: no set notation, and a lone hyphen may stand in a class.
	DialectU Dialect = "u"
)

// PatternError tells what in a pattern cannot be read or computed, and where.
type PatternError struct {
	Pattern string
	Offset  int // in runes, from 0
	Problem string
	Remedy  string
	// Uncomputed: the pattern may be right, but cannot be computed with here.
	Uncomputed bool
}

func (e *PatternError) Error() string {
	text := fmt.Sprintf("pattern %s, character %d: %s", strconv.Quote(e.Pattern), e.Offset+1, e.Problem)
	if e.Remedy != "" {
		text += "; " + e.Remedy
	}
	return text
}

// QuotePattern is a pattern that matches a text and nothing else.
func QuotePattern(text string) string {
	var b strings.Builder
	for _, r := range text {
		fmt.Fprintf(&b, `\u{%x}`, r)
	}
	return b.String()
}

// node is one node of a parsed pattern.
type node struct {
	kind     nodeKind
	runes    Runes   // nodeClass
	subs     []*node // nodeConcat, nodeAlternate; one for nodeRepeat and nodeLook
	min, max int     // nodeRepeat; max -1: without end
	negative bool    // nodeLook
	assert   assertion
}

type nodeKind int

const (
	nodeClass nodeKind = iota
	nodeConcat
	nodeAlternate
	nodeRepeat
	nodeAssert
	nodeLook
)

type assertion int

const (
	assertStart assertion = iota
	assertEnd
	assertWord
	assertNotWord
)

// dotRunes are what a dot takes.
var dotRunes = RunesOf('\n', '\r', '\u2028', '\u2029').Not()

var groupName = regexp.MustCompile(`^[\p{L}_$][\p{L}\p{N}_$]*$`)

const maxRepeat = 10_000

type parser struct {
	source  string
	in      []rune
	at      int
	dialect Dialect
	names   map[string]bool // of groups
}

// parsePattern reads an ECMA-262 pattern (section 22.2.1, with the u or v flag).
func parsePattern(source string, dialect Dialect) (tree *node, err error) {
	p := &parser{source: source, in: []rune(source), dialect: dialect, names: map[string]bool{}}
	defer func() {
		if r := recover(); r != nil {
			problem, ok := r.(*PatternError)
			if !ok {
				panic(r)
			}
			tree, err = nil, problem
		}
	}()
	tree = p.alternatives()
	if p.at < len(p.in) {
		p.fail("this ) has no ( before it", `write \) for the character itself`)
	}
	return tree, nil
}

func (p *parser) fail(problem, remedy string) {
	panic(&PatternError{Pattern: p.source, Offset: p.at, Problem: problem, Remedy: remedy})
}

// refuse is for what is right but cannot be computed with.
func (p *parser) refuse(problem, remedy string) {
	panic(&PatternError{Pattern: p.source, Offset: p.at, Problem: problem, Remedy: remedy, Uncomputed: true})
}

func (p *parser) peek() rune {
	if p.at < len(p.in) {
		return p.in[p.at]
	}
	return -1
}

func (p *parser) looking(text string) bool {
	return strings.HasPrefix(string(p.in[min(p.at, len(p.in)):min(len(p.in), p.at+len(text))]), text)
}

func (p *parser) accept(text string) bool {
	if !p.looking(text) {
		return false
	}
	p.at += len(text)
	return true
}

func (p *parser) alternatives() *node {
	branches := []*node{p.sequence()}
	for p.accept("|") {
		branches = append(branches, p.sequence())
	}
	if len(branches) == 1 {
		return branches[0]
	}
	return &node{kind: nodeAlternate, subs: branches}
}

func (p *parser) sequence() *node {
	n := &node{kind: nodeConcat}
	for p.at < len(p.in) && p.peek() != '|' && p.peek() != ')' {
		n.subs = append(n.subs, p.term())
	}
	return n
}

func (p *parser) term() *node {
	atom := p.atom()
	lo, hi, ok := p.quantifier()
	if !ok {
		return atom
	}
	if atom.kind == nodeAssert || atom.kind == nodeLook {
		p.fail("an assertion cannot be repeated", "put it into a group, (?:…)")
	}
	if p.peek() == '*' || p.peek() == '+' || p.peek() == '?' || p.peek() == '{' {
		p.fail("nothing to repeat", "")
	}
	return &node{kind: nodeRepeat, subs: []*node{atom}, min: lo, max: hi}
}

func (p *parser) quantifier() (lo, hi int, ok bool) {
	switch {
	case p.accept("*"):
		lo, hi = 0, -1
	case p.accept("+"):
		lo, hi = 1, -1
	case p.accept("?"):
		lo, hi = 0, 1
	case p.peek() == '{':
		p.at++
		lo = p.number()
		hi = lo
		if p.accept(",") {
			hi = -1
			if p.peek() != '}' {
				hi = p.number()
			}
		}
		if !p.accept("}") {
			p.fail("a repetition is written {n}, {n,} or {n,m}", `write \{ for the character itself`)
		}
		if hi >= 0 && hi < lo {
			p.fail("the repetition's bounds are in the wrong order", "")
		}
	default:
		return 0, 0, false
	}
	p.accept("?") // lazy or greedy: the same strings match
	return lo, hi, true
}

func (p *parser) number() int {
	start := p.at
	for p.at < len(p.in) && p.in[p.at] >= '0' && p.in[p.at] <= '9' {
		p.at++
	}
	n, err := strconv.Atoi(string(p.in[start:p.at]))
	if start == p.at {
		p.fail("a number is missing in the repetition", `write \{ for the character itself`)
	}
	if err != nil || n > maxRepeat {
		p.refuse(fmt.Sprintf("a repetition over %d is too large to compute with", maxRepeat), "say the length as a length rule")
	}
	return n
}

func (p *parser) atom() *node {
	switch r := p.peek(); r {
	case '^':
		p.at++
		return &node{kind: nodeAssert, assert: assertStart}
	case '$':
		p.at++
		return &node{kind: nodeAssert, assert: assertEnd}
	case '(':
		return p.group()
	case '.':
		p.at++
		return &node{kind: nodeClass, runes: dotRunes}
	case '[':
		return p.class()
	case '\\':
		return p.atomEscape()
	case '*', '+', '?':
		p.fail("nothing to repeat", fmt.Sprintf(`write \%c for the character itself`, r))
	case '{', '}', ']':
		p.fail(fmt.Sprintf("a lone %c", r), fmt.Sprintf(`write \%c for the character itself`, r))
	}
	r := p.peek()
	p.at++
	return &node{kind: nodeClass, runes: RunesOf(r)}
}

func (p *parser) group() *node {
	look, negative := false, false
	switch {
	case p.accept("(?:"):
	case p.accept("(?="):
		look = true
	case p.accept("(?!"):
		look, negative = true, true
	case p.looking("(?<=") || p.looking("(?<!"):
		p.refuse("look-behind cannot be computed", "say it as a second pattern rule")
	case p.accept("(?<"):
		start := p.at
		for p.at < len(p.in) && p.peek() != '>' {
			p.at++
		}
		name := string(p.in[start:p.at])
		if !p.accept(">") || !groupName.MatchString(name) || p.names[name] {
			p.fail("a group's name must be an identifier, end with > and be the only one of its kind", "write (?:…) for a group without a name")
		}
		p.names[name] = true
	case p.looking("(?"):
		p.fail("this kind of group is not known", "write (?:…) for a plain group")
	default:
		p.accept("(")
	}
	inner := p.alternatives()
	if !p.accept(")") {
		p.fail("a ) is missing", "")
	}
	if look {
		return &node{kind: nodeLook, subs: []*node{inner}, negative: negative}
	}
	return inner
}

func (p *parser) atomEscape() *node {
	if p.at+1 < len(p.in) {
		switch next := p.in[p.at+1]; {
		case next == 'b' || next == 'B':
			p.at += 2
			if next == 'b' {
				return &node{kind: nodeAssert, assert: assertWord}
			}
			return &node{kind: nodeAssert, assert: assertNotWord}
		case next >= '1' && next <= '9' || next == 'k':
			p.refuse("a back-reference cannot be computed", "say that two parts agree as a rule across fields")
		}
	}
	return &node{kind: nodeClass, runes: p.escape(false)}
}
