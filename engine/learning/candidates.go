package learning

import (
	"cmp"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/draft"
	"oddtick/core/learn"
	"oddtick/core/spec"
	"oddtick/core/values"
	"oddtick/engine/manual"
)

// candidates are values that a form may accept, by field; a field whose value is refused goes on to its next.
type candidates struct {
	form  *spec.Form
	list  map[string][]string
	at    map[string]int
	whole manual.Values
	round int
}

// newCandidates begins with a sample of values; fixed fields keep theirs, and a tester's own go before all others.
func newCandidates(form *spec.Form, sample map[string][]string, own manual.Values, fixed func(*spec.Field) bool) *candidates {
	c := &candidates{form: form, list: map[string][]string{}, at: map[string]int{}, whole: manual.Values{}}
	for i := range form.Fields {
		f := &form.Fields[i]
		if list, is := sample[f.ID]; is { // what a page's own hidden control holds is sent as it is
			c.whole[f.ID] = list
		}
		if given, is := own[f.ID]; is {
			c.whole[f.ID] = given
			continue
		}
		switch {
		case fixed(f):
		case f.Kind == spec.Checkbox && len(sample[f.ID]) == 0:
			c.list[f.ID] = []string{"", cmp.Or(f.Value, "on")}
		case len(sample[f.ID]) == 1:
			c.list[f.ID] = append(slices.Clone(sample[f.ID]), guesses(f)...)
		}
	}
	return c
}

// guesses are values that fields of a kind often accept.
func guesses(f *spec.Field) []string {
	today := time.Now()
	switch f.Kind {
	case spec.Text, spec.Textarea:
		return []string{"Fern Moss", "fernmoss", "FernMoss7", "fm7", "47110815"}
	case spec.Password:
		return []string{"Fern-Moss-4711!", "FernMoss4711", "471108"}
	case spec.Tel:
		return []string{"01632 960123", "+441632960123", "01632960123"}
	case spec.Number:
		return []string{"2", "5", "10", "20", "50", "100", "1000"}
	case spec.Date:
		var out []string
		for _, days := range []int{1, 7, -7, 30, 0} {
			out = append(out, today.AddDate(0, 0, days).Format(values.DateLayout))
		}
		for _, layout := range []string{values.DateLayout, "02.01.2006", "02/01/2006", "01/02/2006"} {
			out = append(out, time.Date(1985, 5, 17, 0, 0, 0, 0, time.UTC).Format(layout), today.AddDate(0, 0, 7).Format(layout))
		}
		return out
	case spec.Checkbox:
		return []string{f.Value}
	case spec.SingleChoice:
		var out []string
		for _, o := range f.Options {
			out = append(out, o.Value)
		}
		return out
	}
	return nil
}

// values are those that come next.
func (c *candidates) values() manual.Values {
	out := manual.Values{}
	for id, list := range c.whole {
		out[id] = list
	}
	for i := range c.form.Fields {
		f := &c.form.Fields[i]
		own := c.list[f.ID]
		if len(own) == 0 {
			continue
		}
		out[f.ID] = []string{own[c.at[f.ID]]}
		if f.Kind == spec.Checkbox && own[c.at[f.ID]] == "" { // unchecked
			out[f.ID] = nil
		}
	}
	c.round++
	return out
}

// aShape is a text with letters and digits such as OS-1234, as messages show by example.
var aShape = regexp.MustCompile(`\b[A-Z]{1,4}[-/ ]?[0-9]{2,8}\b`)

// described is a shape in words: what it begins with, and how many digits or letters follow.
var described = regexp.MustCompile(`(?i:(?P<start>(?-i:\b[A-Z]{1,4}[-/]?))\s*(?:and|then|plus|und|followed by|gefolgt von)\s+)?(?i:\b(?P<count>\d+|two|three|four|five|six|seven|eight|nine|ten|zwei|drei|vier|fünf|sechs|sieben|acht|neun|zehn))\s+(?i:(?P<of>digits?|ziffern?|letters?|buchstaben?))`)

// counts are the numbers that texts write as words.
var counts = map[string]int{
	"two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10,
	"zwei": 2, "drei": 3, "vier": 4, "fünf": 5, "sechs": 6, "sieben": 7, "acht": 8, "neun": 9, "zehn": 10,
}

// shapes are values of the shapes that a text describes or shows.
func shapes(text string, n int) []string {
	var out []string
	for _, shape := range aShape.FindAllString(text, -1) {
		out = append(out, learn.Varied(shape, spec.Text, n))
	}
	for _, m := range described.FindAllStringSubmatch(text, -1) {
		count, is := counts[strings.ToLower(m[2])]
		if !is {
			count, _ = strconv.Atoi(m[2]) // which it is
		}
		if count < 1 || count > 40 {
			continue
		}
		sign := "4"
		if first := strings.ToLower(m[3])[0]; first == 'l' || first == 'b' {
			sign = "m"
		}
		out = append(out, m[1]+learn.Varied(strings.Repeat(sign, count), spec.Text, n))
	}
	return out
}

// aNumber is a number that a message names as a limit, and asksForOne what sites say that want one.
var (
	aNumber    = regexp.MustCompile(`\b\d+(?:\.\d+)?\b`)
	asksForOne = regexp.MustCompile(`(?i)\bnumber|\bnumeric|\bzahl`)
)

// numbers are those that a message may want: between two that it names, they themselves, or any.
func numbers(text string) []string {
	named := aNumber.FindAllString(text, -1)
	var out []string
	if len(named) == 2 {
		low, _ := strconv.ParseFloat(named[0], 64)
		high, _ := strconv.ParseFloat(named[1], 64)
		out = append(out, strconv.Itoa(int(low+high)/2))
	}
	if asksForOne.MatchString(text) {
		out = append(out, "7")
	}
	return append(out, named...)
}

// suggested are values that a message describes or shows.
func (c *candidates) suggested(f *spec.Field, message string) []string {
	message = strings.ReplaceAll(message, f.Label, "") // which may speak of numbers itself
	return append(shapes(message, c.round), numbers(message)...)
}

// next puts values that were not tried yet behind one of a list, the last of them first.
func next(list []string, at int, values []string) []string {
	for _, one := range values {
		if !slices.Contains(list, one) {
			list = slices.Insert(list, at+1, one)
		}
	}
	return list
}

// mend goes on to the next values of the fields of which something is said. It tells whether there was one. A value that is only taken
// already is varied.
func (c *candidates) mend(said []draft.SeenMessage) bool {
	went := false
	gone := map[string]bool{} // on, in this round
	for _, m := range said {
		list, is := c.list[m.Field]
		if !is || gone[m.Field] {
			continue
		}
		gone[m.Field] = true
		i := slices.IndexFunc(c.form.Fields, func(f spec.Field) bool { return f.ID == m.Field })
		now := list[c.at[m.Field]]
		var better []string
		if len(c.form.Fields[i].Options) == 0 { // of a list nothing else can be chosen
			better = c.suggested(&c.form.Fields[i], m.Text)
		}
		if taken.MatchString(m.Text) {
			better = append(better, learn.Varied(now, c.form.Fields[i].Kind, 1000+c.round))
		}
		list = next(list, c.at[m.Field], better)
		c.list[m.Field] = list
		if c.at[m.Field]+1 < len(list) {
			c.at[m.Field]++
			went = true
		}
	}
	return went
}

// taken is what sites say of a value that another has already.
var taken = regexp.MustCompile(`(?i)` + strings.Join([]string{"taken", "already", "exists", "in use", "vergeben", "bereits", "schon"}, "|"))
