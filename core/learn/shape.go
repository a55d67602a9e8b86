package learn

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"oddtick/core/spec"
)

// fixedShape tells whether a rejection is said of a value of the same length as well, in which a digit stands for a letter, or a letter for a
// digit.
func (l *learner) fixedShape(beyond Proof) bool {
	if l.f.Secret {
		return false
	}
	for i, c := range []rune(l.f.Usual) {
		runes := []rune(l.f.Usual)
		if c > unicode.MaxASCII || !alphanumeric(byte(c)) || i > 0 && runes[i-1] < unicode.MaxASCII && alphanumeric(byte(runes[i-1])) {
			continue
		}
		other := '7'
		if c >= '0' && c <= '9' {
			other = 'q'
		}
		p, err := l.changed(func(usual string) string { return put(usual, i, other) })
		if err == nil && broken(p) && p.Message == beyond.Message {
			return true
		}
	}
	return false
}

// put is a text with another character at a place.
func put(text string, at int, character rune) string {
	runes := []rune(text)
	runes[at] = character
	return string(runes)
}

// shape asks, for each run of digits or letters of a value with a shape of its own, whether others may stand there, and more or fewer.
func (l *learner) shape() error {
	var pattern strings.Builder
	var proofs []Proof
	for rest, before := l.usual(), ""; rest != ""; {
		run := runOf(rest)
		after := rest[len(run):]
		class, other := `\d`, "7"
		if run[0] < '0' || run[0] > '9' {
			class, other = "[A-Za-z]", "q"
		}
		if run[0] >= 'A' && run[0] <= 'Z' {
			class, other = "[A-Z]", "Q"
		}
		at := len(before)
		changed, err := l.changed(func(usual string) string { return usual[:at] + other + usual[at+1:] })
		if err != nil || changed.Unclear {
			return err
		}
		switch {
		case !alphanumeric(run[0]) || broken(changed) && run[:1] != other:
			pattern.WriteString(regexp.QuoteMeta(run))
		default:
			longer, err := l.changed(func(usual string) string { return usual[:at+len(run)] + other + usual[at+len(run):] })
			if err != nil {
				return err
			}
			shorter, err := l.changed(func(usual string) string { return usual[:at] + usual[at+1:] })
			if err != nil {
				return err
			}
			if !broken(longer) || !broken(shorter) || longer.Message != shorter.Message {
				return nil // not as plain as that
			}
			proofs = append(proofs, longer, shorter)
			pattern.WriteString(class)
			if len(run) > 1 {
				fmt.Fprintf(&pattern, "{%d}", len(run))
			}
		}
		before, rest = before+run, after
	}
	if len(proofs) > 0 {
		l.rule(spec.Rule{Pattern: &spec.Pattern{Is: pattern.String()}}, proofs[0], proofs[1:]...)
	}
	return nil
}

func alphanumeric(c byte) bool {
	return c >= '0' && c <= '9' || c >= 'a' && c <= 'z' || c >= 'A' && c <= 'Z'
}

// runOf is the beginning of a text that is digits, capitals, small letters, or one other character.
func runOf(text string) string {
	class := func(c byte) int {
		switch {
		case c >= '0' && c <= '9':
			return 1
		case c >= 'A' && c <= 'Z':
			return 2
		case c >= 'a' && c <= 'z':
			return 3
		}
		return 0
	}
	end := 1
	for end < len(text) && class(text[0]) != 0 && class(text[end]) == class(text[0]) {
		end++
	}
	for end < len(text) && !utf8.RuneStart(text[end]) {
		end++
	}
	return text[:end]
}
