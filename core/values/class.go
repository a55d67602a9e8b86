package values

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

var (
	digitRunes = Runes{{'0', '9'}}
	wordRunes  = Runes{{'0', '9'}, {'A', 'Z'}, {'_', '_'}, {'a', 'z'}}
	spaceRunes = ecmaSpace()
)

// ecmaSpace is ECMA-262's WhiteSpace and LineTerminator.
func ecmaSpace() Runes {
	return RunesOf('\t', '\n', '\v', '\f', '\r', '\u2028', '\u2029', '\uFEFF').Or(runesOfTable(unicode.Zs))
}

// escape reads an escape that stands for a set of characters. inClass: between [ and ].
func (p *parser) escape(inClass bool) Runes {
	p.at++ // the backslash
	r := p.peek()
	if r < 0 {
		p.fail("a backslash at the end", `write \\ for the character itself`)
	}
	p.at++
	switch r {
	case 'd':
		return digitRunes
	case 'D':
		return digitRunes.Not()
	case 'w':
		return wordRunes
	case 'W':
		return wordRunes.Not()
	case 's':
		return spaceRunes
	case 'S':
		return spaceRunes.Not()
	case 'p', 'P':
		set := p.property()
		if r == 'P' {
			return set.Not()
		}
		return set
	case 't':
		return RunesOf('\t')
	case 'n':
		return RunesOf('\n')
	case 'v':
		return RunesOf('\v')
	case 'f':
		return RunesOf('\f')
	case 'r':
		return RunesOf('\r')
	case 'b':
		if inClass {
			return RunesOf('\b')
		}
	case '0':
		if next := p.peek(); next < '0' || next > '9' {
			return RunesOf(0)
		}
	case 'c':
		if next := p.peek(); next >= 'a' && next <= 'z' || next >= 'A' && next <= 'Z' {
			p.at++
			return RunesOf(next % 32)
		}
	case 'x':
		return RunesOf(p.hex(2))
	case 'u':
		return RunesOf(p.unicodeEscape())
	}
	if strings.ContainsRune(`^$\.*+?()[]{}|/`, r) || inClass && (r == '-' || p.dialect == DialectV && strings.ContainsRune("&!#%,:;<=>@`~", r)) {
		return RunesOf(r)
	}
	p.at -= 2
	p.fail(fmt.Sprintf(`\%c is not an escape`, r), fmt.Sprintf("write %c without the backslash", r))
	return nil
}

func (p *parser) hex(digits int) rune {
	end := p.at + digits
	if end <= len(p.in) {
		if n, err := strconv.ParseUint(string(p.in[p.at:end]), 16, 32); err == nil {
			p.at = end
			return rune(n)
		}
	}
	p.fail(fmt.Sprintf("%d hexadecimal digits are expected", digits), "")
	return 0
}

func (p *parser) unicodeEscape() rune {
	if p.accept("{") {
		start := p.at
		for p.at < len(p.in) && p.peek() != '}' {
			p.at++
		}
		n, err := strconv.ParseUint(string(p.in[start:p.at]), 16, 32)
		if err != nil || n > utf8.MaxRune || !p.accept("}") {
			p.fail("a code point is written \\u{…} in hexadecimal digits", "")
		}
		return rune(n)
	}
	r := p.hex(4)
	if r >= surrogateMin && r < 0xDC00 && p.accept(`\u`) {
		low := p.hex(4)
		return (r-surrogateMin)<<10 + (low - 0xDC00) + 0x10000
	}
	return r
}

func (p *parser) property() Runes {
	start := p.at
	if !p.accept("{") {
		p.fail(`a property is written \p{…}`, "")
	}
	nameStart := p.at
	for p.at < len(p.in) && p.peek() != '}' {
		p.at++
	}
	text := string(p.in[nameStart:p.at])
	if !p.accept("}") {
		p.fail(`a property is written \p{…}`, "")
	}
	set, ok := propertyRunes(text)
	if !ok {
		p.at = start
		p.refuse(fmt.Sprintf("the Unicode property %q is not known here", text), `known are general categories such as L or Lu, scripts such as Script=Latin, and Alphabetic, Uppercase, Lowercase, White_Space, ASCII, Any`)
	}
	return set
}

var longCategories = map[string]string{
	"Letter": "L", "Cased_Letter": "LC", "Uppercase_Letter": "Lu", "Lowercase_Letter": "Ll", "Titlecase_Letter": "Lt", "Modifier_Letter": "Lm", "Other_Letter": "Lo",
	"Mark": "M", "Combining_Mark": "M", "Nonspacing_Mark": "Mn", "Spacing_Mark": "Mc", "Enclosing_Mark": "Me",
	"Number": "N", "Decimal_Number": "Nd", "digit": "Nd", "Letter_Number": "Nl", "Other_Number": "No",
	"Punctuation": "P", "punct": "P", "Connector_Punctuation": "Pc", "Dash_Punctuation": "Pd", "Open_Punctuation": "Ps", "Close_Punctuation": "Pe",
	"Initial_Punctuation": "Pi", "Final_Punctuation": "Pf", "Other_Punctuation": "Po",
	"Symbol": "S", "Math_Symbol": "Sm", "Currency_Symbol": "Sc", "Modifier_Symbol": "Sk", "Other_Symbol": "So",
	"Separator": "Z", "Space_Separator": "Zs", "Line_Separator": "Zl", "Paragraph_Separator": "Zp",
	"Control": "Cc", "cntrl": "Cc", "Format": "Cf", "Private_Use": "Co",
}

func propertyRunes(text string) (Runes, bool) {
	name, value, pair := strings.Cut(text, "=")
	if pair {
		switch name {
		case "Script", "sc":
			if table, ok := unicode.Scripts[value]; ok {
				return runesOfTable(table), true
			}
			return nil, false
		case "General_Category", "gc":
			text = value
		default:
			return nil, false
		}
	}
	if short, ok := longCategories[text]; ok {
		text = short
	}
	if text == "LC" {
		return runesOfTable(unicode.Lu).Or(runesOfTable(unicode.Ll)).Or(runesOfTable(unicode.Lt)), true
	}
	if table, ok := unicode.Categories[text]; ok && text != "Cs" && text != "Cn" && text != "C" {
		return runesOfTable(table), true
	}
	if pair {
		return nil, false
	}
	switch text {
	case "Any":
		return AnyRune(), true
	case "ASCII":
		return Runes{{0, 0x7F}}, true
	case "Alphabetic", "Alpha":
		return runesOfTable(unicode.L).Or(runesOfTable(unicode.Nl)).Or(runesOfTable(unicode.Other_Alphabetic)), true
	case "Uppercase", "Upper":
		return runesOfTable(unicode.Lu).Or(runesOfTable(unicode.Other_Uppercase)), true
	case "Lowercase", "Lower":
		return runesOfTable(unicode.Ll).Or(runesOfTable(unicode.Other_Lowercase)), true
	case "White_Space", "space":
		return runesOfTable(unicode.White_Space), true
	case "ASCII_Hex_Digit", "AHex":
		return runesOfTable(unicode.ASCII_Hex_Digit), true
	}
	return nil, false
}

// classSet is what a class in the v syntax denotes: single characters and, from \q{…}, strings of other lengths.
type classSet struct {
	runes   Runes
	strings map[string]bool
}

func (c classSet) or(o classSet) classSet {
	out := classSet{c.runes.Or(o.runes), map[string]bool{}}
	for s := range c.strings {
		out.strings[s] = true
	}
	for s := range o.strings {
		out.strings[s] = true
	}
	return out
}

func (c classSet) and(o classSet, keep bool) classSet {
	out := classSet{runes: c.runes.And(o.runes), strings: map[string]bool{}}
	if !keep {
		out.runes = c.runes.And(o.runes.Not())
	}
	for s := range c.strings {
		if o.strings[s] == keep {
			out.strings[s] = true
		}
	}
	return out
}

func (p *parser) class() *node {
	set := p.classContents()
	n := &node{kind: nodeClass, runes: set.runes}
	if len(set.strings) == 0 {
		return n
	}
	choice := &node{kind: nodeAlternate, subs: []*node{n}}
	for s := range set.strings {
		seq := &node{kind: nodeConcat}
		for _, r := range s {
			seq.subs = append(seq.subs, &node{kind: nodeClass, runes: RunesOf(r)})
		}
		choice.subs = append(choice.subs, seq)
	}
	return choice
}

func (p *parser) classContents() classSet {
	open := p.at
	p.accept("[")
	negative := p.accept("^")
	var set classSet
	operator := ""
	for first := true; ; first = false {
		if p.at >= len(p.in) {
			p.at = open
			p.fail("this [ is never closed", `write \[ for the character itself`)
		}
		if p.accept("]") {
			break
		}
		if p.dialect == DialectV {
			if p.looking("--") || p.looking("&&") {
				next := string(p.in[p.at : p.at+2])
				if first || operator == "" && !p.singleOperandBefore(open, negative) || operator != "" && operator != next {
					p.fail("-- and && take one operand on each side and do not mix", "put the parts into brackets of their own")
				}
				operator = next
				p.at += 2
				right, _ := p.classOperand()
				set = set.and(right, operator == "&&")
				continue
			}
			if operator != "" {
				p.fail(operator+" and a union do not mix", "put the parts into brackets of their own")
			}
		}
		set = set.or(p.classItem())
	}
	if negative {
		if len(set.strings) > 0 {
			p.fail("a negated class cannot hold strings", "")
		}
		return classSet{runes: set.runes.Not()}
	}
	return set
}

// singleOperandBefore tells whether the class so far, from its bracket to here, is one operand.
func (p *parser) singleOperandBefore(open int, negative bool) bool {
	probe := *p
	probe.at = open + 1
	if negative {
		probe.at++
	}
	probe.classOperand()
	return probe.at == p.at
}

// classItem reads an operand or a range.
func (p *parser) classItem() classSet {
	left, single := p.classOperand()
	if p.peek() != '-' || p.looking("--") && p.dialect == DialectV {
		return left
	}
	if p.dialect == DialectU && (p.at+1 < len(p.in) && p.in[p.at+1] == ']') {
		return left // the hyphen that follows is itself a member
	}
	p.at++
	if p.dialect == DialectV && p.peek() == ']' {
		p.at--
		p.failHyphen()
	}
	right, rightSingle := p.classOperand()
	if !single || !rightSingle {
		p.fail("a range needs a character on each side", `write \- for a hyphen`)
	}
	lo, hi := left.runes[0].Lo, right.runes[0].Lo
	if lo > hi {
		p.fail(fmt.Sprintf("the range %c-%c is in the wrong order", lo, hi), "")
	}
	return classSet{runes: Runes{{lo, hi}}.normal()}
}

func (p *parser) failHyphen() {
	p.fail("a hyphen in a class must be escaped in the syntax HTML uses (v flag); browsers ignore such a pattern silently", `write \-, or say "dialect: u" when the server reads it so`)
}

// classOperand reads one member of a class and tells whether it is a single character.
func (p *parser) classOperand() (classSet, bool) {
	r := p.peek()
	if r == '\\' {
		if p.dialect == DialectV && p.looking(`\q{`) {
			return p.classStrings(), false
		}
		next := rune(0)
		if p.at+1 < len(p.in) {
			next = p.in[p.at+1]
		}
		set := p.escape(true)
		return classSet{runes: set}, !strings.ContainsRune("dDwWsSpP", next)
	}
	if p.dialect == DialectV {
		switch {
		case r == '[':
			return p.classContents(), false
		case r == '-':
			p.failHyphen()
		case strings.ContainsRune("(){}/|", r):
			p.fail(fmt.Sprintf("%c in a class must be escaped in the syntax HTML uses (v flag)", r), fmt.Sprintf(`write \%c`, r))
		case p.at+1 < len(p.in) && p.in[p.at+1] == r && strings.ContainsRune("&!#$%*+,.:;<=>?@^`~", r):
			p.fail(fmt.Sprintf("%c%c in a class is reserved", r, r), fmt.Sprintf(`write the character once, as \%c where it needs it`, r))
		}
	}
	if r < 0 {
		p.fail("the class is never closed", "")
	}
	p.at++
	return classSet{runes: RunesOf(r)}, true
}

func (p *parser) classStrings() classSet {
	p.at += 3
	out := classSet{strings: map[string]bool{}}
	var word []rune
	flush := func() {
		if len(word) == 1 {
			out.runes = out.runes.Or(RunesOf(word[0]))
		} else {
			out.strings[string(word)] = true
		}
		word = nil
	}
	for {
		switch r := p.peek(); r {
		case -1:
			p.fail(`\q{ is never closed`, "")
		case '}':
			p.at++
			flush()
			return out
		case '|':
			p.at++
			flush()
		case '\\':
			word = append(word, p.escape(true)[0].Lo)
		default:
			p.at++
			word = append(word, r)
		}
	}
}

// ClassRunes returns the runes of a class escape such as \p{Lu} or \d.
func ClassRunes(class string) (Runes, error) {
	tree, err := parsePattern(class, DialectV)
	if err != nil {
		return nil, err
	}
	if len(tree.subs) != 1 || tree.subs[0].kind != nodeClass {
		return nil, &PatternError{Pattern: class, Problem: "one class is expected"}
	}
	return tree.subs[0].runes, nil
}
