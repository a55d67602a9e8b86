// Package caselist reads and writes test cases as testers keep them in spreadsheets: CSV with a line of heads and a line a case.
package caselist

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/csvfile"
)

// What a column may hold besides the value of a field, which is written as its id.
const (
	Title    = "title"
	Expected = "expected outcome"
	Tags     = "tags"
	Note     = "note"
)

// heads are the words of heads by which a column's meaning is guessed.
var heads = map[string][]string{
	Title:    {"title", "name", "case", "test case", "description", "summary", "what"},
	Expected: {"expected", "expected outcome", "expected result", "outcome", "result", "verdict"},
	Tags:     {"tags", "tag", "label", "labels"},
	Note:     {"note", "notes", "comment", "remark", "id", "no", "number"},
}

// Sheet is what a file holds.
type Sheet struct {
	Heads, First []string
	// Columns say what each column holds: one of the words above, a field's id, or "" for nothing of use.
	Columns []string
	Edits   []spec.CaseEdit
}

// Meanings are what a column of a form's cases may hold.
func Meanings(form *spec.Form) []string {
	out := []string{Title, Expected, Tags, Note}
	for i := range form.Fields {
		if !form.Fields[i].Kind.Untouched() {
			out = append(out, form.Fields[i].ID)
		}
	}
	return out
}

// Parse reads cases. columns say what each column holds; without any they are guessed from the heads. usual tells that an empty cell
// stands for a usual value; otherwise the field is left blank.
func Parse(form *spec.Form, text string, columns []string, usual bool) (*Sheet, error) {
	file, err := csvfile.Open(text, "sheet")
	if err != nil {
		return nil, err
	}
	s := &Sheet{Heads: file.Heads, Columns: columns, First: make([]string, len(file.Heads)), Edits: []spec.CaseEdit{}}
	if len(columns) == 0 {
		s.Columns = guess(form, file.Heads)
	}
	if len(s.Columns) != len(file.Heads) {
		return nil, &csvfile.Error{Line: 1, Problem: fmt.Sprintf("%d columns are named, the sheet has %d", len(s.Columns), len(file.Heads))}
	}
	known := Meanings(form)
	for i, c := range s.Columns {
		switch {
		case c == "":
		case !slices.Contains(known, c):
			return nil, &csvfile.Error{Line: 1, Problem: fmt.Sprintf("a column cannot hold %q; known are %s", c, strings.Join(known, ", "))}
		case slices.Contains(s.Columns[:i], c):
			return nil, &csvfile.Error{Line: 1, Problem: fmt.Sprintf("two columns hold %s; choose one", c)}
		}
	}
	ids := map[string]int{} // how many lines wanted it
	for n := 0; ; n++ {
		row, line, err := file.Next()
		if errors.Is(err, io.EOF) {
			return s, nil
		}
		if err != nil {
			return nil, err
		}
		if n == 0 {
			copy(s.First, row)
		}
		if !slices.ContainsFunc(row, func(cell string) bool { return strings.TrimSpace(cell) != "" }) {
			continue
		}
		edit, err := s.edit(form, row, line, usual)
		if err != nil {
			return nil, err
		}
		for base := edit.Case; ids[edit.Case] > 0; {
			ids[base]++
			edit.Case = fmt.Sprintf("%s_%d/http", strings.TrimSuffix(base, "/http"), ids[base])
		}
		ids[edit.Case]++
		s.Edits = append(s.Edits, edit)
	}
}

func (s *Sheet) edit(form *spec.Form, row []string, line int, usual bool) (spec.CaseEdit, error) {
	if len(row) > len(s.Columns) {
		return spec.CaseEdit{}, &csvfile.Error{Line: line, Problem: fmt.Sprintf("there are %d cells under %d heads; put a cell that holds the delimiter into quotation marks", len(row), len(s.Columns))}
	}
	e := spec.CaseEdit{Added: true, Inputs: map[string]string{}, Note: fmt.Sprintf("line %d of the sheet", line)}
	for i, what := range s.Columns {
		cell := ""
		if i < len(row) {
			cell = row[i]
		}
		switch what {
		case "":
		case Title:
			e.Title = strings.TrimSpace(cell)
		case Expected:
			says, ok := outcomeOf(cell)
			if !ok {
				return e, &csvfile.Error{Line: line, Problem: fmt.Sprintf("the expected outcome %q is not understood; write accepted or rejected", cell)}
			}
			e.Expect = says
		case Tags:
			e.Tags = strings.FieldsFunc(cell, func(r rune) bool { return strings.ContainsRune(",; ", r) })
		case Note:
			if cell != "" {
				e.Note += ": " + strings.TrimSpace(cell)
			}
		default:
			if cell == "" && usual {
				continue
			}
			if i := slices.IndexFunc(form.Fields, func(f spec.Field) bool { return f.ID == what }); form.Fields[i].Kind == spec.Checkbox {
				tick(&e, &form.Fields[i], cell)
				continue
			}
			e.Inputs[what] = cell
		}
	}
	if e.Title == "" {
		e.Title = fmt.Sprintf("line %d", line)
	}
	e.Case = design.OwnID(form.Form, e.Title)
	return e, nil
}

// tick reads a checkbox's cell: words of yes or the value itself tick it.
func tick(e *spec.CaseEdit, f *spec.Field, cell string) {
	switch strings.ToLower(strings.TrimSpace(cell)) {
	case "", "no", "n", "0", "false", "off", "-", "unticked":
		e.Absent = append(e.Absent, f.ID)
	default:
		e.Inputs[f.ID] = f.Value
	}
}

func outcomeOf(cell string) (says string, ok bool) {
	low := strings.ToLower(strings.TrimSpace(cell))
	switch {
	case low == "":
		return "", true
	case hasAny(low, "reject", "refus", "error", "invalid", "fail", "deny", "denied", "not accepted"):
		return "rejected", true
	case hasAny(low, "accept", "ok", "valid", "success", "pass", "saved", "stored"):
		return "accepted", true
	}
	return "", false
}

func hasAny(text string, words ...string) bool {
	return slices.ContainsFunc(words, func(w string) bool { return strings.Contains(text, w) })
}

func guess(form *spec.Form, first []string) []string {
	out := make([]string, len(first))
	for i, head := range first {
		low := strings.ToLower(strings.TrimSpace(head))
		for k := range form.Fields {
			f := &form.Fields[k]
			if !f.Kind.Untouched() && (low == f.ID || low == strings.ToLower(f.Name) || low == strings.ToLower(f.Label)) && !slices.Contains(out, f.ID) {
				out[i] = f.ID
			}
		}
	}
	for _, what := range []string{Title, Expected, Tags, Note} {
		for i, head := range first {
			if out[i] == "" && !slices.Contains(out, what) && slices.Contains(heads[what], strings.ToLower(strings.TrimSpace(head))) {
				out[i] = what
			}
		}
	}
	return out
}

// Write writes cases, one line each, with a column for each field: its value on a reference day, of secrets that there is one.
func Write(w io.Writer, d *design.Designer, cases []*testcase.Case) error {
	p := d.Prepared()
	out := csv.NewWriter(w)
	head := []string{"case", Title, "technique", "depth", "driver", Expected, "breaks", "covers", Tags, "off", Note}
	for _, f := range p.Fields {
		head = append(head, f.ID)
	}
	if err := out.Write(head); err != nil {
		return err
	}
	reader := d.Reader()
	for _, c := range cases {
		last := c.Last()
		line := []string{c.ID, string(c.Title), string(c.Technique), string(c.Depth()), string(last.Driver), string(last.Expect), strings.Join(last.Breaks, " "), covers(c), "", "", ""}
		if c.Edit != nil {
			line[8], line[9], line[10] = strings.Join(c.Edit.Tags, " "), c.Edit.Skip, c.Edit.Note
		}
		sent, err := reader.Values(c, c.About())
		if err != nil {
			return err
		}
		for _, f := range p.Fields {
			cell := sent.Values[f.Index].Sent
			switch {
			case !sent.Filled[f.Index] || !sent.Values[f.Index].Present:
				cell = ""
			case f.Secret && cell != "":
				cell = fmt.Sprintf("(%d characters)", len([]rune(cell)))
			}
			line = append(line, cell)
		}
		for i := range line {
			line[i] = csvfile.Harmless(line[i])
		}
		if err := out.Write(line); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// covers are what a case covers, one a line.
func covers(c *testcase.Case) string {
	out := make([]string, len(c.Covers))
	for i, what := range c.Covers {
		out[i] = what.String()
	}
	return strings.Join(out, "\n")
}
