package server

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"runtime"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/server/compute"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// designs keeps forms made ready for designing, and what was designed of them lately. Revisions never change, so neither do these.
type designs struct {
	store *store.Store
	// making, designing and growing are what is being computed now.
	making    *compute.Shared[*ready]
	designing *compute.Shared[*caseSet]
	growing   *compute.Shared[[]design.Size]
	mu        sync.Mutex
	known     map[string]*made
	// large is the latest set of which the plan asked for a large number of combinations; no other one of them is kept.
	large    *caseSet
	largeKey string
}

// made is what came of making a revision of a form ready: why is *notReadyError where no cases can be designed for it.
type made struct {
	ready *ready
	why   error
}

// ready is a revision of a form with what its site adds to the cases, and the sets designed of it lately.
type ready struct {
	form     *spec.Form
	prepared *spec.Prepared
	designer *design.Designer
	designs  *designs
	mu       sync.Mutex
	growth   []design.Size
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

// notReadyError says that no cases can be designed for a form that is kept, and why.
type notReadyError struct{ why error }

func (e *notReadyError) Error() string { return e.why.Error() }

func (e *notReadyError) Unwrap() error { return e.why }

const (
	// mostDesigns is how many forms are kept ready, mostSets how many sets of each.
	mostDesigns = 50
	mostSets    = 12
	// mostTuples is how many combinations are computed at most: the names of so many take about 100 MB.
	mostTuples = 1_000_000
	// longestDesigning is how long making a form ready, or designing a plan, may take.
	longestDesigning = time.Minute
)

func newDesigns(st *store.Store) *designs {
	pool := compute.NewPool(max(2, runtime.GOMAXPROCS(0)), longestDesigning)
	return &designs{
		store: st, known: map[string]*made{},
		making: compute.NewShared[*ready](pool), designing: compute.NewShared[*caseSet](pool), growing: compute.NewShared[[]design.Size](pool),
	}
}

// of makes a revision of a form ready, with the edits of its cases. Errors: *notReadyError.
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
	own, err := json.Marshal([]any{site.Guesses, site.Language, site.Languages, site.Accounts})
	if err != nil {
		return nil, err
	}
	digest := sha256.Sum256(own)
	key := fmt.Sprintf("%d %x", revisionID, digest)
	d.mu.Lock()
	one := d.known[key]
	d.mu.Unlock()
	if one != nil {
		return one.ready, one.why
	}
	return d.making.Do(ctx, key, func(ctx context.Context) (*ready, error) {
		one := &made{}
		form, err := d.read(ctx, revisionID)
		var unmade *notReadyError
		switch {
		case errors.As(err, &unmade):
			one.why = err
		case err != nil:
			return nil, err
		default:
			if one.ready, err = d.make(form, site); err != nil {
				one.why = &notReadyError{err}
			}
		}
		d.mu.Lock()
		defer d.mu.Unlock()
		if len(d.known) >= mostDesigns {
			clear(d.known)
		}
		d.known[key] = one
		return one.ready, one.why
	})
}

// read reads a revision of a form. Errors: *notReadyError where its text cannot be read.
func (d *designs) read(ctx context.Context, revisionID int64) (*spec.Form, error) {
	rev, err := d.store.Revision(ctx, revisionID)
	if err != nil {
		return nil, err
	}
	form, err := spec.ReadForm(rev.File, rev.Source)
	if err != nil {
		return nil, &notReadyError{err}
	}
	return form, nil
}

// make makes a form ready that need not be kept.
func (d *designs) make(form *spec.Form, site *spec.Site) (*ready, error) {
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared, site)
	if err != nil {
		return nil, err
	}
	return &ready{form: form, prepared: prepared, designer: designer, designs: d, sets: map[string]*caseSet{}}, nil
}

// fresh makes a form ready that is not kept yet, as a computation of its own.
func (d *designs) fresh(ctx context.Context, form *spec.Form, site *spec.Site) (*ready, error) {
	return d.making.Do(ctx, fmt.Sprintf("%p", form), func(context.Context) (*ready, error) { return d.make(form, site) })
}

// grown is how many rows each strength takes, computed once.
func (r *ready) grown(ctx context.Context) ([]design.Size, error) {
	r.mu.Lock()
	known := r.growth
	r.mu.Unlock()
	if known != nil {
		return known, nil
	}
	return r.designs.growing.Do(ctx, fmt.Sprintf("%p", r), func(ctx context.Context) ([]design.Size, error) {
		growth, err := r.designer.Growth(ctx)
		r.mu.Lock()
		defer r.mu.Unlock()
		r.growth = growth
		return growth, err
	})
}

// cases designs a depth with its usual strength.
func (d *designed) cases(ctx context.Context, depth design.Depth) (*caseSet, error) {
	return d.set(ctx, design.Plan{Depth: depth})
}

// set designs a plan, or remembers what it gave.
func (d *designed) set(ctx context.Context, plan design.Plan) (*caseSet, error) {
	if plan.Strength == 0 {
		plan.Strength = 2
	}
	large := false
	if plan.Large {
		tuples, _ := d.designer.Tuples(plan)
		if tuples > mostTuples {
			return nil, huma.Error422UnprocessableEntity("The combinations are not computed: " + tooManyTuples(tuples) + ".")
		}
		large = tuples > design.LargeTuples
	}
	key := fmt.Sprintf("%v %x", plan, d.digest())
	if set := d.remembered(key, large); set != nil {
		return set, nil
	}
	return d.designs.designing.Do(ctx, fmt.Sprintf("%p %s", d.ready, key), func(ctx context.Context) (*caseSet, error) {
		designed, err := d.designer.DesignContext(ctx, plan, d.edits...)
		if err != nil {
			return nil, err
		}
		set := &caseSet{Set: designed, byID: map[string]*design.Case{}}
		set.rows = design.Rows(d.prepared, set.Cases)
		for _, c := range set.Cases {
			set.byID[c.ID] = c
		}
		d.remember(key, large, set)
		return set, nil
	})
}

func tooManyTuples(tuples float64) string {
	return message.NewPrinter(language.English).Sprintf("they are %.0f, and at most %d are computed here; lower the strength, or compute them on the command line", tuples, mostTuples)
}

func (d *designed) remembered(key string, large bool) *caseSet {
	if large {
		d.designs.mu.Lock()
		defer d.designs.mu.Unlock()
		if d.designs.largeKey == fmt.Sprintf("%p %s", d.ready, key) {
			return d.designs.large
		}
		return nil
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.sets[key]
}

func (d *designed) remember(key string, large bool, set *caseSet) {
	if large {
		d.designs.mu.Lock()
		defer d.designs.mu.Unlock()
		d.designs.large, d.designs.largeKey = set, fmt.Sprintf("%p %s", d.ready, key)
		return
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.sets) >= mostSets {
		clear(d.sets)
	}
	d.sets[key] = set
}

// find finds a case of any plan, nil when there is none.
func (d *designed) find(ctx context.Context, id string) (*design.Case, error) {
	plan := design.Plan{Depth: design.Thorough}
	set, err := d.set(ctx, plan)
	if err != nil || set.byID[id] != nil {
		return set.caseOf(id), err
	}
	if plan.Strength = design.StrengthOf(id); plan.Strength == 0 {
		return nil, nil
	}
	if tuples, _ := d.designer.Tuples(plan); tuples > mostTuples {
		return nil, nil // no plan here has it
	}
	plan.Large = true
	set, err = d.set(ctx, plan)
	return set.caseOf(id), err
}

// those finds cases of any plan by their ids, without those that there are no more.
func (d *designed) those(ctx context.Context, ids []string) ([]*design.Case, error) {
	var out []*design.Case
	for _, id := range ids {
		c, err := d.find(ctx, id)
		if err != nil {
			return nil, err
		}
		if c != nil {
			out = append(out, c)
		}
	}
	return out, nil
}

func (s *caseSet) caseOf(id string) *design.Case {
	if s == nil {
		return nil
	}
	return s.byID[id]
}

// FormPath names a form in an address.
type FormPath struct {
	Site string `path:"site" doc:"the site's id"`
	Form string `path:"form" doc:"the form's id"`
}

// find finds a form and its design, for somebody who is signed in.
func (s *Server) find(ctx context.Context, p FormPath) (*store.Form, *designed, error) {
	f, err := s.findForm(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	d, err := s.designs.of(ctx, f, f.RevisionID)
	return f, d, err
}

// findForm finds a form, whether cases can be designed for it or not, for somebody who is signed in.
func (s *Server) findForm(ctx context.Context, p FormPath) (*store.Form, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	f, err := s.store.Form(ctx, p.Site, p.Form)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("There is no form " + p.Form + " of the site " + p.Site + ".")
	}
	return f, err
}
