// Package cover tells how much of what a form promises a set of cases puts to the test, by definition: what there is to cover is
// computed from the specification, and whether a case covers it from the values it sends and the outcome it must have, not from what
// the case says of itself.
//
//	universe.go  what there is to cover
//	coverage.go  what a set of cases covers, what is missing, and the case that would add it
package cover
