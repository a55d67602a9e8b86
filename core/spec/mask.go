package spec

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// added are the characters that a mask puts between what is typed: those that stand in one example and not in the other.
func added(typed, made string) string {
	var out strings.Builder
	for _, r := range made {
		if !strings.ContainsRune(typed, r) {
			out.WriteRune(r)
		}
	}
	return out.String()
}

func without(text, characters string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(characters, r) {
			return -1
		}
		return r
	}, text)
}

// Unmasked is what is typed for a value to be sent.
func (m *Mask) Unmasked(value string) string { return without(value, added(m.Typed, m.sent())) }

// Made tells whether what stands is what the mask makes of what was typed.
func (m *Mask) Made(typed, stands string) bool {
	extra := added(m.Typed, m.standing())
	return without(stands, extra) == without(typed, extra)
}

// Takes tells whether the mask is likely to let a value stand: its example holds such characters, and as many.
func (m *Mask) Takes(value string) bool {
	typed := m.Unmasked(value)
	return utf8.RuneCountInString(typed) <= utf8.RuneCountInString(m.Typed) && !strings.ContainsFunc(typed, func(r rune) bool {
		return !strings.ContainsRune(m.Typed, r) && !(unicode.IsDigit(r) && strings.ContainsFunc(m.Typed, unicode.IsDigit)) && !(unicode.IsLetter(r) && strings.ContainsFunc(m.Typed, unicode.IsLetter))
	})
}

func (m *Mask) standing() string {
	if m.Standing == "" {
		return m.Typed
	}
	return m.Standing
}

// sent is what stands, where nothing else is said.
func (m *Mask) sent() string {
	if m.Sent == "" {
		return m.standing()
	}
	return m.Sent
}
