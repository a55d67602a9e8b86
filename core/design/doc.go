// Package design computes the cases that would prove a form's promises wrong (ISO/IEC/IEEE 29119-4).
//
// What a case is:
//
//	case.go        its id, what it is about, its steps
//	recipe.go      how a value is made when the case is submitted, and the resolving of recipes
//	sets.go        the sets of values of a field: all rules kept, or exactly one broken
//	realistic.go   what values should look like
//	files.go       contents of files by type and size
//
// The techniques, each in its file, and what brings them together:
//
//	design.go      all techniques together, by depth
//	partitions.go  equivalence partitions       boundaries.go  boundary values     choices.go     each choice
//	agreement.go   rules over several fields    uniqueness.go  values that must be new
//	table.go       decision tables: ways.go finds inputs, effects.go pairs them, columns.go merges; expression.go writes a table back
//	candidates.go  the values that decide an expression
//	combination.go combinations of valid values transition.go  states and access   syntax.go      testcase.Mutants of patterns
//	guesses.go     the catalogue of guesses     random.go      random values       browser.go     the browser's own rules
//	requests.go    the whole form: tokens, surplus parameters, reload, everything blank
//	languages.go   messages in each language       signing_in.go  sessions, locks, values that a page does not let one change
//	promises.go    a field's rules in words
//
// What is done with the cases:
//
//	first.go       at most n of them            edit.go        a tester's changes  reader.go      what all cases send
//	scale.go       the line on which a field's inputs lie
//
// The cases are a pure function of the form and the depth: the same input gives the same cases with the same ids.
package design
