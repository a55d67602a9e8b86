package engine

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/report"
)

// batchSize is how many cases that should write nothing share one look at the tables: at least so many, and enough for each visitor.
const batchSize, perVisitor = 12, 3

// Go submits all cases. Those that should write nothing go first, in batches and several at once; when a table changed during a
// batch its cases are made again one by one, so that every change has one cause. Those that write go one by one. When ctx ends,
// the cases under way are finished and no other is begun. done lists cases that need not be made again.
func (r *Run) Go(ctx context.Context, sink Sink, done map[string]bool) (err error) {
	ctx, stop := context.WithCancelCause(ctx)
	defer stop(nil)
	if r.c.StopAtOdd {
		sink = &untilOdd{sink, func() { stop(errOdd) }}
	}
	r.visitors, r.helpers, r.judging = newCrew(r.pace), newCrew(mostHelpers), newJudging(sink)
	defer func() {
		r.visitors.leave()
		r.helpers.leave()
		r.visitors, r.helpers = nil, nil
	}()
	defer r.judging.end()
	defer func() {
		if last := r.judging.wait(); err == nil {
			err = last
		}
	}()
	var reading, writing []*design.Case
	for _, c := range r.c.Cases {
		switch {
		case done[c.ID]:
		case c.Writes() || r.oneByOne():
			writing = append(writing, c)
		default:
			reading = append(reading, c)
		}
	}
	// what is under way must end properly even when the run is stopped
	work := context.WithoutCancel(ctx)
	if err := r.rebase(work, sink); err != nil {
		return err
	}
	for len(reading) > 0 && ctx.Err() == nil {
		n := min(max(batchSize, perVisitor*r.pace), len(reading))
		if err := r.batch(ctx, work, sink, reading[:n]); err != nil {
			return err
		}
		reading = reading[n:]
	}
	for _, c := range writing {
		if r.begin.Wait(ctx) != nil || ctx.Err() != nil {
			break
		}
		if err := r.single(work, sink, c, r.c.Begun[c.ID]+1); err != nil {
			return err
		}
	}
	if errors.Is(context.Cause(ctx), errOdd) {
		return nil
	}
	return ctx.Err()
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

// longestAbsence is how long a database that does not answer is waited for between two cases.
const longestAbsence = 60 * time.Second

// rebase takes what changed since the last look as done by others. A database that has gone is waited for.
func (r *Run) rebase(ctx context.Context, sink Sink) error {
	changes, err := r.foreign(ctx)
	for wait := 50 * time.Millisecond; err != nil && wait < longestAbsence/2; wait *= 2 {
		time.Sleep(wait)
		changes, err = r.foreign(ctx)
	}
	if err != nil {
		return err
	}
	if len(changes) > 0 {
		sink.Interference(changes)
	}
	return nil
}

// justNow is how long ago tables may have been looked at for a case to begin without looking again.
const justNow = time.Millisecond

func (r *Run) single(ctx context.Context, sink Sink, c *design.Case, attempt int) error {
	if time.Since(r.looked) > justNow {
		if err := r.rebase(ctx, sink); err != nil {
			return err
		}
	}
	if err := sink.Begin(c.ID, attempt); err != nil {
		return fmt.Errorf("keep the attempt at %s: %w", c.ID, err)
	}
	mark := len(r.journal)
	a := r.attempt(c, attempt, true)
	a.make(ctx)
	if r.arrivingWrites { // what its last visits wrote is no other's doing
		if _, err := r.foreign(ctx); err != nil {
			return err
		}
	}
	if err := r.repair(ctx, mark); err != nil {
		return errors.Join(fmt.Errorf("after the case %s: %w", c.ID, err), r.keep(a))
	}
	r.unlock(ctx, c)
	if a.result.Broken && attempt <= r.c.Begun[c.ID]+mostAgain {
		// the browser is started anew, and a database is waited for; with other values nothing collides
		return r.single(ctx, sink, c, attempt+1)
	}
	return r.keep(a)
}

// mostAgain is how often a case is made again that could not be seen.
const mostAgain = 2

func (r *Run) batch(ctx, work context.Context, sink Sink, cases []*design.Case) error {
	if err := r.rebase(work, sink); err != nil {
		return err
	}
	made := make([]*attempt, len(cases))
	errs := make([]error, len(cases))
	var wg sync.WaitGroup
	for i, c := range cases {
		if r.begin.Wait(ctx) != nil || ctx.Err() != nil {
			break
		}
		wg.Add(1)
		r.visitors.do(func() {
			defer wg.Done()
			a := r.attempt(c, r.c.Begun[c.ID]+1, false)
			if errs[i] = sink.Begin(c.ID, a.number); errs[i] == nil {
				a.make(work)
				made[i] = a
			}
		})
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		return err
	}
	mark := len(r.journal)
	changes, err := r.changes(work)
	if err == nil {
		err = r.repair(work, mark)
	}
	if err != nil {
		// what changed is not known: each case is made again by itself
		if err := r.rebase(work, sink); err != nil {
			return err
		}
	}
	var certain []*attempt
	for _, a := range made {
		switch {
		case a == nil:
		case len(changes) > 0 || err != nil || a.result.Broken:
			if err := r.single(work, sink, a.c, a.number+1); err != nil {
				return err
			}
		default:
			certain = append(certain, a)
		}
	}
	return r.keep(certain...)
}

// keep has cases judged and kept while the next are made.
func (r *Run) keep(made ...*attempt) error {
	err := r.judging.take(made...)
	if err == nil && r.c.StopAtOdd {
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
