// Package judge compares what was observed with what was expected, check by check and part by part.
//
//	part.go       verdicts, checks, and parts: what they are about and their differences, as closed sets
//	term.go       what was expected and observed, as terms
//	judge.go      all checks of a step, and of a case; of a step made by hand, those that can be
//	outcome.go    how the submission ended, decided from its signals
//	response.go   status, redirect, traces of the site's inside
//	messages.go   texts: the right one at the right place, none missing, none extra
//	mails.go      mails: those promised, and no others
//	refilled.go   what the form holds afterwards
//	stored.go     rows and columns
//	secrets.go    where secrets were seen, and how they are stored
//	session.go    the session's id and cookie, who is signed in, other sessions
//	headline.go   what is odd of a step, and no consequence of something else
//	older.go      parts as results of format 1 hold them
//
// It writes no sentences: core/wording does.
package judge
