package api

import (
	"context"
	"errors"
	"net/http"
	"sync"
	"time"

	"oddtick/core/investigate"
	"oddtick/core/prose"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/formats/steps"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// furtherView is what more is known of a finding, also in words, and how its simplest case is seen.
type furtherView struct {
	*investigate.Investigation
	Words prose.Text   `json:"words"`
	At    time.Time    `json:"at"`
	Steps []steps.Step `json:"steps,omitempty"`
}

// lookingView is how far looking further is: the submissions made, of those it takes at most but for a limit.
type lookingView struct {
	Made int `json:"made"`
	Most int `json:"most"`
}

// lookings are the findings that are looked at further, by what is kept of them.
type lookings struct {
	mu  sync.Mutex
	now map[string]*looked
}

type looked struct {
	made int
	stop context.CancelFunc
}

// begin notes that a finding is looked at further; it goes on when whoever asked for it leaves, and ends by stop.
// investigationsAPI answers requests.
type investigationsAPI struct{ *Server }

func registerInvestigations(api huma.API, server *Server) {
	s := investigationsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "investigateFinding", Tags: []string{"findings"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", Summary: "Repeat a finding's simplest case, simplify it, and find the site's limit"}, s.lookFurther)
	huma.Register(api, huma.Operation{OperationID: "stopInvestigation", Tags: []string{"findings"}, Method: http.MethodDelete, Path: "/api/sites/{site}/forms/{form}/runs/{run}/findings/{finding}/investigation", Summary: "Stop investigating a finding; what is known so far is kept"}, s.stopLooking)
}

func (l *lookings) begin(ctx context.Context, kind string) (own context.Context, progress func(int), end func()) {
	own, stop := context.WithCancel(context.WithoutCancel(ctx))
	one := &looked{stop: stop}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.now == nil {
		l.now = map[string]*looked{}
	}
	l.now[kind] = one
	progress = func(made int) {
		l.mu.Lock()
		defer l.mu.Unlock()
		one.made = made
	}
	return own, progress, func() {
		stop()
		l.mu.Lock()
		defer l.mu.Unlock()
		delete(l.now, kind)
	}
}

// of is how far it is; nil where a finding is not looked at further.
func (l *lookings) of(kind string) *lookingView {
	l.mu.Lock()
	defer l.mu.Unlock()
	if one := l.now[kind]; one != nil {
		return &lookingView{one.made, investigate.MaxSubmissions}
	}
	return nil
}

func (l *lookings) stop(kind string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if one := l.now[kind]; one != nil {
		one.stop()
	}
}

// close stops all.
func (l *lookings) close() {
	l.mu.Lock()
	defer l.mu.Unlock()
	for _, one := range l.now {
		one.stop()
	}
}

func furtherKind(f *store.Form, finding string) string { return store.FurtherKind(f.Ident, finding) }

// furtherOf is what was found the last time, nil for nothing, and how far it is where it is under way.
func furtherOf(ctx context.Context, s *Server, f *store.Form, finding string) (*furtherView, *lookingView, error) {
	kind := furtherKind(f, finding)
	var v furtherView
	err := s.store.SiteReport(ctx, f.SiteID, "", kind, &v)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil, s.lookings.of(kind), nil
	case err != nil:
		return nil, nil, err
	}
	return &v, s.lookings.of(kind), nil
}

type investigateRequest struct {
	FindingPath
	Confirmed
}

// lookFurther submits where the finding's run did.
func (s investigationsAPI) lookFurther(ctx context.Context, in *investigateRequest) (*struct{ Body furtherView }, error) {
	at, err := findingsAPI(s).findFinding(ctx, &in.FindingPath)
	if err != nil {
		return nil, err
	}
	f, d, one := at.form, at.designed, at.finding
	simplest, err := d.Find(ctx, one.Simplest)
	if err != nil {
		return nil, err
	}
	options, err := optionsOf(at.run)
	if err != nil {
		return nil, err
	}
	again, work, done, err := openByHand(ctx, s.Server, f, d, options.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	kind := furtherKind(f, in.Finding)
	own, progress, end := s.lookings.begin(work, kind)
	defer end()
	further, err := investigate.Investigate(own, again.Config.Designer.Maker, attempt.By(again), simplest, one.Cause, progress)
	switch {
	case err != nil && lostOr(work, nil) != nil:
		return nil, lostOr(work, err)
	case err != nil && own.Err() != nil:
		return nil, huma.Error409Conflict("It was stopped before anything was known.")
	case err != nil:
		return nil, cannotRun(err)
	}
	v := furtherView{Investigation: further, Words: wording.Investigation(again.Config.Designer.Maker.Form, further), At: time.Now().UTC()}
	if further.Simplest != nil {
		v.Steps = steps.Of(at.report, further.Simplest)
	}
	further.Simplest = nil // its evidence is too large to be kept with it
	return &struct{ Body furtherView }{v}, s.store.PutSiteReport(context.WithoutCancel(ctx), f.SiteID, "", kind, &v)
}

func (s investigationsAPI) stopLooking(ctx context.Context, in *FindingPath) (*struct{}, error) {
	f, _, _, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	s.lookings.stop(furtherKind(f, in.Finding))
	return nil, nil
}
