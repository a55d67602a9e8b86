// Package design computes the cases that would prove a form's promises wrong (ISO/IEC/IEEE 29119-4).
//
// Each technique has its file; it is a function over a testcase.Builder, to which it adds its cases. design.go applies them all, by depth.
//
//	partitions.go   equivalence partitions        boundaries.go   boundary values        choices.go      each choice
//	agreement.go    rules over several fields     uniqueness.go   values that must be new
//	combination.go  combinations of valid values  syntax.go       mutants of patterns    files.go        uploads
//	guesses.go      the catalogue of guesses      random.go       random values          browser.go      the browser's own rules
//	requests.go     the whole form: tokens, surplus parameters, reload, everything blank
//	languages.go    messages in each language     signing_in.go   sessions, locks, values that a page does not let a visitor change
//	corrections.go  messages that come and go while a form is filled in
//
// decision tables are a package of their own (core/design/decision). What is done with the cases: prioritize.go keeps at most n of them,
// edit.go joins them with what testers changed.
//
// The cases are a pure function of the form and the depth: the same input gives the same cases with the same ids.
package design
