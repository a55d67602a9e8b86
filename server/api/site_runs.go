package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/target"
	"oddtick/server/compute"
	"oddtick/server/lease"
	"oddtick/server/runner"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// siteRunView is how far the latest run of all parts of a site is.
type siteRunView struct {
	Running   bool              `json:"running"`
	Stopping  bool              `json:"stopping,omitempty"`
	StartedAt *time.Time        `json:"started_at,omitempty" doc:"missing where the site was never run as a whole"`
	EndedAt   *time.Time        `json:"ended_at,omitempty"`
	StartedBy string            `json:"started_by,omitempty"`
	Parts     []siteRunPartView `json:"parts" nullable:"false"`
	// Environment is where it was run.
	Environment string `json:"environment,omitempty" doc:"missing for the site's own address"`
	// Environments are all of the site's, besides its own address.
	Environments []environmentView `json:"environments" nullable:"false"`
}

type siteRunPartView struct {
	store.SiteRunPart
	// Done of Total cases of a form have a result.
	Done  int `json:"done,omitempty"`
	Total int `json:"total,omitempty"`
}

// siteRunsAPI answers requests.
type siteRunsAPI struct{ *Server }

func registerSiteRuns(api huma.API, server *Server) {
	s := siteRunsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "startSiteRun", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites/{site}/run", Summary: "Run all forms of a site, its access and its journeys, one after the other", DefaultStatus: http.StatusCreated}, s.start)
	huma.Register(api, huma.Operation{OperationID: "getSiteRun", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites/{site}/run", Summary: "How far the latest run of the whole site is"}, s.latest)
	huma.Register(api, huma.Operation{OperationID: "stopSiteRun", Tags: []string{"site"}, Method: http.MethodDelete, Path: "/api/sites/{site}/run", Summary: "Stop the run of the whole site; cases in progress are finished", DefaultStatus: http.StatusNoContent}, s.stop)
}

func (s siteRunsAPI) start(ctx context.Context, in *SiteStart) (*struct{ Body siteRunView }, error) {
	u, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	site, err := s.siteToContact(ctx, known.ID)
	if err != nil {
		return nil, err
	}
	if site, err = inEnvironment(site, in.Environment, "query.environment"); err != nil {
		return nil, err
	}
	if err := mayStart(site, in.Confirmed, "query.confirmed"); err != nil {
		return nil, err
	}
	parts, err := s.partsOf(ctx, site, known)
	if err != nil {
		return nil, err
	}
	if len(parts) == 0 {
		return nil, huma.Error422UnprocessableEntity("The site has no forms yet, and neither states nor journeys.")
	}
	run, err := s.store.AddSiteRun(ctx, known.ID, u.ID, in.Environment, parts)
	if errors.Is(err, store.ErrUnderWay) {
		return nil, huma.Error409Conflict("A run of the whole site is in progress already: wait for it, or stop it.")
	}
	if err != nil {
		return nil, err
	}
	if err := s.driveSiteRun(ctx, run); err != nil {
		return nil, refuseHeld(err)
	}
	return s.latest(ctx, &sitePath{in.Site})
}

// partsOf are a site's parts in the order in which they are run.
func (s siteRunsAPI) partsOf(ctx context.Context, site *spec.Site, known *store.Site) ([]store.SiteRunPart, error) {
	forms, err := s.store.Forms(ctx)
	if err != nil {
		return nil, err
	}
	var out []store.SiteRunPart
	add := func(kind partKind, id, title string) {
		out = append(out, store.SiteRunPart{Kind: string(kind), ID: id, Title: title, State: store.PartWaiting})
	}
	for i := range forms {
		if forms[i].SiteID == known.ID {
			add(formPart, forms[i].Ident, cmp.Or(forms[i].Title, forms[i].Ident))
		}
	}
	if len(site.States) > 0 && len(site.Pages) > 0 {
		add(accessPart, "", "")
	}
	for i := range site.Journeys {
		if site.Protected() == spec.NoWrites {
			break // they write
		}
		add(journeyPart, site.Journeys[i].ID, cmp.Or(site.Journeys[i].Title, site.Journeys[i].ID))
	}
	return out, nil
}

func (s siteRunsAPI) latest(ctx context.Context, in *sitePath) (*struct{ Body siteRunView }, error) {
	document, known, err := s.siteOf(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	view := siteRunView{Parts: []siteRunPartView{}, Environments: environmentsOf(document)}
	run, err := s.store.LatestSiteRun(ctx, known.ID)
	if errors.Is(err, store.ErrNotFound) {
		return &struct{ Body siteRunView }{view}, nil
	}
	if err != nil {
		return nil, err
	}
	parts, err := run.Parts()
	if err != nil {
		return nil, err
	}
	view.Running, view.StartedAt, view.StartedBy, view.Environment = !run.EndedAt.Valid, &run.StartedAt, run.StartedBy, run.Environment
	view.Stopping = view.Running && run.StopAsked
	if run.EndedAt.Valid {
		view.EndedAt = &run.EndedAt.Time
	}
	for _, p := range parts {
		one := siteRunPartView{SiteRunPart: p}
		if p.Run > 0 {
			if one.Done, one.Total, err = s.howFar(ctx, in.Site, &p); err != nil {
				return nil, err
			}
		}
		view.Parts = append(view.Parts, one)
	}
	return &struct{ Body siteRunView }{view}, nil
}

// howFar counts the cases of a form's run that have a result. A form that is gone, or a run, counts none.
func (s siteRunsAPI) howFar(ctx context.Context, site string, p *store.SiteRunPart) (done, total int, err error) {
	f, err := s.store.Form(ctx, site, p.ID)
	if err == nil {
		var run *store.Run
		if run, err = s.store.RunByNumber(ctx, f.ID, p.Run); err == nil {
			tally, err := s.store.Tally(ctx, run)
			return tally.Run(), tally.Total, err
		}
	}
	if errors.Is(err, store.ErrNotFound) {
		err = nil
	}
	return 0, 0, err
}

func (s siteRunsAPI) stop(ctx context.Context, in *sitePath) (*struct{}, error) {
	_, known, err := s.findSite(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	run, err := s.store.LatestSiteRun(ctx, known.ID)
	if errors.Is(err, store.ErrNotFound) || err == nil && run.EndedAt.Valid {
		return nil, huma.Error409Conflict("No run of the whole site is in progress.")
	}
	if err != nil {
		return nil, err
	}
	return nil, s.store.StopSiteRun(ctx, run.ID)
}

// siteRuns are the runs of whole sites that this server drives.
type siteRuns struct {
	mu     sync.Mutex
	active map[int64]context.CancelFunc
	wg     sync.WaitGroup
	ending bool
}

// close ends them; they go on at the next start.
func (r *siteRuns) close() {
	r.mu.Lock()
	r.ending = true
	for _, stop := range r.active {
		stop()
	}
	r.mu.Unlock()
	r.wg.Wait()
}

// begin notes a run as driven; false where it is driven already, or the server ends.
func (r *siteRuns) begin(id int64, stop context.CancelFunc) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.ending || r.active[id] != nil {
		return false
	}
	if r.active == nil {
		r.active = map[int64]context.CancelFunc{}
	}
	r.active[id] = stop
	r.wg.Add(1)
	return true
}

func (r *siteRuns) end(id int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	delete(r.active, id)
	r.wg.Done()
}

// resumeSiteRuns lets the runs of whole sites go on that no server drives.
func (s *Server) resumeSiteRuns(ctx context.Context) error {
	runs, err := s.store.UnfinishedSiteRuns(ctx)
	if err != nil {
		return err
	}
	for i := range runs {
		var by *lease.HeldError
		if err := s.driveSiteRun(ctx, &runs[i]); err != nil && !errors.As(err, &by) {
			return err
		}
	}
	return nil
}

// driveSiteRun lets the run of a whole site go in the background. Errors: *lease.HeldError where another server drives it.
func (s *Server) driveSiteRun(ctx context.Context, run *store.SiteRun) error {
	work, stop := context.WithCancel(context.WithoutCancel(ctx))
	if !s.siteRuns.begin(run.ID, stop) {
		stop()
		return nil
	}
	held, err := lease.Hold(ctx, s.store, "the server that drives it", fmt.Sprintf("run %d of a whole site", run.ID))
	if err != nil {
		s.siteRuns.end(run.ID)
		stop()
		return err
	}
	go func() {
		defer s.siteRuns.end(run.ID)
		defer stop()
		defer held.Free()
		while, end := held.While(work)
		defer end()
		err := compute.Safely(func() error { return s.runParts(while, run) })
		if err != nil && while.Err() == nil {
			slog.Error("a run of a whole site", "run", run.ID, "error", err)
		}
	}()
	return nil
}

// partPause is how often it is looked whether a part is done, or the run is to end.
const partPause = 300 * time.Millisecond

// runParts runs the parts that are still to come. It returns early, and leaves the rest to the next start, when the context is done.
func (s *Server) runParts(ctx context.Context, run *store.SiteRun) error {
	parts, err := run.Parts()
	if err != nil {
		return err
	}
	for i := range parts {
		p := &parts[i]
		if p.State != store.PartWaiting && p.State != store.PartRunning {
			continue
		}
		asked, err := s.store.SiteRunStopAsked(ctx, run.ID)
		if err != nil {
			return err
		}
		if asked {
			p.State = store.PartStopped
			continue
		}
		p.State = store.PartRunning
		begun := func() error { return s.store.PutSiteRun(ctx, run.ID, parts, false) }
		if err := begun(); err != nil {
			return err
		}
		err = s.runPart(ctx, run, p, begun)
		var told huma.StatusError
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err == nil && p.State == store.PartRunning:
			p.State = store.PartDone
		case errors.As(err, &told):
			p.State, p.Problem = store.PartFailed, told.Error()
		case err != nil:
			slog.Error("a part of a whole site", "run", run.ID, "part", p.ID, "error", err)
			p.State, p.Problem = store.PartFailed, "It could not be run; details are in Odd Tick's log."
		}
	}
	return s.store.PutSiteRun(ctx, run.ID, parts, true)
}

// runPart runs one part to its end. begun writes down what is known of it, once a form's run has its number.
func (s *Server) runPart(ctx context.Context, run *store.SiteRun, p *store.SiteRunPart, begun func() error) error {
	site, err := s.siteIn(ctx, run.SiteID, run.Environment)
	if err != nil {
		return err
	}
	known := &store.Site{ID: run.SiteID}
	switch partKind(p.Kind) {
	case accessPart:
		return s.checkAccess(ctx, site, known)
	case journeyPart:
		return s.runJourney(ctx, site, known, p.ID)
	}
	f, err := s.store.Form(ctx, site.Site, p.ID)
	if errors.Is(err, store.ErrNotFound) {
		return huma.Error404NotFound("The form is no longer there.")
	}
	if err != nil {
		return err
	}
	if p.Run == 0 {
		d, err := s.designs.Of(ctx, f, f.RevisionID)
		if err != nil {
			return huma.Error422UnprocessableEntity(err.Error())
		}
		depth := testcase.Standard
		if asked := site.ReadyWhen; asked != nil && asked.Depth != "" {
			depth = testcase.Depth(asked.Depth)
		}
		set, err := d.Set(ctx, design.Plan{Depth: depth})
		if err != nil {
			return err
		}
		cases, left := target.Drivable(set.Cases)
		permitted, err := permittedIn(site, cases)
		if err != nil {
			return err
		}
		kept, err := s.runner.Start(ctx, &runner.Plan{
			Site: site, Form: f, Designer: d.Designer, Cases: permitted, Left: len(left) + len(cases) - len(permitted), Depth: string(depth), User: run.UserID,
			Options: target.Options{Environment: run.Environment},
		})
		answer, err := started(kept, err)
		if err != nil {
			return err
		}
		p.Run = answer.Body.Run
		if err := begun(); err != nil {
			return err
		}
	}
	return s.followRun(ctx, run, f, p)
}

// followRun waits until a form's run has ended, and stops it where the run of the whole site is to end.
func (s *Server) followRun(ctx context.Context, of *store.SiteRun, f *store.Form, p *store.SiteRunPart) error {
	for {
		run, err := s.store.RunByNumber(ctx, f.ID, p.Run)
		if err != nil {
			return err
		}
		s.runner.AsItEnded(run)
		switch run.State {
		case store.Finished:
			return nil
		case store.Stopped:
			p.State, p.Problem = store.PartStopped, run.Reason
			return nil
		case store.Failed:
			p.State, p.Problem = store.PartFailed, run.Reason
			return nil
		}
		asked, err := s.store.SiteRunStopAsked(ctx, of.ID)
		if err != nil {
			return err
		}
		if asked && !s.runner.Stop(run.ID) {
			if _, err := s.store.AskToStop(ctx, run.ID); err != nil {
				return err
			}
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(partPause):
		}
	}
}
