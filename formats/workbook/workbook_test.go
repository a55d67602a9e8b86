package workbook_test

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/formats/csvfile"
	"oddtick/formats/workbook"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

func result() *report.Report {
	return &report.Report{
		Form: "plot", Rows: map[string]string{"name": "Name"}, Secrets: []string{"pass"},
		Cases: []*testcase.Case{{ID: "plot/name.valid/http", Title: "=HYPERLINK(\"http://127.0.0.1\")", Row: "name", Steps: []testcase.Step{{Expect: oracle.Accepted}}}},
		Results: map[string]*report.Result{"plot/name.valid/http": {
			Case: "plot/name.valid/http", Verdict: judge.Odd, Headline: "+1 \u202E\x07", Cause: &report.Cause{Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "plots", Column: "name"}, Difference: judge.Emptied},
			Checks: make([]judge.Verdict, len(judge.Checks)),
			Steps: []report.StepResult{{
				Observation: &observation.Step{
					Sent:    &submission.Submission{Pairs: []submission.Pair{{Name: "name", Value: "@SUM(1)\r\nsecond line"}, {Name: "pass", Value: "Heather-row-9"}, {Name: "long", Value: strings.Repeat("m", 100_000)}}},
					Changes: []observation.Change{{Table: "plots", Kind: observation.Changed, Key: "7", Before: []observation.Cell{{Column: "name", Value: "=A1"}, {Column: "same", Value: "s"}}, After: []observation.Cell{{Column: "name", Null: true}, {Column: "same", Value: "s"}}}},
				},
				Judgement: &judge.Judgement{Checks: []judge.Check{{Check: judge.Outcome, Parts: []judge.Part{{Words: judge.Words{Name: "outcome", Observed: "accepted"}}}}}},
			}},
		}},
	}
}

// TestAWorkbookHoldsTextOnly: another reader finds what was written, and no cell is computed.
func TestAWorkbookHoldsTextOnly(t *testing.T) {
	t.Parallel()
	var b bytes.Buffer
	require.NoError(t, workbook.Write(&b, result()))
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	for _, file := range z.File {
		r, err := file.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NotContains(t, string(text), "<f>", "%s holds a formula", file.Name)
		require.NotContains(t, string(text), "Heather-row-9")
	}
	f, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	require.Equal(t, []string{"Findings", "Cases", "Coverage", "Rows"}, f.GetSheetList())
	rows, err := f.GetRows("Cases")
	require.NoError(t, err)
	require.Equal(t, "=HYPERLINK(\"http://127.0.0.1\")", rows[1][1], "as text")
	require.Contains(t, rows[1][3], "name=@SUM(1)\nsecond line")
	rows, err = f.GetRows("Rows")
	require.NoError(t, err)
	require.Equal(t, [][]string{{"case", "table", "what", "key", "column", "before", "after"}, {"plot/name.valid/http", "plots", "changed", "7", "name", "=A1", "NULL"}}, rows)
	rows, err = f.GetRows("Findings")
	require.NoError(t, err)
	require.Equal(t, []string{"major", "Name", "+1 \u202E\uFFFD", "Stored data", "plots.name"}, rows[1][1:6])
}

func TestTheFirstSheetOfAWorkbookIsRead(t *testing.T) {
	t.Parallel()
	f := excelize.NewFile()
	for at, v := range map[string]any{"A1": "title", "B1": "username", "C1": "plots", "A2": "Market; \"day\"", "C2": 4, "A4": "two\nlines", "B4": "00042"} {
		require.NoError(t, f.SetCellValue("Sheet1", at, v))
	}
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	text, err := workbook.CSV(b.Bytes())
	require.NoError(t, err)
	in, err := csvfile.Open(text, "sheet")
	require.NoError(t, err)
	require.Equal(t, []string{"title", "username", "plots"}, in.Heads)
	var got [][]string
	for {
		row, _, err := in.Next()
		if err == io.EOF {
			break
		}
		require.NoError(t, err)
		got = append(got, row)
	}
	require.Equal(t, [][]string{{"Market; \"day\"", "", "4"}, {"", "", ""}, {"two\nlines", "00042", ""}}, got)
	for _, broken := range [][]byte{nil, []byte("title,username"), b.Bytes()[:100]} {
		_, err := workbook.CSV(broken)
		require.ErrorContains(t, err, "not a workbook")
	}
}

// TestAttackASheetWithoutEnd: a few bytes that stand for millions of cells are refused with their place.
func TestAttackASheetWithoutEnd(t *testing.T) {
	t.Parallel()
	for at, want := range map[string]string{"XFD7": "line 7 has 16384 columns, and at most 500 are read", "A1048576": "more than 20000 lines"} {
		f := excelize.NewFile()
		require.NoError(t, f.SetCellValue("Sheet1", at, "far"))
		var b bytes.Buffer
		require.NoError(t, f.Write(&b))
		_, err := workbook.CSV(b.Bytes())
		require.ErrorContains(t, err, want)
	}
}
