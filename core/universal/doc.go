// Package universal holds promises that every form makes, whether or not anybody wrote them down, and finds what breaks them: secrets
// that are stored or shown as they are, values that are stored otherwise than they were accepted, refusals without a word.
//
// What breaks one is called unusual. It is of lower standing than what a document promises: it changes no verdict until a person
// confirms it, and of what a document speaks, the document alone is judged.
//
//	promise.go   the promises, each with its source
//	unusual.go   what breaks one, as data
//	step.go      what one submission shows
//	stored.go    what it shows of the rows that were written
//	several.go   what only several submissions of a form show
//	page.go      what the page shows before anything is submitted
package universal
