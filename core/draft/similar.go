package draft

import (
	"strings"
	"unicode"

	"oddtick/core/spec"
)

// same are words of forms and tables that mean the same thing; each line is one meaning.
var same = func() map[string]string {
	out := map[string]string{}
	for _, line := range []string{
		"user username login loginname account nick nickname handle",
		"mail email emailaddress",
		"password pass passwd pwd passphrase secret hash passhash passwordhash",
		"birth born birthday birthdate dob dateofbirth",
		"phone telephone tel mobile",
		"first forename given firstname givenname",
		"last surname family lastname familyname",
		"zip postcode postal postalcode zipcode",
		"street road address addr",
		"town city place",
		"note remark comment message text notes",
		"agreed agree accepted accept terms consent rules tos",
		"number no num nr",
		"member membership",
		"amount quantity count qty",
		"from start begin begins since",
		"to until end ends till",
		"picture photo image file upload",
		"ref referral referrer reference",
		"created made added registered",
		"source origin channel",
		"kilos weight kg mass",
		"area region zone field",
		"size metres sqm m2",
	} {
		words := strings.Fields(line)
		for _, w := range words {
			out[w] = words[0]
		}
	}
	return out
}()

// fillers say nothing about what is held.
var fillers = map[string]bool{"the": true, "a": true, "your": true, "of": true, "is": true, "code": true, "id": true, "key": true, "value": true, "field": true, "txt": true, "ddl": true, "chk": true, "input": true, "if": true, "you": true, "have": true, "i": true, "one": true, "how": true, "us": true, "form": true, "on": true}

// wordsOf splits a name into small words: at signs, at capitals and between letters and digits. Words that mean the same are one.
func wordsOf(name string) []string {
	var out []string
	var b strings.Builder
	flush := func() {
		if w := b.String(); w != "" {
			if s, ok := same[w]; ok {
				w = s
			} else if s, ok := same[strings.TrimSuffix(w, "s")]; ok {
				w = s
			}
			out = append(out, w)
		}
		b.Reset()
	}
	var before rune
	for _, r := range name {
		switch {
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			flush()
		default:
			if unicode.IsUpper(r) && unicode.IsLower(before) || unicode.IsDigit(r) != unicode.IsDigit(before) && before != 0 && b.Len() > 0 {
				flush()
			}
			b.WriteRune(unicode.ToLower(r))
		}
		before = r
	}
	flush()
	return joined(out)
}

// joined makes one word of two that together are one: e_mail, user name.
func joined(words []string) []string {
	var out []string
	for i := 0; i < len(words); i++ {
		if i+1 < len(words) {
			if s, ok := same[words[i]+words[i+1]]; ok {
				out = append(out, s)
				i++
				continue
			}
		}
		out = append(out, words[i])
	}
	return out
}

// Likeness is how like the names of a field and of a column are, from 0 to 1; 0 where that is no hint.
func Likeness(f *spec.Field, column string) float64 {
	like := max(similarity(f.Name, column), similarity(f.ID, column), similarity(f.Label, column))
	if like < leastSure {
		return 0
	}
	return like
}

// similarity is how like each other two names are, from 0 to 1: the share of their words that match, filler words counting little,
// each pair of words by the letters they share in pairs (Dice's coefficient, Ecology 26, 1945).
func similarity(a, b string) float64 {
	x, y := wordsOf(a), wordsOf(b)
	if len(x) == 0 || len(y) == 0 {
		return 0
	}
	total, matched := 0.0, 0.0
	for _, pair := range [][2][]string{{x, y}, {y, x}} {
		for _, w := range pair[0] {
			weight := 1.0
			if fillers[w] {
				weight = 0.2
			}
			best := 0.0
			for _, v := range pair[1] {
				best = max(best, dice(w, v))
			}
			if best < 0.5 {
				best = 0
			}
			total += weight
			matched += weight * best
		}
	}
	return matched / total
}

func dice(a, b string) float64 {
	if a == b {
		return 1
	}
	if len(a) < 2 || len(b) < 2 {
		return 0
	}
	pairs := map[string]int{}
	for i := range len(a) - 1 {
		pairs[a[i:i+2]]++
	}
	shared := 0
	for i := range len(b) - 1 {
		if pairs[b[i:i+2]] > 0 {
			pairs[b[i:i+2]]--
			shared++
		}
	}
	return 2 * float64(shared) / float64(len(a)+len(b)-2)
}
