package api

import (
	"cmp"
	"context"
	"encoding/base64"
	"fmt"
	"net/http"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/formats/ddl"
	"oddtick/formats/jsonschema"
	"oddtick/formats/recorded"
	"oddtick/formats/rulelist"
	"oddtick/formats/story"
	"oddtick/observe/page"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// Proposals are what a source proposes for a form. It is exported so that views that embed it describe its members.
type Proposals struct {
	From      prose.Text       `json:"from"`
	Proposals []draft.Proposal `json:"proposals"`
	Notes     []prose.Text     `json:"notes"`
}

func propose(d *forms.Design, dr *draft.Draft) Proposals {
	out := Proposals{From: dr.From, Proposals: draft.Propose(d.Form, dr), Notes: append([]prose.Text{}, dr.Notes...)}
	if out.Proposals == nil {
		out.Proposals = []draft.Proposal{}
	}
	for i := range dr.Fields {
		for _, n := range dr.Fields[i].Notes {
			out.Notes = append(out.Notes, phrases.NoteOfControl.With("control", dr.Fields[i].Name, "notes", n))
		}
	}
	return out
}

// importsAPI answers requests.
type importsAPI struct{ *Server }

func registerImports(api huma.API, server *Server) {
	s := importsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "readPage", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/page", Summary: "Read a form from its page", MaxBodyBytes: 24 << 20}, s.readPage)
	huma.Register(api, huma.Operation{OperationID: "readTables", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/tables", Summary: "Read tables from SQL or from the site's database", MaxBodyBytes: 64 << 20}, s.readTables)
	huma.Register(api, huma.Operation{OperationID: "readSchema", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/schema", Summary: "Read a JSON Schema or an OpenAPI document", MaxBodyBytes: 16 << 20}, s.readSchema)
	huma.Register(api, huma.Operation{OperationID: "readList", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/list", Summary: "Read a list of rules from a spreadsheet", MaxBodyBytes: 8 << 20}, s.readList)
	huma.Register(api, huma.Operation{OperationID: "readText", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/text", Summary: "Read what a text promises of the form", MaxBodyBytes: 1 << 20}, s.readText)
	huma.Register(api, huma.Operation{OperationID: "readRequest", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/imports/request", Summary: "Read a recorded request: an HTTP Archive, or a command line of curl", MaxBodyBytes: 32 << 20}, s.readRequest)
	huma.Register(api, huma.Operation{OperationID: "traceValues", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/trace", Summary: "Submit test values and see where each is stored"}, s.trace)
	huma.Register(api, huma.Operation{OperationID: "tryValues", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/try", Summary: "Submit values once, and judge the result"}, s.try)
	huma.Register(api, huma.Operation{OperationID: "predictValues", Tags: []string{"values"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/expect", Summary: "What is expected of values; nothing is submitted"}, s.expect)
	huma.Register(api, huma.Operation{OperationID: "getSampleValues", Tags: []string{"values"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/sample", Summary: "New valid values"}, s.sample)
}

type readPageRequest struct {
	FormPath
	Body struct {
		Path string `json:"path,omitempty" doc:"a path of the site; default: the form's own page"`
		HTML string `json:"html,omitempty" doc:"the page's HTML instead of an address"`
		Form *int   `json:"form,omitempty" doc:"which of the page's forms, from 0; default: the likeliest"`
		// Scripts asks for the page as it is after its scripts have run.
		Scripts bool `json:"scripts,omitempty"`
		// OpenedBy is the name of the button or link that makes the form appear.
		OpenedBy string `json:"opened_by,omitempty" maxLength:"200"`
		// Language asks for the page in another language: only the fields' labels in it are proposed.
		Language string `json:"language,omitempty" maxLength:"20"`
	}
}

type pageView struct {
	Proposals
	Forms []string `json:"forms" doc:"the page's forms, in words"`
	Form  int      `json:"form"`
}

// maxPage is the largest page that is read, in bytes.
const maxPage = 24 << 20

// fetchForm opens a page as FetchPage does, with its scripts where it is nothing without them. Of a page without a form, the first of its frames
// that holds one is taken.
func fetchForm(ctx context.Context, site *spec.Site, path, as string, scripts bool, openedBy string) (text, at string, err error) {
	fetch := func(path string) (text, at string, err error) {
		scripts := scripts || openedBy != ""
		text, at, err = target.FetchPage(ctx, site, path, as, scripts, openedBy, maxPage)
		if err == nil && !scripts && page.Scripted(text) { // there is nothing to be read before its scripts have run
			return target.FetchPage(ctx, site, path, as, true, "", maxPage)
		}
		return text, at, err
	}
	if text, at, err = fetch(path); err != nil || len(page.Forms(text)) > 0 {
		return text, at, err
	}
	for _, frame := range page.Frames(text, at) {
		if inner, where, err := fetch(frame); err == nil && len(page.Forms(inner)) > 0 {
			return inner, where, nil
		}
	}
	return text, at, nil
}

func (s importsAPI) readPage(ctx context.Context, in *readPageRequest) (*struct{ Body pageView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	path, openedBy := cmp.Or(in.Body.Path, d.Form.Page), cmp.Or(in.Body.OpenedBy, d.Form.OpenedBy)
	foreign := in.Body.Language != "" && in.Body.Language != cmp.Or(site.Language, "en")
	if foreign {
		site.Language = in.Body.Language
	}
	text, address := in.Body.HTML, strings.TrimSuffix(site.Address, "/")+d.Form.Page
	if text == "" {
		if err := s.mayContact(ctx, site); err != nil {
			return nil, err
		}
		text, address, err = fetchForm(ctx, site, path, signedInOf(d.Form), in.Body.Scripts, openedBy)
		if err != nil {
			return nil, huma.Error422UnprocessableEntity("The page cannot be read: " + err.Error() + ".")
		}
	}
	described, err := page.Describe(text, address)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The page cannot be read: " + err.Error() + ".")
	}
	if len(described.Forms) == 0 {
		return nil, huma.Error422UnprocessableEntity("The page has no form. If a script draws it, run its scripts first; if a button opens it, name the button.")
	}
	chosen := likeliest(described.Forms, d.Form)
	if in.Body.Form != nil {
		chosen = *in.Body.Form
	}
	if chosen < 0 || chosen >= len(described.Forms) {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The page has %d forms; there is no form %d.", len(described.Forms), chosen))
	}
	draft.Recognise(&described.Forms[chosen], d.Form)
	read := draft.FromPage(&described.Forms[chosen], address)
	if openedBy != "" && openedBy != d.Form.OpenedBy {
		read.Say("opened_by", openedBy, read.From)
	}
	if foreign {
		read = draft.Labels(&described.Forms[chosen], address, in.Body.Language)
	} else if err := s.store.KeepPage(ctx, f.ID, &described.Forms[chosen]); err != nil {
		return nil, err
	}
	v := pageView{Proposals: propose(d, read), Form: chosen, Forms: []string{}}
	for _, form := range described.Forms {
		v.Forms = append(v.Forms, fmt.Sprintf("%s (%d fields, %s)", cmp.Or(form.Title, "a form"), len(form.Fields), strings.Join(form.Buttons, ", ")))
	}
	return &struct{ Body pageView }{v}, nil
}

// signedInOf is the account that is to be signed in before a form, "" for none.
func signedInOf(form *spec.Form) string {
	if form.Before == nil {
		return ""
	}
	return form.Before.SignedIn
}

// likeliest is the form that has most of the fields that are known already, else the one with most fields.
func likeliest(forms []observation.FormOnPage, known *spec.Form) int {
	best, most := 0, -1
	for i := range forms {
		n := len(forms[i].Fields)
		for _, c := range forms[i].Fields {
			for k := range known.Fields {
				if known.Fields[k].Name == c.Name {
					n += 1000
				}
			}
		}
		if n > most {
			best, most = i, n
		}
	}
	return best
}

type readTablesRequest struct {
	FormPath
	Body struct {
		SQL     string `json:"sql,omitempty" doc:"CREATE TABLE statements; without them the site's database is read"`
		Dialect string `json:"dialect,omitempty" enum:"mariadb,mysql,postgresql,sqlite,"`
		Table   string `json:"table,omitempty" doc:"the table that the form is stored in; default: the likeliest"`
	}
}

type tablesView struct {
	Proposals
	Tables  []string `json:"tables" doc:"likeliest first"`
	Table   string   `json:"table"`
	Dialect string   `json:"dialect"`
}

func (s importsAPI) readTables(ctx context.Context, in *readTablesRequest) (*struct{ Body tablesView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	var db *schema.Database
	if in.Body.SQL != "" {
		if db, err = ddl.Read(in.Body.SQL, in.Body.Dialect); err != nil {
			return nil, huma.Error422UnprocessableEntity("The SQL cannot be read: "+err.Error()+".", &huma.ErrorDetail{Location: "body.sql", Message: err.Error()})
		}
	} else {
		site, err := s.siteToContact(ctx, f.SiteID)
		if err != nil {
			return nil, err
		}
		if db, err = target.ReadSchema(ctx, site); err != nil {
			return nil, huma.Error422UnprocessableEntity("The tables cannot be read: " + err.Error() + ".")
		}
	}
	if err := s.store.KeepTables(ctx, f.SiteID, db); err != nil {
		return nil, err
	}
	v := tablesView{Tables: draft.Tables(db, d.Form), Dialect: db.Dialect}
	v.Table = in.Body.Table
	if v.Table == "" && len(v.Tables) > 0 {
		v.Table = v.Tables[0]
	}
	v.Proposals = propose(d, draft.FromSchema(db, v.Table, d.Form))
	return &struct{ Body tablesView }{v}, nil
}

type readSchemaRequest struct {
	FormPath
	Body struct {
		Text      string `json:"text"`
		Operation string `json:"operation,omitempty" doc:"a request of an OpenAPI document, such as POST /bookings"`
	}
}

type schemaView struct {
	Proposals
	Operations []string `json:"operations"`
	Operation  string   `json:"operation"`
}

func (s importsAPI) readSchema(ctx context.Context, in *readSchemaRequest) (*struct{ Body schemaView }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	read, err := jsonschema.Parse([]byte(in.Body.Text), in.Body.Operation)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The schema cannot be read: "+err.Error()+".", &huma.ErrorDetail{Location: "body.text", Message: err.Error()})
	}
	return &struct{ Body schemaView }{schemaView{propose(d, read.Draft), append([]string{}, read.Operations...), read.Operation}}, nil
}

type readListRequest struct {
	FormPath
	Body struct {
		Text    string   `json:"text"`
		Columns []string `json:"columns" doc:"the meaning of each column; guessed if missing"`
	}
}

type listView struct {
	Proposals
	Heads    []string `json:"heads"`
	Columns  []string `json:"columns"`
	First    []string `json:"first"`
	Meanings []string `json:"meanings"`
}

func (s importsAPI) readList(ctx context.Context, in *readListRequest) (*struct{ Body listView }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	l, err := rulelist.Parse(in.Body.Text, in.Body.Columns)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The list cannot be read: "+err.Error()+".", &huma.ErrorDetail{Location: "body.text", Message: err.Error()})
	}
	return &struct{ Body listView }{listView{propose(d, l.Draft), l.Heads, l.Columns, l.First, rulelist.Meanings}}, nil
}

type readTextRequest struct {
	FormPath
	Body struct {
		Text string `json:"text" minLength:"1" maxLength:"200000" doc:"a user story, a help text, or criteria written as given, when and then"`
	}
}

type textView struct {
	Proposals
	Sentences []story.Sentence `json:"sentences" doc:"the text's sentences, with what was read of each"`
}

func (s importsAPI) readText(ctx context.Context, in *readTextRequest) (*struct{ Body textView }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	read, err := story.Read(d.Form, in.Body.Text)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The text cannot be read: "+err.Error()+".", &huma.ErrorDetail{Location: "body.text", Message: err.Error()})
	}
	return &struct{ Body textView }{textView{propose(d, read.Draft), read.Sentences}}, nil
}

type readRequestRequest struct {
	FormPath
	Body struct {
		Text string `json:"text" minLength:"1" doc:"an HTTP Archive (HAR 1.2), or a command line of curl"`
		// Request is which of the recording's requests is read, from 0; the last one where nothing is said.
		Request *int `json:"request,omitempty" minimum:"0"`
	}
}

type requestView struct {
	Proposals
	Requests []string `json:"requests" doc:"those that send fields, by method and path"`
	Request  int      `json:"request"`
}

func (s importsAPI) readRequest(ctx context.Context, in *readRequestRequest) (*struct{ Body requestView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	list, err := recorded.Read(in.Body.Text)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The recording cannot be read: "+err.Error()+".", &huma.ErrorDetail{Location: "body.text", Message: err.Error()})
	}
	v := requestView{Request: len(list) - 1}
	if in.Body.Request != nil {
		v.Request = *in.Body.Request
	}
	if v.Request >= len(list) {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The recording has %d requests that send fields; there is no request %d.", len(list), v.Request))
	}
	for i := range list {
		v.Requests = append(v.Requests, list[i].String())
	}
	v.Proposals = propose(d, list[v.Request].Draft(site.Address))
	return &struct{ Body requestView }{v}, nil
}

type valuesRequest struct {
	FormPath
	Body byHand
}

type sendRequest struct {
	FormStart
	Body byHand
}

// byHand is a submission by hand.
type byHand struct {
	Values map[string][]string `json:"values" doc:"by field id; no value if not sent, several for multiple choices"`
	Driver submission.Driver   `json:"driver,omitempty" enum:"http,browser" doc:"how it is sent; default: http"`
	// Unchecked switches the browser's own checks off.
	Unchecked bool `json:"unchecked,omitempty"`
}

func (b *byHand) by() manual.Way {
	w := manual.Way{Driver: b.Driver, Unchecked: b.Unchecked}
	if w.Driver == "" {
		w.Driver = submission.HTTP
	}
	return w
}

// openByHand opens the site for submissions by hand; no run may be under way, as two at once could not tell whose rows are whose. work is
// the context for what follows; it is cancelled when the lease on the site is lost. An environment that should stay as it is takes none.
func openByHand(ctx context.Context, s *Server, f *store.Form, d *design.Designer, environment string, typed Confirmed) (run *target.Target, work context.Context, done func(), err error) {
	site, err := s.siteToContact(ctx, f.SiteID)
	if err != nil {
		return nil, nil, nil, err
	}
	if site, err = inEnvironment(site, environment, "query.environment"); err != nil {
		return nil, nil, nil, err
	}
	if err := mayStart(site, typed, "query.confirmed"); err != nil {
		return nil, nil, nil, err
	}
	if site.Protected() == spec.NoWrites {
		return nil, nil, nil, huma.Error422UnprocessableEntity("Nothing is submitted in " + site.Environment() + ": it permits only cases that should write nothing.")
	}
	lease, err := s.runner.Hold(ctx, site)
	if err != nil {
		return nil, nil, nil, refuseHeld(err)
	}
	run, err = target.Open(ctx, target.Config{Site: site, Designer: d, Number: time.Now().UnixMilli()})
	if err != nil {
		lease.Free()
		return nil, nil, nil, huma.Error422UnprocessableEntity("Nothing can be submitted: " + err.Error() + ".")
	}
	work, end := lease.While(ctx)
	return run, work, func() { end(); run.Close(); lease.Free() }, nil
}

type tracedView struct {
	draft.Traced
	Proposed Proposals `json:"proposed"`
}

func (s importsAPI) trace(ctx context.Context, in *sendRequest) (*struct{ Body tracedView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	site, err := s.siteToContact(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	if !site.MayMark() {
		return nil, huma.Error403Forbidden("The site's settings do not allow traces. Allow them there, or map the columns by name.")
	}
	run, work, done, err := openByHand(ctx, s.Server, f, d.Designer, in.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	db, err := run.Schema(ctx)
	if err != nil {
		return nil, err
	}
	if db != nil {
		if err := s.store.KeepTables(ctx, f.SiteID, db); err != nil {
			return nil, err
		}
	}
	probes, err := manual.Trace(work, run, in.Body.Values, nil)
	if err := lostOr(work, nil); err != nil {
		return nil, err
	}
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The trace cannot continue: " + err.Error() + ".")
	}
	traced := draft.FromTrace(d.Form, probes, db, run.VisitorRow(work))
	return &struct{ Body tracedView }{tracedView{*traced, propose(d, traced.Draft)}}, nil
}

type triedView struct {
	manual.Tried
	// Promised says whether the form promises anything that a submission could break.
	Promised bool `json:"promised"`
	// Picture is the page after the submission, as JPEG in base64; empty over HTTP.
	Picture string `json:"picture,omitempty"`
}

func (s importsAPI) try(ctx context.Context, in *sendRequest) (*struct{ Body triedView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	run, work, done, err := openByHand(ctx, s.Server, f, d.Designer, in.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	tried, picture, err := manual.Try(work, run, in.Body.Values, in.Body.by())
	if err != nil {
		return nil, lostOr(work, err)
	}
	return &struct{ Body triedView }{triedView{*tried, promised(d), base64.StdEncoding.EncodeToString(picture)}}, nil
}

func promised(d *forms.Design) bool {
	return len(d.Prepared.Rules) > 0 || len(d.Form.Stored) > 0
}

type expectedView struct {
	Outcome string     `json:"outcome"`
	Reason  prose.Text `json:"reason"`
	Failing []string   `json:"failing" doc:"ids of the rules that fail"`
	// Messages are by field id; Rows in words.
	Messages []draft.SeenMessage `json:"messages"`
	Rows     []rowView           `json:"rows"`
	Reply    string              `json:"reply,omitempty"`
	Unsure   bool                `json:"unsure" doc:"whether a value already exists is only looked up when it is sent"`
}

type rowView struct {
	Table   string     `json:"table"`
	Columns []cellView `json:"columns"`
}

type cellView struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

func (s importsAPI) expect(ctx context.Context, in *valuesRequest) (*struct{ Body expectedView }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	e := manual.Expected(d.Prepared, in.Body.Values, in.Body.by(), nil)
	wording.Expectation(d.Prepared, e)
	v := expectedView{Outcome: string(e.Outcome), Reason: wording.Reason(e), Failing: []string{}, Messages: []draft.SeenMessage{}, Rows: []rowView{}, Reply: e.Reply}
	for _, f := range e.Failing {
		v.Failing = append(v.Failing, f.Rule)
	}
	for _, m := range e.Messages {
		v.Messages = append(v.Messages, draft.SeenMessage{Field: m.Field, Text: cmp.Or(m.Text, "any message")})
	}
	for _, r := range e.Rows {
		row := rowView{Table: r.Table, Columns: []cellView{}}
		for i := range r.Columns {
			row.Columns = append(row.Columns, cellView{r.Columns[i].Name, columnText(&r.Columns[i])})
		}
		v.Rows = append(v.Rows, row)
	}
	for _, r := range d.Prepared.Rules {
		v.Unsure = v.Unsure || r.Table != ""
	}
	return &struct{ Body expectedView }{v}, nil
}

func (s importsAPI) sample(ctx context.Context, in *FormPath) (*struct {
	Body map[string][]string
}, error,
) {
	_, d, err := s.find(ctx, *in)
	if err != nil {
		return nil, err
	}
	return &struct{ Body map[string][]string }{d.Designer.Sample(time.Now().UnixMilli(), time.Now())}, nil
}

func columnText(c *oracle.Column) string {
	switch c.Source {
	case oracle.HoldsNull:
		return "NULL"
	case oracle.HoldsHash:
		return "a hash of " + c.Field
	case oracle.HoldsNow:
		return "now"
	case oracle.HoldsDefault:
		return "blank"
	case oracle.HoldsAny:
		return "anything"
	case oracle.HoldsUUID:
		return "a UUID"
	case oracle.HoldsSequence:
		return "a new number"
	case oracle.HoldsKeyOf:
		return "the key of the row in " + c.Value
	case oracle.HoldsAddress:
		return "the visitor's address"
	case oracle.HoldsUntouched:
		return "unchanged"
	case oracle.HoldsUnknown:
		return "not known here"
	}
	return c.Value
}
