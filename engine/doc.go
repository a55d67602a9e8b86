// Package engine makes a run: it checks that site, form and database are as the specification says, submits the cases, observes,
// and judges.
//
//	run.go         the order of cases: what writes goes one by one, what should not goes in batches; what could not be seen is made again
//	preflight.go   what must hold before anything is submitted
//	attempt.go     one case: open, expect, submit, observe, judge; compose.go makes what it sends: resolve, look up, put together
//	ahead.go       values that are made and looked up while a page is still on its way
//	judging.go     what is made is judged and kept while the site is at work on the next
//	visitor.go     who makes its steps: over_http.go or in_browser.go; sent.go writes and reads what is sent
//	drivers.go     which cases a run makes, and the browser it starts for them
//	signed_in.go   accounts: who is signed in, or signs in; together.go releases submissions at one moment; forged.go sends what no page sends
//	access.go      every page as every account; journey.go walks through several forms
//	by_hand.go     cases that a person makes
//	try.go         submissions by hand, and traces
//	site.go        pages, tables and accounts of a site, outside a run
//	database.go    several watched databases as one
//	sink.go        where attempts and results go
package engine
