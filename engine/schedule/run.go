// Package schedule submits the cases of a run in their order: what should write nothing in batches, what writes one by one, so that every
// change has one cause. What was made is judged and kept while the next is under way.
package schedule

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/engine/attempt"
	"oddtick/engine/target"
	"oddtick/engine/workers"

	"golang.org/x/time/rate"
)

// batchSize is how many cases that should write nothing share one look at the tables: at least so many, and enough for each visitor.
const batchSize, perVisitor = 12, 3

// Execute submits all cases of a run. Those that should write nothing go first, in batches and several at once; when a table changed during a
// batch its cases are made again one by one, so that every change has one cause. Those that write go one by one. When ctx ends,
// the cases under way are finished and no other is begun. done lists cases that need not be made again.
func Execute(ctx context.Context, t *target.Target, sink Sink, done map[string]bool) (err error) {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	if t.Config.StopAtOdd {
		sink = &untilOdd{sink, func() { stop(errOdd) }}
	}
	r := begin(t, sink)
	defer r.end()
	defer func() {
		if last := r.judging.wait(); err == nil {
			err = last
		}
	}()
	var reading, writing []*testcase.Case
	for _, c := range t.Config.Cases {
		switch {
		case done[c.ID]:
		case c.Writes() || t.OneAtATime():
			writing = append(writing, c)
		default:
			reading = append(reading, c)
		}
	}
	// what is under way must end properly even when the run is stopped
	work := context.WithoutCancel(ctx)
	if err := r.rebase(work); err != nil {
		return err
	}
	for len(reading) > 0 && ctx.Err() == nil {
		n := min(max(batchSize, perVisitor*r.pace), len(reading))
		if err := r.batch(ctx, work, reading[:n]); err != nil {
			return err
		}
		reading = reading[n:]
	}
	for _, c := range writing {
		if r.limit.Wait(ctx) != nil || ctx.Err() != nil {
			break
		}
		if err := r.single(work, c, t.Config.Begun[c.ID]+1); err != nil {
			return err
		}
	}
	if errors.Is(context.Cause(ctx), errOdd) {
		return nil
	}
	return ctx.Err()
}

// defaultPace is how many cases that write nothing are made at once, where neither the site nor the run says otherwise.
const defaultPace = 4

// run is a run that is under way.
type run struct {
	target  *target.Target
	sink    Sink
	pace    int
	limit   *rate.Limiter // of cases that are begun
	judging *judgeQueue
	// visitors make the cases of a batch.
	visitors *workers.Pool
}

func begin(t *target.Target, sink Sink) *run {
	r := &run{target: t, sink: sink, pace: cmp.Or(max(t.Config.Parallel, 0), max(t.Config.Site.MaxParallel, 0), defaultPace), limit: rate.NewLimiter(rate.Inf, 1)}
	if t.Config.MaxPerMinute > 0 {
		r.limit = rate.NewLimiter(rate.Limit(t.Config.MaxPerMinute/60), 1)
	}
	r.visitors, t.Helpers, r.judging = workers.New(r.pace), workers.New(attempt.MostHelpers), newJudgeQueue(sink)
	return r
}

// end lets the goroutines of a run go.
func (r *run) end() {
	r.judging.end()
	r.visitors.Close()
	r.target.Helpers.Close()
	r.target.Helpers = nil
}

// errOdd ends a run at its first odd case.
var errOdd = errors.New("the first odd case")

// untilOdd is a sink that tells of the first odd case.
type untilOdd struct {
	Sink
	stop func()
}

// Done implements Sink.
func (u *untilOdd) Done(r *report.Result) error {
	if r.Verdict == judge.Odd {
		u.stop()
	}
	return u.Sink.Done(r)
}

// rebase takes what changed since the last look as done by others.
func (r *run) rebase(ctx context.Context) error {
	changes, err := r.target.AwaitForeign(ctx)
	if err == nil && len(changes) > 0 {
		r.sink.Interference(changes)
	}
	return err
}

// justNow is how long ago tables may have been looked at for a case to begin without looking again.
const justNow = time.Millisecond

func (r *run) single(ctx context.Context, c *testcase.Case, number int) error {
	if time.Since(r.target.Looked) > justNow {
		if err := r.rebase(ctx); err != nil {
			return err
		}
	}
	if err := r.sink.Begin(c.ID, number); err != nil {
		return fmt.Errorf("keep the attempt at %s: %w", c.ID, err)
	}
	mark := len(r.target.Journal)
	a := attempt.New(r.target, c, number, true)
	a.WhileSending = r.judging.now
	a.Make(ctx)
	if r.target.ArrivingWrites { // what its last visits wrote is no other's doing
		if _, err := r.target.Foreign(ctx); err != nil {
			return err
		}
	}
	if err := r.target.Repair(ctx, mark); err != nil {
		return errors.Join(fmt.Errorf("after the case %s: %w", c.ID, err), r.keep(a))
	}
	r.target.Unlock(ctx, c)
	if a.Result.Broken && number <= r.target.Config.Begun[c.ID]+maxRepeats {
		// the browser is started anew, and a database is waited for; with other values nothing collides
		return r.single(ctx, c, number+1)
	}
	return r.keep(a)
}

// maxRepeats is how often a case is made again that could not be seen.
const maxRepeats = 2

func (r *run) batch(ctx, work context.Context, cases []*testcase.Case) error {
	if err := r.rebase(work); err != nil {
		return err
	}
	mails := r.target.Mailbox.Count()
	made := make([]*attempt.Attempt, len(cases))
	errs := make([]error, len(cases))
	var wg sync.WaitGroup
	for i, c := range cases {
		if r.limit.Wait(ctx) != nil || ctx.Err() != nil {
			break
		}
		wg.Add(1)
		r.visitors.Submit(func() {
			defer wg.Done()
			a := attempt.New(r.target, c, r.target.Config.Begun[c.ID]+1, false)
			if errs[i] = r.sink.Begin(c.ID, a.Number); errs[i] == nil {
				a.Make(work)
				made[i] = a
			}
		})
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		return err
	}
	mark := len(r.target.Journal)
	changes, err := r.target.Changes(work)
	if err == nil {
		err = r.target.Repair(work, mark)
	}
	if err != nil {
		// what changed is not known: each case is made again by itself
		if err := r.rebase(work); err != nil {
			return err
		}
	}
	r.target.Mailbox.Settle(work)
	mailed := r.target.Mailbox.Count() > mails // by which of them is not known
	var certain []*attempt.Attempt
	for _, a := range made {
		switch {
		case a == nil:
		case len(changes) > 0 || mailed || err != nil || a.Result.Broken:
			if err := r.single(work, a.Case, a.Number+1); err != nil {
				return err
			}
		default:
			certain = append(certain, a)
		}
	}
	return r.keep(certain...)
}

// keep has cases judged and kept while the next are made.
func (r *run) keep(made ...*attempt.Attempt) error {
	err := r.judging.take(made...)
	if err == nil && r.target.Config.StopAtOdd {
		return r.judging.wait()
	}
	return err
}

var _ Sink = (*Collected)(nil)

// Collected is a sink that keeps the latest result of each case in memory.
type Collected struct {
	mu      sync.Mutex
	results map[string]*report.Result
	// Foreign counts rows changed by others.
	Foreign int
	// OnDone is told of each result.
	OnDone func(*report.Result)
}

// Begin implements Sink.
func (*Collected) Begin(string, int) error { return nil }

// Done implements Sink.
func (c *Collected) Done(r *report.Result) error {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.results == nil {
		c.results = map[string]*report.Result{}
	}
	c.results[r.Case] = r
	if c.OnDone != nil {
		c.OnDone(r)
	}
	return nil
}

// Interference implements Sink.
func (c *Collected) Interference(changes []observation.Change) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.Foreign += len(changes)
}

// Result returns a case's latest result, nil when there is none.
func (c *Collected) Result(caseID string) *report.Result {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.results[caseID]
}
