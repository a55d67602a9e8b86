// Package runner drives runs: one at a time for each site among all servers, each result kept as it comes.
package runner

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
	"oddtick/observe/database"
	"oddtick/server/compute"
	"oddtick/server/incident"
	"oddtick/server/lease"
	"oddtick/server/store"
)

var (
	ErrEnding = errors.New("the server is shutting down")
	// ErrMoved says that a run is not any more what it was when it was read.
	ErrMoved = errors.New("the run has continued or ended in the meantime")
)

// Runner holds the runs that this server drives. Leases keep it from driving one that another server drives, and a site that another
// run submits to.
type Runner struct {
	store  *store.Store
	mu     sync.Mutex
	active map[int64]*activeRun // by run
	wg     sync.WaitGroup
	// ending is set, and closing closed, when the server ends.
	ending  bool
	closing chan struct{}
	// Evidence is how many bytes the evidence of a run may take up.
	Evidence int64
}

type activeRun struct {
	// site and run are its leases.
	site, run *lease.Lease
	// hand is what a person's run needs, nil for one that the machine makes.
	hand *Manual
	stop context.CancelFunc
	// stopped is set where its tester stops it, and unwritten is its end where that cannot be written down yet; the runner's mutex
	// guards them.
	stopped   bool
	unwritten *runEnd
	news      chan struct{} // closed and renewed when there is something new
	mu        sync.Mutex
}

// runEnd is how a run ended.
type runEnd struct {
	state  store.RunState
	reason string
}

type Plan struct {
	Site     *spec.Site
	Form     *store.Form
	Designer *design.Designer
	Cases    []*testcase.Case
	Left     int // cases of the plan that the run does not make
	Depth    string
	User     int64
	Options  target.Options
}

func New(st *store.Store) *Runner {
	return &Runner{store: st, active: map[int64]*activeRun{}, closing: make(chan struct{}), Evidence: maxEvidence}
}

// Start checks that the run can begin, writes it down and lets it go.
func (r *Runner) Start(ctx context.Context, p *Plan) (*store.Run, error) {
	options, err := json.Marshal(p.Options)
	if err != nil {
		return nil, err
	}
	seed := time.Now().UnixMilli()
	a, err := r.take(ctx, p, seed)
	if err != nil {
		return nil, err
	}
	run, err := target.Open(ctx, target.Config{Site: p.Site, Designer: p.Designer, Cases: p.Cases, Number: seed, Options: p.Options})
	if err != nil {
		a.unlock()
		return nil, err
	}
	ids := make([]string, len(p.Cases))
	for i, c := range p.Cases {
		ids[i] = c.ID
	}
	kept, err := r.store.AddRun(ctx, store.NewRun{FormID: p.Form.ID, RevisionID: p.Form.RevisionID, UserID: p.User, Seed: seed, Depth: p.Depth, Cases: ids, Left: p.Left, Options: string(options)})
	if err != nil {
		run.Close()
		a.unlock()
		return nil, err
	}
	r.drive(a, run, kept, p, &store.Progress{})
	return kept, nil
}

// take holds a run, and what it touches. Errors: errEnding, *lease.HeldError.
func (r *Runner) take(ctx context.Context, p *Plan, seed int64) (*activeRun, error) {
	a := &activeRun{news: make(chan struct{})}
	var err error
	if a.site, err = r.Hold(ctx, p.Site); err != nil {
		return nil, err
	}
	if a.run, err = r.holdRun(ctx, p.Form.ID, seed); err != nil {
		a.site.Free()
		return nil, err
	}
	return a, nil
}

func (a *activeRun) unlock() {
	a.site.Free()
	a.run.Free()
}

// confirmLease makes certain that no other server drives the run or submits to its site. Errors: lease.ErrLost, or the database's.
func (a *activeRun) confirmLease(ctx context.Context) error {
	if err := a.run.Sure(ctx); err != nil {
		return err
	}
	return a.site.Sure(ctx)
}

// taken tells whether another server has the run.
func (a *activeRun) taken() bool { return closed(a.run.Lost()) }

func closed(c <-chan struct{}) bool {
	select {
	case <-c:
		return true
	default:
		return false
	}
}

// Resume lets a run go on that was stopped or interrupted: cases with a result stay as they are. Those that were submitted without an
// end being known are named in the run and made again, with other values.
func (r *Runner) Resume(ctx context.Context, p *Plan, kept *store.Run) error {
	a, err := r.take(ctx, p, kept.Seed)
	if err != nil {
		return err
	}
	// only now can nobody else change it
	if now, err := r.store.Run(ctx, kept.ID); err != nil || now.State != kept.State {
		a.unlock()
		return cmp.Or(err, ErrMoved)
	}
	progress, err := r.store.Progress(ctx, kept.ID)
	if err != nil {
		a.unlock()
		return err
	}
	run, err := target.Open(ctx, target.Config{Site: p.Site, Designer: p.Designer, Cases: p.Cases, Number: kept.Seed, Options: p.Options, Begun: progress.Begun})
	if err != nil {
		a.unlock()
		return err
	}
	if err := r.store.MarkResumed(ctx, kept.ID, progress.Unknown); err != nil {
		run.Close()
		a.unlock()
		return err
	}
	r.drive(a, run, kept, p, progress)
	return nil
}

// drive lets a run go in the background.
func (r *Runner) drive(a *activeRun, run *target.Target, kept *store.Run, p *Plan, progress *store.Progress) {
	work, stop := context.WithCancel(context.Background())
	a.stop = stop
	r.mu.Lock()
	r.active[kept.ID] = a
	r.mu.Unlock()
	r.wg.Go(func() { r.watch(work, a, kept) })
	rows := make(map[string]string, len(p.Cases))
	for _, c := range p.Cases {
		rows[c.ID] = c.Row
	}
	sink := &resultWriter{store: r.store, run: kept.ID, rows: rows, active: a, seq: progress.Seq, foreign: kept.ExternalChanges, kept: progress.Kept, most: r.Evidence, secrets: p.Site.Passwords()}
	if p.Options.ByHand {
		a.hand = newHandRun(run, sink, p.Cases, progress)
		a.hand.Stop = stop
		r.wg.Go(func() {
			defer stop()
			<-work.Done()
			run.Close()
			a.site.Free()
			r.ended(a, kept, sink, a.hand.end())
		})
		return
	}
	r.wg.Go(func() {
		defer stop()
		r.finish(work, a, run, kept, sink, p.Options.CleanUp, progress.Done)
	})
}

func (r *Runner) finish(ctx context.Context, a *activeRun, run *target.Target, kept *store.Run, sink *resultWriter, cleanUp bool, done map[string]bool) {
	var earlier []*report.Result
	var err error
	if cleanUp && len(done) > 0 {
		earlier, err = r.store.Results(ctx, kept.ID)
	}
	if err == nil {
		err = reported(kept.ID, compute.Safely(func() error { return schedule.Execute(ctx, run, sink, done) }))
	}
	if cleanUp && !r.interrupted(a) {
		sink.said = cleaned(context.WithoutCancel(ctx), kept.ID, run, target.ChangesOf(earlier...))
	}
	// the site is free before anybody is told of the end, so that the next run can begin at once
	run.Close()
	a.site.Free()
	r.ended(a, kept, sink, err)
}

// maxCleanUpTime is how long cleaning up may take.
const maxCleanUpTime = 5 * time.Minute

// cleaned takes back what a run changed, and says how that went.
func cleaned(ctx context.Context, id int64, run *target.Target, earlier []observation.Change) string {
	ctx, cancel := context.WithTimeout(ctx, maxCleanUpTime)
	defer cancel()
	var done *database.Undone
	err := reported(id, compute.Safely(func() (err error) {
		done, err = run.CleanUp(ctx, earlier)
		return err
	}))
	if err != nil {
		return "It could not be cleaned up: " + err.Error()
	}
	return done.String()
}

// reported puts a reference in the place of a fault of the program's own, which is logged under it.
func reported(run int64, err error) error {
	var fault *compute.FaultError
	if !errors.As(err, &fault) {
		return err
	}
	ref := incident.New()
	slog.Error("a run panicked", "reference", ref, "run", run, "error", fault)
	return fmt.Errorf("a fault in Odd Tick itself; details are in its log under the reference %s", ref)
}

// ended writes down how a run ended, and tells those who follow it.
func (r *Runner) ended(a *activeRun, kept *store.Run, sink *resultWriter, err error) {
	state, reason := store.Finished, ""
	switch {
	case closed(a.site.Lost()):
		state, reason = store.Failed, "It could not continue: "+lease.ErrLost.Error()+"."
	case errors.Is(err, context.Canceled):
		state, reason = store.Stopped, "Stopped before the end."
	case err != nil:
		state, reason = store.Failed, "It could not continue: "+err.Error()
		slog.Error("run", "run", kept.ID, "error", err)
	}
	reason = strings.TrimSpace(reason + " " + sink.said)
	write := func(ctx context.Context) error { return r.store.EndRun(ctx, kept.ID, state, reason, sink.foreign) }
	if state == store.Stopped && r.interrupted(a) {
		write = func(ctx context.Context) error { return r.store.Interrupt(ctx, kept.ID, sink.foreign) }
	}
	if a.taken() { // its end is the other server's to write
		slog.Warn("another server has taken over a run", "run", kept.ID)
	} else {
		r.writeEnd(a, kept.ID, runEnd{state, reason}, write)
	}
	a.run.Free()
	r.mu.Lock()
	delete(r.active, kept.ID)
	r.mu.Unlock()
	a.tell()
}

// endAgain is how long is waited before the end of a run that could not be written down is tried to be written again.
const endAgain = 2 * time.Second

// writeEnd writes down how a run ended. Where the database cannot take it, as when its disk is full, that is tried until it can, the
// server ends, or another server has the run; meanwhile the end is told from memory.
func (r *Runner) writeEnd(a *activeRun, run int64, end runEnd, write func(context.Context) error) {
	try := func() error {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		defer cancel()
		return persist(ctx, func() error { return write(ctx) })
	}
	err := try()
	if err == nil {
		return
	}
	slog.Error("a run's end cannot be written down yet", "run", run, "error", err)
	r.mu.Lock()
	a.unwritten = &end
	r.mu.Unlock()
	a.tell()
	for err != nil {
		select {
		case <-r.closing:
			return
		case <-a.run.Lost():
			return
		case <-time.After(endAgain):
			err = try()
		}
	}
	slog.Info("a run's end is written down now", "run", run)
}

// AsItEnded gives a run the end that cannot be written down yet, if it has one.
func (r *Runner) AsItEnded(run *store.Run) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if a := r.active[run.ID]; a != nil && a.unwritten != nil {
		run.State, run.Reason = a.unwritten.state, a.unwritten.reason
	}
}

func (r *Runner) Stop(id int64) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	a := r.active[id]
	if a == nil || a.unwritten != nil {
		return false
	}
	a.stopped = true
	a.stop()
	return true
}

// interrupted tells whether a run ends here because the server does, or because another has taken it over: it goes on at the next start,
// or there, unless its tester has stopped it.
func (r *Runner) interrupted(a *activeRun) bool {
	if a.taken() {
		return true
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.ending && !a.stopped
}

// Drives tells whether this server drives a run.
func (r *Runner) Drives(id int64) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.active[id] != nil
}

// News returns a channel that is closed when a run has something new, nil when it is not under way.
func (r *Runner) News(id int64) <-chan struct{} {
	r.mu.Lock()
	a := r.active[id]
	if a != nil && a.unwritten != nil {
		a = nil
	}
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

// Close interrupts all runs and waits until their cases under way have ended.
func (r *Runner) Close() {
	r.mu.Lock()
	if !r.ending {
		close(r.closing)
	}
	r.ending = true
	for _, a := range r.active {
		a.stop()
	}
	r.mu.Unlock()
	r.wg.Wait()
}

// resultWriter is a run's sink: everything is written as it comes. Results are numbered by this one writer.
type resultWriter struct {
	store   *store.Store
	run     int64
	rows    map[string]string
	active  *activeRun
	mu      sync.Mutex
	seq     int
	foreign int
	// kept is how many bytes the evidence takes up by now, and most how many it may.
	kept, most int64
	// secrets are the accounts' passwords, which are not kept.
	secrets []string
	// said is what is to be told of the run's end.
	said string
}

// Begin implements engine.Sink.
func (k *resultWriter) Begin(caseID string, attempt int) error {
	ctx := context.Background()
	if err := persist(ctx, func() error { return k.active.confirmLease(ctx) }); err != nil {
		return err
	}
	written := false
	return persist(ctx, func() error {
		err := k.store.AddAttempt(ctx, k.run, caseID, attempt)
		if written && store.Duplicate(err) {
			return nil // it was written although the answer was lost
		}
		written = true
		return err
	})
}

// Done implements engine.Sink.
func (k *resultWriter) Done(r *report.Result) error {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.dropEvidence(r)
	ctx := context.Background()
	if err := persist(ctx, func() error {
		if known, err := k.store.HasResult(ctx, k.run, r.Case, r.Attempt); err != nil || known {
			return err
		}
		m, err := k.store.AddResult(ctx, k.run, k.seq+1, k.rows[r.Case], r, k.secrets...)
		k.kept += int64(m.Kept)
		return err
	}); err != nil {
		return err
	}
	k.seq++
	k.active.tell()
	return nil
}

// maxEvidence is how many bytes a run's evidence usually may take up.
const maxEvidence = 256 << 20

// dropEvidence leaves answers and pictures out of a result once the run's evidence takes up what it may: of what is odd, not before that is
// twice as much.
func (k *resultWriter) dropEvidence(r *report.Result) {
	most := k.most
	if r.Verdict == judge.Odd {
		most *= 2
	}
	if k.kept >= most {
		r.LeaveOut(fmt.Sprintf("the run's evidence has reached its limit of %d MB", k.most>>20))
	}
}

// maxOutage is how long Odd Tick's own database is waited for.
const maxOutage = 60 * time.Second

// persist tries again while the database cannot be reached.
func persist(ctx context.Context, write func() error) error {
	err := write()
	for wait := 50 * time.Millisecond; store.Unreachable(err) && wait < maxOutage/2; wait *= 2 {
		slog.Warn("Odd Tick's database does not answer", "error", err)
		select {
		case <-ctx.Done():
			return err
		case <-time.After(wait):
		}
		err = write()
	}
	return err
}

// Interference implements engine.Sink.
func (k *resultWriter) Interference(changes []observation.Change) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.foreign += len(changes)
}
