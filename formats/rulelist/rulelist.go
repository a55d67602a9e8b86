// Package rulelist reads lists of rules as testers keep them in spreadsheets: CSV (RFC 4180) with a line of heads and a line a field.
package rulelist

import (
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
	"oddtick/formats/csvfile"
)

// Meanings are what a column may hold.
var Meanings = []string{"request name", "label", "kind", "required", "least length", "greatest length", "pattern", "minimum", "maximum", "options", "initial value", "stored in", "unique", "message when blank", "message"}

// heads are the words of heads by which a column's meaning is guessed, the first that fits counts.
var heads = []struct {
	meaning string
	words   []string
}{
	{"message when blank", []string{"message when blank", "blank message", "required message", "empty message"}},
	{"message", []string{"message", "error", "text shown"}},
	{"least length", []string{"least length", "min length", "minlength", "minimum length", "min. length"}},
	{"greatest length", []string{"greatest length", "max length", "maxlength", "maximum length", "max. length", "length", "chars", "characters"}},
	{"request name", []string{"request name", "parameter", "name attribute", "technical name", "name in request", "control"}},
	{"stored in", []string{"stored in", "column", "database", "db field"}},
	{"label", []string{"label", "field", "caption", "title"}},
	{"required", []string{"required", "mandatory", "obligatory", "must"}},
	{"unique", []string{"unique"}},
	{"pattern", []string{"pattern", "regex", "format", "expression"}},
	{"minimum", []string{"minimum", "min", "from", "lowest"}},
	{"maximum", []string{"maximum", "max", "to", "highest"}},
	{"options", []string{"options", "choices", "allowed values", "values", "list"}},
	{"initial value", []string{"initial", "default"}},
	{"kind", []string{"kind", "type"}},
	{"request name", []string{"name", "id"}},
}

// List is what a file holds.
type List struct {
	Heads, Columns, First []string
	Draft                 *draft.Draft
}

// Parse reads a list. columns say what each column holds, "" for nothing of use; without any they are guessed from the heads.
func Parse(text string, columns []string) (*List, error) {
	file, err := csvfile.Open(text, "list")
	if err != nil {
		return nil, err
	}
	first := file.Heads
	l := &List{Heads: first, Columns: columns, First: make([]string, len(first)), Draft: &draft.Draft{From: phrases.FromRuleList.Text()}}
	if len(columns) == 0 {
		l.Columns = guess(first)
	}
	for _, c := range l.Columns {
		if c != "" && !slices.Contains(Meanings, c) {
			return nil, &csvfile.Error{Line: 1, Problem: fmt.Sprintf("a column cannot hold %q; known are %s", c, strings.Join(Meanings, ", "))}
		}
	}
	if len(l.Columns) != len(first) {
		return nil, &csvfile.Error{Line: 1, Problem: fmt.Sprintf("%d columns are named, the list has %d", len(l.Columns), len(first))}
	}
	if !slices.Contains(l.Columns, "request name") && !slices.Contains(l.Columns, "label") {
		l.Draft.Notes = append(l.Draft.Notes, phrases.NoColumnOfNames.Text())
	}
	for n := 0; ; n++ {
		row, line, err := file.Next()
		if errors.Is(err, io.EOF) {
			return l, nil
		}
		if err != nil {
			return nil, err
		}
		if n == 0 {
			copy(l.First, row)
		}
		if err := l.field(row, line); err != nil {
			return nil, err
		}
	}
}

func guess(first []string) []string {
	out := make([]string, len(first))
	taken := map[string]bool{}
	for _, h := range heads {
		for i, head := range first {
			low := strings.ToLower(strings.TrimSpace(head))
			if out[i] == "" && !taken[h.meaning] && slices.ContainsFunc(h.words, func(w string) bool { return low == w || len(w) > 4 && strings.Contains(low, w) }) {
				out[i] = h.meaning
				taken[h.meaning] = true
			}
		}
	}
	return out
}

var kinds = map[string]spec.Kind{
	"string": spec.Text, "free text": spec.Text, "e-mail": spec.Email, "mail": spec.Email, "textarea": spec.Textarea, "multiline": spec.Textarea, "int": spec.Number, "integer": spec.Number, "decimal": spec.Number, "numeric": spec.Number,
	"select": spec.SingleChoice, "dropdown": spec.SingleChoice, "radio": spec.SingleChoice, "choice": spec.SingleChoice, "multiselect": spec.MultipleChoice, "boolean": spec.Checkbox, "bool": spec.Checkbox, "upload": spec.Upload, "phone": spec.Tel, "datetime": spec.DateTime, "link": spec.URL,
}

func (l *List) field(row []string, line int) error {
	cell := func(meaning string) string {
		if i := slices.Index(l.Columns, meaning); i >= 0 && i < len(row) {
			return strings.TrimSpace(row[i])
		}
		return ""
	}
	name, label := cell("request name"), cell("label")
	if name == "" && label == "" {
		return nil // a line between
	}
	from := phrases.FromRuleLine.With("line", line)
	f := draft.Field{Name: name}
	if name == "" {
		f.Name = spec.Identifier(label)
	}
	if label != "" {
		f.Say("label", label, from)
	}
	kind := spec.Kind(strings.ToLower(cell("kind")))
	if k, known := kinds[string(kind)]; known {
		kind = k
	}
	options := optionsOf(cell("options"))
	if kind == "" && len(options) > 0 {
		kind = spec.SingleChoice
	}
	if kind != "" && !slices.Contains(spec.Kinds, kind) {
		return &csvfile.Error{Line: line, Problem: fmt.Sprintf("the kind %q is not known", kind)}
	}
	if kind != "" && kind != spec.Text {
		f.Say("kind", string(kind), from)
	}
	if len(options) > 0 {
		f.Say("options", options, from)
	}
	if v := cell("initial value"); v != "" {
		f.Say("initial", v, from)
	}
	if err := l.rules(&f, kind, cell, from, line); err != nil {
		return err
	}
	if table, column, ok := strings.Cut(cell("stored in"), "."); ok {
		source := spec.Source{From: spec.Identifier(f.Name)}
		if kind == spec.Password {
			source = spec.Source{Secret: spec.Identifier(f.Name)}
		}
		l.Draft.Columns = append(l.Draft.Columns, draft.Column{Table: table, Column: column, Source: source, From: from, Sure: 1})
	}
	l.Draft.Fields = append(l.Draft.Fields, f)
	return nil
}

func (l *List) rules(f *draft.Field, kind spec.Kind, cell func(string) string, from prose.Text, line int) error {
	add := func(r spec.Rule, message string) {
		if message != "" {
			r.SetMessage(message)
		}
		f.Rule(r, 1, from)
	}
	if yes(cell("required")) {
		if kind == spec.Checkbox {
			add(spec.Rule{MustBeChecked: &spec.MustBeChecked{}}, cell("message when blank"))
		} else {
			add(spec.Rule{Required: &spec.Required{}}, cell("message when blank"))
		}
	}
	message := cell("message")
	lo, hi := cell("least length"), cell("greatest length")
	if lo != "" || hi != "" {
		length := &spec.Length{}
		for _, part := range []struct {
			text string
			keep func(int)
		}{{lo, func(n int) { length.Min = n }}, {hi, func(n int) { length.Max = &n }}} {
			if part.text == "" {
				continue
			}
			n, err := strconv.Atoi(part.text)
			if err != nil || n < 0 {
				return &csvfile.Error{Line: line, Problem: fmt.Sprintf("%q is not a length; write it in digits", part.text)}
			}
			part.keep(n)
		}
		add(spec.Rule{Length: length}, message)
	}
	if p := cell("pattern"); p != "" {
		add(spec.Rule{Pattern: &spec.Pattern{Is: strings.TrimSuffix(strings.TrimPrefix(p, "^"), "$"), Dialect: "u"}}, message)
	}
	if cell("minimum") != "" || cell("maximum") != "" {
		add(spec.Rule{Range: &spec.RangeRule{Min: spec.Scalar(cell("minimum")), Max: spec.Scalar(cell("maximum"))}}, message)
	}
	if kind == spec.Email {
		add(spec.Rule{Email: &spec.EmailRule{}}, message)
	}
	if u := cell("unique"); yes(u) || strings.Contains(u, ".") {
		column := cell("stored in")
		if strings.Contains(u, ".") {
			column = u
		}
		if column == "" {
			return &csvfile.Error{Line: line, Problem: "a unique value needs its column, as table.column"}
		}
		add(spec.Rule{Unique: &spec.Unique{Column: column}}, "")
	}
	return nil
}

func yes(text string) bool {
	switch strings.ToLower(text) {
	case "y", "yes", "x", "1", "true", "ja", "oui", "required", "mandatory", "ie", "✓":
		return true
	}
	return false
}

// optionsOf reads options parted by semicolons, bars or line ends, each a value or label = value.
func optionsOf(text string) []map[string]any {
	var out []map[string]any
	for _, part := range strings.FieldsFunc(text, func(r rune) bool { return r == ';' || r == '|' || r == '\n' }) {
		label, value, both := strings.Cut(part, "=")
		label, value = strings.TrimSpace(label), strings.TrimSpace(value)
		switch {
		case both && value != "":
			out = append(out, map[string]any{"label": label, "value": value})
		case label != "":
			out = append(out, map[string]any{"value": label})
		}
	}
	return out
}
