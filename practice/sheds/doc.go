// Package sheds is the second practice site, Ostlewick Sheds: a page made by scripts, which talks JSON to what is served here. Its
// planted faults are off unless they are switched on.
package sheds
