package values

import (
	"iter"
	"unicode"
)

// Miss is a value one edit away from a member.
type Miss struct {
	Value string
	Edit  MissEdit
	// Sign is the sign that is left out or put in.
	Sign Sign
	// Role is the edit and its sign as an identifier.
	Role string
}

// MissEdit is what was done to a member.
type MissEdit string

// What is done to a member.
const (
	OneFewer     MissEdit = "fewer"        // a character is left out
	CapitalSmall MissEdit = "lower"        // a capital is made small
	SmallCapital MissEdit = "upper"        // a small letter is made capital
	WithoutSign  MissEdit = "without_sign" // its sign is left out
	SignInside   MissEdit = "inside"       // a character is replaced by the sign
	SignMore     MissEdit = "more"         // the sign is put in
)

// Sign is a character and its name.
type Sign struct {
	Rune rune
	Name string
}

// missSigns are what is put into a value to make it miss.
var missSigns = []Sign{
	{' ', "space"},
	{'_', "underscore"},
	{'.', "dot"},
	{'\'', "quote"},
	{'é', "accent"},
	{'а', "look_alike"},
	{'٣', "other_digit"},
	{'7', "digit"},
	{'x', "letter"},
	{'X', "capital"},
	{'🌱', "emoji"},
}

// NearestMisses yields the values one edit away from member (a character less, more, or another) that the target set holds,
// at most one of each kind, in a fixed order.
func NearestMisses(member string, target func(string) bool) iter.Seq[Miss] {
	return func(yield func(Miss) bool) { nearestMisses(member, target, yield) }
}

func nearestMisses(member string, target func(string) bool, yield func(Miss) bool) {
	in := []rune(member)
	ended := false
	add := func(v []rune, edit MissEdit, sign Sign, role string) bool {
		if ended {
			return true
		}
		s := string(v)
		if !target(s) {
			return false
		}
		ended = !yield(Miss{Value: s, Edit: edit, Sign: sign, Role: role})
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
		if at >= 0 && at < len(in) && add(with(at, -1, 1), OneFewer, Sign{}, string(OneFewer)) {
			break
		}
	}
	for i, r := range in {
		if unicode.IsUpper(r) && add(with(i, unicode.ToLower(r), 1), CapitalSmall, Sign{}, string(CapitalSmall)) ||
			unicode.IsLower(r) && add(with(i, unicode.ToUpper(r), 1), SmallCapital, Sign{}, string(SmallCapital)) {
			break
		}
	}
	for i, r := range in {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) && add(with(i, -1, 1), WithoutSign, Sign{Rune: r}, string(WithoutSign)) {
			break
		}
	}
	for _, m := range missSigns {
		done := false
		for at := len(in) / 2; at < len(in) && !done; at++ {
			done = add(with(at, m.Rune, 1), SignInside, m, m.Name)
		}
		for at := len(in); at >= 0 && !done; at-- {
			done = add(with(at, m.Rune, 0), SignMore, m, m.Name+"_more")
		}
	}
}
