package compute

import (
	"context"
	"sync"
)

// Shared are computations by key. Several who ask for the same wait for one, which is given up when none of them waits any more.
type Shared[T any] struct {
	pool *Pool
	mu   sync.Mutex
	now  map[string]*waitedFor[T]
}

type waitedFor[T any] struct {
	waiting int
	stop    context.CancelFunc
	ended   chan struct{} // closed once value and err stand
	value   T
	err     error
}

// NewShared are computations in a pool.
func NewShared[T any](pool *Pool) *Shared[T] {
	return &Shared[T]{pool: pool, now: map[string]*waitedFor[T]{}}
}

// Do returns what is computed for a key, which is computed now unless it is already. Errors: the computation's own, *TooLongError, or
// the context's. Nothing is remembered.
func (s *Shared[T]) Do(ctx context.Context, key string, compute func(context.Context) (T, error)) (T, error) {
	s.mu.Lock()
	w := s.now[key]
	if w == nil {
		work, stop := context.WithCancel(context.WithoutCancel(ctx))
		w = &waitedFor[T]{stop: stop, ended: make(chan struct{})}
		s.now[key] = w
		go s.compute(work, key, w, compute)
	}
	w.waiting++
	s.mu.Unlock()
	select {
	case <-w.ended:
		return w.value, w.err
	case <-ctx.Done():
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if w.waiting--; w.waiting == 0 {
		w.stop()
		if s.now[key] == w {
			delete(s.now, key) // who asks from now on has it computed anew
		}
	}
	var none T
	return none, ctx.Err()
}

func (s *Shared[T]) compute(ctx context.Context, key string, w *waitedFor[T], compute func(context.Context) (T, error)) {
	defer w.stop()
	// a computation that was given up may still write its result, so that it has a place of its own
	result := &waitedFor[T]{}
	err := s.pool.run(ctx, func(ctx context.Context) { result.value, result.err = compute(ctx) })
	if err != nil {
		w.err = err
	} else {
		w.value, w.err = result.value, result.err
	}
	s.mu.Lock()
	if s.now[key] == w {
		delete(s.now, key)
	}
	s.mu.Unlock()
	close(w.ended)
}
