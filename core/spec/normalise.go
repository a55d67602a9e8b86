package spec

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"regexp"
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
	// A number may have a sign of money: £1,234.50.
	Date   string `json:"date,omitempty"`
	Number string `json:"number,omitempty"`
	// Phone is a country's calling code such as +44, with which telephone numbers are kept: 01632 960 123 as +441632960123.
	Phone string `json:"phone,omitempty"`
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
const writeStep = "write one of: trim, collapse, line_feeds, lower, upper, nfc, {strip: X}, {date: DD.MM.YYYY}, {number: \"1.234,5\"}, {phone: \"+44\"}"

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
	case NormalizeStep{Phone: s.Phone}:
		return phoneStep(s.Phone)
	case NormalizeStep{Plain: s.Plain}:
		return nil, fmt.Errorf("the step %q is not known", s.Plain)
	}
	return nil, errors.New("a step is one of its kinds, with its detail")
}

// dateStep reads days in a format such as DD.MM.YYYY; what does not fit is left as it is.
func dateStep(format string) (step, error) {
	f, err := formatOf(Date, format)
	if err != nil {
		return nil, err
	}
	return f.read, nil
}

// format is a way to write values of a kind with an order: read turns what is written into the value as HTML writes it, write the other
// way round. What is none is left as it is.
type format struct{ read, write step }

// tokens are the parts of a format of days and times, with Go's layout for each; the longer first.
var tokens = []struct{ token, layout, part string }{
	{"YYYY", "2006", "year"},
	{"YY", "06", "year"},
	{"MMMM", "January", "month"},
	{"MMM", "Jan", "month"},
	{"MM", "01", "month"},
	{"M", "1", "month"},
	{"DD", "02", "day"},
	{"D", "2", "day"},
	{"HH", "15", "hour"},
	{"hh", "03", "hour of twelve"},
	{"h", "3", "hour of twelve"},
	{"mm", "04", "minute"},
	{"ss", "05", "second"},
	{"AM", "PM", "half"},
	{"am", "pm", "half"},
}

// formatOf reads the format of a kind: tokens with signs between them for days and times, an example for numbers.
func formatOf(kind Kind, text string) (*format, error) {
	if kind == Number {
		return numberFormat(text)
	}
	canonical := map[Kind][]string{Date: {"2006-01-02"}, Time: {"15:04", "15:04:05"}, DateTime: {"2006-01-02T15:04", "2006-01-02T15:04:05"}}[kind]
	if canonical == nil {
		return nil, fmt.Errorf("a field of the kind %s has no format", kind)
	}
	var layout strings.Builder
	parts := map[string]int{}
	for rest := text; rest != ""; {
		at := slices.IndexFunc(tokens, func(t struct{ token, layout, part string }) bool { return strings.HasPrefix(rest, t.token) })
		if at < 0 {
			if r, size := utf8.DecodeRuneInString(rest); unicode.IsLetter(r) || unicode.IsDigit(r) {
				return nil, fmt.Errorf("the format %q holds %q, which is no part of a day or time", text, r)
			} else {
				layout.WriteRune(r)
				rest = rest[size:]
			}
			continue
		}
		layout.WriteString(tokens[at].layout)
		parts[tokens[at].part]++
		rest = rest[len(tokens[at].token):]
	}
	needed := map[Kind][]string{Date: {"day", "month", "year"}, Time: {"minute"}, DateTime: {"day", "month", "year", "minute"}}[kind]
	for _, part := range needed {
		if parts[part] != 1 {
			return nil, fmt.Errorf("the format %q does not name the %s once; write it like %s", text, part, map[Kind]string{Date: "D.M.YYYY", Time: "h:mm AM", DateTime: "DD/MM/YYYY HH:mm"}[kind])
		}
	}
	switch {
	case kind == Date && parts["hour"]+parts["hour of twelve"]+parts["minute"]+parts["second"]+parts["half"] > 0:
		return nil, fmt.Errorf("the format %q names hours, minutes or seconds, which a day does not have", text)
	case kind == Time && parts["day"]+parts["month"]+parts["year"] > 0:
		return nil, fmt.Errorf("the format %q names days, months or years, which a time does not have", text)
	case kind != Date && (parts["hour"]+parts["hour of twelve"] != 1 || parts["hour of twelve"] != parts["half"]):
		return nil, fmt.Errorf("the format %q does not name the hour once; write HH, or h with AM", text)
	}
	goes := layout.String()
	return &format{
		read: func(s string) string {
			t, err := time.Parse(goes, s)
			if err != nil {
				return s
			}
			if kind != Date && t.Second() != 0 {
				return t.Format(canonical[1])
			}
			return t.Format(canonical[0])
		},
		write: func(s string) string {
			for _, c := range canonical {
				if t, err := time.Parse(c, s); err == nil {
					return t.Format(goes)
				}
			}
			return noSuchDay(text, s)
		},
	}, nil
}

// noSuchDay writes a day that does not exist in a format of numbers; anything else is left as it is.
func noSuchDay(format, s string) string {
	if len(s) != len("2001-02-30") || s[4] != '-' || s[7] != '-' || strings.Contains(format, "MMM") {
		return s
	}
	year, month, day := s[:4], s[5:7], s[8:]
	if strings.ContainsFunc(year+month+day, func(r rune) bool { return !unicode.IsDigit(r) }) {
		return s
	}
	out := format
	for _, t := range []struct{ token, value string }{{"YYYY", year}, {"YY", year[2:]}, {"MM", month}, {"DD", day}, {"M", strings.TrimPrefix(month, "0")}, {"D", strings.TrimPrefix(day, "0")}} {
		out = strings.Replace(out, t.token, t.value, 1)
	}
	return out
}

// numberFormat writes and reads numbers like an example, such as 1.234,50: with its signs, and with as many decimals at least.
func numberFormat(example string) (*format, error) {
	if _, err := numberStep(example); err != nil {
		return nil, err
	}
	before, example, after := aroundNumber(example)
	signs := []rune(strings.Map(notDigit, example))
	decimal, group := string(signs[len(signs)-1]), ""
	if len(signs) == 2 {
		group = string(signs[0])
	}
	written := regexp.MustCompile(`^-?[0-9]+(` + regexp.QuoteMeta(decimal) + `[0-9]+)?$`)
	if group != "" {
		written = regexp.MustCompile(`^-?([0-9]+|[1-9][0-9]{0,2}(` + regexp.QuoteMeta(group) + `[0-9]{3})+)(` + regexp.QuoteMeta(decimal) + `[0-9]+)?$`)
	}
	read := func(text string) string {
		s, whole := withoutMoney(text, before, after)
		if !whole || !written.MatchString(s) {
			return text
		}
		if group != "" {
			s = strings.ReplaceAll(s, group, "")
		}
		return strings.Replace(s, decimal, ".", 1)
	}
	least := len(example) - strings.LastIndex(example, decimal) - len(decimal)
	return &format{read: read, write: func(s string) string {
		if !plainNumber.MatchString(s) {
			return s
		}
		sign := ""
		if strings.HasPrefix(s, "-") {
			sign, s = "-", s[1:]
		}
		whole, tail, _ := strings.Cut(s, ".")
		for len(tail) < least {
			tail += "0"
		}
		for at := len(whole) - 3; group != "" && at > 0; at -= 3 {
			whole = whole[:at] + group + whole[at:]
		}
		if tail != "" {
			whole += decimal + tail
		}
		if strings.HasSuffix(before, " ") { // EUR -5,00, and -£5.00
			return before + sign + whole + after
		}
		return sign + before + whole + after
	}}, nil
}

// notDigit leaves a text's signs, for strings.Map.
func notDigit(r rune) rune {
	if r >= '0' && r <= '9' {
		return -1
	}
	return r
}

// aroundNumber parts an example such as EUR 1.234,50 into what stands before the number, the number, and what stands after it.
func aroundNumber(example string) (before, number, after string) {
	first, last := strings.IndexAny(example, "0123456789"), strings.LastIndexAny(example, "0123456789")
	if first < 0 {
		return "", example, ""
	}
	return example[:first], example[first : last+1], example[last+1:]
}

// withoutMoney takes out what stands before and after a number; a minus may stand before all of it. whole is false where it is not there.
func withoutMoney(s, before, after string) (number string, whole bool) {
	sign := ""
	if before != "" && strings.HasPrefix(s, "-") {
		sign, s = "-", s[1:]
	}
	s, hasBefore := strings.CutPrefix(s, before)
	s, hasAfter := strings.CutSuffix(s, after)
	return sign + s, hasBefore && hasAfter
}

// callingCode is a country's calling code (ITU-T E.164), and phoneSigns what people write between the digits of a telephone number.
var callingCode = regexp.MustCompile(`^\+[1-9][0-9]{0,2}$`)

const phoneSigns = " -./()\u00a0"

// phoneStep writes telephone numbers with a calling code, and without signs between the digits: a leading 00 is a plus, and a 0 alone stands
// for the country. What holds anything else is left as it is.
func phoneStep(code string) (step, error) {
	if !callingCode.MatchString(code) {
		return nil, fmt.Errorf("%q is no calling code; write it like +44", code)
	}
	return func(s string) string {
		digits := without(s, phoneSigns)
		plus := strings.HasPrefix(digits, "+")
		digits = strings.TrimPrefix(digits, "+")
		if digits == "" || strings.Map(notDigit, digits) != "" {
			return s
		}
		switch {
		case plus:
			return "+" + digits
		case strings.HasPrefix(digits, "00"):
			return "+" + digits[2:]
		}
		return code + strings.TrimPrefix(digits, "0")
	}, nil
}

// numberStep reads numbers written like the example: the last sign in it is the decimal's, the one before groups thousands.
func numberStep(example string) (step, error) {
	whole := example
	before, example, after := aroundNumber(example)
	runes := []rune(strings.Map(notDigit, example))
	if len(runes) == 0 || len(runes) > 2 || slices.ContainsFunc(runes, unicode.IsLetter) {
		return nil, fmt.Errorf("the format %q does not show its decimal sign; write it like 1.234,5", whole)
	}
	decimal, group := string(runes[len(runes)-1]), ""
	if len(runes) == 2 {
		group = string(runes[0])
	}
	return func(s string) string {
		if number, whole := withoutMoney(s, before, after); whole {
			s = number
		}
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
