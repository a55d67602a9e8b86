package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"oddtick/core/testcase"
	"oddtick/engine/target"
	"oddtick/server/forms"
	"oddtick/server/lease"
	"oddtick/server/runner"
	"oddtick/server/store"
)

// planOf is the plan of a run that is kept.
func (s *Server) planOf(ctx context.Context, f *store.Form, d *forms.Design, run *store.Run) (*runner.Plan, error) {
	ids, err := run.CaseIDs()
	if err != nil {
		return nil, err
	}
	p := &runner.Plan{Form: f, Designer: d.Designer, Left: run.NotSelected, Depth: run.Depth}
	cases, err := d.Those(ctx, ids)
	if err != nil {
		return nil, err
	}
	p.Cases = slices.DeleteFunc(cases, func(c *testcase.Case) bool { return target.Left(c) != "" })
	if err := json.Unmarshal([]byte(run.Options), &p.Options); err != nil {
		return nil, fmt.Errorf("read the options of run %d: %w", run.Number, err)
	}
	p.Site, err = s.siteToContact(ctx, f.SiteID)
	return p, err
}

// ResumeRuns lets runs go on that no server drives, until the context is done: those that were under way when this one ended, and those of
// another that ended meanwhile.
func (s *Server) ResumeRuns(ctx context.Context) {
	for ctx.Err() == nil {
		if err := s.ResumeInterrupted(ctx); err != nil && ctx.Err() == nil {
			slog.Error("interrupted runs cannot continue", "error", err)
		}
		if err := s.resumeSiteRuns(ctx); err != nil && ctx.Err() == nil {
			slog.Error("interrupted runs of sites cannot continue", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(takeUp):
		}
	}
}

// takeUp is how often it is looked whether there are runs that nobody drives.
const takeUp = 3 * time.Second

// ResumeInterrupted lets the runs go on that no server drives now. Those that cannot are stopped, with the reason.
func (s *Server) ResumeInterrupted(ctx context.Context) error {
	runs, err := s.store.Interrupted(ctx)
	if err != nil {
		return err
	}
	for i := range runs {
		run := &runs[i]
		if s.runner.Drives(run.ID) {
			continue
		}
		var by *lease.HeldError
		if err := s.resume(ctx, run); errors.Is(err, runner.ErrEnding) || ctx.Err() != nil {
			return nil // at the next start
		} else if errors.As(err, &by) || errors.Is(err, runner.ErrMoved) {
			continue // another server drives it, or has, or another run its site
		} else if err != nil {
			slog.Warn("a run cannot continue", "run", run.ID, "error", err)
			if err := s.store.EndRun(ctx, run.ID, store.Stopped, "Odd Tick ended during the run, and it could not continue: "+err.Error()+".", run.ExternalChanges); err != nil {
				return err
			}
		}
	}
	return nil
}

func (s *Server) resume(ctx context.Context, run *store.Run) error {
	f, err := s.store.FormByID(ctx, run.FormID)
	if err != nil {
		return err
	}
	d, err := s.designs.Of(ctx, f, run.RevisionID)
	if err != nil {
		return err
	}
	p, err := s.planOf(ctx, f, d, run)
	if err != nil {
		return err
	}
	return s.runner.Resume(ctx, p, run)
}
