package values

import (
	"unicode/utf8"

	"github.com/rivo/uniseg"
)

// Unit is what a length is counted in.
type Unit string

const (
	// Characters are Unicode code points.
	Characters Unit = "characters"
	// UTF16 are UTF-16 code units, as a browser's maxlength counts.
	UTF16 Unit = "utf-16_units"
	// Bytes are bytes in UTF-8.
	Bytes Unit = "bytes"
	// Graphemes are extended grapheme clusters (UAX #29).
	Graphemes Unit = "graphemes"
)

// String is the unit in words.
func (u Unit) String() string {
	if u == UTF16 {
		return "UTF-16 units"
	}
	return string(u)
}

// Length counts a value.
func (u Unit) Length(value string) int {
	switch u {
	case Bytes:
		return len(value)
	case UTF16:
		n := 0
		for _, r := range value {
			n += u.of(r)
		}
		return n
	case Graphemes:
		return uniseg.GraphemeClusterCount(value)
	default:
		return utf8.RuneCountInString(value)
	}
}

// of is the length of one code point; for graphemes that of a lone one.
func (u Unit) of(r rune) int {
	switch {
	case u == Bytes:
		return utf8.RuneLen(r)
	case u == UTF16 && r >= 0x10000:
		return 2
	default:
		return 1
	}
}

// Limit bounds a length, both ends inclusive. Max -1 is no upper bound.
type Limit struct {
	Unit     Unit
	Min, Max int
}

// Admits reports whether a value's length lies within.
func (l Limit) Admits(value string) bool {
	n := l.Unit.Length(value)
	return n >= l.Min && (l.Max < 0 || n <= l.Max)
}

// Set is a set of strings: those an automaton accepts and whose length lies within every limit.
type Set struct {
	auto   *Automaton
	limits []Limit
}

// NewSet makes a set.
func NewSet(auto *Automaton, limits ...Limit) Set { return Set{auto, limits} }

// Has reports membership.
func (s Set) Has(value string) bool {
	if !s.auto.Matches(value) {
		return false
	}
	for _, l := range s.limits {
		if !l.Admits(value) {
			return false
		}
	}
	return true
}

// Automaton is what accepts the members, their lengths aside.
func (s Set) Automaton() *Automaton { return s.auto }

// Of is the set of another automaton with the same limits.
func (s Set) Of(auto *Automaton) Set { return Set{auto, s.limits} }

// And keeps the members that the automaton accepts too.
func (s Set) And(auto *Automaton) (Set, error) {
	both, err := s.auto.And(auto)
	return s.Of(both), err
}

// Within adds a limit.
func (s Set) Within(l Limit) Set {
	s.limits = append(s.limits[:len(s.limits):len(s.limits)], l)
	return s
}

// Bounds returns the least and greatest length of a member in a unit, counting only what the automaton and the limits in that
// unit say. max is -1 when there is no upper bound; ok is false when there is no member.
func (s Set) Bounds(unit Unit) (lo, hi int, ok bool) {
	lo, hi = 0, -1
	for _, l := range s.limits {
		if l.Unit == unit {
			lo = max(lo, l.Min)
			if l.Max >= 0 && (hi < 0 || l.Max < hi) {
				hi = l.Max
			}
		}
	}
	if hi >= 0 && lo > hi {
		return 0, 0, false
	}
	// a member longer than the states' number can be shortened or pumped, so lengths beyond this bound repeat
	probe := hi
	if hi < 0 {
		probe = lo + s.auto.States()*4
	}
	lengths := s.auto.lengths(unit, probe)
	least, most := -1, -1
	for n := lo; n <= probe; n++ {
		if lengths[n] {
			if least < 0 {
				least = n
			}
			most = n
		}
	}
	if least < 0 {
		return 0, 0, false
	}
	if hi < 0 && most >= probe-4*s.auto.States()/2 {
		most = -1
	}
	return least, most, true
}

// lengths tells for each length up to most whether some accepted string has it.
func (a *Automaton) lengths(unit Unit, most int) []bool {
	out := make([]bool, most+1)
	reach := make([][]int32, most+1)
	seen := make([]map[int32]bool, most+1)
	add := func(n int, state int32) {
		if n > most || seen[n][state] {
			return
		}
		if seen[n] == nil {
			seen[n] = map[int32]bool{}
		}
		seen[n][state] = true
		reach[n] = append(reach[n], state)
		out[n] = out[n] || a.accept[state]
	}
	dead := a.deadStates()
	add(0, 0)
	for n := range reach {
		for _, state := range reach[n] {
			for c := range a.classes {
				if runeLen(a.sample[c]) == 0 {
					continue
				}
				if to := a.next[int(state)*a.classes+c]; !dead[to] {
					add(n+unit.of(a.sample[c]), to)
				}
			}
		}
		seen[n] = nil
	}
	return out
}
