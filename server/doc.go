// Package server is Odd Tick's API and its built front end over HTTP.
//
//	server.go   the handler: API by huma on Gin, front end, headers
//	findings.go what is odd, a finding for each cause, and what is said of it
//	session.go  signing in and out; who is asking
//	sites.go    sites with their forms
//	forms.go    a form's header, fields and rules
//	cases.go    a form's cases as scales, and one case
//	runs.go     starting, stopping and reading runs
//	runner.go   the runs under way
//	events.go   live events of a run
//	reports.go  a run in open formats
//	beyond_forms.go  who may open what, and journeys
//	designs.go  forms made ready for designing, kept by revision
package server
