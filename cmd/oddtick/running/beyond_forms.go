// Package running holds the commands that submit cases to a site.
package running

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"oddtick/cmd/oddtick/documents"
	"oddtick/core/judge"
	"oddtick/core/spec"
	"oddtick/engine/journey"
	"oddtick/engine/sweep"
	"oddtick/engine/target"
	"oddtick/formats/junit"
	"oddtick/formats/steps"
)

// requestTimeout is how long one request may take.
const requestTimeout = 30 * time.Second

// runAccess opens every page as every account, and prints what is odd.
func runAccess(ctx context.Context, w io.Writer, site *spec.Site, o sweep.Options) (*sweep.AccessReport, error) {
	r, err := sweep.Access(ctx, site, o)
	if err != nil {
		return nil, err
	}
	if r.CleanedUp != nil {
		fmt.Fprintln(w, r.CleanedUp)
	}
	name := func(account string) string {
		if account == "" {
			return "a guest"
		}
		return account
	}
	for _, o := range r.Openings {
		if o.Verdict != judge.AsExpected {
			fmt.Fprintln(w, steps.OneLine(strings.TrimSpace(fmt.Sprintf("%s  %-14s %s, for %s: %s, should be: %s %s", o.Verdict, "access", o.Path, name(o.Account), o.Observed, o.Expected, o.Why))))
		}
	}
	for _, s := range r.Sessions {
		if s.Verdict != judge.AsExpected {
			fmt.Fprintln(w, steps.OneLine(strings.TrimSpace(fmt.Sprintf("%s  %-14s %s, of %s: %s, should be: %s %s", s.Verdict, "session", s.What, name(s.Account), s.Observed, s.Expected, s.Why))))
		}
	}
	for _, l := range r.LeftOut {
		fmt.Fprintln(w, "not checked        "+l)
	}
	for _, l := range r.Lacking {
		fmt.Fprintln(w, "not distinguished  "+l)
	}
	n := r.Verdicts()
	fmt.Fprintf(w, "access: %d pages as %d visitors, %d as expected, %d odd, %d not observed, %.1f s\n", len(r.Pages), len(r.Visitors), n[judge.AsExpected], n[judge.Odd], n[judge.NotObserved], r.Took.Seconds())
	return r, nil
}

// runJourneys walks a project's journeys, one of them where an id is given, and prints what is odd.
func runJourneys(ctx context.Context, w io.Writer, project *spec.Project, id string, cleanUp bool) ([]*journey.JourneyReport, error) {
	mails, err := target.Mails(project.Site)
	if err != nil {
		return nil, err
	}
	if mails != nil {
		defer mails.Close()
	}
	j, err := journey.Open(ctx, project, mails, time.Now().UnixMilli(), requestTimeout)
	if err != nil {
		return nil, err
	}
	defer j.Close()
	var out []*journey.JourneyReport
	for i := range project.Site.Journeys {
		one := &project.Site.Journeys[i]
		if id != "" && one.ID != id {
			continue
		}
		count := map[judge.Verdict]int{}
		r, err := j.Walk(ctx, one, func(walk *journey.Walk) {
			count[walk.Verdict]++
			if walk.Verdict != judge.AsExpected {
				fmt.Fprintf(w, "%s  %-14s %s: %s\n", walk.Verdict, "journey", walk.ID, steps.OneLine(walk.Headline))
			}
		})
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(w, "%s: %d paths, %d as expected, %d odd, %d not observed, %.1f s\n", one.ID, len(r.Walks), count[judge.AsExpected], count[judge.Odd], count[judge.NotObserved], r.Took.Seconds())
		out = append(out, r)
	}
	if cleanUp {
		done, err := j.CleanUp(context.WithoutCancel(ctx), out)
		if err != nil {
			return nil, fmt.Errorf("clean up: %w", err)
		}
		fmt.Fprintln(w, done)
	}
	if id != "" && len(out) == 0 {
		return nil, fmt.Errorf("there is no journey %q in the site document", id)
	}
	return out, nil
}

// tally is what decides how a command ends.
type tally struct{ odd, unseen int }

func (t *tally) add(v judge.Verdict) {
	switch v {
	case judge.Odd:
		t.odd++
	case judge.NotObserved:
		t.unseen++
	}
}

// end gives the exit code: 1 for something odd, 2 for something that was not observed.
func (t *tally) end() error {
	switch {
	case t.odd > 0:
		return &documents.ExitError{Code: 1}
	case t.unseen > 0:
		return &documents.ExitError{Code: 2}
	}
	return nil
}

// beyondForms looks at what no single form shows: who may open what, and the journeys. It runs where a whole project does, or where it
// is asked for by name.
func (f *runFlags) beyondForms(ctx context.Context, w, stdout io.Writer, project *spec.Project, whole bool, t *tally) error {
	whole = whole && !f.access && f.journey == ""
	write := func(kind string, v any) error {
		if f.json == "" {
			return nil
		}
		return documents.ToFile(documents.FileOf(f.json, kind, whole || f.access && f.journey != ""), stdout, func(w io.Writer) error {
			e := json.NewEncoder(w)
			e.SetIndent("", " ")
			return e.Encode(v)
		})
	}
	if f.access || whole && len(project.Site.States) > 0 && len(project.Site.Pages) > 0 {
		r, err := runAccess(ctx, w, project.Site, sweep.Options{Timeout: requestTimeout, CleanUp: f.cleanUp, MaxWait: f.maxWait})
		if err != nil {
			return err
		}
		for v, n := range r.Verdicts() {
			for range n {
				t.add(v)
			}
		}
		if err := write("access", r); err != nil {
			return err
		}
		if err := f.writeJUnit(stdout, "access", project.Site, r.Started, r.Took, accessSuite(r)); err != nil {
			return err
		}
	}
	if f.journey != "" || whole && len(project.Site.Journeys) > 0 {
		if project.Site.Protected() == spec.NoWrites {
			if f.journey != "" {
				return fmt.Errorf("journeys write, and the environment %s permits only cases that should write nothing", f.environment)
			}
			fmt.Fprintf(w, "journeys are not run: they write, and the environment %s permits only cases that should write nothing\n", f.environment)
			return nil
		}
		list, err := runJourneys(ctx, w, project, f.journey, f.cleanUp)
		if err != nil {
			return err
		}
		for _, r := range list {
			for i := range r.Walks {
				t.add(r.Walks[i].Verdict)
			}
		}
		if err := write("journeys", list); err != nil {
			return err
		}
		for _, r := range list {
			if err := f.writeJUnit(stdout, r.Journey, project.Site, r.Started, r.Took, journeySuite(r)); err != nil {
				return err
			}
		}
	}
	return nil
}

// writeJUnit writes what is beyond forms to a file of its own beside those of the forms.
func (f *runFlags) writeJUnit(stdout io.Writer, name string, site *spec.Site, started time.Time, took time.Duration, list []junit.One) error {
	if f.JUnit == "" {
		return nil
	}
	return documents.ToFile(documents.FileOf(f.JUnit, name, f.access == (f.journey != "")), stdout, func(w io.Writer) error {
		return junit.WriteAll(w, name, site.Address, started, took, list)
	})
}

func accessSuite(r *sweep.AccessReport) []junit.One {
	var out []junit.One
	for _, o := range r.Openings {
		out = append(out, junit.One{Name: o.Path + " as " + cmp.Or(o.Account, "guest"), Class: "access." + o.Page, Verdict: o.Verdict, Says: string(cmp.Or(o.Why, o.Observed)), Details: fmt.Sprintf("expected: %s\nobserved: %s\n", o.Expected, o.Observed)})
	}
	for _, s := range r.Sessions {
		out = append(out, junit.One{Name: string(s.What) + ", of " + cmp.Or(s.Account, "guest"), Class: "access.sessions", Verdict: s.Verdict, Says: string(cmp.Or(s.Why, s.Observed)), Details: fmt.Sprintf("expected: %s\nobserved: %s\n", s.Expected, s.Observed)})
	}
	return out
}

func journeySuite(r *journey.JourneyReport) []junit.One {
	var out []junit.One
	for i := range r.Walks {
		w := &r.Walks[i]
		var details strings.Builder
		for k := range w.Stations {
			fmt.Fprintf(&details, "%s: %s, %s\n", w.Stations[k].Words, w.Stations[k].Verdict, w.Stations[k].Headline)
		}
		out = append(out, junit.One{Name: w.ID, Class: "journey", Verdict: w.Verdict, Says: string(w.Headline), Details: details.String()})
	}
	return out
}
