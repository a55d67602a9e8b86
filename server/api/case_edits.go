package api

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/promise"
	"oddtick/formats/caselist"
	"oddtick/formats/csvfile"
	"oddtick/formats/workbook"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// maxEdits is how many cases of a form may be edited or written by hand.
const maxEdits = 20_000

type caseEditsRequest struct {
	FormPath
	IfMatch string `header:"If-Match" doc:"the ETag of the edits from which these were made"`
	Body    struct {
		Edits  []spec.CaseEdit `json:"edits" maxItems:"20000" doc:"each replaces the previous edit of its case"`
		Remove []string        `json:"remove,omitempty" maxItems:"20000" doc:"cases whose edits are removed; cases added by hand are deleted"`
	}
}

type caseEditsView struct {
	Edits []spec.CaseEdit `json:"edits"`
}

// caseEditsAnswer carries the version that a change must name in If-Match.
type caseEditsAnswer struct {
	ETag string `header:"ETag"`
	Body caseEditsView
}

// caseEditsAPI answers requests.
type caseEditsAPI struct{ *Server }

func registerCaseEdits(api huma.API, server *Server) {
	s := caseEditsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "listCaseEdits", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/case-edits", Summary: "What testers changed about the cases"}, s.caseEdits)
	huma.Register(api, huma.Operation{OperationID: "editCases", Tags: []string{"cases"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-edits", Summary: "Skip cases, tag them, set other values, add new ones", MaxBodyBytes: 16 << 20}, s.editCases)
	huma.Register(api, huma.Operation{OperationID: "previewCase", Tags: []string{"cases"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-preview", Summary: "Preview a case with an edit, without saving it"}, s.previewCase)
	huma.Register(api, huma.Operation{OperationID: "convertWorkbook", Tags: []string{"cases"}, Method: http.MethodPost, Path: "/api/workbook-sheet", Summary: "The first sheet of a workbook as CSV", MaxBodyBytes: 16 << 20}, s.sheetOfWorkbook)
	huma.Register(api, huma.Operation{OperationID: "importCases", Tags: []string{"cases"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-import", Summary: "Import cases from a sheet", MaxBodyBytes: 16 << 20}, s.importCases)
	huma.Register(api, huma.Operation{OperationID: "exportCases", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/cases.csv", Summary: "The cases as CSV"}, s.exportCases)
}

func (s caseEditsAPI) caseEdits(ctx context.Context, in *FormPath) (*caseEditsAnswer, error) {
	f, err := s.findForm(ctx, *in)
	if err != nil {
		return nil, err
	}
	version, err := s.store.CaseEditsVersion(ctx, f.ID) // before the edits, so that a version never stands for edits that came after it
	if err != nil {
		return nil, err
	}
	edits, err := s.store.CaseEdits(ctx, f.ID)
	return &caseEditsAnswer{etag(int64(version)), caseEditsView{edits}}, err
}

func (s caseEditsAPI) editCases(ctx context.Context, in *caseEditsRequest) (*caseEditsAnswer, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	for i := range in.Body.Edits {
		if err := checkEdit(ctx, d, &in.Body.Edits[i], fmt.Sprintf("body.edits[%d]", i)); err != nil {
			return nil, err
		}
	}
	if len(d.Edits)+len(in.Body.Edits) > maxEdits {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("A form holds at most %d edited cases.", maxEdits))
	}
	from, err := versionOf(in.IfMatch)
	if err != nil {
		return nil, err
	}
	err = s.store.PutCaseEdits(ctx, f.ID, u.ID, int(from), in.Body.Edits, in.Body.Remove)
	var stale *store.StaleEditsError
	if errors.As(err, &stale) {
		return nil, staleEdits(stale)
	}
	if err != nil {
		return nil, err
	}
	return s.caseEdits(ctx, &in.FormPath)
}

// staleEdits says what others changed meanwhile about the cases of an edit.
func staleEdits(e *store.StaleEditsError) error {
	details, first := make([]error, len(e.Cases)), ""
	for i, c := range e.Cases {
		now := "it has no edits any more"
		if c.Edit != nil {
			now = fmt.Sprint(prose.Join(promise.Edit(c.Edit), "; "))
		}
		now = fmt.Sprintf("%s, saved by %s", now, cmp.Or(c.By, "somebody"))
		details[i] = &huma.ErrorDetail{Location: c.Case, Message: now}
		if i == 0 {
			first = c.Case + " was changed in the meantime: " + now
		}
	}
	if more := len(e.Cases) - 1; more > 0 {
		first += fmt.Sprintf("; and %d more", more)
	}
	return huma.Error409Conflict(first+". Your change was not saved; look at theirs, and make yours again.", details...)
}

// checkEdit tells what is wrong with an edit before anything is kept.
func checkEdit(ctx context.Context, d *forms.Design, e *spec.CaseEdit, at string) error {
	wrong := func(where, format string, args ...any) error {
		text := fmt.Sprintf(format, args...)
		return huma.Error422UnprocessableEntity(text, &huma.ErrorDetail{Location: at + where, Message: text})
	}
	known := e.Added || slices.ContainsFunc(d.Edits, func(old spec.CaseEdit) bool { return old.Case == e.Case })
	if !known && len(e.Case) <= 200 {
		c, err := d.Find(ctx, e.Case)
		if err != nil {
			return err
		}
		known = c != nil
	}
	switch {
	case e.Added && !strings.HasPrefix(e.Case, d.Form.Form+"/own."):
		return wrong(".case", "The id of a case added by hand begins with %s/own.", d.Form.Form)
	case e.Added && e.Title == "":
		return wrong(".title", "A case added by hand needs a title.")
	case len(e.Case) > 200:
		return wrong(".case", "The id %s is longer than 200 characters.", e.Case)
	case !known:
		return wrong(".case", "The form has no case %s.", e.Case)
	}
	for id := range e.Inputs {
		if f := d.Prepared.Field(id); f == nil || f.Kind.Untouched() {
			return wrong(".inputs."+id, "The form has no field %s that can be filled in.", id)
		}
	}
	return nil
}

type previewCaseRequest struct {
	FormPath
	Body struct {
		Edit spec.CaseEdit `json:"edit"`
	}
}

func (s caseEditsAPI) previewCase(ctx context.Context, in *previewCaseRequest) (*struct{ Body caseView }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	e := in.Body.Edit
	if e.Added && e.Title == "" {
		e.Title = "a case"
	}
	if err := checkEdit(ctx, d, &e, "body.edit"); err != nil {
		return nil, err
	}
	base, err := d.Find(ctx, e.Case)
	if err != nil {
		return nil, err
	}
	c, why := d.Designer.Edited(base, &e)
	if c == nil {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The case cannot be generated: %s.", why))
	}
	v := &caseView{Case: c, Also: []string{}, Covers: []covered{}, Only: []covered{}}
	if v.Inputs, v.Reason, err = inputsOf(d, c); err != nil {
		return nil, err
	}
	return &struct{ Body caseView }{*v}, nil
}

type importCasesRequest struct {
	FormPath
	Body struct {
		Text    string   `json:"text" maxLength:"12000000" doc:"CSV with a header line"`
		Columns []string `json:"columns,omitempty" doc:"the meaning of each column; guessed if missing"`
		Usual   bool     `json:"usual,omitempty" doc:"an empty cell means a typical value; otherwise the field is left blank"`
		Keep    bool     `json:"keep,omitempty" doc:"save the cases; otherwise only preview them"`
	}
}

type importCasesView struct {
	Heads    []string `json:"heads"`
	First    []string `json:"first" doc:"the first line, as an example"`
	Columns  []string `json:"columns"`
	Meanings []string `json:"meanings" doc:"what a column may mean: these words and the fields' ids"`
	// Cases are those of the sheet, with the outcome that the rules expect.
	Cases []importedCase `json:"cases"`
	// Differ is how many say another outcome than the rules.
	Differ int `json:"differ"`
	Kept   int `json:"kept"`
}

type importedCase struct {
	ID           string     `json:"id"`
	Title        string     `json:"title"`
	Expect       string     `json:"expect"`
	Breaks       []string   `json:"breaks"`
	SheetExpects string     `json:"sheet_expects,omitempty" doc:"what the sheet expects, if it differs from the rules"`
	Why          prose.Text `json:"why,omitempty" doc:"why the case cannot be generated"`
}

type workbookRequest struct {
	Body struct {
		Workbook []byte `json:"workbook" doc:"a workbook (.xlsx)"`
	}
}

type sheetText struct {
	Text string `json:"text" doc:"CSV"`
}

func (s caseEditsAPI) sheetOfWorkbook(ctx context.Context, in *workbookRequest) (*struct{ Body sheetText }, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	text, err := workbook.CSV(in.Body.Workbook)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The workbook cannot be read: " + err.Error() + ".")
	}
	return &struct{ Body sheetText }{sheetText{text}}, nil
}

func (s caseEditsAPI) importCases(ctx context.Context, in *importCasesRequest) (*struct{ Body importCasesView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	sheet, err := caselist.Parse(d.Form, in.Body.Text, in.Body.Columns, in.Body.Usual)
	var wrong *csvfile.Error
	if errors.As(err, &wrong) {
		return nil, huma.Error422UnprocessableEntity("The sheet cannot be read, "+wrong.Error()+".", &huma.ErrorDetail{Location: fmt.Sprintf("body.text line %d", wrong.Line), Message: wrong.Problem})
	}
	if err != nil {
		return nil, err
	}
	v := importCasesView{Heads: sheet.Heads, First: sheet.First, Columns: sheet.Columns, Meanings: caselist.Meanings(d.Form), Cases: []importedCase{}}
	set, err := d.Ready.With(sheet.Edits).Cases(ctx, testcase.Quick)
	if err != nil {
		return nil, err
	}
	why := map[string]prose.Text{}
	for _, o := range set.Omitted {
		why[o.About] = o.Why
	}
	for i := range sheet.Edits {
		e := &sheet.Edits[i]
		one := importedCase{ID: e.Case, Title: e.Title, Breaks: []string{}, Why: why[e.Case]}
		if c := set.ByID[e.Case]; c != nil {
			brief := briefOf(c)
			one.Expect, one.SheetExpects = brief.Expect, brief.SourceExpects
			one.Breaks = append(one.Breaks, brief.Breaks...)
		}
		if one.SheetExpects != "" {
			v.Differ++
		}
		v.Cases = append(v.Cases, one)
	}
	if in.Body.Keep {
		if len(d.Edits)+len(sheet.Edits) > maxEdits {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("A form holds at most %d edited cases.", maxEdits))
		}
		if err := s.store.PutCaseEdits(ctx, f.ID, u.ID, store.AnyVersion, sheet.Edits, nil); err != nil {
			return nil, err
		}
		v.Kept = len(sheet.Edits)
	}
	return &struct{ Body importCasesView }{v}, nil
}

type exportCasesRequest struct {
	FormPath
	PlanQuery
}

func (s caseEditsAPI) exportCases(ctx context.Context, in *exportCasesRequest) (*reportAnswer, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	set, err := d.Set(ctx, in.plan())
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := caselist.Write(&b, d.Designer, set.Cases); err != nil {
		return nil, err
	}
	return &reportAnswer{"text/csv; charset=utf-8", fmt.Sprintf("attachment; filename=%q", f.Ident+"-cases.csv"), b.Bytes()}, nil
}
