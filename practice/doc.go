// Package practice is Ostlewick Allotments, a made-up association that lets garden plots: the simulated site under test that
// ships with Odd Tick. It knows nothing of the rest. With no fault switched on it is right in every respect; each fault of
// faults.go is one small honest change of behaviour.
package practice
