// Package lease lets only one of all who share Odd Tick's database hold a thing at a time: a run, a site's address, a database.
package lease

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"
)

const (
	// Term is how long a lease lasts that is not renewed: so long others wait after its holder was killed.
	Term = 10 * time.Second
	// renewal is how often a lease is renewed.
	renewal = Term / 4
)

// ErrLost says that somebody else holds what was held, as it was not renewed in time.
var ErrLost = errors.New("another server has taken over, as this one could not reach Odd Tick's database")

// HeldError says that a thing is held already.
type HeldError struct {
	// Name is the thing's, and About what it is held for, as its holder said.
	Name, About string
}

func (e *HeldError) Error() string { return fmt.Sprintf("%s is held for %s", e.Name, e.About) }

// Ledger knows who holds what until when, by a clock of its own.
type Ledger interface {
	// TakeLeases takes all the things for a term, or none; *HeldError where one is held.
	TakeLeases(ctx context.Context, holder, about string, names []string, term time.Duration) error
	// RenewLeases begins the term of all that a holder has anew, and tells how many these are.
	RenewLeases(ctx context.Context, holder string, term time.Duration) (int, error)
	// FreeLeases frees all that a holder has.
	FreeLeases(ctx context.Context, holder string) error
}

// Lease is what holds things until it is freed, or until somebody else has them.
type Lease struct {
	ledger Ledger
	holder string
	things int
	stop   context.CancelFunc
	ended  chan struct{} // closed once it is not renewed any more
	lost   chan struct{}

	mu      sync.Mutex
	renewed time.Time // a monotonic clock, which does not go back
	isLost  bool
}

// Hold takes all the things, or none. about says what for, to others who want one of them. Errors: *HeldError.
func Hold(ctx context.Context, ledger Ledger, about string, names ...string) (*Lease, error) {
	names = slices.Compact(slices.Sorted(slices.Values(names)))
	l := &Lease{ledger: ledger, holder: rand.Text(), things: len(names), ended: make(chan struct{}), lost: make(chan struct{}), renewed: time.Now()}
	if err := ledger.TakeLeases(ctx, l.holder, about, names, Term); err != nil {
		return nil, err
	}
	work, stop := context.WithCancel(context.WithoutCancel(ctx))
	l.stop = stop
	go l.keep(work)
	return l, nil
}

func (l *Lease) keep(ctx context.Context) {
	defer close(l.ended)
	tick := time.NewTicker(renewal)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if err := l.renew(ctx); errors.Is(err, ErrLost) {
			return
		} else if err != nil && ctx.Err() == nil {
			slog.Warn("a lease could not be renewed", "error", err)
		}
	}
}

func (l *Lease) renew(ctx context.Context) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.isLost {
		return ErrLost
	}
	asked := time.Now()
	within, cancel := context.WithTimeout(ctx, Term)
	defer cancel()
	n, err := l.ledger.RenewLeases(within, l.holder, Term)
	switch {
	case err != nil:
		return err
	case n < l.things:
		l.isLost = true
		close(l.lost)
		return ErrLost
	}
	l.renewed = asked
	return nil
}

// Lost is closed once somebody else holds one of the things.
func (l *Lease) Lost() <-chan struct{} { return l.lost }

// While is a context that ends, with ErrLost as its cause, once somebody else holds one of the things.
func (l *Lease) While(ctx context.Context) (context.Context, context.CancelFunc) {
	within, end := context.WithCancelCause(ctx)
	go func() {
		select {
		case <-l.lost:
			end(ErrLost)
		case <-within.Done():
		}
	}()
	return within, func() { end(context.Canceled) }
}

// Sure makes certain that the things are held now: nobody else can have them for half a term. Errors: ErrLost, or that of a ledger that
// does not answer.
func (l *Lease) Sure(ctx context.Context) error {
	l.mu.Lock()
	fresh := !l.isLost && time.Since(l.renewed) < Term/2
	l.mu.Unlock()
	if fresh {
		return nil
	}
	return l.renew(ctx)
}

// Free frees the things.
func (l *Lease) Free() {
	l.stop()
	<-l.ended
	ctx, cancel := context.WithTimeout(context.Background(), Term)
	defer cancel()
	if err := l.ledger.FreeLeases(ctx, l.holder); err != nil {
		slog.Warn("a lease was not freed, and ends by itself", "error", err, "after", Term)
	}
}
