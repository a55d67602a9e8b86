package lease_test

import (
	"context"
	"errors"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"oddtick/server/lease"
)

// ledger lets one thing be held by one holder until it ends.
type ledger struct {
	mu            sync.Mutex
	holder, about string
	ends          time.Time
	silent        bool
	renewals      int
}

var errSilent = errors.New("it does not answer")

func (l *ledger) TakeLeases(_ context.Context, holder, about string, names []string, term time.Duration) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.holder != "" && time.Now().Before(l.ends) {
		return &lease.HeldError{Name: names[0], About: l.about}
	}
	l.holder, l.about, l.ends = holder, about, time.Now().Add(term)
	return nil
}

func (l *ledger) RenewLeases(_ context.Context, holder string, term time.Duration) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.renewals++
	switch {
	case l.silent:
		return 0, errSilent
	case l.holder != holder:
		return 0, nil
	}
	l.ends = time.Now().Add(term)
	return 1, nil
}

func (l *ledger) FreeLeases(_ context.Context, holder string) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.holder == holder {
		l.holder = ""
	}
	return nil
}

// set changes it, as somebody else does.
func (l *ledger) set(change func()) {
	l.mu.Lock()
	defer l.mu.Unlock()
	change()
}

func hold(t *testing.T, l *ledger) *lease.Lease {
	t.Helper()
	out, err := lease.Hold(t.Context(), l, "the shed", "run 1")
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestAThingIsHeldByOneUntilItIsFreed(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var l ledger
		first := hold(t, &l)
		time.Sleep(5 * lease.Term) // it is renewed meanwhile
		_, err := lease.Hold(t.Context(), &l, "the plot", "run 1")
		var held *lease.HeldError
		if !errors.As(err, &held) || held.About != "the shed" {
			t.Fatalf("got %v", err)
		}
		if err := first.Sure(t.Context()); err != nil {
			t.Error(err)
		}
		first.Free()
		hold(t, &l).Free()
	})
}

// TestALeaseIsLostOnce, and before anything is done on the strength of it.
func TestALeaseIsLostOnce(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var l ledger
		first := hold(t, &l)
		l.set(func() { l.silent = true })
		time.Sleep(2 * lease.Term)
		if err := first.Sure(t.Context()); !errors.Is(err, errSilent) {
			t.Errorf("it is not known whether it is held, and got %v", err)
		}
		second := hold(t, &l)
		defer second.Free()
		l.set(func() { l.silent = false })
		if err := first.Sure(t.Context()); !errors.Is(err, lease.ErrLost) {
			t.Errorf("got %v", err)
		}
		<-first.Lost()
		if err := first.Sure(t.Context()); !errors.Is(err, lease.ErrLost) {
			t.Errorf("got %v", err)
		}
		first.Free()
		if err := second.Sure(t.Context()); err != nil {
			t.Error("what the first frees is not the second's:", err)
		}
	})
}

func TestAFreshLeaseIsNotAskedAbout(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var l ledger
		first := hold(t, &l)
		for range 1000 {
			if err := first.Sure(t.Context()); err != nil {
				t.Fatal(err)
			}
		}
		if l.renewals > 0 {
			t.Errorf("it was asked %d times", l.renewals)
		}
		first.Free()
	})
}

func TestWorkEndsWhenItsThingIsTaken(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		l := &ledger{}
		held := hold(t, l)
		defer held.Free()
		work, end := held.While(t.Context())
		defer end()
		time.Sleep(3 * lease.Term)
		if work.Err() != nil {
			t.Fatal("it ends while it is held")
		}
		l.set(func() { l.holder = "somebody else" })
		<-work.Done()
		if !errors.Is(context.Cause(work), lease.ErrLost) {
			t.Fatalf("got %v", context.Cause(work))
		}
		other, endOther := held.While(t.Context())
		endOther()
		<-other.Done()
	})
}
