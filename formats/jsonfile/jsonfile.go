// Package jsonfile writes values as JSON in which an empty list is [] and an empty map {}, never null.
package jsonfile

import (
	"io"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	v1 "github.com/go-json-experiment/json/v1"
)

var options = json.JoinOptions(v1.DefaultOptionsV1(), json.FormatNilSliceAsNull(false), json.FormatNilMapAsNull(false), jsontext.EscapeForHTML(false))

// Write writes a value on one line, with a line end behind it.
func Write(w io.Writer, v any) error {
	return json.MarshalWrite(w, v, options)
}

// WriteIndented writes a value so that a person can read it.
func WriteIndented(w io.Writer, v any) error {
	return json.MarshalWrite(w, v, options, jsontext.WithIndent(" "))
}
