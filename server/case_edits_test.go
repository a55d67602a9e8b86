package server_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
)

// post sends a body and decodes the answer, which must have the status.
func (c *client) post(path string, body any, status int, into any) string {
	got, _, text := c.send(http.MethodPost, path, body)
	require.Equal(c.t, status, got, string(text))
	if into != nil {
		require.NoError(c.t, json.Unmarshal(text, into))
	}
	return string(text)
}

// change posts a change of what is read at from, with its version.
func (c *client) change(from, path string, body any, status int) string {
	text, err := json.Marshal(body)
	require.NoError(c.t, err)
	version := c.ask(http.MethodGet, from, "", nil).Header.Get("ETag")
	got, _, answer := c.answer(c.ask(http.MethodPost, path, string(text), map[string]string{"If-Match": version}))
	require.Equal(c.t, status, got, string(answer))
	return string(answer)
}

func (c *client) editCases(body map[string]any, status int) string {
	return c.change(joinAt+"/case-edits", joinAt+"/case-edits", body, status)
}

type briefs struct {
	Order []string
	Stale []string
	Cases map[string]struct {
		Title, Expect, Skipped, Driver string
		SourceExpects                  string `json:"source_expects"`
		Tags                           []string
		Edited                         bool
	}
}

func TestEditsOfCasesAreKeptWithTheForm(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	const off, typed, own = "join/terms.unticked/http", "join/plots.range.max/http", "join/own.market_day/http"
	c.editCases(map[string]any{"edits": []any{
		map[string]any{"case": off, "skip": "the terms are being rewritten", "tags": []string{"legal"}},
		map[string]any{"case": typed, "inputs": map[string]string{"plots": "9"}},
		map[string]any{"case": own, "added": true, "title": "market day", "inputs": map[string]string{"plots": "4"}, "expect": "rejected"},
	}}, 200)
	var cases briefs
	require.Equal(t, 200, c.get(joinAt+"/cases?depth=quick", &cases))
	require.Equal(t, "the terms are being rewritten", cases.Cases[off].Skipped)
	require.Equal(t, "rejected by the server", cases.Cases[typed].Expect)
	require.Equal(t, "rejected", cases.Cases[own].SourceExpects, "the sheet and the rules differ")

	var run struct {
		Rows []struct{ Cases []string }
		Run  struct {
			NotSelected int `json:"not_selected"`
			Total       int
		}
	}
	c.ended(c.run(map[string]any{"depth": "quick"}))
	require.Equal(t, 200, c.get(joinAt+"/runs/0", &run))
	require.Equal(t, len(cases.Order), run.Run.Total+run.Run.NotSelected)
	require.Equal(t, 1, run.Run.NotSelected)
	ran := []string{}
	for _, r := range run.Rows {
		ran = append(ran, r.Cases...)
	}
	require.NotContains(t, ran, off)
	require.Contains(t, ran, own)

	c.edits(1, false, set("fields[username].rules[length].max", "30"))
	cases = briefs{}
	require.Equal(t, 200, c.get(joinAt+"/cases", &cases))
	require.Equal(t, "market day", cases.Cases[own].Title, "edits survive a new revision")
	require.NotEmpty(t, cases.Cases[off].Skipped)

	var project string
	status, _, body := c.send(http.MethodGet, "/api/sites/ost/project", nil)
	require.Equal(t, 200, status)
	project = string(body)
	require.Contains(t, project, "cases: join\nedits:\n")
	require.Contains(t, project, "the terms are being rewritten")

	c.editCases(map[string]any{"edits": []any{}, "remove": []string{off, own}}, 200)
	cases = briefs{}
	require.Equal(t, 200, c.get(joinAt+"/cases", &cases))
	require.Empty(t, cases.Cases[off].Skipped)
	require.NotContains(t, cases.Order, own)
}

func TestWhatIsWrongWithAnEditChangesNothing(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	for _, test := range []struct {
		edit map[string]any
		says string
	}{
		{map[string]any{"case": "join/none/http", "skip": "x"}, "no case join/none/http"},
		{map[string]any{"case": "other", "added": true, "title": "x"}, "begins with join/own."},
		{map[string]any{"case": "join/own.x/http", "added": true}, "needs a title"},
		{map[string]any{"case": "join/terms.ticked/http", "inputs": map[string]string{"weeds": "1"}}, "no field weeds"},
		{map[string]any{"case": "join/terms.ticked/http", "inputs": map[string]string{"referral": "1"}}, "no field referral that can be filled in"},
		{map[string]any{"case": "join/own." + strings.Repeat("x", 300), "added": true, "title": "x"}, "longer than 200"},
	} {
		good := map[string]any{"case": "join/terms.ticked/http", "skip": "y"}
		require.Contains(t, c.editCases(map[string]any{"edits": []any{good, test.edit}}, 422), test.says)
	}
	var kept struct{ Edits []any }
	require.Equal(t, 200, c.get(joinAt+"/case-edits", &kept))
	require.Empty(t, kept.Edits)
	require.Contains(t, c.post(joinAt+"/runs", map[string]any{"depth": "quick", "rows": []string{"no row"}}, 422, nil), "No case matches")
}

func TestTheExpectationFollowsWhatIsTyped(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	preview := func(edit map[string]any) (outcome, reason string) {
		var v struct {
			Case   struct{ Steps []struct{ Expect string } }
			Reason string
			Inputs []struct {
				Field, Value string
				Own, Secret  bool
			}
		}
		c.post(joinAt+"/case-preview", map[string]any{"edit": edit}, 200, &v)
		for _, in := range v.Inputs {
			require.False(t, in.Secret && in.Value != "", "secrets are not shown")
		}
		return v.Case.Steps[len(v.Case.Steps)-1].Expect, v.Reason
	}
	own := map[string]any{"case": "join/own.a/http", "added": true, "inputs": map[string]string{"plots": "4"}}
	outcome, _ := preview(own)
	require.Equal(t, "accepted", outcome)
	own["inputs"] = map[string]string{"plots": "5"}
	outcome, reason := preview(own)
	require.Equal(t, "rejected by the server", outcome)
	require.Contains(t, reason, "Plots wanted")
	outcome, _ = preview(map[string]any{"case": "join/username.length.max+1/http", "inputs": map[string]string{"username": "moss-row"}})
	require.Equal(t, "accepted", outcome)
}

func TestCasesFromASheet(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	var v struct {
		Columns []string
		Cases   []struct {
			ID, Title, Expect string
			SheetExpects      string `json:"sheet_expects"`
		}
		Differ int
		Kept   int
	}
	sheet := map[string]any{"text": "Title;plots;Expected\nfour plots;4;ok\nfive plots;5;ok\n", "usual": true}
	c.post(joinAt+"/case-import", sheet, 200, &v)
	require.Equal(t, []string{"title", "plots", "expected outcome"}, v.Columns)
	require.Equal(t, 1, v.Differ)
	require.Equal(t, "accepted", v.Cases[1].SheetExpects)
	var cases briefs
	require.Equal(t, 200, c.get(joinAt+"/cases?depth=quick", &cases))
	require.False(t, slices.ContainsFunc(cases.Order, func(id string) bool { return strings.Contains(id, "own.") }), "nothing is kept before it is asked for")
	sheet["keep"] = true
	c.post(joinAt+"/case-import", sheet, 200, &v)
	require.Equal(t, 2, v.Kept)
	cases = briefs{}
	require.Equal(t, 200, c.get(joinAt+"/cases?depth=quick", &cases))
	require.Contains(t, cases.Order, "join/own.five_plots/http")
	require.Contains(t, c.post(joinAt+"/case-import", map[string]any{"text": "title,x\na,b,c\n"}, 422, nil), "line 2: there are 3 cells under 2 heads")

	status, head, body := c.send(http.MethodGet, joinAt+"/cases.csv?depth=quick", nil)
	require.Equal(t, 200, status)
	require.Contains(t, head.Get("Content-Disposition"), "join-cases.csv")
	require.Contains(t, string(body), "join/own.five_plots/http,five plots,added by hand")
}

func TestTechniquesAndCoverage(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	text, err := os.ReadFile("../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	project := "site: sheds\ntitle: Sheds\naddress: http://127.0.0.1:1\nstates: [{id: guest}]\n---\n" + strings.Replace(string(text), "\nrejected:", "\nacross:\n  - {id: light, must_hold: 'plots <= 2 || heard != \"od\"'}\nrejected:", 1)
	request, err := http.NewRequest(http.MethodPost, c.address+"/api/projects", strings.NewReader(project))
	require.NoError(t, err)
	request.Header.Set("Content-Type", "application/yaml")
	request.Header.Set("X-Oddtick-Token", c.token)
	answer, err := c.http.Do(request)
	require.NoError(t, err)
	answer.Body.Close()
	require.Equal(t, 200, answer.StatusCode)
	const at = "/api/sites/sheds/forms/join"
	var v struct {
		Tables []struct {
			ID, Path, Expression string
			Conditions           []string
			Columns              []map[string]any
		}
		Combined struct {
			Rows       []struct{ Case string }
			Infeasible int
		}
		Growth []struct{ Strength, Rows int }
		States struct{ States []string }
	}
	require.Equal(t, 200, c.get(at+"/techniques", &v))
	require.Len(t, v.Tables, 1)
	require.Equal(t, "across[light].must_hold", v.Tables[0].Path)
	require.Len(t, v.Tables[0].Columns, 3)
	require.Positive(t, v.Combined.Infeasible)
	require.Equal(t, []string{"guest"}, v.States.States)
	require.Len(t, v.Growth, 4)

	columns := v.Tables[0].Columns
	for _, column := range columns {
		column["outcome"] = "holds"
	}
	var expression struct{ Expression string }
	c.post(at+"/table-expression", map[string]any{"conditions": v.Tables[0].Conditions, "columns": columns, "yes": "holds"}, 200, &expression)
	require.Equal(t, "true", expression.Expression)
	require.Contains(t, c.post(at+"/table-expression", map[string]any{"conditions": []string{"weeds > 2"}, "columns": []any{map[string]any{"entries": []string{"yes"}, "outcome": "holds"}}, "yes": "holds"}, 422, nil), "do not say what happens")

	var cases briefs
	require.Equal(t, 200, c.get(at+"/cases?depth=standard&strength=3", &cases))
	three := slices.IndexFunc(cases.Order, func(id string) bool { return strings.HasPrefix(id, "join/triple:") })
	require.Positive(t, three)
	require.Equal(t, 200, c.get(at+"/case?id="+strings.ReplaceAll(strings.ReplaceAll(cases.Order[three], "=", "%3D"), ",", "%2C"), nil), "a row of another strength is found too")
	cases = briefs{}
	require.Equal(t, 200, c.get(at+"/cases?at_most=25", &cases))
	require.Len(t, cases.Order, 25)

	type kinds struct {
		Kinds []struct {
			Kind           string
			Total, Covered int
			Missing        []struct{ ID, Case, Why string }
		}
		Run int
	}
	var quick kinds
	require.Equal(t, 200, c.get(at+"/coverage?depth=quick", &quick))
	require.Equal(t, "each rule violated by itself", quick.Kinds[0].Kind)
	require.Equal(t, quick.Kinds[0].Total, quick.Kinds[0].Covered)
	require.Equal(t, 404, c.get(at+"/coverage?observed=true", nil), "what never ran was not observed")
	c.ended(c.run(map[string]any{"depth": "quick"}))
	var seen kinds
	require.Equal(t, 200, c.get(joinAt+"/coverage?depth=quick&observed=true", &seen))
	require.Equal(t, 1, seen.Run)
	require.Equal(t, seen.Kinds[0].Total, seen.Kinds[0].Covered)
}

func TestAWorkbookIsReadAsASheet(t *testing.T) {
	t.Parallel()
	c := start(t)
	status, _, _ := c.send(http.MethodPost, "/api/workbook-sheet", map[string]any{"workbook": []byte("x")})
	require.Equal(t, http.StatusUnauthorized, status, "not without a session")
	c.signIn()
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetRow("Sheet1", "A1", &[]string{"title", "username"}))
	require.NoError(t, f.SetSheetRow("Sheet1", "A2", &[]string{"Market day", "moss-row"}))
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	status, _, answer := c.send(http.MethodPost, "/api/workbook-sheet", map[string]any{"workbook": b.Bytes()})
	require.Equal(t, http.StatusOK, status)
	var sheet struct{ Text string }
	require.NoError(t, json.Unmarshal(answer, &sheet))
	require.Equal(t, "title,username\nMarket day,moss-row\n", sheet.Text)
	status, _, answer = c.send(http.MethodPost, "/api/workbook-sheet", map[string]any{"workbook": []byte("title,username")})
	require.Equal(t, http.StatusUnprocessableEntity, status)
	require.Contains(t, string(answer), "not a workbook")
}

// TestAttackTheSecondOfTwoWhoEditACaseIsTold, and nothing of the first is lost; another case is nobody's concern.
func TestAttackTheSecondOfTwoWhoEditACaseIsTold(t *testing.T) {
	t.Parallel()
	c := start(t)
	c.signIn()
	const one, other = "join/terms.ticked/http", "join/terms.unticked/http"
	at := joinAt + "/case-edits"
	post := func(version, body string) (int, http.Header, string) {
		status, header, text := c.answer(c.ask(http.MethodPost, at, body, map[string]string{"If-Match": version}))
		return status, header, string(text)
	}
	seen := c.ask(http.MethodGet, at, "", nil).Header.Get("ETag")
	require.Equal(t, seen, c.ask(http.MethodGet, joinAt+"/case?id="+one, "", nil).Header.Get("ETag"))
	status, header, text := post(seen, `{"edits": [{"case": "`+one+`", "tags": ["legal", "soon"]}]}`)
	require.Equal(t, 200, status, text)
	require.NotEqual(t, seen, header.Get("ETag"))
	status, _, text = post(seen, `{"edits": [{"case": "`+other+`", "skip": "later"}, {"case": "`+one+`", "skip": "later"}]}`)
	require.Equal(t, 409, status)
	require.Contains(t, text, one+" was changed in the meantime: tagged legal, soon, saved by tester")
	var kept struct{ Edits []struct{ Case, Skip string } }
	require.Equal(t, 200, c.get(at, &kept))
	require.Len(t, kept.Edits, 1, "nothing of the second was kept")
	status, _, text = post(seen, `{"edits": [{"case": "`+other+`", "skip": "later"}]}`)
	require.Equal(t, 200, status, text)

	seen = c.ask(http.MethodGet, at, "", nil).Header.Get("ETag")
	status, _, text = post(seen, `{"edits": [], "remove": ["`+one+`"]}`)
	require.Equal(t, 200, status, text)
	status, _, text = post(seen, `{"edits": [{"case": "`+one+`", "skip": "later"}]}`)
	require.Equal(t, 409, status, "what was removed is told too")
	require.Contains(t, text, "it has no edits any more")
	for version, want := range map[string]int{"": 428, `"x"`: 412} {
		status, _, _ = post(version, `{"edits": []}`)
		require.Equal(t, want, status)
	}
}
