// Package server holds Odd Tick's server, a package for each part of the work:
//
//	gate       what every request passes: the host it names, the page it comes from, who sends it; the sessions
//	api        what is answered: handlers by resource (huma on Gin), live events, and the built front end
//	forms      forms made ready for designing, kept by revision
//	runner     the runs under way, their leases and what is kept of them
//	store      what is kept in MariaDB, and its migrations
//	contact    what an administrator lets sites name
//	lease      one holder at a time among all servers
//	compute    what many ask for is computed once
//	passwords  how users' passwords are checked and kept
//	incident   ids under which the log tells of a request or a failure
//
// Its own tests ask a whole server.
package server
