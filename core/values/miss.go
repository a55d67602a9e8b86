package values

import (
	"iter"
	"unicode"
)

// Miss is a value one edit away from a member.
type Miss struct {
	Value string
	// Kind says what the edit did, in words and without the value: "a space inside", "one character fewer".
	Kind string
	// Role is the kind as an identifier.
	Role string
}

// missRunes are what is put into a value to make it miss, each with its name.
var missRunes = []struct {
	r          rune
	role, name string
}{
	{' ', "space", "a space"},
	{'_', "underscore", "an underscore"},
	{'.', "dot", "a dot"},
	{'\'', "quote", "a quotation mark"},
	{'é', "accent", "an accented letter"},
	{'а', "look_alike", "a Cyrillic look-alike letter"},
	{'٣', "other_digit", "a digit of another script"},
	{'7', "digit", "a digit"},
	{'x', "letter", "a letter"},
	{'X', "capital", "a capital letter"},
	{'🌱', "emoji", "an emoji"},
}

// NearestMisses yields the values one edit away from member (a character less, more, or another) that the target set holds,
// at most one of each kind, in a fixed order.
func NearestMisses(member string, target func(string) bool) iter.Seq[Miss] {
	return func(yield func(Miss) bool) { nearestMisses(member, target, yield) }
}

func nearestMisses(member string, target func(string) bool, yield func(Miss) bool) {
	in := []rune(member)
	ended := false
	add := func(v []rune, role, kind string) bool {
		if ended {
			return true
		}
		s := string(v)
		if !target(s) {
			return false
		}
		ended = !yield(Miss{Value: s, Kind: kind, Role: role})
		return true
	}
	with := func(at int, r rune, drop int) []rune {
		v := append([]rune{}, in[:at]...)
		if r >= 0 {
			v = append(v, r)
		}
		return append(v, in[at+drop:]...)
	}
	for _, at := range []int{len(in) - 1, 0, len(in) / 2} {
		if at >= 0 && at < len(in) && add(with(at, -1, 1), "fewer", "one character fewer") {
			break
		}
	}
	for i, r := range in {
		if unicode.IsUpper(r) && add(with(i, unicode.ToLower(r), 1), "lower", "a capital made small") ||
			unicode.IsLower(r) && add(with(i, unicode.ToUpper(r), 1), "upper", "a small letter made capital") {
			break
		}
	}
	for i, r := range in {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && add(with(i, -1, 1), "without_sign", "without its "+string(r)) {
			break
		}
	}
	for _, m := range missRunes {
		done := false
		for at := len(in) / 2; at < len(in) && !done; at++ {
			done = add(with(at, m.r, 1), m.role, m.name+" inside")
		}
		for at := len(in); at >= 0 && !done; at-- {
			done = add(with(at, m.r, 0), m.role+"_more", m.name+" more")
		}
	}
}
