// Package contradiction finds what in a specification cannot hold together: within the form, against the page it was read from, and
// against the tables it stores into. Each comes with its proof, a value or two bounds, and points at both places. None of them keeps
// a form from being run.
//
//	contradiction.go  what a contradiction is; all of them
//	field.go          rules of one field, by automata and bounds
//	across.go         rules over fields and success replies, by trying their fields' values
//	page.go           against the page
//	database.go       against the tables
//	states.go         states that no path reaches
//	layers.go         what each layer says of a field, side by side
package contradiction
