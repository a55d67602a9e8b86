// Package oracle says what a submission must lead to. It is two pure functions: Needs names what must be looked up before, and
// Expect computes the expectation of every check with its reasons. Both work on any submission, designed or not.
package oracle
