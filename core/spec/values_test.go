package spec_test

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestEveryValueIsChecked: what a key cannot hold is refused with its place and what to write.
func TestEveryValueIsChecked(t *testing.T) {
	t.Parallel()
	const head = "form: shed\npage: /shed\nfields: [{name: key, kind: password}, {name: next, kind: hidden}, {name: name}]\n"
	for text, says := range map[string]string{
		"stored: [{update: sheds, row: anything, columns: {name: {from: name}}}]":  "write one of: signed_in",
		"stored: [{insert: sheds, row: signed_in, columns: {name: {from: name}}}]": "only said of an update",
		"stored: [{insert: sheds, columns: {key: {secret: key, as: [rot13]}}}]":    "write one of: argon2id, argon2i, argon2d, bcrypt, scrypt",
		"stored: [{insert: sheds, columns: {name: {from: name, as: [bcrypt]}}}]":   "belong to a secret",
		"stored: [{insert: sheds, columns: {name: {from: name, blank: nothing}}}]": "write one of: null, empty, default",
		"stored: [{insert: sheds, columns: {name: {is: x, as_sent: true}}}]":       "belong to a field's value",
		"stored: [{insert: sheds, columns: {owner: {key_of: owners}}}]":            "the form writes no row in owners",
		"stored: [{insert: sheds, columns: {name: {unchanged: true}}}]":            "a new row has nothing that could stay unchanged",
		"rejected: {status: 42}":                                                         "42 is none",
		"accepted: {session: {return_to: {field: where, to: /}}}":                        "\"where\" is not a field of the form",
		"accepted: {session: {return_to: {field: name, to: /}}}":                         "is of the kind text",
		"accepted: {session: {return_to: {field: next, to: https://elsewhere.invalid}}}": "is not a path",
		"across: [{must_hold: name != key}]\naccepted: {status: 99}":                     "99 is none",
	} {
		_, err := spec.ReadForm("shed.yaml", []byte(head+text))
		require.ErrorContains(t, err, says, text)
	}
	for field, says := range map[string]string{
		"{name: a, normalize: [{date: DD.YYYY}]}":                                                        "does not name the month once",
		"{name: a, normalize: [{date: DD/MM/YYYY hh}]}":                                                  "which a day does not have",
		"{name: a, rules: [{length: {min: -1}}]}":                                                        "a length is not negative",
		"{name: a, kind: file, rules: [{file: {types: [image]}}]}":                                       "\"image\" is not a type",
		"{name: a, kind: password, rules: [{matches_secret: {stored: t.c, of: a, ignoring: [colour]}}]}": "\"colour\" is not known",
	} {
		_, err := spec.ReadForm("a.yaml", []byte("form: a\npage: /a\nfields: ["+field+"]\n"))
		require.ErrorContains(t, err, says, field)
	}
	for text, says := range map[string]string{
		"max_parallel: -1":                               "are not possible",
		"states: [{id: a, denied: nowhere}]":             "write a path, or forbidden",
		"accounts: [{id: a, name: x}, {id: a, name: y}]": "there are two accounts",
	} {
		_, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: s\n" + text)}})
		require.ErrorContains(t, err, says, text)
	}
	_, err := spec.ReadForm("shed.yaml", []byte(head+"rejected: {status: 422}\nstored: [{insert: sheds, columns: {key: {secret: key, as: [bcrypt, argon2id], pepper: true}, name: {from: name, blank: null}}}]"))
	require.NoError(t, err)
}
