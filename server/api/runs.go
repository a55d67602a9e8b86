package api

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/manual"
	"oddtick/engine/target"
	"oddtick/server/forms"
	"oddtick/server/lease"
	"oddtick/server/runner"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

type runView struct {
	Run    runBrief  `json:"run"`
	Rows   []runRow  `json:"rows" doc:"fields with their cases, in order"`
	Marks  []mark    `json:"marks"`
	Causes []cause   `json:"causes"`
	Runs   []runItem `json:"runs" doc:"this form's runs, newest first"`
}

type runRow struct {
	ID    string   `json:"id"`
	Label string   `json:"label"`
	Cases []string `json:"cases"`
}

// mark is a result in brief.
type mark struct {
	Seq      int        `json:"seq"`
	Case     string     `json:"case"`
	Row      string     `json:"row"`
	Verdict  string     `json:"verdict"`
	Checks   string     `json:"checks" doc:"a letter for each of the seven checks: e as expected, o odd, w odd only in what is widespread, n not observed, - does not apply"`
	Headline prose.Text `json:"headline"`
	Cause    string     `json:"cause,omitempty" doc:"id of the cause of an odd case"`
}

type cause struct {
	ID       string     `json:"id"`
	Row      string     `json:"row" doc:"empty if its cases belong to several fields"`
	Check    prose.Text `json:"check"`
	Part     prose.Text `json:"part"`
	Kind     prose.Text `json:"kind"`
	Headline prose.Text `json:"headline"`
	Cases    []string   `json:"cases"`
}

type runItem struct {
	Number int            `json:"number"`
	State  store.RunState `json:"state"`
	// Done of Total cases have a result.
	Done        int    `json:"done"`
	Total       int    `json:"total"`
	Environment string `json:"environment,omitempty" doc:"where it was run; missing for the site's own address"`
}

type startRequest struct {
	FormPath
	Body struct {
		design.Plan
		target.Options
		Cases  []string `json:"cases,omitempty" doc:"only these; default: all"`
		Driver string   `json:"driver,omitempty" enum:"http,browser" doc:"only cases with this driver"`
		Rows   []string `json:"rows,omitempty" doc:"only cases of these fields, or of the rows below the fields"`
		Only   string   `json:"only,omitempty" enum:"odd,not_observed,new" doc:"only cases that were odd or not observed in the latest run, or never run"`
		// Confirmed is the id of a protected environment, as whoever starts the run typed it.
		Confirmed string `json:"confirmed,omitempty" maxLength:"60" doc:"the id of the environment, typed once more, where it asks for that"`
	}
}

type environmentView struct {
	ID        string          `json:"id"`
	Title     string          `json:"title"`
	Protected spec.Protection `json:"protected,omitempty" enum:"confirm,no_writes"`
}

// runPreview is what a run would do.
type runPreview struct {
	Cases   int                  `json:"cases"`
	Address string               `json:"address" doc:"where the cases are submitted"`
	Account string               `json:"account,omitempty" doc:"name of the account that cases sign in with"`
	Writing int                  `json:"writing" doc:"cases that are expected to write"`
	Writes  []target.TableWrites `json:"writes" nullable:"false" doc:"rows that are expected to be written at most, by table"`
	Left    int                  `json:"left" doc:"cases that are skipped, or that the environment does not permit"`
	Confirm bool                 `json:"confirm,omitempty" doc:"the id of the environment must be typed"`
	// Environments are all of the site's, besides its own address.
	Environments []environmentView `json:"environments" nullable:"false"`
	WritesNever  bool              `json:"writes_never,omitempty" doc:"the environment permits only cases that should write nothing"`
}

type startAnswer struct {
	Body struct {
		Run int `json:"run" doc:"the run's number"`
	}
}

// runsAPI answers requests.
type runsAPI struct{ *Server }

func registerRuns(api huma.API, server *Server) {
	s := runsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "startRun", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs", Summary: "Start a run", DefaultStatus: http.StatusCreated}, s.startRun)
	huma.Register(api, huma.Operation{OperationID: "previewRun", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/preview", Summary: "What a run would do: how many cases, where, as whom, and what it would write"}, s.previewRun)
	huma.Register(api, huma.Operation{OperationID: "getRun", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}", Summary: "A run with its results so far"}, s.run)
	huma.Register(api, huma.Operation{OperationID: "resumeRun", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/resume", Summary: "Resume a stopped run"}, s.resumeRun)
	huma.Register(api, huma.Operation{OperationID: "getPicture", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/picture", Summary: "The picture of a case's page, as JPEG"}, s.picture)
	huma.Register(api, huma.Operation{OperationID: "stopRun", Tags: []string{"runs"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/runs/{run}/stop", Summary: "Stop a run; cases in progress are finished", DefaultStatus: http.StatusNoContent}, s.stopRun)
}

func (s runsAPI) startRun(ctx context.Context, in *startRequest) (*startAnswer, error) {
	u, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	p, err := s.planned(ctx, in)
	if err != nil {
		return nil, err
	}
	if err := mayStart(p.Site, Confirmed{in.Body.Confirmed}, "body.confirmed"); err != nil {
		return nil, err
	}
	p.User = u.ID
	run, err := s.runner.Start(ctx, p)
	return started(run, err)
}

func (s runsAPI) previewRun(ctx context.Context, in *startRequest) (*struct{ Body runPreview }, error) {
	p, err := s.planned(ctx, in)
	if err != nil {
		return nil, err
	}
	form := p.Designer.Prepared().Form
	v := runPreview{
		Cases: len(p.Cases), Left: p.Left, Address: p.Site.Address, Writes: target.ExpectedWrites(form, p.Cases),
		Confirm: p.Site.Protected() == spec.Confirm, WritesNever: p.Site.Protected() == spec.NoWrites,
	}
	for _, c := range p.Cases {
		if c.Writes() {
			v.Writing++
		}
	}
	document, _, err := s.siteOf(ctx, in.Site)
	if err != nil {
		return nil, err
	}
	v.Environments = environmentsOf(document)
	if account := target.AccountFor(p.Site, form); account != nil {
		v.Account = account.Name
	}
	return &struct{ Body runPreview }{v}, nil
}

func environmentsOf(site *spec.Site) []environmentView {
	out := []environmentView{}
	for i := range site.Environments {
		e := &site.Environments[i]
		out = append(out, environmentView{e.ID, cmp.Or(e.Title, e.ID), e.Protected})
	}
	return out
}

// planned is the run that is asked for.
func (s runsAPI) planned(ctx context.Context, in *startRequest) (*runner.Plan, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	set, err := d.Set(ctx, in.Body.Plan)
	if err != nil {
		return nil, err
	}
	wanted := set.Cases
	if len(in.Body.Cases) > 0 {
		wanted = nil
		for _, id := range in.Body.Cases {
			c, err := d.Find(ctx, id)
			if err != nil {
				return nil, err
			}
			if c == nil {
				return nil, huma.Error422UnprocessableEntity("Some of the cases are not among the form's.", &huma.ErrorDetail{Location: "body.cases", Message: "unknown case " + id})
			}
			wanted = append(wanted, c)
		}
	}
	if wanted, err = s.narrowed(ctx, f, in, wanted); err != nil {
		return nil, err
	}
	cases, left := target.Drivable(wanted)
	if in.Body.ByHand {
		all := len(cases)
		cases = slices.DeleteFunc(cases, func(c *testcase.Case) bool { return !manual.Handable(c) })
		if len(cases) == 0 && all > 0 {
			return nil, huma.Error422UnprocessableEntity("None of these cases can be run by hand: a person submits the form once, with values that can be entered.")
		}
	}
	if len(cases) == 0 && len(left) > 0 {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("None of these can be run: of %s, %s.", left[0].ID, target.Left(left[0])))
	}
	site, err := s.siteIn(ctx, f.SiteID, in.Body.Environment)
	if err != nil {
		return nil, err
	}
	permitted, err := permittedIn(site, cases)
	if err != nil {
		return nil, err
	}
	return &runner.Plan{Site: site, Form: f, Designer: d.Designer, Cases: permitted, Left: len(left) + len(cases) - len(permitted), Depth: string(in.Body.Depth), Options: in.Body.Options}, nil
}

// permittedIn are the cases that may be run in a site's environment; at least one.
func permittedIn(site *spec.Site, cases []*testcase.Case) ([]*testcase.Case, error) {
	permitted := target.Permitted(site, cases)
	if len(permitted) == 0 && len(cases) > 0 {
		return nil, huma.Error422UnprocessableEntity("None of these cases may be run in " + site.Environment() + ": it permits only cases that should write nothing.")
	}
	return permitted, nil
}

func started(run *store.Run, err error) (*startAnswer, error) {
	var cannot *target.CannotRunError
	err = refuseHeld(err)
	switch {
	case errors.As(err, &cannot):
		return nil, huma.Error422UnprocessableEntity("The run cannot start: " + cannot.Reason + ".")
	case err != nil:
		return nil, err
	}
	out := &startAnswer{}
	out.Body.Run = run.Number
	return out, nil
}

// narrowed keeps of the cases those that are asked for.
func (s runsAPI) narrowed(ctx context.Context, f *store.Form, in *startRequest, cases []*testcase.Case) ([]*testcase.Case, error) {
	verdicts, known := map[string]judge.Verdict{}, map[string]bool{}
	if in.Body.Only != "" {
		runs, err := s.store.Runs(ctx, f.ID, 1000)
		if err != nil {
			return nil, err
		}
		for i := range runs {
			ids, err := runs[i].CaseIDs()
			if err != nil {
				return nil, err
			}
			for _, id := range ids {
				known[id] = true
			}
		}
		if len(runs) > 0 {
			marks, err := s.store.Marks(ctx, runs[0].ID, 0)
			if err != nil {
				return nil, err
			}
			for _, m := range marks {
				verdicts[m.Case] = m.Verdict
			}
		}
	}
	out := slices.DeleteFunc(slices.Clone(cases), func(c *testcase.Case) bool {
		switch {
		case in.Body.Driver != "" && (in.Body.Driver == string(submission.Browser)) != c.InBrowser(),
			len(in.Body.Rows) > 0 && !slices.Contains(in.Body.Rows, c.Row),
			in.Body.Only == "odd" && verdicts[c.ID] != judge.Odd,
			in.Body.Only == "not_observed" && verdicts[c.ID] != judge.NotObserved,
			in.Body.Only == "new" && known[c.ID]:
			return true
		}
		return false
	})
	if len(out) == 0 && len(cases) > 0 {
		return nil, huma.Error422UnprocessableEntity("No case matches; choose more fields, another driver, or all.")
	}
	return out, nil
}

func (s runsAPI) resumeRun(ctx context.Context, in *RunPath) (*startAnswer, error) {
	f, d, run, err := s.findRun(ctx, *in)
	if err != nil {
		return nil, err
	}
	s.runner.AsItEnded(run)
	if run.State != store.Stopped && run.State != store.Failed {
		return nil, huma.Error409Conflict("Only a run that was stopped or failed can be resumed; this one is " + string(run.State) + ".")
	}
	p, err := s.planOf(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	return started(run, s.runner.Resume(ctx, p, run))
}

type pictureRequest struct {
	RunPath
	Case string `query:"case" required:"true"`
	Name string `query:"name" required:"true" maxLength:"20"`
}

type pictureAnswer struct {
	ContentType string `header:"Content-Type"`
	Body        []byte
}

func (s runsAPI) picture(ctx context.Context, in *pictureRequest) (*pictureAnswer, error) {
	_, _, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	body, err := s.store.Picture(ctx, run.ID, in.Case, in.Name)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("There is no such picture.")
	}
	return &pictureAnswer{"image/jpeg", body}, err
}

func (s runsAPI) run(ctx context.Context, in *RunPath) (*struct{ Body runView }, error) {
	f, d, run, err := s.findRun(ctx, *in)
	if err != nil {
		return nil, err
	}
	marks, err := s.store.Marks(ctx, run.ID, 0)
	if err != nil {
		return nil, err
	}
	brief, err := briefRun(ctx, s.Server, f.Ident, run, marks)
	if err != nil {
		return nil, err
	}
	odd, err := oddChecks(run, marks)
	if err != nil {
		return nil, err
	}
	ids, err := run.CaseIDs()
	if err != nil {
		return nil, err
	}
	rows, err := runRows(ctx, d, ids)
	if err != nil {
		return nil, err
	}
	v := runView{Run: *brief, Rows: rows, Marks: []mark{}, Causes: []cause{}}
	for _, m := range marks {
		one := viewMark(m)
		one.Checks = markLetters(&m, odd)
		v.Marks = append(v.Marks, one)
	}
	groups, err := causes(marks)
	if err != nil {
		return nil, err
	}
	for _, g := range groups {
		words := wording.Cause(d.Prepared.Form.Labels(), &g.Cause)
		v.Causes = append(v.Causes, cause{ID: g.Cause.ID(), Row: g.Row, Check: words.Check, Part: words.Part, Kind: words.Difference, Headline: g.Headline, Cases: g.Cases})
	}
	v.Runs, err = runItems(ctx, s.Server, f)
	return &struct{ Body runView }{v}, err
}

// runItems are a form's latest runs.
func runItems(ctx context.Context, s *Server, f *store.Form) ([]runItem, error) {
	out := []runItem{}
	runs, err := s.store.Runs(ctx, f.ID, 50)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for i := range runs {
		ids = append(ids, runs[i].ID)
	}
	done, err := s.store.DoneOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	for i := range runs {
		cases, err := runs[i].CaseIDs()
		if err != nil {
			return nil, err
		}
		s.runner.AsItEnded(&runs[i])
		options, err := optionsOf(&runs[i])
		if err != nil {
			return nil, err
		}
		out = append(out, runItem{runs[i].Number, runs[i].State, done[runs[i].ID], len(cases), options.Environment})
	}
	return out, nil
}

func runRows(ctx context.Context, d *forms.Design, ids []string) ([]runRow, error) {
	all, err := d.Cases(ctx, testcase.Thorough)
	if err != nil {
		return nil, err
	}
	cases, err := d.Those(ctx, ids)
	if err != nil {
		return nil, err
	}
	byRow := map[string][]string{}
	for _, c := range cases {
		byRow[c.Row] = append(byRow[c.Row], c.ID)
	}
	out := []runRow{}
	for _, r := range all.Rows {
		if list := byRow[r.ID]; len(list) > 0 {
			out = append(out, runRow{r.ID, r.Label, list})
		}
	}
	return out, nil
}

func viewMark(m store.Mark) mark {
	out := mark{Seq: m.Seq, Case: m.Case, Row: m.Row, Verdict: string(m.Verdict), Checks: m.Checks, Headline: m.Headline}
	if reasons, err := m.Reasons(); err == nil && len(reasons) > 0 {
		out.Cause = reasons[0].Cause.ID()
	}
	return out
}

func causes(marks []store.Mark) ([]report.CauseGroup, error) {
	var list []report.Summary
	for _, m := range marks {
		reasons, err := m.Reasons()
		if err != nil {
			return nil, err
		}
		list = append(list, report.Summary{Case: m.Case, Row: m.Row, Reasons: reasons})
	}
	return report.ByCause(list), nil
}

// oddChecks are which checks show what is widespread in a run; nil where nothing is, and while the run is under way.
func oddChecks(run *store.Run, marks []store.Mark) (*report.OddChecks, error) {
	groups, err := causes(marks)
	if err != nil || run.State == store.Running {
		return nil, err
	}
	ran := map[string]bool{}
	for _, m := range marks {
		ran[m.Case] = true
	}
	return report.OddChecksOf(groups, len(ran)), nil
}

// markLetters are a case's letters, w for a check that is odd only in what is widespread.
func markLetters(m *store.Mark, odd *report.OddChecks) string {
	out := []byte(m.Checks)
	for i := range out {
		if out[i] == 'o' && i < len(judge.Checks) && odd.WidespreadIn(m.Case, judge.Checks[i]) {
			out[i] = 'w'
		}
	}
	return string(out)
}

func (s runsAPI) stopRun(ctx context.Context, in *RunPath) (*struct{}, error) {
	_, _, run, err := s.findRun(ctx, *in)
	if err != nil {
		return nil, err
	}
	if s.runner.Stop(run.ID) {
		return nil, nil
	}
	asked, err := s.store.AskToStop(ctx, run.ID)
	if err == nil && !asked {
		err = huma.Error409Conflict("This run is not in progress.")
	}
	return nil, err
}

// optionsOf are how a run is made.
func optionsOf(run *store.Run) (target.Options, error) {
	var o target.Options
	if err := json.Unmarshal([]byte(run.Options), &o); err != nil {
		return o, fmt.Errorf("read the options of run %d: %w", run.Number, err)
	}
	return o, nil
}

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
	if p.Options, err = optionsOf(run); err != nil {
		return nil, err
	}
	p.Site, err = s.siteIn(ctx, f.SiteID, p.Options.Environment)
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
