// Package values computes with sets of input values: strings, numbers and dates.
//
// A set of strings is a deterministic automaton over Unicode code points together with limits on its length. It is made in
// stages, one file each:
//
//	pattern.go    the text of an ECMA-262 pattern (v or u flag) is parsed to a tree
//	class.go      character classes, escapes and Unicode properties become sets of runes
//	program.go    the tree becomes a small program: characters, splits, assertions, look-aheads
//	determine.go  the program is run on all inputs at once and becomes an automaton
//	automaton.go  automata are matched, intersected and complemented
//	minimise.go   states and classes that nothing tells apart are merged
//	set.go        an automaton and its limits on length: membership, lengths
//	member.go     members are constructed: of a given length, new, near to a wish
//	miss.go       the nearest non-members, one edit away
//	mutant.go     a pattern's likely mistakes, as patterns of their own
//
// number.go and date.go hold exact decimals and calendar days. Everything is a pure function of its arguments; what looks
// random is derived from a seed.
package values
