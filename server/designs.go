package server

import (
	"context"
	"errors"
	"sync"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// designs keeps forms made ready for designing. Revisions never change, so neither do these.
type designs struct {
	store *store.Store
	mu    sync.Mutex
	known map[int64]*designed
}

type designed struct {
	form     *spec.Form
	prepared *spec.Prepared
	designer *design.Designer
	mu       sync.Mutex
	byDepth  map[design.Depth]*caseSet
}

type caseSet struct {
	cases   []*design.Case
	omitted []design.Omission
	rows    []design.Row
	byID    map[string]*design.Case
}

func newDesigns(st *store.Store) *designs {
	return &designs{store: st, known: map[int64]*designed{}}
}

const mostDesigns = 50

func (d *designs) of(ctx context.Context, revisionID int64) (*designed, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if one := d.known[revisionID]; one != nil {
		return one, nil
	}
	rev, err := d.store.Revision(ctx, revisionID)
	if err != nil {
		return nil, err
	}
	form, err := spec.ReadForm(rev.File, rev.Source)
	if err != nil {
		return nil, err
	}
	one, err := newDesigned(form)
	if err != nil {
		return nil, err
	}
	if len(d.known) >= mostDesigns {
		clear(d.known)
	}
	d.known[revisionID] = one
	return one, nil
}

func newDesigned(form *spec.Form) (*designed, error) {
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared)
	if err != nil {
		return nil, err
	}
	return &designed{form: form, prepared: prepared, designer: designer, byDepth: map[design.Depth]*caseSet{}}, nil
}

func (d *designed) cases(depth design.Depth) *caseSet {
	d.mu.Lock()
	defer d.mu.Unlock()
	if set := d.byDepth[depth]; set != nil {
		return set
	}
	set := &caseSet{byID: map[string]*design.Case{}}
	set.cases, set.omitted = d.designer.Cases(depth)
	set.rows = design.Rows(d.prepared, set.cases)
	for _, c := range set.cases {
		set.byID[c.ID] = c
	}
	d.byDepth[depth] = set
	return set
}

// FormPath names a form in an address.
type FormPath struct {
	Site string `path:"site" doc:"the site's id"`
	Form string `path:"form" doc:"the form's id"`
}

// find finds a form and its design, for somebody who is signed in.
func (s *Server) find(ctx context.Context, p FormPath) (*store.Form, *designed, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, nil, err
	}
	f, err := s.store.Form(ctx, p.Site, p.Form)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil, huma.Error404NotFound("There is no form " + p.Form + " of the site " + p.Site + ".")
	}
	if err != nil {
		return nil, nil, err
	}
	d, err := s.designs.of(ctx, f.RevisionID)
	return f, d, err
}
