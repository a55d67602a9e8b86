// Package compute lets a server compute what many ask for: each thing once, a few at a time, none for longer than anybody waits for it.
package compute

import (
	"context"
	"errors"
	"fmt"
	"time"
)

// TooLongError says that a computation was given up, as it took longer than any may.
type TooLongError struct{ Most time.Duration }

func (e *TooLongError) Error() string {
	return fmt.Sprintf("computing this took longer than %s, and was given up", e.Most)
}

// Pool bounds how many computations go on at once, and how long each may take. The zero value is of no use; see NewPool.
type Pool struct {
	slots chan struct{}
	most  time.Duration
}

// NewPool is a pool for so many computations at once, of so long at most each.
func NewPool(atOnce int, most time.Duration) *Pool {
	return &Pool{slots: make(chan struct{}, atOnce), most: most}
}

// run computes something in a slot of its own, once there is one. Computations that do not look at their context go on after it is
// done, and keep their slot until they end; whoever waits does not.
func (p *Pool) run(ctx context.Context, compute func(context.Context)) error {
	select {
	case p.slots <- struct{}{}:
	case <-ctx.Done():
		return ctx.Err()
	}
	within, cancel := context.WithTimeout(ctx, p.most)
	defer cancel()
	ended := make(chan struct{})
	go func() {
		defer func() { <-p.slots }()
		defer close(ended)
		compute(within)
	}()
	select {
	case <-ended:
	case <-within.Done():
	}
	if ctx.Err() == nil && errors.Is(within.Err(), context.DeadlineExceeded) {
		return &TooLongError{p.most}
	}
	return ctx.Err()
}
