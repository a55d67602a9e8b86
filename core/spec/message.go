package spec

import (
	"cmp"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/template"
)

// Message is what is said when a rule fails. In a file it may be one text or a text per language.
type Message struct {
	// Text is the exact text; Texts the exact text per language.
	Text  string            `json:"text,omitempty"`
	Texts map[string]string `json:"texts,omitempty"`
	// Part is contained in the text; Pattern, in RE2, is found in it.
	Part    string `json:"part,omitempty"`
	Pattern string `json:"pattern,omitempty" syntax:"RE2"`
	pattern *regexp.Regexp
}

// all are the message's texts, but for a pattern; nil has none.
func (m *Message) all() []string {
	if m == nil {
		return nil
	}
	return slices.Concat([]string{m.Text, m.Part}, slices.Collect(maps.Values(m.Texts)))
}

// places are the names of the places in the message's texts.
func (m *Message) places() []string {
	out := slices.Concat(template.Names(m.Text), template.Names(m.Part))
	for _, text := range m.Texts {
		out = append(out, template.Names(text)...)
	}
	return out
}

// FilledWith is the message with the value that is sent in its place.
func (m *Message) FilledWith(value string) *Message {
	if m == nil || !slices.Contains(m.places(), PlaceValue) {
		return m
	}
	fill := func(text string) string {
		return template.Fill(text, func(name string) (string, bool) { return value, name == PlaceValue })
	}
	out := *m
	out.Text, out.Part, out.Texts = fill(m.Text), fill(m.Part), maps.Clone(m.Texts)
	for language, text := range out.Texts {
		out.Texts[language] = fill(text)
	}
	return &out
}

// FoundIn tells whether the pattern is found in a text.
func (m *Message) FoundIn(text string) bool {
	pattern := m.pattern
	if pattern == nil { // the message was read from no document
		var err error
		if pattern, err = regexp.Compile(m.Pattern); err != nil {
			return false
		}
	}
	return pattern.MatchString(text)
}

// In returns the text in a language, falling back to the only or the English one; ok is false when no exact text is promised.
func (m *Message) In(language string) (text string, ok bool) {
	if m == nil {
		return "", false
	}
	text = textIn(m.Text, m.Texts, language)
	return text, text != ""
}

// textIn is a text in a language: the only one that there is, that of the language, or the English one; "" for none.
func textIn(text string, texts map[string]string, language string) string {
	return cmp.Or(text, texts[language], texts["en"])
}

// Places of promised texts besides the ids of fields, which win: what a message says of its field, of the value sent and of the rule's
// bounds; and the key of the row written.
const (
	PlaceField = "field"
	PlaceValue = "value"
	PlaceMin   = "min"
	PlaceMax   = "max"
	PlaceKey   = "key"
)

// message is a rule's message with the places filled that are the same for every value; the value that is sent, and any text, stay.
func (b *builder) message(path string, r *PreparedRule, m *Message) *Message {
	if m == nil || len(m.places()) == 0 {
		return m
	}
	fill := func(language string) func(string) (string, bool) {
		return func(name string) (string, bool) {
			switch {
			case name == PlaceField && r.Field != nil:
				return cmp.Or(r.Field.Labels[language], r.Field.Label), true
			case name == PlaceMin || name == PlaceMax:
				return r.boundFor(name)
			}
			return "", false
		}
	}
	out := *m
	out.Text, out.Part = template.Fill(m.Text, fill("")), template.Fill(m.Part, fill(""))
	out.Texts = maps.Clone(m.Texts)
	for language, text := range out.Texts {
		out.Texts[language] = template.Fill(text, fill(language))
	}
	for _, text := range slices.Concat([]string{out.Text, out.Part}, slices.Collect(maps.Values(out.Texts))) {
		if text != "" && strings.TrimSpace(template.Fill(text, func(string) (string, bool) { return "", true })) == "" {
			b.fail(path, "write the text around the places", "%q fits every text", text)
		}
	}
	for _, name := range out.places() {
		switch {
		case name == template.Any:
		case name == PlaceValue && r.Field != nil && !r.Field.Secret:
		case name == PlaceValue && r.Field != nil:
			b.fail(path, "write {any} in its place", "a message cannot show the value of a secret")
		case name == PlaceMin || name == PlaceMax:
			b.fail(path, "write {any} in its place, or the text", "the rule has no bound that {%s} could stand for, or one that changes with the day", name)
		default:
			b.fail(path, "a message has the places {field}, {value}, {min}, {max} and {any}", "nothing is known of the place {%s}", name)
		}
	}
	return &out
}

// boundFor is the text of {min} or {max} in a message; ok is false if the rule has no such bound, or if the bound changes with time.
func (r *PreparedRule) boundFor(place string) (text string, ok bool) {
	number := func(n int) (string, bool) { return strconv.Itoa(n), true }
	switch rule := r.Rule; {
	case rule == nil:
	case rule.Length != nil && place == PlaceMin && rule.Length.Min > 0:
		return number(rule.Length.Min)
	case rule.Length != nil && place == PlaceMax && rule.Length.Max != nil:
		return number(*rule.Length.Max)
	case rule.Range != nil:
		text := map[string]Scalar{PlaceMin: rule.Range.Min, PlaceMax: rule.Range.Max}[place]
		return string(text), text != "" && !strings.HasPrefix(string(text), "today") && !strings.HasPrefix(string(text), "now")
	case rule.Decimals != nil && place == PlaceMax:
		return number(rule.Decimals.Max)
	case rule.File != nil && place == PlaceMax && rule.File.Max > 0:
		return number(rule.File.Max)
	}
	return "", false
}
