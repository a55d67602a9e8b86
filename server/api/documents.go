package api

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"time"

	"oddtick/core/contradiction"
	"oddtick/core/design"
	"oddtick/core/document"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/scale"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// editRequest is a change of a form, made from a revision.
type editRequest struct {
	FormPath
	Body struct {
		Base    int             `json:"base" doc:"the revision that the edits are based on"`
		Edits   []document.Edit `json:"edits" maxItems:"2000"`
		Note    string          `json:"note,omitempty" maxLength:"400" doc:"where the edits come from, such as the page /join"`
		Preview bool            `json:"preview,omitempty" doc:"only preview it; save nothing"`
	}
}

// editAnswer says what came of a change.
type editAnswer struct {
	Revision int `json:"revision"`
	// Differences say in words what changed.
	Differences []prose.Text `json:"differences"`
	Cases       delta        `json:"cases"`
	// Rows are the scales as they would be, of a preview only.
	Rows []scale.Row `json:"rows,omitempty"`
}

// delta is how the cases at standard depth change.
type delta struct {
	Before  int `json:"before"`
	After   int `json:"after"`
	Added   int `json:"added"`
	Retired int `json:"retired"`
	Changed int `json:"changed" doc:"cases that submit, or expect, something else"`
}

// documentsAPI answers requests.
type documentsAPI struct{ *Server }

func registerDocuments(api huma.API, server *Server) {
	s := documentsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getDocument", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/document", Summary: "A form's document as YAML"}, s.document)
	huma.Register(api, huma.Operation{OperationID: "editDocument", Tags: []string{"documents"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/edits", Summary: "Change a form's document", MaxBodyBytes: 8 << 20}, s.edit)
	huma.Register(api, huma.Operation{OperationID: "replaceDocument", Tags: []string{"documents"}, Method: http.MethodPut, Path: "/api/sites/{site}/forms/{form}/document", Summary: "Replace a form's document", MaxBodyBytes: 8 << 20}, s.replaceDocument)
	huma.Register(api, huma.Operation{OperationID: "getSchema", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/schemas/{document}", Summary: "The JSON Schema of a form or site document"}, s.schema)
	huma.Register(api, huma.Operation{OperationID: "listRevisions", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/revisions", Summary: "A form's revisions and their differences"}, s.revisions)
	huma.Register(api, huma.Operation{OperationID: "restoreRevision", Tags: []string{"documents"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/revisions/{revision}/restore", Summary: "Restore an earlier revision"}, s.restore)
	huma.Register(api, huma.Operation{OperationID: "listContradictions", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/contradictions", Summary: "A form's contradictions, and the rules of each layer"}, s.contradictions)
	huma.Register(api, huma.Operation{OperationID: "addForm", Tags: []string{"documents"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms", Summary: "Create a form"}, s.addForm)
	huma.Register(api, huma.Operation{OperationID: "exportProject", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/sites/{site}/project", Summary: "A site and its forms as one YAML file, without secrets"}, s.exportProject)
	huma.Register(api, huma.Operation{OperationID: "importProject", Tags: []string{"documents"}, Method: http.MethodPost, Path: "/api/projects", Summary: "Import a project file", MaxBodyBytes: 32 << 20}, s.importProject)
}

type documentView struct {
	Revision int    `json:"revision"`
	File     string `json:"file"`
	Text     string `json:"text"`
}

func (s documentsAPI) document(ctx context.Context, in *FormPath) (*struct{ Body documentView }, error) {
	f, err := s.findForm(ctx, *in)
	if err != nil {
		return nil, err
	}
	rev, err := s.store.Revision(ctx, f.RevisionID)
	if err != nil {
		return nil, err
	}
	return &struct{ Body documentView }{documentView{rev.Number, rev.File, string(rev.Source)}}, nil
}

type schemaRequest struct {
	Document string `path:"document" enum:"form,site"`
}

// schema is the same for everybody, and holds nothing of anybody's.
func (s documentsAPI) schema(_ context.Context, in *schemaRequest) (*struct{ Body map[string]any }, error) {
	return &struct{ Body map[string]any }{document.JSONSchema(in.Document)}, nil
}

func (s documentsAPI) edit(ctx context.Context, in *editRequest) (*struct{ Body editAnswer }, error) {
	f, rev, err := s.from(ctx, in.FormPath, in.Body.Base)
	if err != nil {
		return nil, err
	}
	text, err := document.Apply(rev.Source, in.Body.Edits)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The change cannot be made: " + err.Error() + ".")
	}
	return s.save(ctx, f, rev, text, in.Body.Note, in.Body.Preview)
}

// from finds a form for a change that was made from a revision; another that is newer is a conflict, told with what it changed.
func (s documentsAPI) from(ctx context.Context, path FormPath, base int) (*store.Form, *store.Revision, error) {
	f, err := s.findForm(ctx, path)
	if err != nil {
		return nil, nil, err
	}
	rev, err := s.store.Revision(ctx, f.RevisionID)
	if err == nil && base != rev.Number {
		err = s.stale(ctx, f, base)
	}
	return f, rev, err
}

// save reads a new text, and keeps it unless it is a preview only. The text before may be one for which no cases can be designed.
func (s documentsAPI) save(ctx context.Context, f *store.Form, rev *store.Revision, text []byte, note string, preview bool) (*struct{ Body editAnswer }, error) {
	form, err := spec.ReadForm(rev.File, text)
	if err != nil {
		return nil, unreadable(err)
	}
	if form.Form != f.Ident {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The id of this document is %s and cannot change; create another form for another id.", f.Ident))
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	next, err := s.designable(ctx, f, form, site)
	if err != nil {
		return nil, err
	}
	out := editAnswer{Revision: rev.Number, Differences: []prose.Text{}}
	after, err := next.Cases(ctx, testcase.Standard)
	if err != nil {
		return nil, err
	}
	before := &forms.CaseSet{Set: &design.Set{}}
	d, err := s.designs.Of(ctx, f, f.RevisionID)
	var unmade *forms.NotReadyError
	switch {
	case err == nil:
		out.Differences = document.Differences(d.Form, form)
		before, err = d.Cases(ctx, testcase.Standard)
	case errors.As(err, &unmade):
		err = nil
		note = cmp.Or(note, "mended")
	}
	if err != nil {
		return nil, err
	}
	var was *spec.Prepared
	if d != nil {
		was = d.Prepared
	}
	out.Cases = deltaOf(before, after, saysElse(was, next.Prepared))
	if preview {
		quick, err := next.Cases(ctx, testcase.Quick)
		if err != nil {
			return nil, err
		}
		out.Rows = quick.Rows
	}
	if preview || bytes.Equal(text, rev.Source) {
		return &struct{ Body editAnswer }{out}, nil
	}
	if note == "" {
		note = fmt.Sprint(prose.Join(out.Differences, "; "))
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	err = s.store.PutForm(ctx, f.SiteID, store.Save{Form: form, File: rev.File, Source: text, Base: rev.Number, User: u.ID, Note: note})
	var stale *store.StaleError
	if errors.As(err, &stale) {
		return nil, s.stale(ctx, f, rev.Number)
	}
	if err != nil {
		return nil, err
	}
	out.Revision++
	return &struct{ Body editAnswer }{out}, nil
}

// designable makes a form that is not kept yet ready, with the edits of a kept one's cases; a form for which no cases can be designed is
// refused.
func (s documentsAPI) designable(ctx context.Context, kept *store.Form, form *spec.Form, site *spec.Site) (*forms.Design, error) {
	ready, err := s.designs.Fresh(ctx, form, site)
	if err != nil {
		var details []error
		for _, d := range detailsOf(err) {
			details = append(details, d)
		}
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("No cases can be designed for the form %s: %s.", form.Form, err), details...)
	}
	if kept == nil {
		return ready.With(nil), nil
	}
	edits, err := s.store.CaseEdits(ctx, kept.ID)
	return ready.With(edits), err
}

// unreadable tells each problem of a document with its place.
func unreadable(err error) error {
	details := detailsOf(err)
	if len(details) == 0 {
		return err
	}
	list := make([]error, len(details))
	for i, d := range details {
		list[i] = d
	}
	var problems spec.Problems
	errors.As(err, &problems)
	p := problems[0]
	p.File = ""
	return huma.Error422UnprocessableEntity(p.Error()+".", list...)
}

// problemPlace is where in a document's text a problem is, from 1; 0 where it is at no line.
type problemPlace struct {
	Line   int `json:"line"`
	Column int `json:"column"`
}

// detailsOf are the problems of a document with their places; none where something else went wrong.
func detailsOf(err error) []*huma.ErrorDetail {
	var problems spec.Problems
	if !errors.As(err, &problems) {
		return nil
	}
	out := make([]*huma.ErrorDetail, len(problems))
	for i, p := range problems {
		text := p.Message
		if p.Remedy != "" {
			text += "; " + p.Remedy
		}
		out[i] = &huma.ErrorDetail{Location: p.Path, Message: text, Value: problemPlace{p.Line, p.Column}}
	}
	return out
}

// stale says what others have changed since a revision.
func (s documentsAPI) stale(ctx context.Context, f *store.Form, base int) error {
	said := fmt.Sprintf("Revision %d was saved in the meantime.", f.Revision)
	was, errWas := s.store.RevisionByNumber(ctx, f.ID, base)
	newest, err := s.store.Form(ctx, f.SiteIdent, f.Ident)
	if errWas == nil && err == nil {
		if words, err := s.between(ctx, was.ID, newest.RevisionID); err == nil {
			list, _ := s.store.Revisions(ctx, f.ID, 1)
			by := ""
			if len(list) == 1 && list[0].SavedBy != "" {
				by = " by " + list[0].SavedBy
			}
			said = fmt.Sprintf("Revision %d was saved in the meantime%s: %s.", newest.Revision, by, prose.Join(words, "; "))
		}
	}
	return huma.Error409Conflict(said, &huma.ErrorDetail{Location: "body.base", Message: "another revision is newer", Value: f.Revision})
}

func (s documentsAPI) between(ctx context.Context, was, is int64) ([]prose.Text, error) {
	a, err := s.designs.Read(ctx, was)
	if err != nil {
		return nil, err
	}
	b, err := s.designs.Read(ctx, is)
	if err != nil {
		return nil, err
	}
	return document.Differences(a, b), nil
}

// saysElse tells of a case whether the site is promised to say or to store something else after it than before.
func saysElse(was, is *spec.Prepared) func(*testcase.Case) bool {
	if was == nil {
		return func(*testcase.Case) bool { return false }
	}
	rules := map[string]bool{}
	for _, r := range slices.Concat(is.Rules, is.Across) {
		old := was.Rule(r.ID)
		rules[r.ID] = old == nil || old.Place != r.Place || old.MessageOn != r.MessageOn || !reflect.DeepEqual(old.Message, r.Message) || !reflect.DeepEqual(old.Rejection, r.Rejection)
	}
	accepted := !reflect.DeepEqual(was.Form.Accepted, is.Form.Accepted) || !reflect.DeepEqual(was.Form.Stored, is.Form.Stored)
	rejected := !reflect.DeepEqual(was.Form.Rejected, is.Form.Rejected)
	return func(c *testcase.Case) bool {
		return slices.ContainsFunc(c.Steps, func(s testcase.Step) bool {
			return s.Expect == oracle.Accepted && accepted || s.Expect == oracle.RejectedByServer && rejected || slices.ContainsFunc(s.Breaks, func(id string) bool { return rules[id] })
		})
	}
}

// deltaOf counts what becomes of the cases. A case counts as changed if it submits other values, or if its expectation differs.
func deltaOf(was, is *forms.CaseSet, expectsElse func(*testcase.Case) bool) delta {
	out := delta{Before: len(was.Cases), After: len(is.Cases)}
	for _, c := range is.Cases {
		old := was.ByID[c.ID]
		switch {
		case old == nil:
			out.Added++
		case !reflect.DeepEqual(old.Steps, c.Steps) || expectsElse(c):
			out.Changed++
		}
	}
	for _, c := range was.Cases {
		if is.ByID[c.ID] == nil {
			out.Retired++
		}
	}
	return out
}

type replaceRequest struct {
	FormPath
	Body struct {
		Base    int    `json:"base"`
		Text    string `json:"text"`
		Preview bool   `json:"preview,omitempty"`
	}
}

func (s documentsAPI) replaceDocument(ctx context.Context, in *replaceRequest) (*struct{ Body editAnswer }, error) {
	f, rev, err := s.from(ctx, in.FormPath, in.Body.Base)
	if err != nil {
		return nil, err
	}
	return s.save(ctx, f, rev, []byte(in.Body.Text), "", in.Body.Preview)
}

type revisionView struct {
	Number  int       `json:"number"`
	SavedAt time.Time `json:"saved_at"`
	SavedBy string    `json:"saved_by"`
	Note    string    `json:"note"`
	// Differences are those from the revision before; empty for the first.
	Differences []prose.Text `json:"differences"`
}

// maxRevisions is how many revisions are listed.
const maxRevisions = 100

func (s documentsAPI) revisions(ctx context.Context, in *struct {
	FormPath
	After int `query:"after" doc:"only those that are newer than this one"`
},
) (*struct{ Body []revisionView }, error) {
	f, err := s.findForm(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Revisions(ctx, f.ID, maxRevisions+1)
	if err != nil {
		return nil, err
	}
	out := []revisionView{}
	for i, r := range list {
		if i == maxRevisions || r.Number <= in.After {
			break
		}
		v := revisionView{Number: r.Number, SavedAt: r.SavedAt, SavedBy: r.SavedBy, Note: r.Note, Differences: []prose.Text{}}
		if i+1 < len(list) && i < 20 {
			var unmade *forms.NotReadyError // a text that cannot be read any more has no differences in words
			if v.Differences, err = s.between(ctx, list[i+1].ID, r.ID); err != nil && !errors.As(err, &unmade) {
				return nil, err
			}
		}
		out = append(out, v)
	}
	return &struct{ Body []revisionView }{out}, nil
}

type restoreRequest struct {
	FormPath
	Revision int `path:"revision"`
	Body     struct {
		Base int `json:"base"`
	}
}

func (s documentsAPI) restore(ctx context.Context, in *restoreRequest) (*struct{ Body editAnswer }, error) {
	f, rev, err := s.from(ctx, in.FormPath, in.Body.Base)
	if err != nil {
		return nil, err
	}
	old, err := s.store.RevisionByNumber(ctx, f.ID, in.Revision)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound(fmt.Sprintf("There is no revision %d of this form.", in.Revision))
	}
	if err != nil {
		return nil, err
	}
	return s.save(ctx, f, rev, old.Source, fmt.Sprintf("as revision %d", in.Revision), false)
}

type contradictionsView struct {
	Contradictions []contradiction.Contradiction `json:"contradictions"`
	Layers         []contradiction.Layers        `json:"layers"`
	// PageRead and TablesRead say what besides the document itself was looked at.
	PageRead   bool `json:"page_read"`
	TablesRead bool `json:"tables_read"`
}

func (s documentsAPI) contradictions(ctx context.Context, in *FormPath) (*struct{ Body contradictionsView }, error) {
	f, d, err := s.find(ctx, *in)
	if err != nil {
		return nil, err
	}
	a, err := against(ctx, s.Server, f)
	if err != nil {
		return nil, err
	}
	found := contradiction.Find(d.Prepared, a)
	return &struct{ Body contradictionsView }{contradictionsView{found, contradiction.SideBySide(d.Prepared, a, found), a.Page != nil, a.Schema != nil}}, nil
}

func against(ctx context.Context, s *Server, f *store.Form) (a contradiction.Against, err error) {
	a.Now = time.Now()
	if a.Site, err = s.store.SiteDocument(ctx, f.SiteID); err != nil {
		return a, err
	}
	if a.Page, err = s.store.Page(ctx, f.ID); err != nil {
		return a, err
	}
	a.Schema, err = s.store.Tables(ctx, f.SiteID)
	return a, err
}

type addFormRequest struct {
	Site string `path:"site"`
	Body struct {
		ID    string `json:"id" pattern:"^[a-z][a-z0-9_]*$" maxLength:"60"`
		Title string `json:"title,omitempty" maxLength:"200"`
		Page  string `json:"page" maxLength:"2000" doc:"path of the page with the form"`
	}
}

func (s documentsAPI) addForm(ctx context.Context, in *addFormRequest) (*struct{ Body struct{} }, error) {
	u, site, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	if _, err := s.store.Form(ctx, in.Site, in.Body.ID); err == nil {
		return nil, huma.Error409Conflict("The site has a form " + in.Body.ID + " already.")
	}
	text, err := document.Apply([]byte("form: "+in.Body.ID+"\n"), []document.Edit{{Do: document.Set, Path: "page", Value: quote(in.Body.Page)}})
	if err == nil && in.Body.Title != "" {
		text, err = document.Apply(text, []document.Edit{{Do: document.Set, Path: "title", Value: quote(in.Body.Title)}})
	}
	if err != nil {
		return nil, err
	}
	form, err := spec.ReadForm(in.Body.ID+".yaml", text)
	if err != nil {
		return nil, unreadable(err)
	}
	return &struct{ Body struct{} }{}, s.store.PutForm(ctx, site.ID, store.Save{Form: form, File: in.Body.ID + ".yaml", Source: text, User: u.ID, Note: "begun"})
}

func quote(text string) json.RawMessage {
	b, _ := json.Marshal(text) // a text can always be written
	return b
}

// separator stands between the documents of a project file.
const separator = "---\n"

type projectAnswer struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func (s documentsAPI) exportProject(ctx context.Context, in *struct {
	Site string `path:"site"`
},
) (*projectAnswer, error) {
	_, site, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	source, err := s.store.SiteSource(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	parts := [][]byte{source}
	forms, err := s.store.Forms(ctx)
	if err != nil {
		return nil, err
	}
	for i := range forms {
		if forms[i].SiteID != site.ID {
			continue
		}
		rev, err := s.store.Revision(ctx, forms[i].RevisionID)
		if err != nil {
			return nil, err
		}
		parts = append(parts, rev.Source)
		edits, err := s.store.CaseEdits(ctx, forms[i].ID)
		if err != nil {
			return nil, err
		}
		if len(edits) > 0 {
			text, err := document.WriteCases(&spec.CaseDocument{Cases: forms[i].Ident, Edits: edits})
			if err != nil {
				return nil, err
			}
			parts = append(parts, text)
		}
	}
	return &projectAnswer{"application/yaml", `attachment; filename="` + site.Ident + `.yaml"`, bytes.Join(parts, []byte(separator))}, nil
}

type importAnswer struct {
	Site  string   `json:"site"`
	Forms []string `json:"forms" doc:"ids of the imported forms"`
}

type importRequest struct {
	RawBody []byte `contentType:"application/yaml"`
}

// importProject takes in a site with its forms. A form that is there gets a new revision; nothing is taken when anything is wrong.
func (s documentsAPI) importProject(ctx context.Context, in *importRequest) (*struct{ Body importAnswer }, error) {
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	project, err := spec.ReadProject([]spec.File{{Name: "project.yaml", Text: in.RawBody}})
	if err != nil {
		return nil, unreadable(err)
	}
	if project.Site == nil {
		return nil, huma.Error422UnprocessableEntity("The file has no site document; it begins with “site: ID”.")
	}
	if known, err := s.store.Site(ctx, project.Site.Site); err == nil {
		old, err := s.store.SiteDocument(ctx, known.ID)
		if err != nil {
			return nil, err
		}
		if err := keepSecrets(project.Site, old); err != nil {
			return nil, err
		}
	}
	if err := s.wrongSettings(ctx, project.Site); err != nil {
		return nil, err
	}
	for _, f := range project.Forms {
		if _, err := s.designable(ctx, nil, f, project.Site); err != nil {
			return nil, err
		}
	}
	var siteText []byte
	texts := map[string][]byte{}
	for _, part := range documentsOf(in.RawBody) {
		one, err := spec.ReadProject([]spec.File{{Name: "project.yaml", Text: part}})
		switch {
		case err != nil:
			return nil, unreadable(err)
		case one.Site != nil:
			siteText = part
		case len(one.Forms) == 1:
			texts[one.Forms[0].Form] = part
		}
	}
	id, err := s.store.PutSite(ctx, project.Site, siteText)
	if err != nil {
		return nil, err
	}
	out := importAnswer{Site: project.Site.Site, Forms: []string{}}
	for _, f := range project.Forms {
		if err := s.store.PutForm(ctx, id, store.Save{Form: f, File: f.Form + ".yaml", Source: texts[f.Form], User: u.ID, Note: "imported from a project file"}); err != nil {
			return nil, err
		}
		if edits := project.EditsOf(f.Form); len(edits) > 0 {
			kept, err := s.store.Form(ctx, project.Site.Site, f.Form)
			if err != nil {
				return nil, err
			}
			if err := s.store.PutCaseEdits(ctx, kept.ID, u.ID, store.AnyVersion, edits, nil); err != nil {
				return nil, err
			}
		}
		out.Forms = append(out.Forms, f.Form)
	}
	return &struct{ Body importAnswer }{out}, nil
}

// documentsOf cuts a file at the lines that part its documents.
func documentsOf(text []byte) [][]byte {
	var out [][]byte
	var part bytes.Buffer
	flush := func() {
		if len(bytes.TrimSpace(part.Bytes())) > 0 {
			out = append(out, bytes.Clone(part.Bytes()))
		}
		part.Reset()
	}
	r := bytes.NewBuffer(text)
	for {
		line, err := r.ReadBytes('\n')
		if strings.TrimRight(string(line), "\r\n ") == "---" {
			flush()
		} else {
			part.Write(line)
		}
		if err == io.EOF {
			flush()
			return out
		}
	}
}
