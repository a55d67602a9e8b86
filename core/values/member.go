package values

import (
	"strings"
	"unicode"
)

// Want tells which member of a set is asked for.
type Want struct {
	// Unit and Length ask for an exact length; Length -1 leaves it open, near to the hint's.
	Unit   Unit
	Length int
	// Hint is what the member should look like; its characters are taken in order wherever the set lets them stand.
	Hint string
	// Seed chooses among the characters where the hint is used up. Other seeds give other members, where there are others.
	Seed uint64
	// Wide asks for characters beyond ASCII wherever the set allows them.
	Wide bool
}

// preferred are the characters a value is filled with, best first.
var preferred = []Runes{{{'a', 'z'}}, {{'0', '9'}}, {{'A', 'Z'}}, {{'-', '-'}}, {{'.', '.'}}, {{'_', '_'}}, {{'!', '~'}}, {{' ', ' '}}}

// wideRunes are letters of two bytes in UTF-8 that every font has.
var wideRunes = Runes{{'à', 'ö'}, {'ø', 'ÿ'}}

// Member constructs a member. The search goes character by character and remembers dead ends, so that it ends on every set
// whose limits are bounded; ok is false when there is none.
func (s Set) Member(want Want) (value string, ok bool) {
	auto := s.auto
	if want.Wide {
		if v, ok := s.memberOf(auto, want); ok {
			return v, true
		}
		want.Wide = false
	}
	if ascii := s.printable(); ascii != nil {
		if v, ok := s.memberOf(ascii, want); ok {
			return v, true
		}
	}
	return s.memberOf(auto, want)
}

type search struct {
	auto   *Automaton
	dead   []bool
	limits []Limit // graphemes left out: checked at the end
	counts []int
	failed map[string]bool
	out    []rune
	hint   []rune
	want   Want
	tries  int
	check  func(string) bool
	choice [][]Range // by class: its ranges, preferred first
}

// maxTries bounds one construction.
const maxTries = 400_000

func (s Set) memberOf(auto *Automaton, want Want) (string, bool) {
	sr := &search{auto: auto, dead: auto.deadStates(), failed: map[string]bool{}, hint: []rune(want.Hint), want: want}
	for _, l := range s.limits {
		if l.Unit != Graphemes {
			sr.limits = append(sr.limits, l)
		}
	}
	if want.Length >= 0 {
		sr.limits = append(sr.limits, Limit{want.Unit, want.Length, want.Length})
	}
	sr.check = func(v string) bool {
		for _, l := range s.limits {
			if l.Unit == Graphemes && !l.Admits(v) {
				return false
			}
		}
		return want.Length < 0 || want.Unit.Length(v) == want.Length
	}
	for _, l := range sr.limits {
		if l.Max >= 0 && l.Min > l.Max {
			return "", false
		}
	}
	sr.counts = make([]int, len(sr.limits))
	if sr.dead[0] {
		return "", false
	}
	sr.choice = auto.choices(want.Wide)
	if want.Length < 0 {
		// an open length ends as near to the hint's as it can
		for _, target := range sr.targets() {
			sr.failed, sr.out, sr.tries = map[string]bool{}, sr.out[:0], 0
			if sr.walk(0, 0, target) {
				return string(sr.out), true
			}
		}
		return "", false
	}
	if sr.walk(0, 0, -1) {
		return string(sr.out), true
	}
	return "", false
}

// targets are lengths in characters to try, nearest to the hint's first; -1 is any.
func (sr *search) targets() []int {
	hint := len(sr.hint)
	if hint == 0 {
		hint = 8
	}
	var out []int
	for d := range 40 {
		out = append(out, hint+d)
		if d > 0 && hint-d >= 0 {
			out = append(out, hint-d)
		}
	}
	return append(out, -1)
}

// choices lists by class its ranges, those that values are preferably filled with first.
func (a *Automaton) choices(wide bool) [][]Range {
	if wide {
		return a.computeChoices(append([]Runes{wideRunes}, preferred...))
	}
	a.choiceOnce.Do(func() { a.choice = a.computeChoices(preferred) })
	return a.choice
}

func (a *Automaton) computeChoices(order []Runes) [][]Range {
	out := make([][]Range, a.classes)
	members := make([]Runes, a.classes)
	for i, lo := range a.cuts {
		hi := rune(unicode.MaxRune)
		if i+1 < len(a.cuts) {
			hi = a.cuts[i+1] - 1
		}
		c := a.class[i]
		if runeLen(lo) > 0 {
			members[c] = append(members[c], Range{lo, hi})
		}
	}
	for c, set := range members {
		for _, p := range order {
			out[c] = append(out[c], set.And(p)...)
		}
		out[c] = append(out[c], set...)
	}
	return out
}

// walk extends the value from a state; length target in characters, -1 for any that the limits allow.
func (sr *search) walk(state int32, hintAt, target int) bool {
	sr.tries++
	if sr.tries > maxTries || sr.dead[state] {
		return false
	}
	done := target < 0 || len(sr.out) == target
	for i, l := range sr.limits {
		if l.Max >= 0 && sr.counts[i] > l.Max {
			return false
		}
		done = done && sr.counts[i] >= l.Min
	}
	if done && sr.auto.accept[state] && sr.check(string(sr.out)) {
		return true
	}
	if target >= 0 && len(sr.out) >= target {
		return false
	}
	key := sr.key(state)
	if sr.failed[key] {
		return false
	}
	for _, next := range sr.candidates(state, hintAt) {
		for i, l := range sr.limits {
			sr.counts[i] += l.Unit.of(next.r)
		}
		sr.out = append(sr.out, next.r)
		to := sr.auto.next[int(state)*sr.auto.classes+int(sr.auto.of(next.r))]
		if sr.walk(to, next.hintAt, target) {
			return true
		}
		sr.out = sr.out[:len(sr.out)-1]
		for i, l := range sr.limits {
			sr.counts[i] -= l.Unit.of(next.r)
		}
	}
	sr.failed[key] = true
	return false
}

func (sr *search) key(state int32) string {
	b := appendInt32(make([]byte, 0, 8+4*len(sr.counts)), state)
	b = appendInt32(b, int32(len(sr.out)))
	for _, n := range sr.counts {
		b = appendInt32(b, int32(n))
	}
	return string(b)
}

type candidate struct {
	r      rune
	hintAt int
}

// candidates lists one character for each class that can stand next, best first: the hint's, then a preferred one.
func (sr *search) candidates(state int32, hintAt int) []candidate {
	row := sr.auto.next[int(state)*sr.auto.classes : (int(state)+1)*sr.auto.classes]
	var out []candidate
	hinted := -1
	for i := hintAt; i < len(sr.hint); i++ {
		if c := int(sr.auto.of(sr.hint[i])); !sr.dead[row[c]] && (!sr.want.Wide || sr.hint[i] > 0x7F) {
			out = append(out, candidate{sr.hint[i], i + 1})
			hinted = c
			break
		}
	}
	type ranked struct {
		class, rank int
		r           rune
	}
	var rest []ranked
	for c, to := range row {
		if sr.dead[to] || len(sr.choice[c]) == 0 || c == hinted && sr.want.Length < 0 && len(sr.choice[c]) == 1 {
			continue
		}
		r := sr.pick(c)
		rest = append(rest, ranked{c, sr.rank(r), r})
	}
	for i := 1; i < len(rest); i++ {
		for j := i; j > 0 && rest[j].rank < rest[j-1].rank; j-- {
			rest[j], rest[j-1] = rest[j-1], rest[j]
		}
	}
	for _, x := range rest {
		out = append(out, candidate{x.r, hintAt})
	}
	return out
}

func (sr *search) rank(r rune) int {
	if sr.want.Wide && wideRunes.Has(r) {
		return -1
	}
	for i, p := range preferred {
		if p.Has(r) {
			return i
		}
	}
	return len(preferred)
}

// pick takes one character of a class, of its best range, by the seed and the place.
func (sr *search) pick(class int) rune {
	best := sr.choice[class][0]
	n := uint64(best.Hi - best.Lo + 1)
	return best.Lo + rune(mix(sr.want.Seed+uint64(len(sr.out))*0x9E3779B97F4A7C15)%n)
}

// mix is the finaliser of SplitMix64 (Steele, Lea, Flood 2014).
func mix(z uint64) uint64 {
	z = (z ^ z>>30) * 0xBF58476D1CE4E5B9
	z = (z ^ z>>27) * 0x94D049BB133111EB
	return z ^ z>>31
}

// Token writes a seed as n letters and digits that start with a letter: the part of a value that makes it new.
func Token(seed uint64, n int) string {
	const letters, all = "bcdfghjkmnpqrstvwxz", "bcdfghjkmnpqrstvwxz23456789"
	var b strings.Builder
	for i := range n {
		seed = mix(seed + 0x9E3779B97F4A7C15)
		if i == 0 {
			b.WriteByte(letters[seed%uint64(len(letters))])
		} else {
			b.WriteByte(all[seed%uint64(len(all))])
		}
	}
	return b.String()
}

// Seed mixes numbers and text into one seed.
func Seed(run uint64, parts ...string) uint64 {
	h := mix(run + 0x9E3779B97F4A7C15)
	for _, p := range parts {
		for i := range len(p) {
			h = (h ^ uint64(p[i])) * 0x100000001B3
		}
		h = mix(h + 0x9E3779B97F4A7C15)
	}
	return h
}
