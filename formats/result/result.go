// Package result writes a run as JSON: the cases, and for each what was expected, observed and judged.
package result

import (
	"encoding/json"
	"errors"
	"io"

	"oddtick/core/judge"
)

// Write writes the report, indented so that a person can read it.
func Write(w io.Writer, r *judge.Report) error {
	e := json.NewEncoder(w)
	e.SetIndent("", " ")
	e.SetEscapeHTML(false)
	return e.Encode(r)
}

// Read reads a report back.
func Read(r io.Reader) (*judge.Report, error) {
	var out judge.Report
	if err := json.NewDecoder(r).Decode(&out); err != nil {
		return nil, err
	}
	if out.Form == "" || out.Results == nil {
		return nil, errors.New("it is not the result of a form's run")
	}
	return &out, nil
}
