package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"

	"oddtick/core/document"
	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

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
