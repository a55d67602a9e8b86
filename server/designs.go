package server

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
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
	known map[string]*ready
}

// ready is a revision of a form with what its site adds to the cases, and the sets designed of it lately.
type ready struct {
	form     *spec.Form
	prepared *spec.Prepared
	designer *design.Designer
	growth   func() []design.Size // computed once
	mu       sync.Mutex
	sets     map[string]*caseSet
}

// designed is a form with what testers changed about its cases.
type designed struct {
	*ready
	edits  []spec.CaseEdit
	digest func() [sha256.Size]byte // of the edits, computed once
}

func (r *ready) with(edits []spec.CaseEdit) *designed {
	return &designed{r, edits, sync.OnceValue(func() [sha256.Size]byte {
		text, err := json.Marshal(edits)
		if err != nil {
			panic(err) // edits come from JSON
		}
		return sha256.Sum256(text)
	})}
}

// caseSet is what a plan gives.
type caseSet struct {
	*design.Set
	rows []design.Row
	byID map[string]*design.Case
}

func newDesigns(st *store.Store) *designs {
	return &designs{store: st, known: map[string]*ready{}}
}

// mostDesigns is how many forms are kept ready, mostSets how many sets of each.
const (
	mostDesigns = 50
	mostSets    = 12
)

// of makes a revision of a form ready, with the edits of its cases.
func (d *designs) of(ctx context.Context, f *store.Form, revisionID int64) (*designed, error) {
	edits, err := d.store.CaseEdits(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	site, err := d.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	r, err := d.ready(ctx, revisionID, site)
	if err != nil {
		return nil, err
	}
	return r.with(edits), nil
}

func (d *designs) ready(ctx context.Context, revisionID int64, site *spec.Site) (*ready, error) {
	if site == nil { // cases are compared without what their site adds
		site = &spec.Site{}
	}
	own, err := json.Marshal([]any{site.Guesses, site.Language})
	if err != nil {
		return nil, err
	}
	key := fmt.Sprint(revisionID, " ", string(own))
	d.mu.Lock()
	defer d.mu.Unlock()
	if one := d.known[key]; one != nil {
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
	one, err := newReady(form, site)
	if err != nil {
		return nil, err
	}
	if len(d.known) >= mostDesigns {
		clear(d.known)
	}
	d.known[key] = one
	return one, nil
}

func newReady(form *spec.Form, site *spec.Site) (*ready, error) {
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared, site)
	if err != nil {
		return nil, err
	}
	return &ready{form: form, prepared: prepared, designer: designer, growth: sync.OnceValue(designer.Growth), sets: map[string]*caseSet{}}, nil
}

func (d *designed) cases(depth design.Depth) *caseSet { return d.set(design.Plan{Depth: depth}) }

// set designs a plan, or remembers what it gave.
func (d *designed) set(plan design.Plan) *caseSet {
	if plan.Strength == 0 {
		plan.Strength = 2
	}
	key := fmt.Sprintf("%v %x", plan, d.digest())
	d.mu.Lock()
	defer d.mu.Unlock()
	if set := d.sets[key]; set != nil {
		return set
	}
	set := &caseSet{Set: d.designer.Design(plan, d.edits...), byID: map[string]*design.Case{}}
	set.rows = design.Rows(d.prepared, set.Cases)
	for _, c := range set.Cases {
		set.byID[c.ID] = c
	}
	if len(d.sets) >= mostSets {
		clear(d.sets)
	}
	d.sets[key] = set
	return set
}

// find finds a case of any plan, nil when there is none.
func (d *designed) find(id string) *design.Case {
	plan := design.Plan{Depth: design.Thorough}
	if c := d.set(plan).byID[id]; c != nil {
		return c
	}
	if plan.Strength = design.StrengthOf(id); plan.Strength == 0 {
		return nil
	}
	return d.set(plan).byID[id]
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
	d, err := s.designs.of(ctx, f, f.RevisionID)
	return f, d, err
}
