package server

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/engine"
	"oddtick/server/store"
)

var errBusy = errors.New("a run of this site is under way")

// runner holds the runs under way, at most one a site.
type runner struct {
	store  *store.Store
	mu     sync.Mutex
	active map[int64]*activeRun // by run
	busy   map[int64]bool       // by site
	wg     sync.WaitGroup
}

type activeRun struct {
	stop context.CancelFunc
	news chan struct{} // closed and renewed when there is something new
	mu   sync.Mutex
}

type plan struct {
	site     *spec.Site
	form     *store.Form
	designer *design.Designer
	cases    []*design.Case
	left     int // cases of the plan that the run does not make
	depth    string
	user     int64
}

func newRunner(st *store.Store) *runner {
	return &runner{store: st, active: map[int64]*activeRun{}, busy: map[int64]bool{}}
}

// hold keeps a site for one run, or for submissions by hand, until it is freed.
func (r *runner) hold(siteID int64) (free func(), err error) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.busy[siteID] {
		return nil, errBusy
	}
	r.busy[siteID] = true
	return func() {
		r.mu.Lock()
		delete(r.busy, siteID)
		r.mu.Unlock()
	}, nil
}

// start checks that the run can begin, writes it down and lets it go.
func (r *runner) start(ctx context.Context, p *plan) (*store.Run, error) {
	free, err := r.hold(p.form.SiteID)
	if err != nil {
		return nil, err
	}
	seed := time.Now().UnixMilli()
	run, err := engine.Open(ctx, engine.Config{Site: p.site, Designer: p.designer, Cases: p.cases, Number: seed})
	if err != nil {
		free()
		return nil, err
	}
	ids := make([]string, len(p.cases))
	rows := make(map[string]string, len(p.cases))
	for i, c := range p.cases {
		ids[i] = c.ID
		rows[c.ID] = c.Row
	}
	kept, err := r.store.AddRun(ctx, p.form.ID, p.form.RevisionID, p.user, seed, p.depth, ids, p.left)
	if err != nil {
		run.Close()
		free()
		return nil, err
	}
	work, stop := context.WithCancel(context.Background())
	a := &activeRun{stop: stop, news: make(chan struct{})}
	r.mu.Lock()
	r.active[kept.ID] = a
	r.mu.Unlock()
	r.wg.Go(func() {
		defer stop()
		r.drive(work, a, run, kept, rows, free)
	})
	return kept, nil
}

func (r *runner) drive(ctx context.Context, a *activeRun, run *engine.Run, kept *store.Run, rows map[string]string, free func()) {
	sink := &keeper{store: r.store, run: kept.ID, rows: rows, active: a}
	err := run.Go(ctx, sink, nil)
	// the site is free before anybody is told of the end, so that the next run can begin at once
	run.Close()
	free()
	state, reason := store.Finished, ""
	switch {
	case errors.Is(err, context.Canceled):
		state, reason = store.Stopped, "Stopped before the end."
	case err != nil:
		state, reason = store.Failed, "It could not go on: "+err.Error()
		slog.Error("run", "run", kept.ID, "error", err)
	}
	end, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	if err := r.store.EndRun(end, kept.ID, state, reason, sink.foreign); err != nil {
		slog.Error("write a run's end", "run", kept.ID, "error", err)
	}
	r.mu.Lock()
	delete(r.active, kept.ID)
	r.mu.Unlock()
	a.tell()
}

func (r *runner) stop(id int64) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	a := r.active[id]
	if a == nil {
		return false
	}
	a.stop()
	return true
}

// news returns a channel that is closed when a run has something new, nil when it is not under way.
func (r *runner) news(id int64) <-chan struct{} {
	r.mu.Lock()
	a := r.active[id]
	r.mu.Unlock()
	if a == nil {
		return nil
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	return a.news
}

func (a *activeRun) tell() {
	a.mu.Lock()
	defer a.mu.Unlock()
	close(a.news)
	a.news = make(chan struct{})
}

// close stops all runs and waits until their cases under way have ended.
func (r *runner) close() {
	r.mu.Lock()
	for _, a := range r.active {
		a.stop()
	}
	r.mu.Unlock()
	r.wg.Wait()
}

// keeper is a run's sink: everything is written as it comes. Results are numbered by this one writer.
type keeper struct {
	store   *store.Store
	run     int64
	rows    map[string]string
	active  *activeRun
	mu      sync.Mutex
	seq     int
	foreign int
}

// Begin implements engine.Sink.
func (k *keeper) Begin(caseID string, attempt int) error {
	return k.store.AddAttempt(context.Background(), k.run, caseID, attempt)
}

// Done implements engine.Sink.
func (k *keeper) Done(r *judge.Result) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.seq++
	if _, err := k.store.AddResult(context.Background(), k.run, k.seq, k.rows[r.Case], r); err != nil {
		return err
	}
	k.active.tell()
	return nil
}

// Interference implements engine.Sink.
func (k *keeper) Interference(changes []observation.Change) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.foreign += len(changes)
}
