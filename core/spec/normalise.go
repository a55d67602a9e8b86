package spec

import (
	"fmt"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// step is one of the server's normalising steps.
type step func(string) string

var plainSteps = map[string]step{
	"trim":       func(s string) string { return strings.TrimFunc(s, unicode.IsSpace) },
	"collapse":   func(s string) string { return strings.Join(strings.Fields(s), " ") },
	"line feeds": strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace,
	"lower":      strings.ToLower,
	"upper":      strings.ToUpper,
	"nfc":        norm.NFC.String,
}

// parseStep reads a step as it is written in sent.
func parseStep(text string) (step, error) {
	if fn, ok := plainSteps[text]; ok {
		return fn, nil
	}
	name, detail, _ := strings.Cut(text, " ")
	switch {
	case name == "strip" && detail != "":
		return func(s string) string {
			return strings.Map(func(r rune) rune {
				if strings.ContainsRune(detail, r) {
					return -1
				}
				return r
			}, s)
		}, nil
	case name == "date" && detail != "":
		return dateStep(detail)
	case name == "number" && detail != "":
		return numberStep(detail)
	}
	return nil, fmt.Errorf("the step %q is not known", text)
}

// dateStep reads days in a format of DD, MM and YYYY; what does not fit is left as it is.
func dateStep(format string) (step, error) {
	rest := format
	for _, part := range []string{"YYYY", "MM", "DD"} {
		if strings.Count(rest, part) != 1 {
			return nil, fmt.Errorf("the format %q does not name DD, MM and YYYY once each; write it like DD.MM.YYYY", format)
		}
		rest = strings.Replace(rest, part, "", 1)
	}
	if strings.Trim(rest, "./- ") != "" {
		return nil, fmt.Errorf("the format %q holds more than DD, MM and YYYY with points, slashes, hyphens or spaces between them", format)
	}
	layout := strings.NewReplacer("YYYY", "2006", "MM", "01", "DD", "02").Replace(format)
	return func(s string) string {
		day, err := time.Parse(layout, s)
		if err != nil {
			return s
		}
		return day.Format("2006-01-02")
	}, nil
}

// numberStep reads numbers written like the example: the last sign in it is the decimal's, the one before groups thousands.
func numberStep(example string) (step, error) {
	signs := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return -1
		}
		return r
	}, example)
	runes := []rune(signs)
	if len(runes) == 0 || len(runes) > 2 {
		return nil, fmt.Errorf("the format %q does not show its decimal sign; write it like 1.234,5", example)
	}
	decimal, group := string(runes[len(runes)-1]), ""
	if len(runes) == 2 {
		group = string(runes[0])
	}
	return func(s string) string {
		if group != "" {
			s = strings.ReplaceAll(s, group, "")
		}
		return strings.Replace(s, decimal, ".", 1)
	}, nil
}

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
