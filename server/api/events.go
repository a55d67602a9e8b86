package api

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"
)

// endEvent says that a run has ended, or how far it is for one who has just come.
type endEvent struct {
	Run runBrief `json:"run"`
}

// aliveEvent keeps the connection from being taken for dead.
type aliveEvent struct{}

type eventsRequest struct {
	RunPath
	After       int    `query:"after" minimum:"0" doc:"the last result already received"`
	LastEventID string `header:"Last-Event-ID" doc:"the same, as a browser sends it after a lost connection"`
}

const heartbeat = 15 * time.Second

// sessionLook is how often it is looked whether whoever follows is still signed in.
const sessionLook = 5 * time.Second

// elsewhereLook is how often it is looked what came of a run that another server drives.
const elsewhereLook = time.Second

// eventsAPI answers requests.
type eventsAPI struct{ *Server }

func registerEvents(api huma.API, server *Server) {
	s := eventsAPI{server}
	sse.Register(api, huma.Operation{OperationID: "streamResults", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/events", Summary: "Results of a run as they arrive"},
		map[string]any{"mark": mark{}, "end": endEvent{}, "alive": aliveEvent{}}, s.events)
}

func (s eventsAPI) events(ctx context.Context, in *eventsRequest, send sse.Sender) {
	f, _, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return // the client asks for the run itself and is told there
	}
	last := in.After
	if n, err := strconv.Atoi(in.LastEventID); err == nil {
		last = n
	}
	session := time.NewTicker(sessionLook)
	defer session.Stop()
	for {
		news := s.runner.News(run.ID)
		var again <-chan time.Time
		marks, err := s.store.Marks(ctx, run.ID, last)
		if err != nil {
			return
		}
		for _, m := range marks {
			if send(sse.Message{ID: m.Seq, Data: viewMark(m)}) != nil {
				return
			}
			last = m.Seq
		}
		if news == nil {
			now, err := s.store.Run(ctx, run.ID)
			if err == nil {
				s.runner.AsItEnded(now)
			}
			if err != nil || now.State != store.Running {
				s.sendEnd(ctx, f.Ident, run.ID, last, send)
				return
			}
			again = time.After(elsewhereLook)
		}
		select {
		case <-ctx.Done():
			return
		case <-news:
		case <-again:
		case <-time.After(heartbeat):
			if send(sse.Message{ID: last, Data: aliveEvent{}}) != nil {
				return
			}
		case <-session.C:
			if !s.gate.StillSignedIn(ctx) {
				return
			}
		}
	}
}

func (s eventsAPI) sendEnd(ctx context.Context, form string, runID int64, last int, send sse.Sender) {
	run, err := s.store.Run(ctx, runID)
	if err != nil {
		return
	}
	marks, err := s.store.Marks(ctx, runID, 0)
	if err != nil {
		return
	}
	brief, err := briefRun(ctx, s.Server, form, run, marks)
	if err != nil {
		return
	}
	_ = send(sse.Message{ID: max(last, 1), Data: endEvent{*brief}}) // the client may be gone
}
