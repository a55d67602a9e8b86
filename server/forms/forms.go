// Package forms makes forms ready for designing cases, and keeps them by revision.
package forms

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
	"oddtick/core/scale"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/server/compute"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Kept keeps forms made ready for designing, and what was designed of them lately. Revisions never change, so neither do these.
type Kept struct {
	store *store.Store
	// making, designing and growing are what is being computed now.
	making    *compute.Shared[*Ready]
	designing *compute.Shared[*CaseSet]
	growing   *compute.Shared[[]design.Size]
	mu        sync.Mutex
	known     map[string]*made
	// large is the latest set of which the plan asked for a large number of combinations; no other one of them is kept.
	large    *CaseSet
	largeKey string
}

// made is what came of making a revision of a form ready: why is *notReadyError where no cases can be designed for it.
type made struct {
	ready *Ready
	why   error
}

// Ready is a revision of a form with what its site adds to the cases, and the sets designed of it lately.
type Ready struct {
	Form     *spec.Form
	Prepared *spec.Prepared
	Designer *design.Designer
	designs  *Kept
	mu       sync.Mutex
	growth   []design.Size
	sets     map[string]*CaseSet
}

// Design is a form with what testers changed about its cases.
type Design struct {
	*Ready
	Edits  []spec.CaseEdit
	digest func() [sha256.Size]byte // of the edits, computed once
}

func (r *Ready) With(edits []spec.CaseEdit) *Design {
	return &Design{r, edits, sync.OnceValue(func() [sha256.Size]byte {
		text, err := json.Marshal(edits)
		if err != nil {
			panic(err) // edits come from JSON
		}
		return sha256.Sum256(text)
	})}
}

// CaseSet is what a plan gives.
type CaseSet struct {
	*design.Set
	Rows []scale.Row
	ByID map[string]*testcase.Case
}

// NotReadyError says that no cases can be designed for a form that is kept, and why.
type NotReadyError struct{ Reason error }

func (e *NotReadyError) Error() string { return e.Reason.Error() }

func (e *NotReadyError) Unwrap() error { return e.Reason }

const (
	// maxDesigns is how many forms are kept ready, maxSets how many sets of each.
	maxDesigns = 50
	maxSets    = 12
	// MostTuples is how many combinations are computed at most: the names of so many take about 100 MB.
	MostTuples = 1_000_000
	// maxDesignTime is how long making a form ready, or designing a plan, may take.
	maxDesignTime = time.Minute
)

func Keep(st *store.Store) *Kept {
	pool := compute.NewPool(max(2, runtime.GOMAXPROCS(0)), maxDesignTime)
	return &Kept{
		store: st, known: map[string]*made{},
		making: compute.NewShared[*Ready](pool), designing: compute.NewShared[*CaseSet](pool), growing: compute.NewShared[[]design.Size](pool),
	}
}

// Of makes a revision of a form ready, with the edits of its cases. Errors: *notReadyError.
func (d *Kept) Of(ctx context.Context, f *store.Form, revisionID int64) (*Design, error) {
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
	return r.With(edits), nil
}

func (d *Kept) ready(ctx context.Context, revisionID int64, site *spec.Site) (*Ready, error) {
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
	return d.making.Do(ctx, key, func(ctx context.Context) (*Ready, error) {
		one := &made{}
		form, err := d.Read(ctx, revisionID)
		var unmade *NotReadyError
		switch {
		case errors.As(err, &unmade):
			one.why = err
		case err != nil:
			return nil, err
		default:
			if one.ready, err = d.make(form, site); err != nil {
				one.why = &NotReadyError{err}
			}
		}
		d.mu.Lock()
		defer d.mu.Unlock()
		if len(d.known) >= maxDesigns {
			clear(d.known)
		}
		d.known[key] = one
		return one.ready, one.why
	})
}

// Read reads a revision of a form. Errors: *notReadyError where its text cannot be read.
func (d *Kept) Read(ctx context.Context, revisionID int64) (*spec.Form, error) {
	rev, err := d.store.Revision(ctx, revisionID)
	if err != nil {
		return nil, err
	}
	form, err := spec.ReadForm(rev.File, rev.Source)
	if err != nil {
		return nil, &NotReadyError{err}
	}
	return form, nil
}

// make makes a form ready that need not be kept.
func (d *Kept) make(form *spec.Form, site *spec.Site) (*Ready, error) {
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared, site)
	if err != nil {
		return nil, err
	}
	return &Ready{Form: form, Prepared: prepared, Designer: designer, designs: d, sets: map[string]*CaseSet{}}, nil
}

// Fresh makes a form ready that is not kept yet, as a computation of its own.
func (d *Kept) Fresh(ctx context.Context, form *spec.Form, site *spec.Site) (*Ready, error) {
	return d.making.Do(ctx, fmt.Sprintf("%p", form), func(context.Context) (*Ready, error) { return d.make(form, site) })
}

// Grown is how many rows each strength takes, computed once.
func (r *Ready) Grown(ctx context.Context) ([]design.Size, error) {
	r.mu.Lock()
	known := r.growth
	r.mu.Unlock()
	if known != nil {
		return known, nil
	}
	return r.designs.growing.Do(ctx, fmt.Sprintf("%p", r), func(ctx context.Context) ([]design.Size, error) {
		growth, err := r.Designer.Growth(ctx)
		r.mu.Lock()
		defer r.mu.Unlock()
		r.growth = growth
		return growth, err
	})
}

// Cases designs a depth with its usual strength.
func (d *Design) Cases(ctx context.Context, depth testcase.Depth) (*CaseSet, error) {
	return d.Set(ctx, design.Plan{Depth: depth})
}

// Set designs a plan, or remembers what it gave.
func (d *Design) Set(ctx context.Context, plan design.Plan) (*CaseSet, error) {
	if plan.Strength == 0 {
		plan.Strength = 2
	}
	large := false
	if plan.Large {
		tuples, _ := d.Designer.Tuples(plan)
		if tuples > MostTuples {
			return nil, huma.Error422UnprocessableEntity("The combinations were not computed: " + TooManyTuples(tuples) + ".")
		}
		large = tuples > design.LargeTuples
	}
	key := fmt.Sprintf("%v %x", plan, d.digest())
	if set := d.remembered(key, large); set != nil {
		return set, nil
	}
	return d.designs.designing.Do(ctx, fmt.Sprintf("%p %s", d.Ready, key), func(ctx context.Context) (*CaseSet, error) {
		designed, err := d.Designer.DesignContext(ctx, plan, d.Edits...)
		if err != nil {
			return nil, err
		}
		set := &CaseSet{Set: designed, ByID: map[string]*testcase.Case{}}
		set.Rows = scale.Rows(d.Prepared, set.Cases)
		for _, c := range set.Cases {
			set.ByID[c.ID] = c
		}
		d.remember(key, large, set)
		return set, nil
	})
}

func TooManyTuples(tuples float64) string {
	return message.NewPrinter(language.English).Sprintf("there are %.0f, and at most %d are computed here; lower the strength, or compute them on the command line", tuples, MostTuples)
}

func (d *Design) remembered(key string, large bool) *CaseSet {
	if large {
		d.designs.mu.Lock()
		defer d.designs.mu.Unlock()
		if d.designs.largeKey == fmt.Sprintf("%p %s", d.Ready, key) {
			return d.designs.large
		}
		return nil
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.sets[key]
}

func (d *Design) remember(key string, large bool, set *CaseSet) {
	if large {
		d.designs.mu.Lock()
		defer d.designs.mu.Unlock()
		d.designs.large, d.designs.largeKey = set, fmt.Sprintf("%p %s", d.Ready, key)
		return
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if len(d.sets) >= maxSets {
		clear(d.sets)
	}
	d.sets[key] = set
}

// Find finds a case of any plan, nil when there is none.
func (d *Design) Find(ctx context.Context, id string) (*testcase.Case, error) {
	plan := design.Plan{Depth: testcase.Thorough}
	set, err := d.Set(ctx, plan)
	if err != nil || set.ByID[id] != nil {
		return set.caseOf(id), err
	}
	if plan.Strength = design.StrengthOf(id); plan.Strength == 0 {
		return nil, nil
	}
	if tuples, _ := d.Designer.Tuples(plan); tuples > MostTuples {
		return nil, nil // no plan here has it
	}
	plan.Large = true
	set, err = d.Set(ctx, plan)
	return set.caseOf(id), err
}

// Those finds cases of any plan by their ids, without those that there are no more.
func (d *Design) Those(ctx context.Context, ids []string) ([]*testcase.Case, error) {
	var out []*testcase.Case
	for _, id := range ids {
		c, err := d.Find(ctx, id)
		if err != nil {
			return nil, err
		}
		if c != nil {
			out = append(out, c)
		}
	}
	return out, nil
}

func (s *CaseSet) caseOf(id string) *testcase.Case {
	if s == nil {
		return nil
	}
	return s.ByID[id]
}
