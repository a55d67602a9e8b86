package steps

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// longest is how many characters of a value are shown; maxShown are left of a longer one.
const (
	longest  = 240
	maxShown = 60
)

// Visible is a text of which nothing can hide or be mistaken: what is not drawn, or turns the direction of what follows, is written by
// its code point, and long texts are cut, with their length.
func Visible[T ~string](of T) T {
	text := string(of)
	n := utf8.RuneCountInString(text)
	cut := ""
	if n > longest {
		cut = fmt.Sprintf("… (%d characters)", n)
		text = string([]rune(text)[:maxShown])
	}
	if strings.HasPrefix(text, " ") {
		text = "␠" + text[1:]
	}
	if cut == "" && strings.HasSuffix(text, " ") {
		text = text[:len(text)-1] + "␠"
	}
	return T(OneLine(text) + cut)
}

// OneLine is a text of which nothing controls what shows it, such as a terminal: whatever is not drawn, line ends too, is written by its
// code point, and what is no UTF-8 by its bytes.
func OneLine[T ~string](of T) T {
	text := string(of)
	var b strings.Builder
	for i, r := range text {
		switch {
		case r == utf8.RuneError && !strings.HasPrefix(text[i:], string(utf8.RuneError)):
			fmt.Fprintf(&b, "‹%02X›", text[i])
		case r != ' ' && !unicode.IsPrint(r):
			fmt.Fprintf(&b, "‹U+%04X›", r)
		default:
			b.WriteRune(r)
		}
	}
	return T(b.String())
}
