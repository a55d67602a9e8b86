// Package generic serves forms that are drawn at random: fields with a few plain rules each, and the habits of a site.
package generic

import (
	"fmt"
	"math/rand/v2"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// Field is a field with its rules. Zero values stand for none.
type Field struct {
	Name, Label string
	// Control is text, email, number, date, textarea, password, select, checkbox or repeat.
	Control  string
	Required bool
	// Min and Max limit a text's length in characters, and a number itself.
	Min, Max int
	// Characters is a class of a pattern that a text is made of.
	Characters string
	// Shape is a whole pattern.
	Shape string
	// Decimals is how many a number may have.
	Decimals int
	// Earliest and Latest are days from today, both 0 for any.
	Earliest, Latest int
	// Needs are classes of a pattern of which a secret holds at least one character each.
	Needs       []string
	Options     []string
	Trim, Lower bool
	// Unique values are taken once, AnyCase in whatever capitals.
	Unique, AnyCase bool
	// Of is the name of the field that it repeats; When that of a checkbox without which it does not count.
	Of, When string
}

// Form is a form with the habits of its site.
type Form struct {
	Fields []Field
	// Status is that of a rejection, and Summary lists what is wrong above the form, with links to the fields.
	Status  int
	Summary bool
	// Stays shows the reply on the page that answers; else it leads to another.
	Stays bool
}

var names = map[string][]string{
	"text":     {"full_name", "nick", "street", "town", "motto", "member_no", "bed", "tool", "variety"},
	"email":    {"mail"},
	"number":   {"plots", "hens", "years", "metres", "litres"},
	"date":     {"born", "since", "delivery"},
	"textarea": {"remarks", "why"},
	"password": {"pass"},
	"select":   {"soil", "size"},
	"checkbox": {"rules", "letter", "bees"},
}

var labels = map[string]string{"full_name": "Full name", "nick": "Short name", "member_no": "Member number", "mail": "E-mail address", "born": "Day of birth", "pass": "Password"}

// Draw draws a form of two to five fields.
func Draw(r *rand.Rand) *Form {
	f := &Form{Status: pick(r, 200, 400, 422), Summary: r.IntN(3) == 0, Stays: r.IntN(3) == 0}
	for range 2 + r.IntN(4) {
		control := pick(r, "text", "text", "text", "email", "number", "number", "number", "date", "textarea", "password", "select", "checkbox", "checkbox")
		name := pick(r, names[control]...)
		if slices.ContainsFunc(f.Fields, func(o Field) bool { return o.Name == name }) {
			continue
		}
		one := Field{Name: name, Label: labels[name], Control: control, Required: r.IntN(2) == 0, Trim: r.IntN(2) == 0}
		if one.Label == "" {
			one.Label = strings.ToUpper(name[:1]) + name[1:]
		}
		one.draw(r)
		if at := slices.IndexFunc(f.Fields, func(o Field) bool { return o.Control == "checkbox" && !o.Required }); at >= 0 && control == "number" && r.IntN(2) == 0 {
			one.When, one.Required = f.Fields[at].Name, true
		}
		f.Fields = append(f.Fields, one)
		if control == "password" && r.IntN(2) == 0 {
			f.Fields = append(f.Fields, Field{Name: "pass_again", Label: "Password again", Control: "repeat", Of: "pass"})
		}
	}
	return f
}

func (f *Field) draw(r *rand.Rand) {
	switch f.Control {
	case "text":
		f.Lower = r.IntN(5) == 0
		switch r.IntN(4) {
		case 0:
			f.Shape = pick(r, `[A-Z]{2}-[0-9]{4}`, `[0-9]{6}`, `[A-Z][0-9]{3}`)
			f.Lower = false
		case 1:
			f.Characters = pick(r, `a-zA-Z0-9\-`, `a-z0-9`, `a-zA-ZÀ-ÖØ-Þß-öø-ÿ '\-`, `\p{L} '\-,`)
			fallthrough
		default:
			f.Min, f.Max = pick(r, 0, 0, 2, 3, 5), pick(r, 0, 12, 20, 40, 73, 255)
		}
		f.Unique = r.IntN(4) == 0
		f.AnyCase = f.Unique && r.IntN(2) == 0
	case "email":
		f.Lower, f.Unique, f.Max = r.IntN(2) == 0, r.IntN(2) == 0, pick(r, 0, 80, 120, 190)
		f.AnyCase = f.Unique && (f.Lower || r.IntN(2) == 0)
	case "number":
		f.Min, f.Max, f.Decimals = pick(r, -5, 0, 1, 1, 3), pick(r, 4, 10, 99, 250, 5000), pick(r, 0, 0, 0, 1, 2)
		f.Trim = true
	case "date":
		if r.IntN(3) > 0 {
			f.Earliest, f.Latest = pick(r, -43000, -3650, -30, 0), pick(r, 1, 30, 365)
		}
		f.Trim = false
	case "textarea":
		f.Max = pick(r, 0, 100, 500, 1000)
	case "password":
		f.Required, f.Trim = true, false
		f.Min, f.Max = pick(r, 6, 8, 10), pick(r, 0, 64, 100)
		f.Needs = pick(r, nil, []string{"0-9"}, []string{"A-Z", "0-9"}, []string{"a-zA-Z", "0-9"})
	case "select":
		f.Options = []string{"a", "b", "c"}[:2+r.IntN(2)]
	}
}

func pick[T any](r *rand.Rand, of ...T) T { return of[r.IntN(len(of))] }

// Value is a field's value as the server takes it.
func (f *Field) Value(sent url.Values) string {
	v := strings.ReplaceAll(sent.Get(f.Name), "\r\n", "\n")
	if f.Trim {
		v = strings.TrimSpace(v)
	}
	if f.Lower {
		v = strings.ToLower(v)
	}
	return v
}

var (
	mail   = regexp.MustCompile(`^[A-Za-z0-9._+\-]{1,64}@([A-Za-z0-9\-]{1,63}\.)+[A-Za-z]{2,20}$`)
	number = regexp.MustCompile(`^-?[0-9]{1,15}(\.([0-9]+))?$`)
)

// Wrong is what is said of a field's value, "" for nothing. taken tells whether another has a value already.
func (f *Field) Wrong(sent url.Values, taken func(f *Field, value string) bool) string {
	v := f.Value(sent)
	if f.When != "" && sent.Get(f.When) == "" {
		return ""
	}
	switch {
	case f.Control == "checkbox" && f.Required && sent.Get(f.Name) == "":
		return "Please accept this."
	case f.Control == "checkbox":
		return ""
	case f.Of != "" && v != sent.Get(f.Of):
		return "The two are not the same."
	case v == "" && f.Required:
		return f.Label + " is missing."
	case v == "":
		return ""
	}
	n := utf8.RuneCountInString(v)
	switch f.Control {
	case "number":
		return f.wrongNumber(v)
	case "date":
		return f.wrongDay(v)
	case "select":
		if !slices.Contains(f.Options, v) {
			return "Choose from the list."
		}
	case "email":
		if !mail.MatchString(v) {
			return "This is no e-mail address."
		}
	}
	switch {
	case f.Shape != "" && !regexp.MustCompile("^(?:"+f.Shape+")$").MatchString(v):
		return map[string]string{`[A-Z]{2}-[0-9]{4}`: "Write it as in OS-1234.", `[0-9]{6}`: "It has 6 digits.", `[A-Z][0-9]{3}`: "Write it as in K123."}[f.Shape]
	case f.Characters != "" && !regexp.MustCompile("^["+f.Characters+"]+$").MatchString(v):
		return f.Label + " has characters that cannot be used."
	case f.Control != "number" && (n < f.Min || f.Max > 0 && n > f.Max):
		return f.limits()
	}
	for _, class := range f.Needs {
		if !regexp.MustCompile("[" + class + "]").MatchString(v) {
			return "It must contain one of " + map[string]string{"0-9": "the digits", "A-Z": "the capital letters", "a-zA-Z": "the letters"}[class] + "."
		}
	}
	if f.Unique && taken(f, v) {
		return f.Label + " is taken already."
	}
	return ""
}

func (f *Field) limits() string {
	switch {
	case f.Min > 0 && f.Max > 0:
		return fmt.Sprintf("Use %d to %d characters.", f.Min, f.Max)
	case f.Min > 0:
		return fmt.Sprintf("Use at least %d characters.", f.Min)
	}
	return fmt.Sprintf("Use at most %d characters.", f.Max)
}

func (f *Field) wrongNumber(v string) string {
	m := number.FindStringSubmatch(v)
	if m == nil || len(m[2]) > f.Decimals {
		return "That is not a number we can use."
	}
	if x, _ := strconv.ParseFloat(v, 64); x < float64(f.Min) || x > float64(f.Max) {
		return fmt.Sprintf("From %d to %d.", f.Min, f.Max)
	}
	return ""
}

func (f *Field) wrongDay(v string) string {
	at, err := time.Parse(time.DateOnly, v)
	if err != nil {
		return "That is no day."
	}
	now := time.Now()
	today := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	if f.Earliest == 0 && f.Latest == 0 || !at.Before(today.AddDate(0, 0, f.Earliest)) && !at.After(today.AddDate(0, 0, f.Latest)) {
		return ""
	}
	return "That day is too early or too late."
}

// Document is the form as a specification.
func (f *Form) Document() string {
	var out strings.Builder
	out.WriteString("form: f\npage: /\nfields:\n")
	for i := range f.Fields {
		one := &f.Fields[i]
		kind := map[string]string{"select": "single_choice", "repeat": "password"}[one.Control]
		if kind == "" {
			kind = one.Control
		}
		fmt.Fprintf(&out, "  - name: %s\n    label: %q\n    kind: %s\n", one.Name, one.Label, kind)
		var steps []string
		if one.Trim && one.Control != "checkbox" && one.Control != "select" {
			steps = append(steps, "trim")
		}
		if one.Lower {
			steps = append(steps, "lower")
		}
		if len(steps) > 0 {
			fmt.Fprintf(&out, "    normalize: [%s]\n", strings.Join(steps, ", "))
		}
		if one.When != "" {
			fmt.Fprintf(&out, "    when: %s\n", one.When)
		}
		for _, o := range one.Options {
			if o == one.Options[0] {
				out.WriteString("    options:\n")
			}
			fmt.Fprintf(&out, "      - value: %s\n", o)
		}
		if rules := one.rules(); len(rules) > 0 {
			fmt.Fprintf(&out, "    rules:\n      - %s\n", strings.Join(rules, "\n      - "))
		}
	}
	for i, stored := 0, false; i < len(f.Fields); i++ {
		if one := &f.Fields[i]; one.Control != "password" && one.Control != "repeat" {
			if !stored {
				stored = true
				out.WriteString("stored:\n  - insert: rows\n    columns:\n")
			}
			fmt.Fprintf(&out, "      %s: {from: %s}\n", one.Name, one.Name)
		}
	}
	return out.String()
}

func (f *Field) rules() (out []string) {
	add := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	if f.Control == "checkbox" {
		if f.Required {
			add("must_be_checked: {message: Please accept this.}")
		}
		return out
	}
	if f.Required {
		add("required: {message: %s is missing.}", f.Label)
	}
	switch f.Control {
	case "repeat":
		add("same_as: {field: %s, message: The two are not the same.}", f.Of)
	case "number":
		add("number: {message: That is not a number we can use.}")
		if f.Decimals == 0 {
			add("step: {by: 1, message: That is not a number we can use.}")
		} else {
			add("decimals: {max: %d, message: That is not a number we can use.}", f.Decimals)
		}
		add("range: {min: %d, max: %d, message: From %d to %d.}", f.Min, f.Max, f.Min, f.Max)
	case "date":
		add("date: {message: That is no day.}")
	case "select":
		add("one_of_options: {message: Choose from the list.}")
	case "email":
		add("email: {message: This is no e-mail address.}")
	}
	if f.Characters != "" {
		add("characters: {of: %s, message: %s has characters that cannot be used.}", strconv.Quote(f.Characters), f.Label)
	}
	if f.Shape != "" {
		add("pattern: {is: %s}", strconv.Quote(f.Shape))
	}
	if f.Control != "number" && (f.Min > 0 || f.Max > 0) {
		limit := fmt.Sprintf("min: %d, ", f.Min)
		if f.Min == 0 {
			limit = ""
		}
		if f.Max > 0 {
			limit += fmt.Sprintf("max: %d, ", f.Max)
		}
		add("length: {%smessage: %s}", limit, f.limits())
	}
	if f.Unique {
		ignoring := ""
		if f.AnyCase {
			ignoring = "ignoring: [case], "
		}
		add("unique: {column: rows.%s, %smessage: %s is taken already.}", f.Name, ignoring, f.Label)
	}
	return out
}
