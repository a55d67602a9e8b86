// Package array computes covering arrays: few rows in which every feasible combination of levels of any t factors stands.
//
//	problem.go     what is asked for, and how large it is
//	tuples.go      the combinations to be covered, counted
//	constraint.go  rows that may not be, and whether a partial row can be completed
//	construct.go   arrays known by construction (Kleitman and Spencer 1973; Katona 1973; Bush 1952)
//	greedy.go      one row after the other (Cohen, Dalal, Fredman, Patton 1997)
//	shorten.go     rows taken away and the rest repaired (Nurmela 2004)
//	cover.go       all together
//
// Factors and levels are numbers from 0. The same problem gives the same rows on any machine.
package array
