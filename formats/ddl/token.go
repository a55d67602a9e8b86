package ddl

import (
	"fmt"
	"strings"
	"unicode/utf8"
)

type kind byte

const (
	end    kind = iota
	word        // a bare name or keyword
	quoted      // a name in quotation marks
	text        // a string
	number
	sign
)

type token struct {
	kind kind
	text string // without quotation marks
	at   int    // offset in bytes
}

func (t token) String() string {
	switch t.kind {
	case end:
		return "the end"
	case text:
		return "'" + t.text + "'"
	default:
		return t.text
	}
}

// is compares with a keyword, ignoring case.
func (t token) is(keywords ...string) bool {
	if t.kind != word {
		return false
	}
	for _, k := range keywords {
		if len(k) == len(t.text) && strings.EqualFold(k, t.text) {
			return true
		}
	}
	return false
}

func (t token) isSign(s string) bool { return t.kind == sign && t.text == s }

// Error is what is wrong with the SQL, and where.
type Error struct {
	Line, Column int // from 1; the column in characters
	Problem      string
}

func (e *Error) Error() string {
	return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Column, e.Problem)
}

type lexer struct {
	in        string
	at        int
	delimiter string
	backslash bool // a backslash in a string escapes
	inHint    bool // within /*! … */
}

func (l *lexer) fail(at int, format string, args ...any) error {
	at = min(at, len(l.in))
	before := l.in[:at]
	line := strings.Count(before, "\n") + 1
	column := utf8.RuneCountInString(before[strings.LastIndexByte(before, '\n')+1:]) + 1
	return &Error{Line: line, Column: column, Problem: fmt.Sprintf(format, args...)}
}

func isNameStart(c byte) bool {
	return c == '_' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z' || c >= 0x80 || c == '@'
}

func isName(c byte) bool { return isNameStart(c) || c >= '0' && c <= '9' || c == '$' || c == '#' }

// next reads a token. The statement's delimiter is a sign of its own.
func (l *lexer) next() (token, error) {
	for {
		l.space()
		if l.at >= len(l.in) {
			return token{kind: end, at: l.at}, nil
		}
		if l.delimited() {
			t := token{sign, ";", l.at}
			l.at += len(l.delimiter)
			return t, nil
		}
		c := l.in[l.at]
		rest := l.in[l.at:]
		switch {
		case strings.HasPrefix(rest, "--") || c == '#' && l.backslash:
			l.line()
			continue
		case strings.HasPrefix(rest, "/*!") || strings.HasPrefix(rest, "/*M!"):
			// what only certain versions of MariaDB and MySQL read; this reads it too
			l.at += strings.IndexByte(rest, '!') + 1
			for l.at < len(l.in) && l.in[l.at] >= '0' && l.in[l.at] <= '9' {
				l.at++
			}
			l.inHint = true
			continue
		case l.inHint && strings.HasPrefix(rest, "*/"):
			l.at += 2
			l.inHint = false
			continue
		case strings.HasPrefix(rest, "/*"):
			if err := l.comment(); err != nil {
				return token{}, err
			}
			continue
		}
		return l.token(c)
	}
}

// delimited: a delimiter of the client's own stands here, which may be made of signs that names may hold.
func (l *lexer) delimited() bool {
	return l.delimiter != ";" && strings.HasPrefix(l.in[l.at:], l.delimiter)
}

func (l *lexer) space() {
	for l.at < len(l.in) {
		switch l.in[l.at] {
		case ' ', '\t', '\n', '\r', '\f', '\v':
			l.at++
		default:
			return
		}
	}
}

func (l *lexer) line() {
	if i := strings.IndexByte(l.in[l.at:], '\n'); i >= 0 {
		l.at += i + 1
	} else {
		l.at = len(l.in)
	}
}

// comment skips a comment; in PostgreSQL they nest.
func (l *lexer) comment() error {
	start, depth := l.at, 0
	for l.at < len(l.in) {
		switch {
		case strings.HasPrefix(l.in[l.at:], "/*") && (depth == 0 || !l.backslash):
			depth++
			l.at += 2
		case strings.HasPrefix(l.in[l.at:], "*/"):
			depth--
			l.at += 2
			if depth == 0 {
				return nil
			}
		default:
			l.at++
		}
	}
	return l.fail(start, "this comment is never closed")
}

func (l *lexer) token(c byte) (token, error) {
	start := l.at
	switch {
	case c == '\'':
		return l.quotedBy('\'', text, l.backslash)
	case (c == 'e' || c == 'E') && !l.backslash && strings.HasPrefix(l.in[l.at+1:], "'"):
		l.at++
		return l.quotedBy('\'', text, true)
	case strings.ContainsRune("nNxXbB", rune(c)) && strings.HasPrefix(l.in[l.at+1:], "'"):
		l.at++
		return l.quotedBy('\'', text, l.backslash)
	case c == '"':
		return l.quotedBy('"', quoted, l.backslash)
	case c == '`':
		return l.quotedBy('`', quoted, false)
	case c == '[' && l.at+1 < len(l.in) && isNameStart(l.in[l.at+1]):
		if i := strings.IndexByte(l.in[l.at:], ']'); i > 0 {
			l.at += i + 1
			return token{quoted, l.in[start+1 : l.at-1], start}, nil
		}
	case c == '$' && !l.backslash:
		if t, ok := l.dollar(); ok {
			return t, nil
		}
	case isNameStart(c):
		for l.at < len(l.in) && isName(l.in[l.at]) && !l.delimited() {
			l.at++
		}
		return token{word, l.in[start:l.at], start}, nil
	case c >= '0' && c <= '9' || c == '.' && l.at+1 < len(l.in) && l.in[l.at+1] >= '0' && l.in[l.at+1] <= '9':
		for l.at < len(l.in) && (isName(l.in[l.at]) || l.in[l.at] == '.') {
			l.at++
		}
		return token{number, l.in[start:l.at], start}, nil
	case c == ':' && strings.HasPrefix(l.in[l.at:], "::"):
		l.at += 2
		return token{sign, "::", start}, nil
	}
	l.at++
	if c == ';' && l.delimiter != ";" { // ends a statement within a body, not the one that holds it
		return token{sign, "; within", start}, nil
	}
	return token{sign, l.in[start:l.at], start}, nil
}

func (l *lexer) quotedBy(mark byte, k kind, backslash bool) (token, error) {
	start := l.at
	l.at++
	from := l.at
	var b strings.Builder
	for l.at < len(l.in) {
		c := l.in[l.at]
		switch {
		case c == '\\' && backslash && l.at+1 < len(l.in):
			b.WriteString(l.in[from:l.at])
			b.WriteString(unescape(l.in[l.at+1]))
			l.at += 2
			from = l.at
		case c == mark && l.at+1 < len(l.in) && l.in[l.at+1] == mark:
			b.WriteString(l.in[from : l.at+1])
			l.at += 2
			from = l.at
		case c == mark:
			b.WriteString(l.in[from:l.at])
			l.at++
			return token{k, b.String(), start}, nil
		default:
			l.at++
		}
	}
	return token{}, l.fail(start, "this %c is never closed", mark)
}

func unescape(c byte) string {
	switch c {
	case 'n':
		return "\n"
	case 't':
		return "\t"
	case 'r':
		return "\r"
	case '0':
		return "\x00"
	}
	return string([]byte{c})
}

// dollar reads PostgreSQL's $tag$ … $tag$.
func (l *lexer) dollar() (token, bool) {
	i := l.at + 1
	for i < len(l.in) && isName(l.in[i]) && l.in[i] != '$' {
		i++
	}
	if i >= len(l.in) || l.in[i] != '$' {
		return token{}, false
	}
	tag := l.in[l.at : i+1]
	closing := strings.Index(l.in[i+1:], tag)
	if closing < 0 {
		return token{}, false
	}
	t := token{text, l.in[i+1 : i+1+closing], l.at}
	l.at = i + 1 + closing + len(tag)
	return t, true
}
