// Package workbook writes a result as a workbook that spreadsheet programs open (Office Open XML, ISO/IEC 29500), and reads the first
// sheet of one. Every cell is text: nothing in it is computed.
package workbook

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"

	"oddtick/core/finding"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/wording"
	"oddtick/formats/csvfile"
	"oddtick/formats/sheet"
	"oddtick/formats/steps"

	"github.com/xuri/excelize/v2"
)

// maxInCell is how many characters a cell holds (ISO/IEC 29500, as spreadsheet programs keep to).
const maxInCell = 32_767

const (
	// maxUnpacked is how large a workbook may become when it is unpacked, in bytes.
	maxUnpacked = 32 << 20
	// maxColumns is how wide a sheet may be: a field or a part of a case each.
	maxColumns = 500
)

// Write writes four sheets: the findings, the cases, what was covered, and the rows that changed. The values of secrets are left out.
func Write(w io.Writer, r *report.Report) error {
	f := excelize.NewFile()
	defer f.Close()
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	for i, s := range []struct {
		name  string
		heads []string
		lines [][]string
	}{
		{"Findings", []string{"finding", "severity", "field", "what is odd", "check", "part", "reproduce with", "cases"}, findings(r)},
		{"Cases", sheet.Head(), cases(r)},
		{"Coverage", []string{"kind", "state", "what"}, coverage(r)},
		{"Rows", []string{"case", "table", "what", "key", "column", "before", "after"}, rows(r)},
	} {
		if i == 0 {
			err = f.SetSheetName("Sheet1", s.name)
		} else {
			_, err = f.NewSheet(s.name)
		}
		if err != nil {
			return err
		}
		if err := fill(f, s.name, s.heads, s.lines, bold); err != nil {
			return err
		}
	}
	return f.Write(w)
}

func fill(f *excelize.File, name string, heads []string, lines [][]string, bold int) error {
	out, err := f.NewStreamWriter(name)
	if err != nil {
		return err
	}
	if err := out.SetColWidth(1, len(heads), 24); err != nil {
		return err
	}
	if err := out.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	for i, line := range append([][]string{heads}, lines...) {
		cells := make([]any, len(line))
		for k, text := range line {
			cell := excelize.Cell{Value: inCell(text)}
			if i == 0 {
				cell.StyleID = bold
			}
			cells[k] = cell
		}
		at, err := excelize.CoordinatesToCellName(1, i+1)
		if err != nil {
			return err
		}
		if err := out.SetRow(at, cells); err != nil {
			return err
		}
	}
	return out.Flush()
}

var lineEnds = strings.NewReplacer("\r\n", "\n", "\r", "\n")

// inCell keeps from a cell what XML cannot hold, and what is too long. Lines in a cell end with a line feed.
func inCell(text string) string {
	text = lineEnds.Replace(text)
	text = strings.Map(func(r rune) rune {
		if r < ' ' && r != '\n' && r != '\t' || r == 0xFFFE || r == 0xFFFF {
			return '\uFFFD'
		}
		return r
	}, text)
	if r := []rune(text); len(r) > maxInCell/2 {
		return string(r[:maxInCell/2]) + "…"
	}
	return text
}

func findings(r *report.Report) [][]string {
	var out [][]string
	for _, f := range finding.Of(r) {
		cause := wording.Cause(r.Rows, &f.Cause)
		out = append(out, []string{f.ID, string(f.Severity), f.Label, string(f.Headline), string(cause.Check), string(cause.Part), f.Simplest, fmt.Sprint(len(f.Cases))})
	}
	return out
}

func cases(r *report.Report) [][]string {
	var out [][]string
	for _, c := range r.Cases {
		out = append(out, sheet.Line(r, c))
	}
	return out
}

// coverage is how much of each kind was shown, and below it what was not.
func coverage(r *report.Report) [][]string {
	var out [][]string
	for _, c := range r.Coverage {
		out = append(out, []string{string(c.Kind), fmt.Sprintf("%d of %d shown", c.Observed, c.Total), ""})
		for _, what := range c.NotObserved {
			out = append(out, []string{string(c.Kind), "not observed", string(what)})
		}
		for _, what := range c.NotCovered {
			out = append(out, []string{string(c.Kind), "without a case", string(what)})
		}
	}
	return out
}

// rows are the changed cells of every row that a case changed.
func rows(r *report.Report) [][]string {
	var out [][]string
	for _, c := range r.Cases {
		result := r.Results[c.ID]
		if result == nil {
			continue
		}
		for i := range result.Steps {
			if result.Steps[i].Observation == nil {
				continue
			}
			for _, ch := range result.Steps[i].Observation.Changes {
				for _, cell := range cellsOf(&ch) {
					out = append(out, []string{c.ID, ch.Table, string(ch.Kind), ch.Key, cell.column, cell.before, cell.after})
				}
			}
		}
	}
	return out
}

type changed struct{ column, before, after string }

func cellsOf(ch *observation.Change) []changed {
	var out []changed
	all := ch.After
	if ch.Kind == observation.Deleted {
		all = ch.Before
	}
	for _, cell := range all {
		before, had := observation.CellOf(ch.Before, cell.Column)
		after, has := observation.CellOf(ch.After, cell.Column)
		one := changed{column: cell.Column}
		if had {
			one.before = shown(before)
		}
		if has {
			one.after = shown(after)
		}
		if one.before != one.after {
			out = append(out, one)
		}
	}
	return out
}

func shown(c observation.Cell) string {
	if c.Null {
		return "NULL"
	}
	return steps.Visible(c.Value)
}

// CSV is the first sheet of a workbook as CSV (RFC 4180).
func CSV(data []byte) (string, error) {
	f, err := excelize.OpenReader(bytes.NewReader(data), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: maxUnpacked})
	if err != nil {
		return "", fmt.Errorf("the file is not a workbook (.xlsx), or holds more than %d MB: %w", maxUnpacked>>20, err)
	}
	defer f.Close()
	names := f.GetSheetList()
	if len(names) == 0 {
		return "", errors.New("the workbook has no sheet")
	}
	lines, err := linesOf(f, names[0])
	if err != nil {
		return "", fmt.Errorf("the sheet %s: %w", names[0], err)
	}
	width := 0
	for _, line := range lines {
		width = max(width, len(line))
	}
	var b strings.Builder
	out := csv.NewWriter(&b)
	for _, line := range lines {
		if err := out.Write(append(line, make([]string, width-len(line))...)); err != nil {
			return "", err
		}
	}
	out.Flush()
	return b.String(), out.Error()
}

// linesOf are the lines of a sheet, each as wide as its last cell that is not empty.
func linesOf(f *excelize.File, name string) ([][]string, error) {
	rows, err := f.Rows(name)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var lines [][]string
	filled := 0 // lines up to the last that is not empty
	for rows.Next() {
		if len(lines) > csvfile.MostLines {
			return nil, fmt.Errorf("it has more than %d lines below its heads, and no more are read", csvfile.MostLines)
		}
		line, err := rows.Columns()
		if err != nil {
			return nil, err
		}
		if len(line) > maxColumns {
			return nil, fmt.Errorf("line %d has %d columns, and at most %d are read", len(lines)+1, len(line), maxColumns)
		}
		lines = append(lines, line)
		if len(line) > 0 {
			filled = len(lines)
		}
	}
	return lines[:filled], rows.Error()
}
