// Package spec holds what a form promises: the site document and the form document, read from YAML or JSON.
//
//	site.go, form.go, rule.go   the documents' types; their json tags are the keys in the files
//	read.go                     a document's text to those types, with every problem's line, column and path
//	project.go                  several documents together
//	complete.go                 what a document leaves to be derived: ids, implied rules
//	check.go                    contradictions a document holds in itself
//	prepare.go, evaluate.go     the form made ready for computing: patterns as automata, bounds parsed, expressions compiled; values against its rules
package spec
