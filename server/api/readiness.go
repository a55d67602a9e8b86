package api

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"time"

	"oddtick/core/cover"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/readiness"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/engine/journey"
	"oddtick/engine/sweep"
	"oddtick/engine/target"
	"oddtick/server/compute"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// readinessView is whether something may ship: all sites, one of them, or one form.
type readinessView struct {
	Verdict readiness.Verdict `json:"verdict"`
	Sites   []siteReadiness   `json:"sites" nullable:"false"`
}

type siteReadiness struct {
	ID      string            `json:"id"`
	Title   string            `json:"title"`
	Verdict readiness.Verdict `json:"verdict"`
	// Asked is what the team asks for, nothing where the document does not say.
	Asked *spec.ReadyWhen `json:"asked,omitempty"`
	Parts []partReadiness `json:"parts" nullable:"false" doc:"the site's forms, its access and its journeys"`
}

// partKind is what a part of a site is.
type partKind string

const (
	formPart    partKind = "form"
	accessPart  partKind = "access"
	journeyPart partKind = "journey"
)

// partReadiness is whether a part of a site may ship, and by what that is known.
type partReadiness struct {
	Kind    partKind          `json:"kind" enum:"form,access,journey"`
	ID      string            `json:"id" doc:"of a form or a journey"`
	Title   string            `json:"title"`
	Verdict readiness.Verdict `json:"verdict"`
	// At is when what it is known by was begun.
	At *time.Time `json:"at,omitempty"`
	// Run, its depth and revision, and the counts of its cases, are a form's.
	Run          int                     `json:"run,omitempty"`
	Depth        testcase.Depth          `json:"depth,omitempty"`
	Ran          int                     `json:"ran,omitempty" doc:"the revision that was run"`
	Newest       int                     `json:"newest,omitempty" doc:"the form's newest revision"`
	Tally        report.Tally            `json:"tally"`
	Findings     []readiness.Finding     `json:"findings" nullable:"false" doc:"gravest first; the accepted ones too"`
	Requirements []readiness.Requirement `json:"requirements" nullable:"false"`
	Trend        []trendItem             `json:"trend" nullable:"false"`
	// Coverage is told where one form is asked for, or where the team asks for a least coverage.
	Coverage []cover.Shown `json:"coverage,omitempty"`
}

// readinessAPI answers requests.
type readinessAPI struct{ *Server }

func registerReadiness(api huma.API, server *Server) {
	s := readinessAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getReadiness", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/readiness", Summary: "Whether all sites, a site or a form may ship, and what stands in the way"}, s.readiness)
}

type readinessRequest struct {
	Site string `query:"site" doc:"only this site"`
	Form string `query:"form" doc:"only this form of the site, with what it covers"`
}

func (s readinessAPI) readiness(ctx context.Context, in *readinessRequest) (*struct{ Body readinessView }, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	sites, err := s.store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	known, err := s.store.Forms(ctx)
	if err != nil {
		return nil, err
	}
	view := readinessView{Sites: []siteReadiness{}}
	var verdicts []readiness.Verdict
	for _, site := range sites {
		if in.Site != "" && site.Ident != in.Site {
			continue
		}
		one, err := s.ofSite(ctx, &site, known, in.Form)
		if err != nil {
			return nil, err
		}
		view.Sites, verdicts = append(view.Sites, *one), append(verdicts, one.Verdict)
	}
	if len(view.Sites) == 0 && in.Site != "" {
		return nil, huma.Error404NotFound("There is no site " + in.Site + ".")
	}
	view.Verdict = readiness.OfAll(verdicts)
	if len(verdicts) == 1 {
		view.Verdict = verdicts[0]
	}
	return &struct{ Body readinessView }{view}, nil
}

// ofSite tells of a site, or of one of its forms only.
func (s readinessAPI) ofSite(ctx context.Context, site *store.Site, known []store.Form, form string) (*siteReadiness, error) {
	document, err := s.store.SiteDocument(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	view := &siteReadiness{ID: site.Ident, Title: cmp.Or(site.Title, site.Ident), Asked: document.ReadyWhen, Parts: []partReadiness{}}
	for i := range known {
		if f := &known[i]; f.SiteID == site.ID && (form == "" || form == f.Ident) {
			part, err := s.ofForm(ctx, f, document, form != "")
			if err != nil {
				return nil, err
			}
			view.Parts = append(view.Parts, *part)
		}
	}
	switch {
	case form != "" && len(view.Parts) == 0:
		return nil, huma.Error404NotFound(fmt.Sprintf("The site %s has no form %s.", site.Ident, form))
	case form != "":
		view.Verdict = view.Parts[0].Verdict
		return view, nil
	}
	beyond, err := s.beyondForms(ctx, site, document)
	if err != nil {
		return nil, err
	}
	view.Parts = append(view.Parts, beyond...)
	var verdicts []readiness.Verdict
	for i := range view.Parts {
		verdicts = append(verdicts, view.Parts[i].Verdict)
	}
	view.Verdict = readiness.OfAll(verdicts)
	return view, nil
}

// beyondForms tells of a site's access and journeys, as far as its document speaks of them.
func (s readinessAPI) beyondForms(ctx context.Context, site *store.Site, document *spec.Site) ([]partReadiness, error) {
	var out []partReadiness
	add := func(kind partKind, id, title string, c *readiness.Checks) {
		part := partReadiness{Kind: kind, ID: id, Title: title, Verdict: readiness.OfChecks(document.ReadyWhen, c, time.Now()), Findings: []readiness.Finding{}, Requirements: []readiness.Requirement{}, Trend: []trendItem{}}
		part.Tally = report.Tally{Total: c.Total, Odd: c.Odd, NotObserved: c.Dark, AsExpected: c.Total - c.Odd - c.Dark}
		if c.Done {
			part.At = &c.Started
		}
		out = append(out, part)
	}
	environment := ""
	if document.ReadyWhen != nil {
		environment = document.ReadyWhen.Environment
	}
	if len(document.States) > 0 && len(document.Pages) > 0 {
		var r sweep.AccessReport
		c := &readiness.Checks{}
		switch err := s.store.SiteReport(ctx, site.ID, environment, "access", &r); {
		case err == nil:
			*c = readiness.Checks{Done: true, Started: r.Started}
			for verdict, n := range r.Verdicts() {
				count(c, verdict, n)
			}
		case !errors.Is(err, store.ErrNotFound):
			return nil, err
		}
		add(accessPart, "", "", c)
	}
	for i := range document.Journeys {
		j := &document.Journeys[i]
		var r journey.JourneyReport
		c := &readiness.Checks{}
		switch err := s.store.SiteReport(ctx, site.ID, environment, "journey:"+j.ID, &r); {
		case err == nil:
			*c = readiness.Checks{Done: true, Started: r.Started}
			for k := range r.Walks {
				count(c, r.Walks[k].Verdict, 1)
			}
		case !errors.Is(err, store.ErrNotFound):
			return nil, err
		}
		add(journeyPart, j.ID, cmp.Or(j.Title, j.ID), c)
	}
	return out, nil
}

// count adds so many verdicts to what is known; what does not apply says nothing.
func count(c *readiness.Checks, v judge.Verdict, n int) {
	switch v {
	case judge.DoesNotApply:
		return
	case judge.Odd:
		c.Odd += n
	case judge.NotObserved:
		c.Dark += n
	}
	c.Total += n
}

// maxWhole is how many of the latest runs are looked at for one of all cases.
const maxWhole = 20

// madeWhereAsked are the runs that were made in the environment that the team asks for.
func madeWhereAsked(site *spec.Site, runs []store.Run) []store.Run {
	asked := ""
	if site.ReadyWhen != nil {
		asked = site.ReadyWhen.Environment
	}
	return slices.DeleteFunc(runs, func(r store.Run) bool {
		options, err := optionsOf(&r)
		return err == nil && options.Environment != asked
	})
}

// ofForm tells of a form, by the latest run of all its cases, or the latest of some where there is none; findings of later runs of some of
// its cases stand in the way too.
func (s readinessAPI) ofForm(ctx context.Context, f *store.Form, site *spec.Site, detail bool) (*partReadiness, error) {
	part := &partReadiness{Kind: formPart, ID: f.Ident, Title: cmp.Or(f.Title, f.Ident), Newest: f.Revision, Findings: []readiness.Finding{}, Requirements: []readiness.Requirement{}, Trend: []trendItem{}}
	facts := &readiness.Facts{Newest: f.Revision, Ran: f.Revision}
	err := s.learn(ctx, f, site, detail, part, facts)
	var unmade *forms.NotReadyError
	var tooLong *compute.TooLongError
	switch {
	case errors.As(err, &unmade), errors.As(err, &tooLong):
		facts.Problem = prose.Text(err.Error())
	case err != nil:
		return nil, err
	}
	part.Verdict = readiness.Of(site.ReadyWhen, facts, time.Now())
	part.Tally, part.Findings, part.Requirements = facts.Tally, append(part.Findings, facts.Findings...), append(part.Requirements, facts.Requirements...)
	slices.SortStableFunc(part.Findings, func(a, b readiness.Finding) int { return a.Severity.Compare(b.Severity) })
	return part, nil
}

// learn finds out what is known of a form. Errors: *forms.NotReadyError, *compute.TooLongError where no cases can be designed.
func (s readinessAPI) learn(ctx context.Context, f *store.Form, site *spec.Site, detail bool, part *partReadiness, facts *readiness.Facts) error {
	d, err := s.designs.Of(ctx, f, f.RevisionID)
	if err != nil {
		return err
	}
	newest, err := d.Cases(ctx, testcase.Standard)
	if err != nil {
		return err
	}
	facts.Tally = report.Tally{Total: len(newest.Cases), NotRun: len(newest.Cases)}
	runs, err := s.store.Runs(ctx, f.ID, maxWhole)
	if err != nil {
		return err
	}
	if runs = madeWhereAsked(site, runs); len(runs) == 0 {
		return nil
	}
	triages, err := s.store.Triages(ctx, f.ID)
	if err != nil {
		return err
	}
	at, lacking, err := s.runToJudge(ctx, f, runs)
	if err != nil {
		return err
	}
	run := &runs[at]
	if d, err = s.designs.Of(ctx, f, run.RevisionID); err != nil {
		return err
	}
	r, err := findingsAPI(s).briefReport(ctx, f, d, run)
	if err != nil {
		return err
	}
	describeRun(r, site, run)
	if detail || site.ReadyWhen != nil && site.ReadyWhen.MinCoverage > 0 {
		if r.Coverage, err = coverageOf(ctx, d, r); err != nil {
			return err
		}
		part.Coverage = r.Coverage
	}
	accepted := acceptedBy(triages)
	found := finding.Of(r)
	rev, err := s.store.Revision(ctx, run.RevisionID)
	if err != nil {
		return err
	}
	*facts = *readiness.FactsOf(r, found, accepted)
	facts.Run, facts.Ran, facts.Newest, facts.Running = int64(run.Number), rev.Number, f.Revision, run.State == store.Running
	facts.Tally.Total += lacking
	facts.Tally.NotRun += lacking
	part.Run, part.Depth, part.Ran, part.At = run.Number, facts.Depth, rev.Number, &run.StartedAt
	for i := range runs[:at] {
		later, err := findingsAPI(s).oddReport(ctx, f, d, &runs[i])
		if err != nil {
			return err
		}
		for _, one := range readiness.FactsOf(later, finding.Of(later), accepted).Findings {
			if !slices.ContainsFunc(found, func(known finding.Finding) bool { return known.Called(one.ID) }) && !slices.ContainsFunc(facts.Findings, func(known readiness.Finding) bool { return known.ID == one.ID }) {
				facts.Findings = append(facts.Findings, one)
			}
		}
	}
	seen, err := history(ctx, s.Server, f, &runs[0])
	for i := range seen {
		part.Trend = append(part.Trend, seen[i].trend())
	}
	return err
}

// runToJudge is the place of the run by which a form is judged: the latest of all its cases, or else the latest of which any was run; and how
// many cases of its depth it lacks.
func (s readinessAPI) runToJudge(ctx context.Context, f *store.Form, runs []store.Run) (at, lacking int, err error) {
	for i := range runs {
		ids, err := runs[i].CaseIDs()
		if err != nil {
			return 0, 0, err
		}
		d, err := s.designs.Of(ctx, f, runs[i].RevisionID)
		if err != nil {
			return 0, 0, err
		}
		set, err := d.Cases(ctx, cmp.Or(depthOf(&runs[i]), testcase.Standard))
		if err != nil {
			return 0, 0, err
		}
		has := map[string]bool{}
		for _, id := range ids {
			has[id] = true
		}
		n := 0
		for _, c := range set.Cases {
			if !has[c.ID] && target.Left(c) == "" {
				n++
			}
		}
		if n == 0 {
			return i, 0, nil
		}
		if i == 0 {
			lacking = n
		}
	}
	return 0, lacking, nil
}

// acceptances are the findings that testers accepted, by what they said last of each.
func acceptances(triages []store.Triage) []report.Acceptance {
	var out []report.Acceptance
	latest := map[string]bool{}
	for i := range triages {
		t := viewTriage(&triages[i])
		if !latest[triages[i].Finding] && !t.Lapsed && (t.State == "known" || t.State == "not a defect") {
			out = append(out, report.Acceptance{Finding: triages[i].Finding, Until: t.Until, Link: t.Link, Why: t.Comment})
		}
		latest[triages[i].Finding] = true
	}
	return out
}

// acceptedBy tells of a finding whether testers accepted it, and the severity that they said last.
func acceptedBy(triages []store.Triage) func(*finding.Finding) *readiness.Finding {
	accepted := readiness.AcceptedIn(acceptances(triages), time.Now().UTC())
	return func(f *finding.Finding) *readiness.Finding {
		said := accepted(f)
		if i := slices.IndexFunc(triages, func(t store.Triage) bool { return f.Names[0].Is(t.Finding) }); i >= 0 {
			said.Severity = finding.Severity(triages[i].Severity)
		}
		return said
	}
}

// coverageOf is what the observed cases of a result have shown of all that its form promises.
func coverageOf(ctx context.Context, d *forms.Design, r *report.Report) ([]cover.Shown, error) {
	set, err := d.Cases(ctx, r.Depth)
	if err != nil {
		return nil, err
	}
	all, err := d.Cases(ctx, testcase.Thorough)
	if err != nil {
		return nil, err
	}
	return cover.ShownBy(d.Designer, set.Set, all.Set, r.Observed), nil
}
