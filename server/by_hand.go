package server

import (
	"context"
	"encoding/base64"
	"fmt"
	"net/http"
	"strings"
	"sync"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// handRun is a run whose cases a person makes, one after the other.
type handRun struct {
	mu    sync.Mutex
	run   *target.Target
	sink  *keeper
	cases []*design.Case
	done  map[string]bool
	begun map[string]int
	given map[string]*manual.Instructions
}

func newHandRun(run *target.Target, sink *keeper, cases []*design.Case, progress *store.Progress) *handRun {
	h := &handRun{run: run, sink: sink, cases: cases, done: map[string]bool{}, begun: map[string]int{}, given: map[string]*manual.Instructions{}}
	for id := range progress.Done {
		h.done[id] = true
	}
	for id, n := range progress.Begun {
		h.begun[id] = n
	}
	return h
}

// end is how the run ended: nil when all cases are done.
func (h *handRun) end() error {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, c := range h.cases {
		if !h.done[c.ID] {
			return context.Canceled
		}
	}
	return nil
}

func (h *handRun) find(id string) *design.Case {
	for _, c := range h.cases {
		if c.ID == id {
			return c
		}
	}
	return nil
}

// hand gives out a case, the same values each time until it is done.
func (h *handRun) hand(ctx context.Context, id string) (*manual.Instructions, error) {
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
		return nil, huma.Error422UnprocessableEntity("The case cannot be handed out: " + err.Error() + ".")
	}
	if err := h.sink.Begin(id, attempt); err != nil {
		return nil, err
	}
	h.begun[id], h.given[id] = attempt, out
	return out, nil
}

func (h *handRun) observe(ctx context.Context, id string, seen manual.Seen) (all bool, err error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	given := h.given[id]
	if given == nil || given.Expectation == nil {
		return false, huma.Error409Conflict("The case was not handed out, or cannot be made; open it first.")
	}
	result, err := manual.Observe(ctx, h.run, h.find(id), given, seen)
	if err != nil {
		return false, huma.Error422UnprocessableEntity("What changed in the database cannot be read: " + err.Error() + ". Nothing was kept; say it again.")
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

type handRequest struct {
	RunPath
	Case string `query:"case" required:"true"`
}

type seenRequest struct {
	RunPath
	Body struct {
		Case    string        `json:"case"`
		Verdict judge.Verdict `json:"verdict" enum:"as expected,odd,not observed"`
		Note    string        `json:"note,omitempty" maxLength:"2000"`
		Picture string        `json:"picture,omitempty" maxLength:"8000000" doc:"JPEG or PNG in base64"`
	}
}

type seenAnswer struct {
	Body struct {
		All bool `json:"all" doc:"every case of the run is done"`
	}
}

func (s *Server) registerByHand(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "handedCase", Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/hand", Summary: "A case as a person is to make it; what changes in the database from now on is its own"}, s.handed)
	huma.Register(api, huma.Operation{OperationID: "observedByHand", Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/seen", Summary: "What a person saw of a case", MaxBodyBytes: 12 << 20}, s.seenByHand)
}

func (s *Server) handRun(ctx context.Context, p RunPath) (*activeRun, error) {
	_, _, run, err := s.findRun(ctx, p)
	if err != nil {
		return nil, err
	}
	s.runner.mu.Lock()
	defer s.runner.mu.Unlock()
	a := s.runner.active[run.ID]
	if a == nil || a.hand == nil {
		return nil, huma.Error409Conflict(fmt.Sprintf("Run %d is not one by hand that is under way; let it go on, or begin another.", run.Number))
	}
	return a, nil
}

func (s *Server) handed(ctx context.Context, in *handRequest) (*struct{ Body *manual.Instructions }, error) {
	a, err := s.handRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	out, err := a.hand.hand(ctx, in.Case)
	return &struct{ Body *manual.Instructions }{out}, err
}

func (s *Server) seenByHand(ctx context.Context, in *seenRequest) (*seenAnswer, error) {
	a, err := s.handRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	picture, err := base64.StdEncoding.DecodeString(in.Body.Picture)
	if err == nil && len(picture) > 0 && !strings.HasPrefix(http.DetectContentType(picture), "image/") {
		err = fmt.Errorf("it is %s", http.DetectContentType(picture))
	}
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The picture cannot be read: " + err.Error() + ". Take a JPEG or PNG file.")
	}
	note := strings.TrimSpace(in.Body.Note)
	if in.Body.Verdict == judge.NotObserved && note == "" {
		note = "skipped by " + u.Name
	}
	out := &seenAnswer{}
	out.Body.All, err = a.hand.observe(ctx, in.Body.Case, manual.Seen{Verdict: in.Body.Verdict, Note: note, Picture: picture})
	if out.Body.All {
		a.stop()
	}
	return out, err
}
