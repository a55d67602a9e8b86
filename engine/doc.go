// Package engine holds what makes a run, a package for each part of the work:
//
//	target       what a run works on: site, form, databases, accounts, and what must hold before anything is submitted
//	driver       who opens, fills in and sends: over HTTP, or in a browser
//	attempt      one case once: open, expect, submit, observe, judge; submissions released together
//	schedule     the order of cases, batches, judging in the background
//	investigate  an odd case repeated, reduced, and its limit found
//	manual       values entered by hand, traces, and cases that a person makes
//	sweep        every page as every account
//	journey      paths through several forms and pages
//
// Its own tests make whole runs.
package engine
