// Package draft is what can be read off a page, a database, a trace or another file about a form, each statement with where it
// came from, and how it is merged into a form document: as proposals, with nothing overwritten unasked.
//
//	draft.go    drafts and their statements
//	propose.go  a draft against a form: what is new, what differs
//	page.go     from a form on a page
//	schema.go   from a database's tables: fields mapped to columns
//	similar.go  how like each other two names are
//	trace.go    from one submission with marked values
package draft
