package spec

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/goccy/go-yaml/ast"
	"golang.org/x/text/unicode/norm"
)

// NormalizeStep is one of the server's normalising steps. In a document it is the name of a plain step, or a map with the details of
// another one; exactly one member is set.
type NormalizeStep struct {
	// Plain is trim, collapse (white space into one space), line_feeds, lower, upper or nfc.
	Plain string `json:"-"`
	// Strip are characters that are taken out.
	Strip string `json:"strip,omitempty"`
	// Date is a format such as DD.MM.YYYY, kept as year-month-day; Number an example such as 1.234,5, kept with a point.
	Date   string `json:"date,omitempty"`
	Number string `json:"number,omitempty"`
}

// The plain steps that other packages know.
var (
	Trim      = NormalizeStep{Plain: "trim"}
	Collapse  = NormalizeStep{Plain: "collapse"}
	LineFeeds = NormalizeStep{Plain: "line_feeds"}
	Lower     = NormalizeStep{Plain: "lower"}
	Upper     = NormalizeStep{Plain: "upper"}
)

// writeStep is what to do where a step cannot be read.
const writeStep = "write one of: trim, collapse, line_feeds, lower, upper, nfc, {strip: X}, {date: DD.MM.YYYY}, {number: \"1.234,5\"}"

// MarshalJSON implements json.Marshaler: a plain step is a text.
func (s NormalizeStep) MarshalJSON() ([]byte, error) {
	if s.Plain != "" {
		return json.Marshal(s.Plain)
	}
	type details NormalizeStep
	return json.Marshal(details(s))
}

func (s *NormalizeStep) readFrom(r *reader, n ast.Node, path string) {
	if _, isMap := MapEntries(n); isMap {
		type details NormalizeStep
		r.read(n, reflect.ValueOf((*details)(s)).Elem(), path)
		return
	}
	text, ok := r.text(n, path)
	if !ok {
		return
	}
	if present := FormerText(reflect.TypeFor[NormalizeStep](), text); present != nil {
		r.fail(path, migrateIt, "%q is now written %s", text, present)
		return
	}
	s.Plain = text
}

// step is a normalising step made ready.
type step func(string) string

var plainSteps = map[string]step{
	"trim":       func(s string) string { return strings.TrimFunc(s, unicode.IsSpace) },
	"collapse":   func(s string) string { return strings.Join(strings.Fields(s), " ") },
	"line_feeds": strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace,
	"lower":      strings.ToLower,
	"upper":      strings.ToUpper,
	"nfc":        norm.NFC.String,
}

// PlainSteps are the names of the steps without details.
func PlainSteps() []string { return slices.Sorted(maps.Keys(plainSteps)) }

func (s NormalizeStep) compile() (step, error) {
	if fn, ok := plainSteps[s.Plain]; ok {
		return fn, nil
	}
	switch s {
	case NormalizeStep{Strip: s.Strip}:
		if s.Strip != "" {
			return func(text string) string { return without(text, s.Strip) }, nil
		}
	case NormalizeStep{Date: s.Date}:
		return dateStep(s.Date)
	case NormalizeStep{Number: s.Number}:
		return numberStep(s.Number)
	case NormalizeStep{Plain: s.Plain}:
		return nil, fmt.Errorf("the step %q is not known", s.Plain)
	}
	return nil, errors.New("a step is one of its kinds, with its detail")
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
	if m.Shown == "" {
		return m.Typed
	}
	return m.Shown
}

// sent is what stands, where nothing else is said.
func (m *Mask) sent() string {
	if m.Sent == "" {
		return m.standing()
	}
	return m.Sent
}
