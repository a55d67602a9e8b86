// Package judge compares what was observed with what was expected, check by check and part by part.
//
//	verdict.go    verdicts, parts, checks and results
//	judge.go      all checks of a step, and of a case
//	outcome.go    how the submission ended, decided from its signals
//	response.go   status, redirect, traces of the site's inside
//	messages.go   texts: the right one at the right place, none missing, none extra
//	refilled.go   what the form holds afterwards
//	stored.go     rows and columns
//	secrets.go    where secrets were seen, and how they are stored
//	session.go    the session's id and cookie, who is signed in, other sessions
//	headline.go   a result in a sentence, and results with the same cause
package judge
