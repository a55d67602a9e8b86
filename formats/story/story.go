// Package story reads what texts promise of a form: user stories, help texts, hints of a page, and criteria written as given, when and then, in
// English and German. It knows a few ways in which such things are said; what it does not know it leaves alone.
package story

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// MaxText is how many bytes a text may have.
const MaxText = 200_000

// maxSentence is how many characters of a sentence are shown as where a rule comes from.
const maxSentence = 160

// Sentence is one of a text.
type Sentence struct {
	Text string `json:"text"`
	// Field is the id of the field that it is about, and Rules how many rules were read of it; "" and 0 for a sentence that is left alone.
	Field string `json:"field,omitempty"`
	Rules int    `json:"rules"`
}

// Text is what was read.
type Text struct {
	Sentences []Sentence   `json:"sentences"`
	Draft     *draft.Draft `json:"-"`
}

// Read reads a text about a form's fields, which are named by their labels, names or ids.
func Read(form *spec.Form, text string) (*Text, error) {
	if len(text) > MaxText {
		return nil, fmt.Errorf("the text has %d bytes; read at most %d at once", len(text), MaxText)
	}
	r := &reader{form: form, out: &Text{Sentences: []Sentence{}, Draft: &draft.Draft{From: phrases.FromText.Text()}}, fields: map[string]*draft.Field{}}
	for _, sentence := range sentences(text) {
		r.sentence(sentence)
	}
	for i := range form.Fields {
		if f := r.fields[form.Fields[i].ID]; f != nil {
			r.out.Draft.Fields = append(r.out.Draft.Fields, *f)
		}
	}
	return r.out, nil
}

type reader struct {
	form   *spec.Form
	out    *Text
	fields map[string]*draft.Field
	// last is the field that the sentence before was about.
	last *spec.Field
}

var (
	// ends are where sentences end: at a point, a question or exclamation mark before a space, at a semicolon, and at the end of a line.
	ends = regexp.MustCompile(`[.!?]["”“']?(?:\s+|$)|;\s+|\n+`)
	// steps begin the lines of criteria that belong together.
	steps = regexp.MustCompile(`(?i)^\s*(given|when|then|and|but|angenommen|gegeben|wenn|dann|und|aber)\b`)
	// abbreviated ends no sentence.
	abbreviated = regexp.MustCompile(`(?i)(?:\be\.g|\bi\.e|\bz\.\s?b|\bmin|\bmax|\bno|\bnr|\bbzw|\bca)\.$`)
)

// sentences parts a text. Lines of given, when and then are one sentence.
func sentences(text string) []string {
	var out []string
	add := func(s string) {
		if s = strings.TrimSpace(strings.TrimLeft(s, " \t-*•0123456789.)")); s != "" {
			out = append(out, s)
		}
	}
	var criterion []string
	for _, line := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		bare := strings.TrimLeft(line, " \t-*•|")
		switch first := strings.ToLower(steps.FindString(bare)); {
		case first == "given" || first == "angenommen" || first == "gegeben":
			add(strings.Join(criterion, " "))
			criterion = []string{bare}
			continue
		case first != "" && len(criterion) > 0:
			criterion = append(criterion, bare)
			continue
		case (first == "when" || first == "wenn") && len(criterion) == 0:
			criterion = []string{bare}
			continue
		}
		add(strings.Join(criterion, " "))
		criterion = nil
		from := 0
		for _, end := range ends.FindAllStringIndex(line, -1) {
			if !abbreviated.MatchString(strings.TrimSpace(line[from:end[1]])) {
				add(line[from:end[1]])
				from = end[1]
			}
		}
		add(line[from:])
	}
	add(strings.Join(criterion, " "))
	return out
}

// sentence reads one sentence.
func (r *reader) sentence(text string) {
	said := Sentence{Text: text}
	f := r.about(text)
	if f == nil && age.MatchString(text) && years.MatchString(text) {
		f = r.onlyDay()
	}
	if f != nil {
		r.last = f
		said.Field = f.ID
		rules := r.rules(f, text)
		said.Rules = len(rules)
		if message := messageOf(text); message != "" {
			for i := range rules {
				rules[i].SetMessage(message)
			}
		}
		r.add(f, rules, text)
	}
	r.out.Sentences = append(r.out.Sentences, said)
}

// add adds rules of a field, each kind once; a later sentence adds its message where an earlier one had none.
func (r *reader) add(f *spec.Field, rules []spec.Rule, text string) {
	if len(rules) == 0 {
		return
	}
	d := r.fields[f.ID]
	if d == nil {
		d = &draft.Field{ID: f.ID, Known: true}
		r.fields[f.ID] = d
	}
	if runes := []rune(text); len(runes) > maxSentence {
		text = string(runes[:maxSentence]) + "…"
	}
	for _, rule := range rules {
		at := slices.IndexFunc(d.Rules, func(known draft.Rule) bool { return known.Rule.Kind() == rule.Kind() && rule.Pattern == nil })
		switch {
		case at < 0:
			d.Rules = append(d.Rules, draft.Rule{Rule: rule, Sure: 0.8, From: phrases.FromSentence.With("text", text)})
		case d.Rules[at].Rule.Message() == nil && rule.Message() != nil:
			d.Rules[at].Rule.SetMessage(rule.Message().Text)
		}
	}
}

// pronoun begins a sentence about the field of the one before.
var pronoun = regexp.MustCompile(`(?i)^(?:it|this|the (?:value|field)|es|sie|er|dieses feld|der wert)\b`)

// about is the field that a sentence names, the one whose name is the longest; nil for none.
func (r *reader) about(text string) *spec.Field {
	lower := strings.ToLower(text)
	var best *spec.Field
	longest := 0
	for i := range r.form.Fields {
		f := &r.form.Fields[i]
		for _, name := range []string{f.Label, f.Name, f.ID, strings.ReplaceAll(f.ID, "_", " ")} {
			name = strings.ToLower(name)
			if len(name) > longest && len(name) > 1 && holdsWord(lower, name) {
				best, longest = f, len(name)
			}
		}
	}
	if best == nil && pronoun.MatchString(text) {
		return r.last
	}
	return best
}

// onlyDay is the form's one date, by which a visitor's age is known; nil where there are several, or none.
func (r *reader) onlyDay() (day *spec.Field) {
	for i := range r.form.Fields {
		if f := &r.form.Fields[i]; f.Kind == spec.Date {
			if day != nil {
				return nil
			}
			day = f
		}
	}
	return day
}

// holdsWord tells whether a text holds a name that is not part of a longer word.
func holdsWord(text, name string) bool {
	letter := func(s string, last bool) bool {
		if s == "" {
			return false
		}
		c := s[0]
		if last {
			c = s[len(s)-1]
		}
		return c >= 'a' && c <= 'z' || c >= '0' && c <= '9' || c >= 0x80 || c == '_'
	}
	for from := 0; ; {
		at := strings.Index(text[from:], name)
		if at < 0 {
			return false
		}
		at += from
		rest := text[at+len(name):]
		plural := strings.HasPrefix(rest, "s") && !letter(rest[1:], false)
		if !letter(text[:at], true) && (!letter(rest, false) || plural) {
			return true
		}
		from = at + len(name)
	}
}

// quoted is what stands in quotes behind a word for a message.
var quoted = regexp.MustCompile(`(?i)(?:message|error|see|sees|says?|shown?|shows|reads|meldung|fehler|erscheint|sehe|sieht|steht|lautet)\b[^"“„«]*["“„«]([^"”“«»]{2,200})["”“»]`)

// messageOf is the message that a sentence quotes, "" for none.
func messageOf(text string) string {
	if m := quoted.FindStringSubmatch(text); m != nil {
		return strings.TrimSpace(m[1])
	}
	return ""
}
