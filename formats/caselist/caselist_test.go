package caselist_test

import (
	"bytes"
	"encoding/csv"
	"errors"
	"os"
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/formats/caselist"
	"oddtick/formats/csvfile"

	"github.com/stretchr/testify/require"
)

func form(t testing.TB) *spec.Form {
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	f, err := spec.ReadForm("join.yaml", text)
	require.NoError(t, err)
	return f
}

func TestASheetBecomesCases(t *testing.T) {
	t.Parallel()
	f := form(t)
	s, err := caselist.Parse(f, "\ufeffNo;Test case;Username;plots;I accept the rules of the association;Expected result;Tags;Owner\r\n"+
		"1;Market day;\"moss; row\";4;x;Saved;smoke market;them\r\n;;;;;;;\r\n7;Market day;;;no;Error shown;;\r\n", nil, false)
	require.NoError(t, err)
	require.Equal(t, []string{"note", "title", "username", "plots", "terms", "expected outcome", "tags", ""}, s.Columns)
	require.Equal(t, []spec.CaseEdit{
		{Case: "join/own.market_day/http", Added: true, Title: "Market day", Expect: "accepted", Tags: []string{"smoke", "market"}, Note: "line 2 of the sheet: 1", Inputs: map[string]string{"username": "moss; row", "plots": "4", "terms": "yes"}},
		{Case: "join/own.market_day_2/http", Added: true, Title: "Market day", Expect: "rejected", Tags: []string{}, Note: "line 4 of the sheet: 7", Inputs: map[string]string{"username": "", "plots": ""}, Absent: []string{"terms"}},
	}, s.Edits)
	usual, err := caselist.Parse(f, "title,username\nx,\n", nil, true)
	require.NoError(t, err)
	require.Empty(t, usual.Edits[0].Inputs, "an empty cell stands for a typical value")
}

func TestWhatIsWrongWithASheetIsToldWithItsLine(t *testing.T) {
	t.Parallel()
	f := form(t)
	for text, want := range map[string]struct {
		columns []string
		says    string
	}{
		"":                                       {nil, "line 1: the sheet is empty"},
		"title\n\"open":                          {nil, "line 2: extraneous or missing \" in quoted-field"},
		"title,username\na,b,c\n":                {nil, "line 2: there are 3 cells under 2 heads"},
		"title,expected\nx,maybe\n":              {nil, `line 2: the expected outcome "maybe" is not understood`},
		"t\xff\xfei":                             {nil, "line 1: the text is not UTF-8"},
		"t\x00i\x00":                             {nil, "line 1: the text is not UTF-8"},
		"a,b\n1,2\n":                             {[]string{"title"}, "line 1: 1 columns are named, the sheet has 2"},
		"a,c\n1,2\n":                             {[]string{"title", "colour"}, `line 1: a column cannot hold "colour"`},
		"a,d\n1,2\n":                             {[]string{"title", "title"}, "line 1: two columns hold title"},
		"title\n" + strings.Repeat("x\n", 20001): {nil, "line 20002: there are more than 20000 lines"},
	} {
		_, err := caselist.Parse(f, text, want.columns, false)
		var wrong *csvfile.Error
		require.True(t, errors.As(err, &wrong), "%.40q: %v", text, err)
		require.ErrorContains(t, err, want.says)
	}
}

func TestCasesAreWrittenWithTheirValuesButNoSecrets(t *testing.T) {
	t.Parallel()
	p, err := form(t).Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	set := d.Design(design.Plan{Depth: testcase.Thorough}, spec.CaseEdit{Case: "join/own.sum/http", Added: true, Title: "=1+1", Inputs: map[string]string{"plots": "3"}, Tags: []string{"a", "b"}})
	var b bytes.Buffer
	require.NoError(t, caselist.Write(&b, d, set.Cases))
	rows, err := csv.NewReader(&b).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, len(set.Cases)+1)
	byID := map[string]map[string]string{}
	for _, row := range rows[1:] {
		line := map[string]string{}
		for i, head := range rows[0] {
			line[head] = row[i]
		}
		byID[row[0]] = line
	}
	require.Equal(t, "'=1+1", byID["join/own.sum/http"]["title"], "no spreadsheet computes it")
	require.Equal(t, "a b", byID["join/own.sum/http"]["tags"])
	require.Equal(t, "username.length", byID["join/username.length.max+1/http"]["breaks"])
	require.Len(t, byID["join/username.length.max+1/http"]["username"], 21)
	require.Equal(t, "(72 characters)", byID["join/password.length.max/http"]["password"])
}

func FuzzReadCases(f *testing.F) {
	f.Add("title;username\nx;y\n", true)
	f.Add("\"a\"\"\",b\n,\n", false)
	form := form(f)
	f.Fuzz(func(t *testing.T, text string, usual bool) {
		s, err := caselist.Parse(form, text, nil, usual)
		if err != nil {
			return
		}
		seen := map[string]bool{}
		for _, e := range s.Edits {
			if seen[e.Case] || len(e.Case) > 200 {
				t.Fatalf("the id %q", e.Case)
			}
			seen[e.Case] = true
		}
	})
}
