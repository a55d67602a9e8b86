package api

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"slices"
	"time"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/server/compute"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

type siteView struct {
	ID      string      `json:"id"`
	Title   string      `json:"title"`
	Address string      `json:"address"`
	Forms   []formBrief `json:"forms"`
}

type formBrief struct {
	ID       string    `json:"id"`
	Title    string    `json:"title"`
	Revision int       `json:"revision"`
	SavedAt  time.Time `json:"saved_at"`
	Fields   int       `json:"fields"`
	Rules    int       `json:"rules"`
	Cases    int       `json:"cases" doc:"at standard depth"`
	Run      *runBrief `json:"run,omitempty"`
	// Problem says why no cases can be designed; the rest is left out then.
	Problem string `json:"problem,omitempty"`
	// Strip is a letter a case, in the cases' order: e as expected, o odd, w odd only in what is widespread, n not observed, - not
	// applicable, . not run.
	Strip string `json:"strip"`
	// Changed is what became of the findings since the run before; nothing where there is none.
	Changed *changedFindings `json:"changed,omitempty"`
	// Trend are the latest runs, the oldest first, with how many findings each shows.
	Trend []trendItem `json:"trend" nullable:"false"`
}

type changedFindings struct {
	Since       int `json:"since" doc:"the previous run"`
	NewlyOdd    int `json:"newly_odd"`
	NoLongerOdd int `json:"no_longer_odd" doc:"observed again and as expected"`
	// NotSeenAgain are those of whose cases none was observed: whether they are odd still is not known.
	NotSeenAgain int `json:"not_seen_again"`
}

type runBrief struct {
	Number            int            `json:"number"`
	State             store.RunState `json:"state"`
	Reason            string         `json:"reason,omitempty"`
	ByHand            bool           `json:"by_hand,omitempty" doc:"a person submits its cases"`
	CasesOfUnknownEnd []string       `json:"cases_of_unknown_end,omitempty" doc:"cases interrupted because Odd Tick ended; they were repeated"`
	Environment       string         `json:"environment,omitempty" doc:"where it was run; missing for the site's own address"`
	Depth             string         `json:"depth"`
	Revision          int            `json:"revision" doc:"the form's revision it ran with"`
	Total             int            `json:"total"`
	NotSelected       int            `json:"not_selected" doc:"cases that are skipped"`
	Done              int            `json:"done"`
	Odd               int            `json:"odd" doc:"odd cases"`
	NotObserved       int            `json:"not_observed" doc:"cases that were run and not observed"`
	None              int            `json:"none" doc:"cases that do not apply"`
	Causes            int            `json:"causes" doc:"groups of odd cases"`
	ExternalChanges   int            `json:"external_changes" doc:"rows changed by others during the run"`
	StartedAt         time.Time      `json:"started_at"`
	EndedAt           *time.Time     `json:"ended_at,omitempty"`
	StartedBy         string         `json:"started_by"`
	// Widespread are causes that show in so many cases that what else is odd would not be seen, once the run has ended.
	Widespread []widespreadCause `json:"widespread" nullable:"false"`
}

// widespreadCause is what is odd in a third of the cases or more.
type widespreadCause struct {
	Finding  string     `json:"finding" doc:"name of the finding"`
	Headline prose.Text `json:"headline"`
	Cases    int        `json:"cases"`
}

// sitesAPI answers requests.
type sitesAPI struct{ *Server }

func registerSites(api huma.API, server *Server) {
	s := sitesAPI{server}
	huma.Register(api, huma.Operation{OperationID: "listSites", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites", Summary: "All sites with their forms"}, s.sites)
}

func (s sitesAPI) sites(ctx context.Context, _ *struct{}) (*struct{ Body []siteView }, error) {
	if _, err := s.user(ctx); err != nil {
		return nil, err
	}
	sites, err := s.store.Sites(ctx)
	if err != nil {
		return nil, err
	}
	forms, err := s.store.Forms(ctx)
	if err != nil {
		return nil, err
	}
	out := []siteView{}
	for _, site := range sites {
		document, err := s.store.SiteDocument(ctx, site.ID)
		if err != nil {
			return nil, err
		}
		view := siteView{ID: site.Ident, Title: site.Title, Address: document.Address, Forms: []formBrief{}}
		for i := range forms {
			if forms[i].SiteID == site.ID {
				brief, err := briefForm(ctx, s.Server, &forms[i])
				if err != nil {
					return nil, err
				}
				view.Forms = append(view.Forms, *brief)
			}
		}
		out = append(out, view)
	}
	return &struct{ Body []siteView }{out}, nil
}

func briefForm(ctx context.Context, s *Server, f *store.Form) (*formBrief, error) {
	brief := &formBrief{ID: f.Ident, Title: f.Title, Revision: f.Revision, SavedAt: f.SavedAt, Trend: []trendItem{}}
	d, err := s.designs.Of(ctx, f, f.RevisionID)
	var set *forms.CaseSet
	if err == nil {
		brief.Fields, brief.Rules = len(d.Prepared.Fields), len(d.Prepared.Rules)
		set, err = d.Cases(ctx, testcase.Standard)
	}
	var unmade *forms.NotReadyError
	var tooLong *compute.TooLongError
	switch {
	case errors.As(err, &unmade), errors.As(err, &tooLong):
		brief.Problem = err.Error()
		return brief, nil
	case err != nil:
		return nil, err
	}
	brief.Cases = len(set.Cases)
	verdicts := map[string]judge.Verdict{}
	var odd *report.OddChecks
	run, err := s.store.RunByNumber(ctx, f.ID, 0)
	if err == nil {
		marks, err := s.store.Marks(ctx, run.ID, 0)
		if err != nil {
			return nil, err
		}
		for _, m := range marks {
			verdicts[m.Case] = m.Verdict
		}
		if brief.Run, err = briefRun(ctx, s, f.Ident, run, marks); err != nil {
			return nil, err
		}
		if odd, err = oddChecks(run, marks); err != nil {
			return nil, err
		}
		seen, err := history(ctx, s, f, run)
		if err != nil {
			return nil, err
		}
		brief.past(seen, run, verdicts)
	} else if !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	brief.Strip = strip(set.Cases, verdicts, odd)
	return brief, nil
}

// past tells what became of a form's findings over its runs. verdicts are those of the newest run, which says nothing where no case of it
// was run.
func (b *formBrief) past(seen []past, newest *store.Run, verdicts map[string]judge.Verdict) {
	for i := range seen {
		b.Trend = append(b.Trend, seen[i].trend())
	}
	if len(seen) < 2 || seen[len(seen)-1].number != newest.Number {
		return
	}
	before, now := seen[len(seen)-2], seen[len(seen)-1]
	b.Changed = &changedFindings{Since: before.number}
	for _, f := range now.findings {
		if slices.ContainsFunc(f.names, func(n finding.Name) bool { return !before.shows(n.ID) }) {
			b.Changed.NewlyOdd++
		}
	}
	for _, f := range before.findings {
		if slices.ContainsFunc(f.names, func(n finding.Name) bool { return now.shows(n.ID) }) {
			continue
		}
		observed := func(id string) bool { return verdicts[id] == judge.AsExpected || verdicts[id] == judge.Odd }
		if slices.ContainsFunc(f.cases, observed) {
			b.Changed.NoLongerOdd++
		} else {
			b.Changed.NotSeenAgain++
		}
	}
}

func strip(cases []*testcase.Case, verdicts map[string]judge.Verdict, odd *report.OddChecks) string {
	out := make([]byte, len(cases))
	for i, c := range cases {
		switch verdicts[c.ID] {
		case judge.AsExpected:
			out[i] = 'e'
		case judge.DoesNotApply:
			out[i] = '-'
		case judge.Odd:
			out[i] = 'o'
			if odd.OnlyWidespread(c.ID) {
				out[i] = 'w'
			}
		case judge.NotObserved:
			out[i] = 'n'
		default:
			out[i] = '.'
		}
	}
	return string(out)
}

func briefRun(ctx context.Context, s *Server, form string, r *store.Run, marks []store.Mark) (*runBrief, error) {
	ids, err := r.CaseIDs()
	if err != nil {
		return nil, err
	}
	rev, err := s.store.Revision(ctx, r.RevisionID)
	if err != nil {
		return nil, err
	}
	s.runner.AsItEnded(r)
	b := &runBrief{Number: r.Number, State: r.State, Reason: r.Reason, Depth: r.Depth, Revision: rev.Number, Total: len(ids), NotSelected: r.NotSelected, StartedAt: r.StartedAt, StartedBy: r.StartedBy, ExternalChanges: r.ExternalChanges}
	if r.EndedAt.Valid {
		b.EndedAt = &r.EndedAt.Time
	}
	options, err := optionsOf(r)
	if err != nil {
		return nil, err
	}
	b.ByHand, b.Environment = options.ByHand, options.Environment
	if b.CasesOfUnknownEnd, err = r.UnknownEnds(); err != nil {
		return nil, err
	}
	latest := map[string]judge.Verdict{}
	for _, m := range marks {
		latest[m.Case] = m.Verdict
	}
	b.Done = len(latest)
	for _, v := range latest {
		switch v {
		case judge.Odd:
			b.Odd++
		case judge.NotObserved:
			b.NotObserved++
		case judge.DoesNotApply:
			b.None++
		}
	}
	groups, err := causes(marks)
	b.Causes, b.Widespread = len(groups), []widespreadCause{}
	for i := range groups {
		if g := &groups[i]; r.State != store.Running && g.Widespread(b.Done) {
			b.Widespread = append(b.Widespread, widespreadCause{finding.Names(form, g)[0].ID, g.Headline, len(g.Cases)})
		}
	}
	return b, err
}

// placeKind is what a place is.
type placeKind string

const (
	sitePlace    placeKind = "site"
	formPlace    placeKind = "form"
	fieldPlace   placeKind = "field"
	findingPlace placeKind = "finding"
)

// place is a site, a form, a field or a finding, to be looked for by its name.
type place struct {
	Kind placeKind  `json:"kind" enum:"site,form,field,finding"`
	Site string     `json:"site"`
	Form string     `json:"form,omitempty"`
	ID   string     `json:"id,omitempty" doc:"of a field or a finding"`
	Text prose.Text `json:"text"`
	// In is where it is: the titles of the site and the form.
	In string `json:"in,omitempty"`
}

// maxPlaces is how many places are told.
const maxPlaces = 20_000

// placesAPI answers requests.
type placesAPI struct{ *Server }

func registerPlaces(api huma.API, server *Server) {
	s := placesAPI{server}
	huma.Register(api, huma.Operation{OperationID: "listPlaces", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/places", Summary: "What can be searched for: sites, forms, fields, and the findings of each form's latest run"}, s.places)
}

func (s placesAPI) places(ctx context.Context, _ *struct{}) (*struct{ Body []place }, error) {
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
	out, fields, findings := []place{}, []place{}, []place{}
	for _, site := range sites {
		out = append(out, place{Kind: sitePlace, Site: site.Ident, Text: prose.Text(cmp.Or(site.Title, site.Ident))})
	}
	for i := range known {
		f := &known[i]
		title, of := cmp.Or(f.Title, f.Ident), cmp.Or(f.SiteTitle, f.SiteIdent)
		out = append(out, place{Kind: formPlace, Site: f.SiteIdent, Form: f.Ident, Text: prose.Text(title), In: of})
		d, err := s.designs.Of(ctx, f, f.RevisionID)
		var unmade *forms.NotReadyError
		if errors.As(err, &unmade) {
			continue
		}
		if err != nil {
			return nil, err
		}
		in := of + " · " + title
		for _, field := range d.Prepared.Fields {
			fields = append(fields, place{Kind: fieldPlace, Site: f.SiteIdent, Form: f.Ident, ID: field.ID, Text: prose.Text(cmp.Or(field.Label, field.ID)), In: in})
		}
		found, err := s.findingsOf(ctx, f, d)
		if err != nil {
			return nil, err
		}
		for k := range found {
			findings = append(findings, place{Kind: findingPlace, Site: f.SiteIdent, Form: f.Ident, ID: found[k].ID, Text: found[k].Headline, In: in})
		}
	}
	out = append(append(out, fields...), findings...)
	return &struct{ Body []place }{out[:min(len(out), maxPlaces)]}, nil
}

// findingsOf are those of a form's latest run.
func (s placesAPI) findingsOf(ctx context.Context, f *store.Form, d *forms.Design) ([]finding.Finding, error) {
	run, err := s.store.RunByNumber(ctx, f.ID, 0)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if run.RevisionID != f.RevisionID {
		if d, err = s.designs.Of(ctx, f, run.RevisionID); err != nil {
			return nil, err
		}
	}
	r, err := findingsAPI(s).oddReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	return finding.Of(r), nil
}
