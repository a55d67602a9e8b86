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

// mostEdits is how many cases of a form may be edited or written by hand.
const mostEdits = 20_000

type caseEditsRequest struct {
	FormPath
	IfMatch string `header:"If-Match" doc:"the ETag of the edits from which these were made"`
	Body    struct {
		Edits  []spec.CaseEdit `json:"edits" maxItems:"20000" doc:"each replaces what was changed about its case before"`
		Remove []string        `json:"remove,omitempty" maxItems:"20000" doc:"cases of which nothing is to be changed any more; those written by hand are gone with it"`
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
	huma.Register(api, huma.Operation{OperationID: "caseEdits", Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/case-edits", Summary: "What testers changed about the cases"}, s.caseEdits)
	huma.Register(api, huma.Operation{OperationID: "editCases", Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-edits", Summary: "Switch cases off, tag them, type other values, write new ones", MaxBodyBytes: 16 << 20}, s.editCases)
	huma.Register(api, huma.Operation{OperationID: "previewCase", Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-preview", Summary: "What a case would be with an edit, without keeping it"}, s.previewCase)
	huma.Register(api, huma.Operation{OperationID: "sheetOfWorkbook", Method: http.MethodPost, Path: "/api/workbook-sheet", Summary: "The first sheet of a workbook as CSV", MaxBodyBytes: 16 << 20}, s.sheetOfWorkbook)
	huma.Register(api, huma.Operation{OperationID: "importCases", Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/case-import", Summary: "Cases from a sheet", MaxBodyBytes: 16 << 20}, s.importCases)
	huma.Register(api, huma.Operation{OperationID: "exportCases", Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/cases.csv", Summary: "The cases as CSV"}, s.exportCases)
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
	if len(d.Edits)+len(in.Body.Edits) > mostEdits {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("A form holds at most %d edited cases.", mostEdits))
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
		now := "nothing is changed about it any more"
		if c.Edit != nil {
			now = fmt.Sprint(prose.Join(promise.Edit(c.Edit), "; "))
		}
		now = fmt.Sprintf("%s, saved by %s", now, cmp.Or(c.By, "somebody"))
		details[i] = &huma.ErrorDetail{Location: c.Case, Message: now}
		if i == 0 {
			first = c.Case + " was changed meanwhile: " + now
		}
	}
	if more := len(e.Cases) - 1; more > 0 {
		first += fmt.Sprintf("; so were %d more", more)
	}
	return huma.Error409Conflict(first+". Nothing of yours was saved; look at it, and make your change again.", details...)
}

// checkEdit tells what is wrong with an edit before anything is kept.
func checkEdit(ctx context.Context, d *forms.Design, e *spec.CaseEdit, at string) error {
	wrong := func(where, format string, args ...any) error {
		text := fmt.Sprintf(format, args...)
		return huma.Error422UnprocessableEntity(text, &huma.ErrorDetail{Location: at + where, Message: text})
	}
	known := e.Own || slices.ContainsFunc(d.Edits, func(old spec.CaseEdit) bool { return old.Case == e.Case })
	if !known && len(e.Case) <= 200 {
		c, err := d.Find(ctx, e.Case)
		if err != nil {
			return err
		}
		known = c != nil
	}
	switch {
	case e.Own && !strings.HasPrefix(e.Case, d.Form.Form+"/own."):
		return wrong(".case", "A case written by hand has an id that begins with %s/own.", d.Form.Form)
	case e.Own && e.Title == "":
		return wrong(".title", "A case written by hand needs a title.")
	case len(e.Case) > 200:
		return wrong(".case", "The id %s is longer than 200 characters.", e.Case)
	case !known:
		return wrong(".case", "The form has no case %s.", e.Case)
	}
	for id := range e.Inputs {
		if f := d.Prepared.Field(id); f == nil || f.Kind.Untouched() {
			return wrong(".inputs."+id, "The form has no field %s that can be typed into.", id)
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
	if e.Own && e.Title == "" {
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
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The case cannot be made: %s.", why))
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
		Text    string   `json:"text" maxLength:"12000000" doc:"CSV with a line of heads"`
		Columns []string `json:"columns,omitempty" doc:"what each column holds; guessed where there are none"`
		Usual   bool     `json:"usual,omitempty" doc:"an empty cell stands for a usual value; otherwise the field is left blank"`
		Keep    bool     `json:"keep,omitempty" doc:"keep the cases; otherwise only say what would come of it"`
	}
}

type importCasesView struct {
	Heads    []string `json:"heads"`
	First    []string `json:"first" doc:"the first line, as an example"`
	Columns  []string `json:"columns"`
	Meanings []string `json:"meanings" doc:"what a column may hold: these words and the fields' ids"`
	// Cases are those of the sheet, with the outcome that the rules expect.
	Cases []importedCase `json:"cases"`
	// Differ is how many say another outcome than the rules.
	Differ int `json:"differ"`
	Kept   int `json:"kept"`
}

type importedCase struct {
	ID     string     `json:"id"`
	Title  string     `json:"title"`
	Expect string     `json:"expect"`
	Breaks []string   `json:"breaks"`
	Says   string     `json:"says,omitempty" doc:"what the sheet says, where the rules say another"`
	Why    prose.Text `json:"why,omitempty" doc:"why the case cannot be made"`
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
			one.Expect, one.Says = brief.Expect, brief.Says
			one.Breaks = append(one.Breaks, brief.Breaks...)
		}
		if one.Says != "" {
			v.Differ++
		}
		v.Cases = append(v.Cases, one)
	}
	if in.Body.Keep {
		if len(d.Edits)+len(sheet.Edits) > mostEdits {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("A form holds at most %d edited cases.", mostEdits))
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
