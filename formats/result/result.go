// Package result writes a run as JSON: the cases, and for each what was expected, observed and judged.
package result

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/formats/jsonfile"
)

// Version is the version of the format that is written. Version 1 is read as well, in which verdicts were sentences; no other is.
const Version = 2

// file is a result as it stands in a file.
type file struct {
	Version int `json:"oddtick_result"`
	*report.Report
}

// Write writes the report, indented so that a person can read it, without the secrets that must not leave.
func Write(w io.Writer, r *report.Report, secrets ...string) error {
	var text bytes.Buffer
	if err := jsonfile.WriteIndented(&text, file{Version, r}); err != nil {
		return err
	}
	_, err := w.Write(observation.Mask(text.Bytes(), secrets))
	return err
}

// beginning is how far into a file its version stands.
const beginning = 200

// Is tells from its beginning whether a file holds a result.
func Is(text []byte) bool {
	return bytes.Contains(text[:min(len(text), beginning)], []byte(`"oddtick_result"`))
}

// Read reads a report back. Members it does not know are passed over; what lacks what a report needs is an error.
func Read(r io.Reader) (*report.Report, error) {
	out := file{Report: &report.Report{}}
	d := json.NewDecoder(r)
	err := d.Decode(&out)
	var place *json.UnmarshalTypeError
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return nil, fmt.Errorf("it ends in the middle, after %d bytes", d.InputOffset())
	case errors.As(err, &place):
		return nil, fmt.Errorf("its member %s holds a %s", place.Field, place.Value)
	case err != nil:
		return nil, err
	case out.Form == "" || out.Results == nil:
		return nil, errors.New("it is not the result of a form's run")
	case out.Version < 1 || out.Version > Version:
		return nil, fmt.Errorf("its format is version %d, and this program reads versions 1 to %d", out.Version, Version)
	}
	if out.Version == 1 {
		out.newer()
	}
	return out.Report, out.check()
}

// check: everything that is read later is there.
func (f *file) check() error {
	for i, c := range f.Cases {
		if c == nil || c.ID == "" || len(c.Steps) == 0 {
			return fmt.Errorf("its case %d has no id or no steps", i+1)
		}
	}
	for id, r := range f.Results {
		if r == nil || r.Case != id {
			return fmt.Errorf("its result of %s is of another case, or missing", id)
		}
		for i := range r.Steps {
			if r.Steps[i].Judgement == nil {
				return fmt.Errorf("its result of %s lacks the judgement of step %d", id, i+1)
			}
		}
	}
	return nil
}

// newer adds what version 1 told only by the names of cases' rules.
func (f *file) newer() {
	for _, c := range f.Cases {
		f.NeedsSecret = f.NeedsSecret || c != nil && slices.ContainsFunc(c.Covers, func(what testcase.Cover) bool {
			return what.Kind == testcase.CoversRule && strings.HasSuffix(what.Of, ".matches")
		})
	}
}
