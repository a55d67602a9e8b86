// Package learn finds out what a form promises from how it answers. It is told of each field a value that is accepted, asks for one
// submission after another, each of which differs from what is accepted in one thing, and gives the rules that explain all answers.
// Nothing is submitted here.
package learn
