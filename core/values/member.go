package values

import (
	"iter"
	"slices"
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
	// LeadingZeros lets numbers within the value begin with 0 where the hint does not ask for it.
	LeadingZeros bool
}

// preferred are the characters a value is filled with, best first.
var preferred = []Runes{{{'a', 'z'}}, {{'0', '9'}}, {{'A', 'Z'}}, {{'-', '-'}}, {{'.', '.'}}, {{'_', '_'}}, {{'!', '~'}}, {{' ', ' '}}}

// wideRunes are letters of two bytes in UTF-8 that every font has.
var wideRunes = Runes{{'à', 'ö'}, {'ø', 'ÿ'}}

// Member constructs a member. The search goes character by character and remembers dead ends, so that it ends on every set
// whose limits are bounded; ok is false when there is none.
func (s Set) Member(want Want) (value string, ok bool) {
	if s.auto.Empty() {
		return "", false
	}
	if want.Wide {
		if v, ok := s.search(want, false); ok {
			return v, true
		}
		want.Wide = false
	}
	if strings.ContainsFunc(want.Hint, func(r rune) bool { return !printableASCII(r) }) {
		if v, ok := s.search(want, false); ok {
			return v, true
		}
	}
	if v, ok := s.search(want, true); ok {
		return v, true
	}
	return s.search(want, false)
}

type search struct {
	auto   *Automaton
	dead   []bool
	limits []Limit // graphemes as characters; checked at the end
	counts [maxLimits]int32
	failed map[place]bool
	out    []rune
	hint   []rune
	want   Want
	tries  int
	check  func(string) bool
	choice [][]Range  // by class: its ranges, preferred first
	order  [][]uint16 // by state: the classes that can stand next, preferred first
	ascii  bool       // only printable ASCII may be used
}

// maxLimits is how many limits are followed while a member is built; any more are only checked at its end.
const maxLimits = 4

// place is all that decides whether a value can still be ended well.
type place struct {
	state, length int32
	counts        [maxLimits]int32
}

// maxTries bounds one construction.
const maxTries = 150_000

func (s Set) search(want Want, ascii bool) (string, bool) {
	auto := s.auto
	sr := &search{auto: auto, ascii: ascii, dead: auto.deadStates(), hint: []rune(want.Hint), want: want}
	if ascii {
		sr.dead = auto.deadPlainStates()
	}
	limits := s.limits
	if want.Length >= 0 {
		limits = append([]Limit{{want.Unit, want.Length, want.Length}}, limits...)
	}
	var unfollowed []Limit
	for _, l := range limits {
		if l.Unit == Graphemes {
			unfollowed = append(unfollowed, l)
			l = l.inCharacters()
		}
		if len(sr.limits) == maxLimits {
			unfollowed = append(unfollowed, l)
		} else {
			sr.limits = append(sr.limits, l)
		}
	}
	sr.check = func(v string) bool {
		for _, l := range unfollowed {
			if !l.Admits(v) {
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
	if sr.dead[0] {
		return "", false
	}
	sr.choice, sr.order = auto.choices(want.Wide)
	if want.Length < 0 {
		// an open length ends as near to the hint's as it can
		spent := 0
		for target := range sr.targets {
			if target >= 0 && spent > maxTries {
				continue // the last one leaves the length open
			}
			clear(sr.failed)
			sr.out, sr.tries, sr.counts = sr.out[:0], 0, [maxLimits]int32{}
			if sr.walk(0, 0, target) {
				return string(sr.out), true
			}
			spent += sr.tries
		}
		return "", false
	}
	if sr.walk(0, 0, -1) {
		return string(sr.out), true
	}
	return "", false
}

// maxGraphemeLength is how many characters one grapheme is looked for in.
const maxGraphemeLength = 8

// inCharacters bounds the characters of what has so many graphemes, each of one character or some more.
func (l Limit) inCharacters() Limit {
	out := Limit{Characters, l.Min, -1}
	if l.Max >= 0 {
		out.Max = l.Max * maxGraphemeLength
	}
	return out
}

// targets yields lengths in characters to try, nearest to the hint's first; -1 is any.
func (sr *search) targets(yield func(int) bool) {
	hint := len(sr.hint)
	if hint == 0 {
		hint = 8
	}
	for d := range 40 {
		if !yield(hint+d) || d > 0 && hint-d >= 0 && !yield(hint-d) {
			return
		}
	}
	yield(-1)
}

// choices lists by class its ranges, those that values are preferably filled with first, and by state the classes in that order.
func (a *Automaton) choices(wide bool) ([][]Range, [][]uint16) {
	if wide {
		choice := a.computeChoices(append([]Runes{wideRunes}, preferred...))
		return choice, a.computeOrder(choice, true)
	}
	a.choiceOnce.Do(func() {
		a.choice = a.computeChoices(preferred)
		a.order = a.computeOrder(a.choice, false)
	})
	return a.choice, a.order
}

func (a *Automaton) computeOrder(choice [][]Range, wide bool) [][]uint16 {
	classes := make([]uint16, 0, a.classes)
	for c := range a.classes {
		if len(choice[c]) > 0 {
			classes = append(classes, uint16(c))
		}
	}
	slices.SortStableFunc(classes, func(x, y uint16) int { return rank(choice[x][0].Lo, wide) - rank(choice[y][0].Lo, wide) })
	dead := a.deadStates()
	out := make([][]uint16, len(a.accept))
	for s := range out {
		for _, c := range classes {
			if !dead[a.next[s*a.classes+int(c)]] {
				out[s] = append(out[s], c)
			}
		}
	}
	return out
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
		if l.Max >= 0 && int(sr.counts[i]) > l.Max {
			return false
		}
		done = done && int(sr.counts[i]) >= l.Min
	}
	if done && sr.auto.accept[state] && sr.check(string(sr.out)) {
		return true
	}
	if target >= 0 && len(sr.out) >= target {
		return false
	}
	at := place{state, int32(len(sr.out)), sr.counts}
	if sr.failed[at] {
		return false
	}
	if r, next, ok := sr.hinted(state, hintAt); ok && sr.try(state, r, next, target) {
		return true
	}
	for c := range sr.classes(state) {
		if sr.ascii && !printableASCII(sr.choice[c][0].Lo) {
			break // they are in order, and none of those that follow is
		}
		if sr.try(state, sr.pick(c), hintAt, target) {
			return true
		}
	}
	if sr.failed == nil {
		sr.failed = map[place]bool{}
	}
	sr.failed[at] = true
	return false
}

// classes yields the classes that can stand next, preferred first. Of those preferred most the seed says which one is the first, each as
// likely as it has characters, so that two seeds are as likely to give two values as the pattern lets them.
func (sr *search) classes(state int32) iter.Seq[int] {
	return func(yield func(int) bool) {
		order := sr.order[state]
		first := sr.first(order)
		if first >= 0 && !yield(int(order[first])) {
			return
		}
		for i, c := range order {
			if i != first && !yield(int(c)) {
				return
			}
		}
	}
}

// first is the index of the class to begin with, -1 where they are taken as they stand.
func (sr *search) first(order []uint16) int {
	n, total := 0, uint64(0)
	for ; n < len(order) && sr.rank(order[n]) == sr.rank(order[0]); n++ {
		total += sr.size(order[n])
	}
	if n < 2 || total == 0 {
		return -1
	}
	at := sr.drawn() % total
	for i, c := range order[:n] {
		if at < sr.size(c) {
			return i
		}
		at -= sr.size(c)
	}
	return -1
}

func (sr *search) rank(class uint16) int { return rank(sr.choice[class][0].Lo, sr.want.Wide) }

// size is of how many characters one of the class is picked, 0 for the 0 alone where no number is to begin with it.
func (sr *search) size(class uint16) uint64 {
	r := sr.best(int(class))
	if r.Lo == '0' && r.Hi == '0' && !sr.want.LeadingZeros && !sr.afterDigit() {
		return 0
	}
	return uint64(r.Hi - r.Lo + 1)
}

// drawn is a number by the seed and the place.
func (sr *search) drawn() uint64 { return mix(sr.want.Seed + uint64(len(sr.out))*0x9E3779B97F4A7C15) }

// hinted is the hint's next character that can stand here.
func (sr *search) hinted(state int32, hintAt int) (r rune, next int, ok bool) {
	row := sr.auto.next[int(state)*sr.auto.classes:]
	for i := hintAt; i < len(sr.hint); i++ {
		if r := sr.hint[i]; !sr.dead[row[sr.auto.of(r)]] && (!sr.want.Wide || r > 0x7F) && (!sr.ascii || printableASCII(r)) {
			return r, i + 1, true
		}
	}
	return 0, 0, false
}

// try puts a character and goes on; if that leads nowhere it is taken back.
func (sr *search) try(state int32, r rune, hintAt, target int) bool {
	for i, l := range sr.limits {
		sr.counts[i] += int32(l.Unit.of(r))
	}
	sr.out = append(sr.out, r)
	if sr.walk(sr.auto.next[int(state)*sr.auto.classes+int(sr.auto.of(r))], hintAt, target) {
		return true
	}
	sr.out = sr.out[:len(sr.out)-1]
	for i, l := range sr.limits {
		sr.counts[i] -= int32(l.Unit.of(r))
	}
	return false
}

func printableASCII(r rune) bool { return r >= ' ' && r <= '~' }

func rank(r rune, wide bool) int {
	if wide && wideRunes.Has(r) {
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
	best := sr.best(class)
	return best.Lo + rune(sr.drawn()%uint64(best.Hi-best.Lo+1))
}

// best is the range of a class that is picked from: no 0 that a number would begin with, unless there is nothing else.
func (sr *search) best(class int) Range {
	best := sr.choice[class][0]
	if best.Lo == '0' && best.Hi > '0' && !sr.want.LeadingZeros && !sr.afterDigit() {
		best.Lo = '1'
	}
	return best
}

func (sr *search) afterDigit() bool {
	n := len(sr.out)
	return n > 0 && sr.out[n-1] >= '0' && sr.out[n-1] <= '9'
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
