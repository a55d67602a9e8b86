package story

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"oddtick/core/draft"
	"oddtick/core/spec"
)

var (
	blank    = regexp.MustCompile(`(?i)\b(?:is (?:required|mandatory|obligatory)|must be (?:filled in|given|entered|provided)|(?:cannot|can't|can not|must not|may not) be (?:left )?(?:blank|empty)|required field|leaves? .{0,60}\b(?:blank|empty)|ist (?:ein )?pflicht(?:feld)?|ist erforderlich|muss (?:ausgefüllt|angegeben|eingegeben) (?:sein|werden)|(?:darf|kann) nicht leer (?:sein|bleiben)|.{0,60}\bleer (?:lasse|lässt|lassen))\b`)
	optional = regexp.MustCompile(`(?i)\b(?:is|are) (?:optional|not required|not mandatory)\b|\b(?:may|can) be (?:left )?(?:blank|empty)\b|\bist (?:freiwillig|optional|kein pflichtfeld)\b|\bdarf leer\b`)
	checked  = regexp.MustCompile(`(?i)\bmust be (?:ticked|checked|accepted|agreed to)\b|\bmust (?:accept|agree to|tick|check)\b|\bmuss (?:angekreuzt|angehakt|akzeptiert|bestätigt)\b|\bmüssen .{0,60}(?:akzeptieren|bestätigen|zustimmen)\b`)
	unique   = regexp.MustCompile(`(?i)\b(?:must be|is|are) unique\b|\b(?:not|never)(?: yet)? (?:be )?(?:taken|in use|used|registered)(?: already| twice)?\b|\balready (?:taken|in use|exists|registered)\b|\bmuss eindeutig sein\b|\bist eindeutig\b|\b(?:noch nicht|nicht bereits|nicht schon|bereits|schon) (?:vergeben|verwendet|registriert)\b`)
	address  = regexp.MustCompile(`(?i)\bvalid e-?mail(?: address)?\b|\bgültige e-?mail(?:-adresse)?\b`)
	whole    = regexp.MustCompile(`(?i)\bwhole (?:number|hours?|days?|years?|euros?|pounds?)\b|\binteger\b|\bganze zahl\b|\bganzzahlig\b|\bno decimals\b|\bkeine (?:nachkomma|dezimal)stellen\b`)
	decimals = regexp.MustCompile(`(?i)\b(?:at most |up to |höchstens |maximal |bis zu )?(\d|one|two|three|zwei|drei) (?:decimals|decimal places|nachkommastellen|dezimalstellen)\b`)
	noFuture = regexp.MustCompile(`(?i)\b(?:not|never) (?:be |lie )?in the future\b|\bmust (?:be|lie) in the past\b|\bnicht in der zukunft\b|\bmuss in der vergangenheit\b`)
	noPast   = regexp.MustCompile(`(?i)\b(?:not|never) (?:be |lie )?in the past\b|\bmust (?:be|lie) in the future\b|\bnicht in der vergangenheit\b|\bmuss in der zukunft\b`)
	age      = regexp.MustCompile(`(?i)\b(?:must be|at least|mindestens|aged?|be) (\d{1,3})(?: years?(?: old| of age)?| jahre(?: alt)?)?(?: or (?:over|older))?\b`)
	years    = regexp.MustCompile(`(?i)\b(?:years?|or (?:over|older)|aged?|jahre)\b`)
	example  = regexp.MustCompile(`(?:(?i:format|such as|like|as in|e\.g\.|for example|wie|wie in|z\.\s?B\.|zum Beispiel)):?\s*["“„']?([A-Z]{1,4}[-/ ]?\d{2,10})\b`)
	same     = regexp.MustCompile(`(?i)\b(?:must (?:match|equal|be the same as|agree with)|the same as|repeats?|(?:muss|müssen) mit|wiederholt)\b`)
	needs    = regexp.MustCompile(`(?i)\b(?:contain|include|have|hold|enthalten|haben)\b|\b(?:mindestens|at least) (?:ein|a|an|one)`)
)

// number is one that a text names, in digits or as a word.
const number = `(\d{1,7}|one|two|three|four|five|six|seven|eight|nine|ten|twelve|ein|eine|einen|zwei|drei|vier|fünf|sechs|sieben|acht|neun|zehn|zwölf)`

var numbers = map[string]int{
	"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "twelve": 12,
	"ein": 1, "eine": 1, "einen": 1, "zwei": 2, "drei": 3, "vier": 4, "fünf": 5, "sechs": 6, "sieben": 7, "acht": 8, "neun": 9, "zehn": 10, "zwölf": 12,
}

// unit is what a length counts.
const unit = `\s+(?:(?:of the )?(?:small |capital |upper-?case |lower-?case )?(characters?|letters?|digits?|signs?|bytes?|zeichen|buchstaben|ziffern|stellen)\b)`

var (
	between = regexp.MustCompile(`(?i)(?:between |from |zwischen |von )?` + number + `\s*(?:to|and|-|–|bis|und)\s*` + number)
	atLeast = regexp.MustCompile(`(?i)\b(?:at least|no fewer than|not fewer than|a minimum of|minimum(?: of)?:?|min\.?:?|mindestens|wenigstens)\s+` + number)
	atMost  = regexp.MustCompile(`(?i)\b(?:at most|no more than|not more than|up to|a maximum of|maximum(?: of)?:?|max\.?:?|höchstens|maximal|bis zu|nicht mehr als|no longer than)\s+` + number)
	exactly = regexp.MustCompile(`(?i)\b(?:exactly|genau)\s+` + number)
	aUnit   = regexp.MustCompile(`(?i)^` + unit)
)

func count(text string) int {
	if n, is := numbers[strings.ToLower(text)]; is {
		return n
	}
	n, _ := strconv.Atoi(text) // at most seven digits
	return n
}

// rules are what a sentence says of a field.
func (r *reader) rules(f *spec.Field, text string) (out []spec.Rule) {
	add := func(rule spec.Rule) { out = append(out, rule) }
	if f.Kind == spec.Checkbox {
		if checked.MatchString(text) || blank.MatchString(text) {
			add(spec.Rule{MustBeChecked: &spec.MustBeChecked{}})
		}
		return out
	}
	if blank.MatchString(text) && !optional.MatchString(text) {
		add(spec.Rule{Required: &spec.Required{}})
	}
	if unique.MatchString(text) {
		if column := r.column(f); column != "" {
			add(spec.Rule{Unique: &spec.Unique{Column: column}})
		}
	}
	if address.MatchString(text) && (f.Kind == spec.Email || f.Kind == spec.Text) {
		add(spec.Rule{Email: &spec.EmailRule{}})
	}
	if other := r.other(f, text); other != nil && same.MatchString(text) {
		add(spec.Rule{SameAs: &spec.SameAs{Field: other.ID}})
	}
	switch f.Kind {
	case spec.Number:
		out = append(out, ofNumber(text)...)
	case spec.Date:
		out = append(out, ofDay(text)...)
	default:
		out = append(out, ofText(f, text)...)
	}
	return out
}

// column is where a field is stored, as far as the form says; "" where it does not.
func (r *reader) column(f *spec.Field) string {
	for i := range r.form.Stored {
		for _, c := range r.form.Stored[i].Sorted() {
			if c.From == f.ID {
				return r.form.Stored[i].Table() + "." + c.Name
			}
		}
	}
	return ""
}

// other is another field that a sentence names, of the same kind; nil for none.
func (r *reader) other(f *spec.Field, text string) *spec.Field {
	rest := strings.Replace(strings.ToLower(text), strings.ToLower(f.Label), " ", 1)
	for i := range r.form.Fields {
		o := &r.form.Fields[i]
		if o != f && o.Kind == f.Kind && len(o.Label) > 1 && holdsWord(rest, strings.ToLower(o.Label)) {
			return o
		}
	}
	if at := indexOf(r.form, f); at >= 0 {
		if of := draft.RepeatOf(r.form, at); of >= 0 {
			return &r.form.Fields[of]
		}
	}
	return nil
}

func indexOf(form *spec.Form, f *spec.Field) int {
	for i := range form.Fields {
		if &form.Fields[i] == f {
			return i
		}
	}
	return -1
}

// limits are the bounds that a text names: nil where it names none. behind is what follows the number.
func limits(text string) (low, high *int, behind string) {
	set := func(n int) *int { return &n }
	if at := between.FindStringSubmatchIndex(text); at != nil {
		return set(count(text[at[2]:at[3]])), set(count(text[at[4]:at[5]])), text[at[1]:]
	}
	if at := exactly.FindStringSubmatchIndex(text); at != nil {
		n := count(text[at[2]:at[3]])
		return set(n), set(n), text[at[1]:]
	}
	if at := atLeast.FindStringSubmatchIndex(text); at != nil {
		low, behind = set(count(text[at[2]:at[3]])), text[at[1]:]
	}
	if at := atMost.FindStringSubmatchIndex(text); at != nil {
		high, behind = set(count(text[at[2]:at[3]])), text[at[1]:]
	}
	return low, high, behind
}

func ofNumber(text string) (out []spec.Rule) {
	if whole.MatchString(text) {
		out = append(out, spec.Rule{Step: &spec.Step{By: "1"}})
	}
	bare := text
	if m := decimals.FindStringSubmatchIndex(text); m != nil {
		out = append(out, spec.Rule{Decimals: &spec.Decimals{Max: count(text[m[2]:m[3]])}})
		bare = text[:m[0]] + text[m[1]:]
	}
	low, high, _ := limits(bare)
	if low == nil && high == nil {
		return out
	}
	rule := &spec.RangeRule{}
	if low != nil {
		rule.Min = spec.Scalar(strconv.Itoa(*low))
	}
	if high != nil {
		rule.Max = spec.Scalar(strconv.Itoa(*high))
	}
	return append(out, spec.Rule{Range: rule})
}

func ofDay(text string) []spec.Rule {
	m := age.FindStringSubmatch(text)
	switch {
	case m != nil && years.MatchString(text):
		return []spec.Rule{{Range: &spec.RangeRule{Max: spec.Scalar("today - " + m[1] + " years")}}}
	case noPast.MatchString(text):
		return []spec.Rule{{Range: &spec.RangeRule{Min: "today"}}}
	case noFuture.MatchString(text):
		return []spec.Rule{{Range: &spec.RangeRule{Max: "today"}}}
	}
	return nil
}

// classes are the words for classes of characters, in the order in which patterns name them.
var classes = []struct {
	word  *regexp.Regexp
	class string
}{
	{regexp.MustCompile(`(?i)\b(?:small|lower-?case) letters?\b|\bkleinbuchstaben?\b`), "a-z"},
	{regexp.MustCompile(`(?i)\b(?:capital|upper-?case) letters?\b|\bcapitals?\b|\bgroßbuchstaben?\b`), "A-Z"},
	{regexp.MustCompile(`(?i)(?:^|[^a-zß-]|\b)(?:letters?|buchstaben?)\b`), "a-zA-Z"},
	{regexp.MustCompile(`(?i)\b(?:digits?|numerals?|ziffern?)\b`), "0-9"},
	{regexp.MustCompile(`(?i)\b(?:hyphens?|dash(?:es)?|bindestriche?n?)\b`), `\-`},
	{regexp.MustCompile(`(?i)\b(?:underscores?|unterstriche?n?)\b`), "_"},
	{regexp.MustCompile(`(?i)\b(?:spaces?|leerzeichen)\b`), " "},
	{regexp.MustCompile(`(?i)\b(?:full stops?|points?|dots?|punkte?n?)\b`), `\.`},
	{regexp.MustCompile(`(?i)\b(?:apostrophes?|apostrophe?n?)\b`), "'"},
}

// named are the classes of characters that a text names.
func named(text string) []string {
	var out []string
	for _, c := range classes {
		if c.class == "a-zA-Z" && len(out) > 0 {
			bare := text
			for _, special := range classes[:2] {
				bare = special.word.ReplaceAllString(bare, " ")
			}
			if !c.word.MatchString(bare) {
				continue
			}
		}
		if c.word.MatchString(text) {
			out = append(out, c.class)
		}
	}
	return out
}

// only says that a text holds the characters that are named and no others.
var only = regexp.MustCompile(`(?i)\b(?:only|nothing but|consists? of|made of|nur|ausschließlich|besteht aus)\b`)

// anySign is a unit of lengths that says nothing of which characters.
var anySign = regexp.MustCompile(`(?i)^(?:characters?|signs?|bytes?|zeichen|stellen)$`)

func ofText(f *spec.Field, text string) (out []spec.Rule) {
	low, high, behind := limits(text)
	unit := aUnit.FindStringSubmatch(behind)
	if (low != nil || high != nil) && unit != nil {
		length := &spec.Length{Max: high}
		if low != nil {
			length.Min = *low
		}
		if strings.HasPrefix(strings.ToLower(unit[1]), "byte") {
			length.In = "bytes"
		}
		out = append(out, spec.Rule{Length: length})
	}
	if m := example.FindStringSubmatch(text); m != nil {
		return append(out, spec.Rule{Pattern: &spec.Pattern{Is: shape(m[1])}})
	}
	list := named(text)
	switch counted := unit != nil && !anySign.MatchString(unit[1]); {
	case len(list) == 0:
	case needs.MatchString(text) && !only.MatchString(text) && !counted:
		pattern := ""
		for _, class := range list {
			pattern += "(?=.*[" + class + "])"
		}
		out = append(out, spec.Rule{Pattern: &spec.Pattern{Is: pattern + ".*"}})
	case !f.IsSecret() && (only.MatchString(text) || counted):
		out = append(out, spec.Rule{Characters: &spec.Characters{Of: strings.Join(list, "")}})
	}
	return out
}

// shape is the pattern of a value that a text shows as an example: its letters as they stand, its digits any.
func shape(example string) string {
	at := strings.IndexAny(example, "0123456789")
	return regexp.QuoteMeta(example[:at]) + fmt.Sprintf(`\d{%d}`, len(example)-at)
}
