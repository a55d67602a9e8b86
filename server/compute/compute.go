// Package compute lets a server compute what many ask for: each thing once, a few at a time, none for longer than anybody waits for it.
package compute

import (
	"context"
	"errors"
	"fmt"
	"runtime/debug"
	"time"
)

// TooLongError says that a computation was given up, as it took longer than any may.
type TooLongError struct{ Most time.Duration }

func (e *TooLongError) Error() string {
	return fmt.Sprintf("computing this took longer than %s and was stopped", e.Most)
}

// FaultError says that a computation panicked, with what and where.
type FaultError struct {
	Panic any
	Stack []byte
}

func (e *FaultError) Error() string {
	return fmt.Sprintf("a computation panicked: %v\n%s", e.Panic, e.Stack)
}

// Safely does something, and returns what it panicked with, where it did, as a *FaultError.
func Safely(do func() error) (err error) {
	defer func() {
		if wrong := recover(); wrong != nil {
			err = &FaultError{wrong, debug.Stack()}
		}
	}()
	return do()
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
	ended := make(chan error, 1)
	go func() {
		defer func() { <-p.slots }()
		ended <- Safely(func() error { // nobody else's view is to fail with it
			compute(within)
			return nil
		})
	}()
	select {
	case err := <-ended:
		if err != nil {
			return err
		}
	case <-within.Done():
	}
	if ctx.Err() == nil && errors.Is(within.Err(), context.DeadlineExceeded) {
		return &TooLongError{p.most}
	}
	return ctx.Err()
}
