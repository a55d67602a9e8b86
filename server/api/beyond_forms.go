package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"sync"
	"time"

	"oddtick/core/access"
	"oddtick/core/investigate"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/core/wording/promise"
	"oddtick/engine/attempt"
	"oddtick/engine/journey"
	"oddtick/engine/sweep"
	"oddtick/engine/target"
	"oddtick/observe/mail"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// beyondTimeout is how long one request to a site may take here.
const beyondTimeout = 30 * time.Second

// expectedOpening is what a state's visitors are to see of a page.
type expectedOpening struct {
	State    string     `json:"state"`
	Page     string     `json:"page"`
	Expected prose.Text `json:"expected"`
	Opens    bool       `json:"opens"`
}

type stateWord struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Holds string `json:"holds,omitempty"`
}

// accessView is who may open what, and how it was found the last time.
type accessView struct {
	Title    string              `json:"title"`
	States   []stateWord         `json:"states" nullable:"false"`
	Pages    []access.Page       `json:"pages" nullable:"false"`
	Expected []expectedOpening   `json:"expected" nullable:"false"`
	Report   *sweep.AccessReport `json:"report,omitempty"`
	// Running: somebody has begun a sweep that is not done.
	Running bool `json:"running,omitempty"`
	// Environments are all of the site's, besides its own address.
	Environments []environmentView `json:"environments" nullable:"false"`
}

// journeyView is a journey, and how it was walked the last time.
type journeyView struct {
	ID     string                 `json:"id"`
	Title  string                 `json:"title"`
	Steps  []journeyStepView      `json:"steps" nullable:"false"`
	Report *journey.JourneyReport `json:"report,omitempty"`
}

type journeyStepView struct {
	Words prose.Text `json:"words"`
	Then  string     `json:"then,omitempty"`
	// Tables are those in which the step should leave rows.
	Tables []string `json:"tables" nullable:"false"`
}

type journeysView struct {
	Title    string        `json:"title"`
	Mail     string        `json:"mail,omitempty" doc:"where mails are received"`
	Journeys []journeyView `json:"journeys" nullable:"false"`
	// Environments are all of the site's, besides its own address.
	Environments []environmentView `json:"environments" nullable:"false"`
}

// beyondFormsAPI answers requests.
type beyondFormsAPI struct{ *Server }

func registerBeyondForms(api huma.API, server *Server) {
	s := beyondFormsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getAccess", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites/{site}/access", Summary: "Access: which visitors may open which pages, and what was found last time"}, s.access)
	huma.Register(api, huma.Operation{OperationID: "checkAccess", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites/{site}/access", Summary: "Open every page as every account"}, s.sweepAccess)
	huma.Register(api, huma.Operation{OperationID: "listJourneys", Tags: []string{"site"}, Method: http.MethodGet, Path: "/api/sites/{site}/journeys", Summary: "A site's journeys, and the result of their last run"}, s.journeys)
	huma.Register(api, huma.Operation{OperationID: "findLimit", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/limit", Summary: "Find where the site's real limit lies"}, s.findLimit)
	huma.Register(api, huma.Operation{OperationID: "runJourney", Tags: []string{"site"}, Method: http.MethodPost, Path: "/api/sites/{site}/journeys/{journey}", Summary: "Run all paths of a journey"}, s.walkJourney)
}

// receivers are the places at which mails are received, by address. They stay open, as a site may send at any time.
type receivers struct {
	mu   sync.Mutex
	open map[string]*mail.Receiver
}

// at opens a receiver, or finds the one that is open; nil for a site that sends no mails.
func (r *receivers) at(site *spec.Site) (*mail.Receiver, error) {
	if site.Mail == nil || site.Mail.Receive == "" && site.Mail.Folder == "" {
		return nil, nil
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	place := site.Mail.Receive + "\x00" + site.Mail.Folder
	if known := r.open[place]; known != nil {
		return known, nil
	}
	one, err := target.Mails(site)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(err.Error() + ".")
	}
	if r.open == nil {
		r.open = map[string]*mail.Receiver{}
	}
	r.open[place] = one
	return one, nil
}

func (r *receivers) close() {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, one := range r.open {
		_ = one.Close() // nothing is kept in it
	}
	r.open = nil
}

// Receive takes mails with a receiver that is open already.
func (s *Server) Receive(one *mail.Receiver) {
	s.mails.mu.Lock()
	defer s.mails.mu.Unlock()
	if s.mails.open == nil {
		s.mails.open = map[string]*mail.Receiver{}
	}
	s.mails.open[one.Address()+"\x00"] = one
}

func (s beyondFormsAPI) access(ctx context.Context, in *SiteIn) (*struct{ Body accessView }, error) {
	site, known, environments, err := s.siteAt(ctx, in)
	if err != nil {
		return nil, err
	}
	m, err := access.New(site)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(err.Error() + ".")
	}
	v := accessView{Title: site.Title, States: []stateWord{}, Pages: m.Pages(), Expected: []expectedOpening{}, Environments: environments}
	if v.Pages == nil {
		v.Pages = []access.Page{}
	}
	for _, st := range site.States {
		title := st.Title
		if title == "" {
			title = st.ID
		}
		v.States = append(v.States, stateWord{st.ID, title, st.When})
		for _, p := range v.Pages {
			e := m.Expect(st.ID, p)
			v.Expected = append(v.Expected, expectedOpening{st.ID, p.ID, promise.Access(e), e.Opens})
		}
	}
	var report sweep.AccessReport
	switch err := s.store.SiteReport(ctx, known.ID, in.Environment, "access", &report); {
	case err == nil:
		v.Report = &report
	case !errors.Is(err, store.ErrNotFound):
		return nil, err
	}
	return &struct{ Body accessView }{v}, nil
}

func (s beyondFormsAPI) sweepAccess(ctx context.Context, in *SiteStart) (*struct{ Body accessView }, error) {
	site, known, _, err := s.siteAt(ctx, &in.SiteIn)
	if err != nil {
		return nil, err
	}
	if err := mayStart(site, in.Confirmed, "query.confirmed"); err != nil {
		return nil, err
	}
	if err := s.checkAccess(ctx, site, known); err != nil {
		return nil, err
	}
	return s.access(ctx, &in.SiteIn)
}

// checkAccess opens every page of a site as every account, and keeps what was found.
func (s *Server) checkAccess(ctx context.Context, site *spec.Site, known *store.Site) error {
	if err := s.mayContact(ctx, site); err != nil {
		return err
	}
	lease, err := s.runner.Hold(ctx, site)
	if err != nil {
		return refuseHeld(err)
	}
	defer lease.Free()
	work, end := lease.While(ctx)
	defer end()
	report, err := sweep.Access(work, site, sweep.Options{Timeout: beyondTimeout})
	if err != nil {
		return cannotRun(lostOr(work, err))
	}
	return s.store.PutSiteReport(context.WithoutCancel(ctx), known.ID, site.Environment(), "access", report)
}

type limitRequest struct {
	FormStart
	Body struct {
		Rule string       `json:"rule" maxLength:"200"`
		End  testcase.End `json:"end" enum:"min,max"`
	}
}

func (s beyondFormsAPI) findLimit(ctx context.Context, in *limitRequest) (*struct{ Body limitView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	run, work, done, err := openByHand(ctx, s.Server, f, d.Designer, in.Environment, in.Confirmed)
	if err != nil {
		return nil, err
	}
	defer done()
	l, err := investigate.FindLimit(work, run.Config.Designer.Maker, attempt.By(run), in.Body.Rule, in.Body.End)
	if err != nil {
		return nil, cannotRun(lostOr(work, err))
	}
	return &struct{ Body limitView }{limitView{l, wording.Limit(l)}}, nil
}

// limitView is where a site's real limit lies, also in words.
type limitView struct {
	*investigate.Limit
	Words prose.Text `json:"words"`
}

func (s beyondFormsAPI) journeys(ctx context.Context, in *SiteIn) (*struct{ Body journeysView }, error) {
	site, known, environments, err := s.siteAt(ctx, in)
	if err != nil {
		return nil, err
	}
	forms, err := s.formsOf(ctx, known)
	if err != nil {
		return nil, err
	}
	v := journeysView{Title: site.Title, Journeys: []journeyView{}, Environments: environments}
	if site.Mail != nil {
		v.Mail = site.Mail.Receive
	}
	for i := range site.Journeys {
		j := &site.Journeys[i]
		one := journeyView{ID: j.ID, Title: j.Title, Steps: []journeyStepView{}}
		for k := range j.Steps {
			step := &j.Steps[k]
			view := journeyStepView{Words: promise.Step(step), Then: step.Then, Tables: []string{}}
			stored := step.Stored
			for _, f := range forms {
				if f.Form == step.Submit {
					stored = f.Stored
				}
			}
			for n := range stored {
				view.Tables = append(view.Tables, stored[n].Table())
			}
			one.Steps = append(one.Steps, view)
		}
		var report journey.JourneyReport
		switch err := s.store.SiteReport(ctx, known.ID, in.Environment, "journey:"+j.ID, &report); {
		case err == nil:
			one.Report = &report
		case !errors.Is(err, store.ErrNotFound):
			return nil, err
		}
		v.Journeys = append(v.Journeys, one)
	}
	return &struct{ Body journeysView }{v}, nil
}

// formsOf are a site's forms as they are now.
func (s *Server) formsOf(ctx context.Context, site *store.Site) ([]*spec.Form, error) {
	list, err := s.store.Forms(ctx)
	if err != nil {
		return nil, err
	}
	var out []*spec.Form
	for i := range list {
		if list[i].SiteID != site.ID {
			continue
		}
		rev, err := s.store.Revision(ctx, list[i].RevisionID)
		if err != nil {
			return nil, err
		}
		f, err := spec.ReadForm(rev.File, rev.Source)
		if err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, nil
}

type journeyStart struct {
	SiteStart
	Journey string `path:"journey"`
}

func (s beyondFormsAPI) walkJourney(ctx context.Context, in *journeyStart) (*struct{ Body journeysView }, error) {
	site, known, _, err := s.siteAt(ctx, &in.SiteIn)
	if err != nil {
		return nil, err
	}
	if err := mayStart(site, in.Confirmed, "query.confirmed"); err != nil {
		return nil, err
	}
	if err := s.runJourney(ctx, site, known, in.Journey); err != nil {
		return nil, err
	}
	return s.journeys(ctx, &in.SiteIn)
}

// runJourney walks all paths of a site's journey, and keeps what was found.
func (s *Server) runJourney(ctx context.Context, site *spec.Site, known *store.Site, id string) error {
	at := slices.IndexFunc(site.Journeys, func(j spec.Journey) bool { return j.ID == id })
	if at < 0 && len(site.Journeys) > 0 { // of a site without any, Open says what to write
		return huma.Error404NotFound(fmt.Sprintf("The site has no journey %s.", id))
	}
	if site.Protected() == spec.NoWrites {
		return huma.Error422UnprocessableEntity("Journeys write, and the environment " + site.Environment() + " permits only cases that should write nothing.")
	}
	if err := s.mayContact(ctx, site); err != nil {
		return err
	}
	forms, err := s.formsOf(ctx, known)
	if err != nil {
		return err
	}
	lease, err := s.runner.Hold(ctx, site)
	if err != nil {
		return refuseHeld(err)
	}
	defer lease.Free()
	work, end := lease.While(ctx)
	defer end()
	mails, err := s.mails.at(site)
	if err != nil {
		return err
	}
	j, err := journey.Open(work, &spec.Project{Site: site, Forms: forms}, mails, time.Now().UnixMilli(), beyondTimeout)
	if err != nil {
		return cannotRun(lostOr(work, err))
	}
	defer j.Close()
	report, err := j.Walk(work, &site.Journeys[at], nil)
	if err != nil {
		return lostOr(work, err)
	}
	return s.store.PutSiteReport(context.WithoutCancel(ctx), known.ID, site.Environment(), "journey:"+id, report)
}
