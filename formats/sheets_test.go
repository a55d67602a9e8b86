package formats_test

import (
	"bytes"
	"encoding/csv"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"testing"

	"oddtick/core/judge"
	"oddtick/formats/sheet"
	"oddtick/formats/workbook"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// convert lets a spreadsheet program open a file and save it in another format; what it wrote, by file name.
func convert(t *testing.T, program, file, format string) map[string][]byte {
	out := t.TempDir()
	cmd := exec.Command(program, "-env:UserInstallation=file://"+t.TempDir(), "--headless", "--convert-to", format, "--outdir", out, file)
	if filepath.Ext(file) == ".csv" {
		cmd.Args = slices.Insert(cmd.Args, 1, "--infilter=CSV:44,34,76,1") // commas, quotes, UTF-8, as its dialog proposes
	}
	text, err := cmd.CombinedOutput()
	require.NoError(t, err, string(text))
	names, err := filepath.Glob(filepath.Join(out, "*"))
	require.NoError(t, err)
	require.NotEmpty(t, names, string(text))
	files := map[string][]byte{}
	for _, name := range names {
		files[filepath.Base(name)], err = os.ReadFile(name)
		require.NoError(t, err)
	}
	return files
}

// allSheets writes every sheet of a workbook as CSV, in UTF-8, with every text quoted.
const allSheets = "csv:Text - txt - csv (StarCalc):44,34,76,1,,0,true,true,false,false,false,-1"

func lines(t *testing.T, text []byte) [][]string {
	in := csv.NewReader(bytes.NewReader(text))
	in.FieldsPerRecord = -1
	rows, err := in.ReadAll()
	require.NoError(t, err)
	return rows
}

// TestSheetsSurviveASpreadsheetProgram opens what is written in a spreadsheet program, saves it there, and finds every cell again. The
// program is given by make check-sheets.
func TestSheetsSurviveASpreadsheetProgram(t *testing.T) {
	program := os.Getenv("ODDTICK_SPREADSHEET")
	if program == "" {
		t.Skip("make check-sheets gives a spreadsheet program")
	}
	r := sample()
	r.Cases[2].Title = "עברית \u202Ereversed, \"quoted\"; and\ntwo lines"
	r.Cases[3].Title = "@SUM(A1) 007"
	folder := t.TempDir()
	var x, c bytes.Buffer
	require.NoError(t, workbook.Write(&x, r))
	require.NoError(t, sheet.Write(&c, r))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "result.xlsx"), x.Bytes(), 0o600))
	require.NoError(t, os.WriteFile(filepath.Join(folder, "result.csv"), c.Bytes(), 0o600))

	var written [][]string
	for _, one := range r.Cases {
		written = append(written, sheet.Line(r, one))
	}
	same := func(got [][]string, harmless bool) {
		require.Len(t, got, len(written)+1)
		require.Equal(t, sheet.Head(), got[0])
		for i, want := range written {
			for k, cell := range want {
				if harmless && cell != "" && (cell[0] == '=' || cell[0] == '@') {
					cell = "'" + cell
				}
				at := ""
				if k < len(got[i+1]) {
					at = got[i+1][k]
				}
				require.Equal(t, plain(cell), plain(at), "line %d, column %d", i+1, k+1)
			}
		}
	}
	for _, way := range []string{"xlsx", "ods"} { // saved again by the program, and read by us
		saved := convert(t, program, filepath.Join(folder, "result.xlsx"), way)
		if way == "ods" {
			require.NoError(t, os.WriteFile(filepath.Join(folder, "again.ods"), saved["result.ods"], 0o600))
			saved = convert(t, program, filepath.Join(folder, "again.ods"), "xlsx")
			saved["result.xlsx"] = saved["again.xlsx"]
		}
		f, err := excelize.OpenReader(bytes.NewReader(saved["result.xlsx"]))
		require.NoError(t, err)
		require.Equal(t, []string{"Findings", "Cases", "Coverage", "Rows"}, f.GetSheetList())
		rows, err := f.GetRows("Cases")
		require.NoError(t, err)
		same(rows, false)
		for _, name := range f.GetSheetList() {
			all, err := f.GetRows(name)
			require.NoError(t, err)
			for i := range all {
				for k := range all[i] {
					at, err := excelize.CoordinatesToCellName(k+1, i+1)
					require.NoError(t, err)
					formula, err := f.GetCellFormula(name, at)
					require.NoError(t, err)
					require.Empty(t, formula, "%s!%s is computed", name, at)
				}
			}
		}
	}
	same(lines(t, convert(t, program, filepath.Join(folder, "result.xlsx"), allSheets)["result-Cases.csv"]), false)
	same(lines(t, convert(t, program, filepath.Join(folder, "result.csv"), allSheets)["result-result.csv"]), true)

	// cases that a tester keeps in a spreadsheet come in
	require.NoError(t, os.WriteFile(filepath.Join(folder, "own.csv"), []byte("title,username,plots\nMarket day,ann-of-the-mill,2\n\"with, comma\",\"two\nlines\",1\n"), 0o600))
	text, err := workbook.CSV(convert(t, program, filepath.Join(folder, "own.csv"), "xlsx")["own.xlsx"])
	require.NoError(t, err)
	require.Equal(t, [][]string{{"title", "username", "plots"}, {"Market day", "ann-of-the-mill", "2"}, {"with, comma", "two\nlines", "1"}}, lines(t, []byte(text)))
	require.Equal(t, 1, r.Count()[judge.Odd])
}

// plain is a cell as any file format keeps it: line ends as one character, what XML cannot hold replaced.
func plain(text string) string {
	var b bytes.Buffer
	for _, c := range text {
		switch {
		case c == '\r':
		case c < ' ' && c != '\n' && c != '\t', c == 0xFFFE, c == 0xFFFF:
			b.WriteRune('\uFFFD')
		default:
			b.WriteRune(c)
		}
	}
	return b.String()
}
