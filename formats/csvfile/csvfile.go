// Package csvfile reads CSV (RFC 4180) as spreadsheets write it: with any of the usual delimiters, a byte order mark, and a line of
// heads; and keeps what is written from being computed by one.
package csvfile

import (
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// Error is what cannot be read, with its line.
type Error struct {
	Line    int
	Problem string
}

func (e *Error) Error() string { return fmt.Sprintf("line %d: %s", e.Line, e.Problem) }

// MostLines is how many lines are read below the heads.
const MostLines = 20_000

// File is an open file.
type File struct {
	Heads []string
	in    *csv.Reader
	lines int
}

// Open reads the heads. what names the file in errors: list, sheet.
func Open(text, what string) (*File, error) {
	text = strings.TrimPrefix(text, "\ufeff")
	if !utf8.ValidString(text) || strings.ContainsRune(text, utf8.RuneError) || strings.ContainsRune(text, 0) {
		return nil, &Error{1, "the text is not UTF-8; save the " + what + " as CSV UTF-8"}
	}
	f := &File{in: csv.NewReader(strings.NewReader(text))}
	f.in.Comma = delimiter(text)
	f.in.FieldsPerRecord = -1
	f.in.TrimLeadingSpace = true
	first, err := f.in.Read()
	if errors.Is(err, io.EOF) {
		return nil, &Error{1, "the " + what + " is empty"}
	}
	if err != nil {
		return nil, problem(err)
	}
	f.Heads = first
	return f, nil
}

// Next returns the next row with its line, or io.EOF.
func (f *File) Next() (row []string, line int, err error) {
	row, err = f.in.Read()
	if errors.Is(err, io.EOF) {
		return nil, 0, io.EOF
	}
	if err != nil {
		return nil, 0, problem(err)
	}
	line, _ = f.in.FieldPos(0)
	if f.lines++; f.lines > MostLines {
		return nil, 0, &Error{line, fmt.Sprintf("there are more than %d lines", MostLines)}
	}
	return row, line, nil
}

func problem(err error) error {
	var wrong *csv.ParseError
	if errors.As(err, &wrong) {
		return &Error{wrong.Line, wrong.Err.Error()}
	}
	return err
}

// delimiter is the sign that stands most often in the line of heads.
func delimiter(text string) rune {
	line, _, _ := strings.Cut(text, "\n")
	best, most := ',', 0
	for _, c := range []rune{',', ';', '\t', '|'} {
		if n := strings.Count(line, string(c)); n > most {
			best, most = c, n
		}
	}
	return best
}

// Harmless keeps a spreadsheet from reading a cell as a formula: what came from a site must not be computed.
func Harmless(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}
