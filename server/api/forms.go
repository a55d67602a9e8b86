package api

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"oddtick/core/contradiction"
	"oddtick/core/document"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/promise"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

type formView struct {
	Site      string       `json:"site"`
	SiteTitle string       `json:"site_title"`
	Address   string       `json:"address"`
	Brief     formBrief    `json:"brief"`
	Page      string       `json:"page"`
	Method    string       `json:"method"`
	To        string       `json:"to"`
	Encoding  string       `json:"encoding"`
	Tokens    []string     `json:"tokens"`
	State     string       `json:"state"`
	Watched   []string     `json:"watched" doc:"watched databases"`
	Fields    []fieldView  `json:"fields"`
	Across    []ruleView   `json:"across"`
	Rejected  []prose.Text `json:"rejected" doc:"in words"`
	Accepted  []prose.Text `json:"accepted" doc:"in words"`
	Stored    []tableView  `json:"stored"`
	// States and Journeys are the site's, in words: who may open what, and the paths through its forms.
	States    []prose.Text `json:"states"`
	Journeys  []prose.Text `json:"journeys"`
	Languages []string     `json:"languages" doc:"languages of the site"`
	// Document is the form's document as it is written, with what is implied filled in.
	Document any `json:"document"`
	// Contradictions is how many there are, against what was read of page and tables too.
	Contradictions int `json:"contradictions"`
	// Environments are all of the site's, besides its own address.
	Environments []environmentView `json:"environments" nullable:"false"`
}

type fieldView struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Label  string `json:"label"`
	Kind   string `json:"kind"`
	Secret bool   `json:"secret"`
	// Normalize are the server's steps before the rules, as the document has them.
	Normalize []any      `json:"normalize"`
	Options   []string   `json:"options"`
	Initial   string     `json:"initial"`
	Value     string     `json:"value"`
	When      string     `json:"when"`
	Columns   []string   `json:"columns" doc:"where the value is stored"`
	Rules     []ruleView `json:"rules"`
}

type ruleView struct {
	ID        string        `json:"id"`
	Kind      spec.RuleKind `json:"kind"`
	Words     prose.Text    `json:"words"`
	Layers    []string      `json:"layers"`
	Phase     string        `json:"phase"`
	Message   string        `json:"message" doc:"empty if none is specified"`
	Place     string        `json:"place"`
	MessageOn string        `json:"message_on" doc:"when the message appears while the form is filled in; empty if not specified"`
	// Details are the rule's as its document has them; Implied says that the field's kind alone says it.
	Details any  `json:"details"`
	Implied bool `json:"implied"`
}

type tableView struct {
	Table   string       `json:"table"`
	Columns []columnView `json:"columns"`
}

type columnView struct {
	Name  string     `json:"name"`
	Words prose.Text `json:"words"`
}

// formPagesAPI answers requests.
type formPagesAPI struct{ *Server }

func registerForms(api huma.API, server *Server) {
	s := formPagesAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getForm", Tags: []string{"documents"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}", Summary: "A form with its fields and rules"}, s.form)
}

func (s formPagesAPI) form(ctx context.Context, in *FormPath) (*struct{ Body formView }, error) {
	f, d, err := s.find(ctx, *in)
	if err != nil {
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	brief, err := briefForm(ctx, s.Server, f)
	if err != nil {
		return nil, err
	}
	form := d.Form
	v := formView{
		Site: f.SiteIdent, SiteTitle: f.SiteTitle, Address: site.Address, Brief: *brief, Page: form.Page, Method: cmp.Or(form.Submit.Method, "POST"), To: cmp.Or(form.Submit.To, form.Page),
		Encoding: cmp.Or(form.Submit.Encoding, "urlencoded"), Tokens: append([]string{}, form.Token...), State: cmp.Or(form.State, "any"), Watched: []string{}, Fields: []fieldView{}, Across: []ruleView{},
		Rejected: promise.Rejected(&form.Rejected), Accepted: promise.Accepted(&form.Accepted), Stored: []tableView{},
	}
	for _, db := range site.Databases {
		v.Watched = append(v.Watched, cmp.Or(db.ID, db.Kind))
	}
	for _, p := range d.Prepared.Fields {
		v.Fields = append(v.Fields, viewField(form, p))
	}
	for _, r := range d.Prepared.Across {
		v.Across = append(v.Across, viewRule(r))
	}
	for i := range form.Stored {
		st := &form.Stored[i]
		t := tableView{Table: st.Table(), Columns: []columnView{}}
		for _, name := range st.ColumnNames() {
			t.Columns = append(t.Columns, columnView{name, promise.Source(st.Columns[name])})
		}
		v.Stored = append(v.Stored, t)
	}
	v.States, v.Journeys, v.Languages = promise.States(site), promise.Journeys(site), append([]string{}, site.Languages...)
	v.Document = documentOf(form)
	v.Environments = environmentsOf(site)
	a, err := against(ctx, s.Server, f)
	if err != nil {
		return nil, err
	}
	for _, c := range contradiction.Find(d.Prepared, a) {
		if !c.Note {
			v.Contradictions++
		}
	}
	return &struct{ Body formView }{v}, nil
}

// documentOf is a form as its document has it, for editing.
func documentOf(form *spec.Form) any {
	var out map[string]any
	if b, err := json.Marshal(form); err != nil || json.Unmarshal(b, &out) != nil {
		return nil
	}
	delete(out, "fields") // they are listed for themselves
	return out
}

func viewField(form *spec.Form, f *spec.PreparedField) fieldView {
	v := fieldView{ID: f.ID, Name: f.Name, Label: f.Label, Kind: string(f.Kind), Secret: f.Secret, Normalize: []any{}, Options: []string{}, Columns: []string{}, Rules: []ruleView{}, Value: f.Value, When: f.When}
	if f.Initial != nil {
		v.Initial = string(*f.Initial)
	}
	for _, o := range f.Options {
		v.Options = append(v.Options, strings.TrimSpace(o.Label+" = "+o.Value))
	}
	for i := range form.Stored {
		st := &form.Stored[i]
		for _, name := range st.ColumnNames() {
			if src := st.Columns[name]; src.From == f.ID || src.Secret == f.ID {
				v.Columns = append(v.Columns, st.Table()+"."+name)
			}
		}
	}
	for _, step := range f.Normalize {
		v.Normalize = append(v.Normalize, step)
	}
	for i, r := range f.Rules {
		if i > 0 && f.Rules[i-1].Rule == r.Rule { // the same one, in another layer
			continue
		}
		v.Rules = append(v.Rules, viewRule(r))
	}
	return v
}

func viewRule(r *spec.PreparedRule) ruleView {
	v := ruleView{ID: r.ID, Kind: r.Kind, Words: promise.Rule(r), Layers: []string{string(r.Layer)}, Phase: r.Phase.String(), Place: string(r.Place), MessageOn: string(r.MessageOn), Details: map[string]any{}}
	if r.Rule != nil {
		v.ID, v.Implied, v.Layers = r.Field.ID+"."+r.Rule.ID(), r.Rule.Implied, nil
		for _, layer := range r.Rule.Layers() {
			v.Layers = append(v.Layers, string(layer))
		}
		var written map[string]any
		if json.Unmarshal(document.Rule(r.Rule), &written) == nil {
			v.Details = written[string(r.Kind)]
		}
	}
	if text, ok := r.Message.In(""); ok {
		v.Message = text
	} else if m := r.Message; m != nil {
		v.Message = m.Part + m.Pattern
	}
	return v
}

// removalAPI answers requests that delete, copy or move what is kept.
type removalAPI struct{ *Server }

func registerRemoval(api huma.API, server *Server) {
	s := removalAPI{server}
	const site, form = "/api/sites/{site}", "/api/sites/{site}/forms/{form}"
	huma.Register(api, huma.Operation{OperationID: "getSiteHoldings", Tags: []string{"site"}, Method: http.MethodGet, Path: site + "/holdings", Summary: "What would be lost with a site"}, s.siteHoldings)
	huma.Register(api, huma.Operation{OperationID: "getFormHoldings", Tags: []string{"documents"}, Method: http.MethodGet, Path: form + "/holdings", Summary: "What would be lost with a form"}, s.formHoldings)
	huma.Register(api, huma.Operation{OperationID: "deleteSite", Tags: []string{"site"}, Method: http.MethodDelete, Path: site, Summary: "Delete a site with its forms, runs and findings", DefaultStatus: http.StatusNoContent}, s.deleteSite)
	huma.Register(api, huma.Operation{OperationID: "deleteForm", Tags: []string{"documents"}, Method: http.MethodDelete, Path: form, Summary: "Delete a form with its revisions, runs and findings", DefaultStatus: http.StatusNoContent}, s.deleteForm)
	huma.Register(api, huma.Operation{OperationID: "deleteRun", Tags: []string{"runs"}, Method: http.MethodDelete, Path: form + "/runs/{run}", Summary: "Delete a run with its results", DefaultStatus: http.StatusNoContent}, s.deleteRun)
	huma.Register(api, huma.Operation{OperationID: "duplicateForm", Tags: []string{"documents"}, Method: http.MethodPost, Path: form + "/duplicate", Summary: "Copy a form's newest revision into a form of its own", DefaultStatus: http.StatusCreated}, s.duplicateForm)
	huma.Register(api, huma.Operation{OperationID: "moveForm", Tags: []string{"documents"}, Method: http.MethodPost, Path: form + "/move", Summary: "Move a form to another site, with its runs and findings", DefaultStatus: http.StatusNoContent}, s.moveForm)
}

type holdingsAnswer struct {
	Body store.Holdings
}

func (s removalAPI) siteHoldings(ctx context.Context, in *sitePath) (*holdingsAnswer, error) {
	_, site, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	h, err := s.store.SiteHoldings(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	return &holdingsAnswer{*h}, nil
}

func (s removalAPI) formHoldings(ctx context.Context, in *FormPath) (*holdingsAnswer, error) {
	f, err := s.findForm(ctx, *in)
	if err != nil {
		return nil, err
	}
	h, err := s.store.FormHoldings(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	return &holdingsAnswer{*h}, nil
}

func (s removalAPI) deleteSite(ctx context.Context, in *sitePath) (*struct{}, error) {
	_, site, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	return nil, whileIdle(s.store.DeleteSite(ctx, site.ID))
}

func (s removalAPI) deleteForm(ctx context.Context, in *FormPath) (*struct{}, error) {
	f, err := s.findForm(ctx, *in)
	if err != nil {
		return nil, err
	}
	if err := s.notInAJourney(ctx, f); err != nil {
		return nil, err
	}
	return nil, whileIdle(s.store.DeleteForm(ctx, f.ID))
}

func (s removalAPI) deleteRun(ctx context.Context, in *RunPath) (*struct{}, error) {
	f, err := s.findForm(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	run, err := s.store.RunByNumber(ctx, f.ID, in.Run)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound(fmt.Sprintf("There is no run %d of this form.", in.Run))
	}
	if err != nil {
		return nil, err
	}
	return nil, whileIdle(s.store.DeleteRun(ctx, run.ID))
}

// whileIdle refuses what cannot be done while a run is in progress.
func whileIdle(err error) error {
	if errors.Is(err, store.ErrInProgress) {
		return huma.Error409Conflict("A run is in progress: wait for it, or stop it.")
	}
	return err
}

// notInAJourney refuses to take a form away that a journey of its site submits.
func (s removalAPI) notInAJourney(ctx context.Context, f *store.Form) error {
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return err
	}
	for i := range site.Journeys {
		for k := range site.Journeys[i].Steps {
			if site.Journeys[i].Steps[k].Submit == f.Ident {
				return huma.Error409Conflict(fmt.Sprintf("The journey “%s” submits this form. Take that step out of the journey first.", cmp.Or(site.Journeys[i].Title, site.Journeys[i].ID)))
			}
		}
	}
	return nil
}

type duplicateRequest struct {
	FormPath
	Body struct {
		ID    string `json:"id" pattern:"^[a-z][a-z0-9_]*$" maxLength:"60"`
		Title string `json:"title" minLength:"1" maxLength:"200"`
	}
}

func (s removalAPI) duplicateForm(ctx context.Context, in *duplicateRequest) (*struct{}, error) {
	f, err := s.findForm(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	if _, err := s.store.Form(ctx, in.Site, in.Body.ID); err == nil {
		return nil, huma.Error409Conflict("The site has a form " + in.Body.ID + " already.")
	}
	rev, err := s.store.Revision(ctx, f.RevisionID)
	if err != nil {
		return nil, err
	}
	text, err := document.Apply(rev.Source, []document.Edit{{Do: document.Set, Path: "form", Value: quote(in.Body.ID)}, {Do: document.Set, Path: "title", Value: quote(in.Body.Title)}})
	if err != nil {
		return nil, err
	}
	form, err := spec.ReadForm(in.Body.ID+".yaml", text)
	if err != nil {
		return nil, unreadable(err)
	}
	return nil, s.store.PutForm(ctx, f.SiteID, store.Save{Form: form, File: in.Body.ID + ".yaml", Source: text, User: u.ID, Note: "copied from " + f.Ident})
}

type moveRequest struct {
	FormPath
	Body struct {
		To string `json:"to" maxLength:"60" doc:"the id of the other site"`
	}
}

func (s removalAPI) moveForm(ctx context.Context, in *moveRequest) (*struct{}, error) {
	f, err := s.findForm(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	_, to, err := s.findSite(ctx, in.Body.To)
	if err != nil {
		return nil, err
	}
	if err := s.notInAJourney(ctx, f); err != nil {
		return nil, err
	}
	err = s.store.MoveForm(ctx, f.ID, to.ID)
	if store.Duplicate(err) {
		return nil, huma.Error409Conflict(fmt.Sprintf("The site %s has a form %s already.", cmp.Or(to.Title, to.Ident), f.Ident))
	}
	return nil, whileIdle(err)
}
