package runner

import (
	"context"
	"encoding/json"
	"sync"

	"oddtick/core/observation"
	"oddtick/core/testcase"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// Manual is a run whose cases a person makes, one after the other.
type Manual struct {
	mu    sync.Mutex
	run   *target.Target
	sink  *resultWriter
	cases []*testcase.Case
	done  map[string]bool
	begun map[string]int
	given map[string]*manual.Instructions
	Stop  context.CancelFunc
}

// ByHand is a run that a person makes, nil where this server drives none such.
func (r *Runner) ByHand(id int64) *Manual {
	r.mu.Lock()
	defer r.mu.Unlock()
	if a := r.active[id]; a != nil {
		return a.hand
	}
	return nil
}

func newHandRun(run *target.Target, sink *resultWriter, cases []*testcase.Case, progress *store.Progress) *Manual {
	h := &Manual{run: run, sink: sink, cases: cases, done: map[string]bool{}, begun: map[string]int{}, given: map[string]*manual.Instructions{}}
	for id := range progress.Done {
		h.done[id] = true
	}
	for id, n := range progress.Begun {
		h.begun[id] = n
	}
	return h
}

// end is how the run ended: nil when all cases are done.
func (h *Manual) end() error {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, c := range h.cases {
		if !h.done[c.ID] {
			return context.Canceled
		}
	}
	return nil
}

func (h *Manual) find(id string) *testcase.Case {
	for _, c := range h.cases {
		if c.ID == id {
			return c
		}
	}
	return nil
}

// Hand gives out a case, the same values each time until it is done.
func (h *Manual) Hand(ctx context.Context, id string) (*manual.Instructions, error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	c := h.find(id)
	if c == nil {
		return nil, huma.Error404NotFound("This run has no case " + id + ".")
	}
	if known := h.given[id]; known != nil {
		return known, nil
	}
	attempt := h.begun[id] + 1
	out, err := manual.Hand(ctx, h.run, c, attempt)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The case cannot be prepared: " + err.Error() + ".")
	}
	if err := h.sink.Begin(id, attempt); err != nil {
		return nil, err
	}
	h.begun[id], h.given[id] = attempt, out
	return out, nil
}

// Changes are what changed in the watched tables since a case was handed out, with the site's secrets masked.
func (h *Manual) Changes(ctx context.Context, id string) ([]observation.Change, error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	given := h.given[id]
	if given == nil || given.Expectation == nil {
		return []observation.Change{}, nil
	}
	changes, err := manual.Changes(ctx, h.run, given)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("What changed in the database cannot be read: " + err.Error() + ".")
	}
	text, err := json.Marshal(changes)
	if err != nil {
		return nil, err
	}
	out := []observation.Change{}
	return out, json.Unmarshal(observation.Mask(text, h.sink.secrets), &out)
}

func (h *Manual) Observe(ctx context.Context, id string, seen manual.Seen) (all bool, err error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	given := h.given[id]
	if given == nil || given.Expectation == nil {
		return false, huma.Error409Conflict("The case was not opened, or cannot be generated; open it first.")
	}
	result, err := manual.Observe(ctx, h.run, h.find(id), given, seen)
	if err != nil {
		return false, huma.Error422UnprocessableEntity("What changed in the database cannot be read: " + err.Error() + ". Nothing was saved; record it again.")
	}
	if err := h.sink.Done(result); err != nil {
		return false, err
	}
	h.done[id] = true
	delete(h.given, id)
	for _, c := range h.cases {
		if !h.done[c.ID] {
			return false, nil
		}
	}
	return true, nil
}
