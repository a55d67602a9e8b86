// Package engine makes a run: it checks that site, form and database are as the specification says, submits the cases, observes,
// and judges.
//
//	run.go        the order of cases: what writes goes one by one, what should not goes in batches
//	preflight.go  what must hold before anything is submitted
//	attempt.go    one case: resolve, look up, expect, submit, observe, judge
//	database.go   several watched databases as one
//	sink.go       where attempts and results go
package engine
