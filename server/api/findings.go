package api

import (
	"bytes"
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"time"

	"oddtick/core/compare"
	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/wording"
	"oddtick/formats/knownlist"
	"oddtick/formats/markdown"
	"oddtick/formats/steps"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

// findingView is a finding of a run, with where it was seen before and what was said of it.
type findingView struct {
	ID       string      `json:"id"`
	Row      string      `json:"row" doc:"the field's label"`
	RowID    string      `json:"row_id,omitempty" doc:"the field's id; empty if its cases belong to several"`
	Says     prose.Text  `json:"says"`
	Check    prose.Text  `json:"check"`
	Part     prose.Text  `json:"part"`
	Simplest string      `json:"simplest"`
	Cases    []string    `json:"cases" nullable:"false"`
	Seen     []seenIn    `json:"seen" nullable:"false" doc:"the form's latest runs up to this one, oldest first"`
	Triage   *triageView `json:"triage,omitempty" doc:"the latest triage"`
	Newly    bool        `json:"newly,omitempty" doc:"not found in the run it is compared with"`
	// Severity is what a tester said, and else what its kind of difference proposes.
	Severity finding.Severity `json:"severity" enum:"critical,major,minor,trivial" doc:"what was said last, or else what its kind of difference proposes"`
	Proposed finding.Severity `json:"proposed" enum:"critical,major,minor,trivial" doc:"what its kind of difference proposes"`
}

// seenIn is what a run says of a finding: odd where it shows it, and as expected where cases of it were observed and do not.
type seenIn struct {
	Run     int           `json:"run"`
	Verdict judge.Verdict `json:"verdict" enum:"odd,as expected,not observed"`
}

// triageView is the triage of a finding.
type triageView struct {
	State    string     `json:"state" enum:"open,known,fixed,not a defect"`
	Severity string     `json:"severity,omitempty" enum:"critical,major,minor,trivial"`
	Link     string     `json:"link,omitempty" maxLength:"500" doc:"an address of http or https"`
	Until    string     `json:"until,omitempty" format:"date" doc:"the last day on which it is known"`
	Comment  string     `json:"comment,omitempty" maxLength:"4000"`
	At       *time.Time `json:"at,omitempty" readOnly:"true"`
	By       string     `json:"by,omitempty" readOnly:"true"`
	Lapsed   bool       `json:"lapsed,omitempty" readOnly:"true" doc:"the last day is over"`
}

type findingsView struct {
	Run int `json:"run"`
	// Tally counts the run's cases, and Verdict says it in a few words. Runs are the form's latest of which a case was run, to be compared with.
	Tally    report.Tally  `json:"tally"`
	Verdict  prose.Text    `json:"verdict"`
	Runs     []runItem     `json:"runs" nullable:"false"`
	Findings []findingView `json:"findings" nullable:"false"`
	// NotShown are findings said to be known that no case of the run shows.
	NotShown []notShown `json:"not_shown" nullable:"false"`
	// Trend are the form's latest runs up to this one, the oldest first, with how many findings each shows.
	Trend []trendItem `json:"trend" nullable:"false"`
	// Compared is what another run showed that this one does not, where one is compared with.
	Compared *comparedView `json:"compared,omitempty"`
}

// trendItem is a run with how many findings it shows, and how many of its cases were run.
type trendItem struct {
	Run      int `json:"run"`
	Findings int `json:"findings"`
	Done     int `json:"done"`
	Total    int `json:"total"`
}

// comparedView is the other side of a comparison: what is newly odd stands with the findings.
type comparedView struct {
	// Changed says in words what the form promises otherwise than it did in the run compared with.
	Changed         []prose.Text `json:"changed" nullable:"false"`
	With            int          `json:"with"`
	NewlyOdd        int          `json:"newly_odd"`
	StillOdd        int          `json:"still_odd"`
	NoLongerOdd     []gone       `json:"no_longer_odd" nullable:"false"`
	NotSeenAgain    []gone       `json:"not_seen_again" nullable:"false"`
	NewlyCovered    []string     `json:"newly_covered" nullable:"false"`
	NoLongerCovered []string     `json:"no_longer_covered" nullable:"false"`
}

// gone is a finding of the run compared with.
type gone struct {
	ID    string     `json:"id"`
	Row   string     `json:"row"`
	Says  prose.Text `json:"says"`
	Cases int        `json:"cases"`
}

type notShown struct {
	ID     string     `json:"id"`
	Triage triageView `json:"triage"`
}

// findingDetail is what a developer needs to see a finding.
type findingDetail struct {
	Steps       []steps.Step       `json:"steps" nullable:"false"`
	Differences []steps.Difference `json:"differences" nullable:"false"`
	// Unpromised are messages of the simplest case that stood at fields and that no rule promises.
	Unpromised []draft.SeenMessage `json:"unpromised" nullable:"false"`
	Curl       string              `json:"curl,omitempty"`
	Markdown   string              `json:"markdown"`
	History    []triageView        `json:"history" nullable:"false" doc:"all triage entries, latest first"`
	// Further is what was found when it was looked at further the last time; Looking how far that is, while it is under way.
	Further *furtherView `json:"further,omitempty"`
	Looking *lookingView `json:"looking,omitempty"`
	// Environment is where the finding's run was made, and where it is investigated.
	Environment *environmentView `json:"environment,omitempty" doc:"missing for the site's own address"`
}

// FindingPath names a finding of a run.
type FindingPath struct {
	RunPath
	Finding string `path:"finding" pattern:"^[a-z2-7]{8}$"`
}

type wordRequest struct {
	FindingPath
	IfMatch string `header:"If-Match" doc:"the ETag of the finding"`
	Body    triageView
}

// findingAnswer and triageAnswer carry the version that what is said next must name in If-Match.
type findingAnswer struct {
	ETag string `header:"ETag"`
	Body findingDetail
}

type triageAnswer struct {
	ETag string `header:"ETag"`
	Body triageView
}

// findingsAPI answers requests.
type findingsAPI struct{ *Server }

func registerFindings(api huma.API, server *Server) {
	s := findingsAPI{server}
	const path = "/api/sites/{site}/forms/{form}/runs/{run}/findings"
	huma.Register(api, huma.Operation{OperationID: "listFindings", Tags: []string{"findings"}, Method: http.MethodGet, Path: path, Summary: "What is odd in a run, a finding for each cause"}, s.findings)
	huma.Register(api, huma.Operation{OperationID: "listUnusual", Tags: []string{"findings"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/unusual", Summary: "What breaks promises that hold on every form, of which the document says nothing"}, s.unusual)
	huma.Register(api, huma.Operation{OperationID: "getFinding", Tags: []string{"findings"}, Method: http.MethodGet, Path: path + "/{finding}", Summary: "How to reproduce a finding: steps, values, differences"}, s.finding)
	huma.Register(api, huma.Operation{OperationID: "exportKnownFindings", Tags: []string{"findings"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/known-findings", Summary: "A form's known findings, as oddtick run --known reads them (YAML)"}, s.known)
	huma.Register(api, huma.Operation{OperationID: "triageFinding", Tags: []string{"findings"}, Method: http.MethodPost, Path: path + "/{finding}/triage", Summary: "Triage a finding"}, s.triageFinding)
}

// historyLength is how many runs a finding's history goes back.
const historyLength = 20

type findingsRequest struct {
	RunPath
	With int `query:"with" minimum:"0" doc:"the number of a run to compare with"`
}

func (s findingsAPI) findings(ctx context.Context, in *findingsRequest) (*struct{ Body findingsView }, error) {
	f, d, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	read := s.oddReport
	if in.With > 0 {
		read = s.briefReport
	}
	r, err := read(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	tally, err := s.store.Tally(ctx, run)
	if err != nil {
		return nil, err
	}
	seen, err := history(ctx, s.Server, f, run)
	if err != nil {
		return nil, err
	}
	words, err := s.store.Triages(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	v := findingsView{Run: run.Number, Tally: tally, Verdict: wording.Verdict(tally), Findings: []findingView{}, NotShown: []notShown{}, Trend: []trendItem{}}
	if v.Runs, err = runItems(ctx, s.Server, f); err != nil {
		return nil, err
	}
	v.Runs = slices.DeleteFunc(v.Runs, func(r runItem) bool { return r.Done == 0 })
	for i := range seen {
		v.Trend = append(v.Trend, seen[i].trend())
	}
	found := finding.Of(r)
	observed, err := s.observedIn(ctx, seen, found)
	if err != nil {
		return nil, err
	}
	newly := map[string]bool{}
	if in.With > 0 {
		if v.Compared, newly, err = s.compareWith(ctx, in, d, r); err != nil {
			return nil, err
		}
	}
	shown := map[string]bool{}
	for _, one := range found {
		for _, name := range one.Names {
			shown[name.ID], shown[name.Older] = true, true
		}
		about := wording.Cause(r.Rows, &one.Cause)
		view := findingView{ID: one.ID, Row: one.Label, RowID: one.Row, Says: one.Headline, Check: about.Check, Part: about.Part, Simplest: one.Simplest, Cases: one.Cases, Seen: []seenIn{}, Newly: newly[one.ID], Severity: one.Severity, Proposed: one.Severity}
		for _, before := range seen {
			verdict := judge.NotObserved
			switch {
			case before.shows(one.ID):
				verdict = judge.Odd
			case observed(before.id, &one):
				verdict = judge.AsExpected
			}
			view.Seen = append(view.Seen, seenIn{before.number, verdict})
		}
		if i := slices.IndexFunc(words, func(w store.Triage) bool { return one.Names[0].Is(w.Finding) }); i >= 0 {
			word := viewTriage(&words[i])
			view.Triage, view.Severity = &word, finding.Severity(cmp.Or(word.Severity, string(one.Severity)))
		}
		v.Findings = append(v.Findings, view)
	}
	slices.SortStableFunc(v.Findings, func(a, b findingView) int { return a.Severity.Compare(b.Severity) })
	latest := map[string]bool{}
	for i := range words {
		w := &words[i]
		if !latest[w.Finding] && w.State == "known" && !shown[w.Finding] {
			v.NotShown = append(v.NotShown, notShown{w.Finding, viewTriage(w)})
		}
		latest[w.Finding] = true
	}
	return &struct{ Body findingsView }{v}, nil
}

// compareWith holds a run against another of its form. newly are the findings that only the run itself shows.
func (s findingsAPI) compareWith(ctx context.Context, in *findingsRequest, now *forms.Design, after *report.Report) (v *comparedView, newly map[string]bool, err error) {
	f, d, run, err := s.findRun(ctx, RunPath{in.FormPath, in.With})
	if err != nil {
		return nil, nil, err
	}
	before, err := s.briefReport(ctx, f, d, run)
	if err != nil {
		return nil, nil, err
	}
	c := compare.Of(before, after)
	v = &comparedView{With: in.With, NewlyOdd: len(c.NewlyOdd), StillOdd: len(c.StillOdd), NewlyCovered: c.NewlyCovered, NoLongerCovered: c.NoLongerCovered, Changed: append([]prose.Text{}, document.Differences(d.Form, now.Form)...)}
	newly = map[string]bool{}
	for i := range c.NewlyOdd {
		newly[c.NewlyOdd[i].ID] = true
	}
	list := func(of []compare.Finding) []gone {
		out := []gone{}
		for i := range of {
			out = append(out, gone{of[i].ID, wording.Row(before, of[i].Row), of[i].Says, len(of[i].Before)})
		}
		return out
	}
	v.NoLongerOdd, v.NotSeenAgain = list(c.NoLongerOdd), list(c.NotSeenAgain)
	return v, newly, nil
}

// briefReport is a run as its marks tell it, without the evidence.
func (s findingsAPI) briefReport(ctx context.Context, f *store.Form, d *forms.Design, run *store.Run) (*report.Report, error) {
	marks, err := s.store.Marks(ctx, run.ID, 0)
	if err != nil {
		return nil, err
	}
	r, err := emptyReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	for _, m := range marks {
		reasons, err := m.Reasons()
		if err != nil {
			return nil, err
		}
		r.Results[m.Case] = briefResult(m.Case, m.Verdict, m.Headline, reasons)
	}
	return r, nil
}

// oddReport is a run with the results of its odd cases only, without the evidence: all that its findings are made from.
func (s findingsAPI) oddReport(ctx context.Context, f *store.Form, d *forms.Design, run *store.Run) (*report.Report, error) {
	odd, err := s.store.OddOf(ctx, []int64{run.ID})
	if err != nil {
		return nil, err
	}
	r, err := emptyReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	for _, one := range odd[run.ID] {
		r.Results[one.Case] = briefResult(one.Case, judge.Odd, one.Reasons[0].Headline, one.Reasons)
	}
	return r, nil
}

// emptyReport is a run's cases without results.
func emptyReport(ctx context.Context, f *store.Form, d *forms.Design, run *store.Run) (*report.Report, error) {
	ids, err := run.CaseIDs()
	if err != nil {
		return nil, err
	}
	r := report.New(d.Prepared.Form, nil)
	r.Cases, err = d.Those(ctx, ids)
	return r, err
}

func briefResult(caseID string, verdict judge.Verdict, headline prose.Text, reasons []report.Reason) *report.Result {
	one := &report.Result{Case: caseID, Verdict: verdict, Headline: headline}
	if len(reasons) > 0 {
		one.Cause, one.Sentence, one.Others = &reasons[0].Cause, reasons[0].Sentence, reasons[1:]
	}
	return one
}

// past is one run of a form's history, with its findings.
type past struct {
	id          int64
	number      int
	done, total int
	findings    []pastFinding
}

// pastFinding is a finding of a past run: its names, and the cases that show it.
type pastFinding struct {
	names []finding.Name
	cases []string
}

func (p *past) trend() trendItem { return trendItem{p.number, len(p.findings), p.done, p.total} }

// shows tells whether a name is among those of its findings.
func (p *past) shows(name string) bool {
	return slices.ContainsFunc(p.findings, func(of pastFinding) bool {
		return slices.ContainsFunc(of.names, func(n finding.Name) bool { return n.ID == name })
	})
}

// history are the form's runs up to one of which a case was run, the oldest first.
func history(ctx context.Context, s *Server, f *store.Form, until *store.Run) ([]past, error) {
	runs, err := s.store.Runs(ctx, f.ID, 500)
	if err != nil {
		return nil, err
	}
	runs = slices.DeleteFunc(runs, func(r store.Run) bool { return r.Number > until.Number })
	runs = runs[:min(len(runs), historyLength)]
	slices.Reverse(runs)
	var ids []int64
	for i := range runs {
		ids = append(ids, runs[i].ID)
	}
	odd, err := s.store.OddOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	done, err := s.store.DoneOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	var out []past
	for i := range runs {
		cases, err := runs[i].CaseIDs()
		if err != nil {
			return nil, err
		}
		one := past{id: runs[i].ID, number: runs[i].Number, done: done[runs[i].ID], total: len(cases)}
		if one.done == 0 {
			continue
		}
		groups := report.ByCause(odd[runs[i].ID])
		for k := range groups {
			one.findings = append(one.findings, pastFinding{finding.Names(f.Ident, &groups[k]), groups[k].Cases})
		}
		out = append(out, one)
	}
	return out, nil
}

// maxLookups is how many cases of a finding are looked for in each past run.
const maxLookups = 20

// observedIn tells, of past runs, whether a case of a finding was observed in them.
func (s findingsAPI) observedIn(ctx context.Context, runs []past, found []finding.Finding) (func(run int64, f *finding.Finding) bool, error) {
	looked := func(f *finding.Finding) []string { return f.Cases[:min(len(f.Cases), maxLookups)] }
	var ids []int64
	for i := range runs {
		ids = append(ids, runs[i].id)
	}
	var cases []string
	for i := range found {
		cases = append(cases, looked(&found[i])...)
	}
	slices.Sort(cases)
	observed, err := s.store.ObservedOf(ctx, ids, slices.Compact(cases))
	return func(run int64, f *finding.Finding) bool {
		return slices.ContainsFunc(looked(f), func(id string) bool { return observed[run][id] })
	}, err
}

func viewTriage(w *store.Triage) triageView {
	v := triageView{State: w.State, Severity: w.Severity, Link: w.Link, Comment: w.Comment, At: &w.SaidAt, By: w.SaidBy}
	if w.Until.Valid {
		v.Until = w.Until.Time.Format(time.DateOnly)
		v.Lapsed = v.Until < time.Now().UTC().Format(time.DateOnly)
	}
	return v
}

// foundFinding is a finding with the run that shows it.
type foundFinding struct {
	form     *store.Form
	designed *forms.Design
	run      *store.Run
	report   *report.Report
	finding  *finding.Finding
}

func (s findingsAPI) findFinding(ctx context.Context, in *FindingPath) (*foundFinding, error) {
	f, d, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	r, err := s.briefReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	for _, one := range finding.Of(r) {
		if one.Called(in.Finding) {
			return &foundFinding{f, d, run, r, &one}, nil
		}
	}
	return nil, huma.Error404NotFound(fmt.Sprintf("Run %d has no finding %s.", run.Number, in.Finding))
}

func (s findingsAPI) finding(ctx context.Context, in *FindingPath) (*findingAnswer, error) {
	at, err := s.findFinding(ctx, in)
	if err != nil {
		return nil, err
	}
	f, run, r, one := at.form, at.run, at.report, at.finding
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	result, err := s.store.Result(ctx, run.ID, one.Simplest)
	if err != nil {
		return nil, err
	}
	describeRun(r, site, run)
	r.DescribeSite(site, at.designed.Prepared.Form)
	r.Results[result.Case] = result
	var text bytes.Buffer
	if err := markdown.WriteFinding(&text, r, one); err != nil {
		return nil, err
	}
	v := findingDetail{Steps: steps.Of(r, result), Differences: steps.Differences(result), Markdown: text.String(), History: []triageView{}}
	v.Unpromised = unpromised(at.designed.Prepared, result)
	v.Environment = environmentIn(site, run)
	v.Curl, _ = steps.Curl(r, result)
	if v.Further, v.Looking, err = furtherOf(ctx, s.Server, f, in.Finding); err != nil {
		return nil, err
	}
	said, err := s.triagesOf(ctx, f, in.Finding)
	for k := range said {
		v.History = append(v.History, viewTriage(&said[k]))
	}
	return &findingAnswer{etag(latestTriage(said)), v}, err
}

// unpromised are messages at fields that no rule promises.
func unpromised(form *spec.Prepared, of *report.Result) []draft.SeenMessage {
	out := []draft.SeenMessage{}
	for i := range of.Steps {
		if of.Steps[i].Judgement == nil {
			continue
		}
		for _, c := range of.Steps[i].Judgement.Checks {
			for _, part := range c.Parts {
				at := slices.IndexFunc(form.Fields, func(f *spec.PreparedField) bool { return f.Name == part.Observed.Of })
				if part.Difference != judge.NotExpected || part.Observed.Is != judge.QuotedAtControl || at < 0 {
					continue
				}
				if one := (draft.SeenMessage{Field: form.Fields[at].ID, Text: part.Observed.Text}); !slices.Contains(out, one) {
					out = append(out, one)
				}
			}
		}
	}
	return out
}

// triagesOf are all that was said of a finding, the latest first.
func (s findingsAPI) triagesOf(ctx context.Context, f *store.Form, finding string) ([]store.Triage, error) {
	words, err := s.store.Triages(ctx, f.ID)
	return slices.DeleteFunc(words, func(w store.Triage) bool { return w.Finding != finding }), err
}

// latestTriage is the id of the latest triage, 0 where there is none.
func latestTriage(words []store.Triage) int64 {
	if len(words) == 0 {
		return 0
	}
	return words[0].ID
}

func (s findingsAPI) triageFinding(ctx context.Context, in *wordRequest) (*triageAnswer, error) {
	who, err := s.user(ctx)
	if err != nil {
		return nil, err
	}
	f, _, _, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	w := store.Triage{Finding: in.Finding, State: in.Body.State, Severity: in.Body.Severity, Link: in.Body.Link, Comment: in.Body.Comment, SaidBy: who.Name, SaidAt: time.Now().UTC()}
	if w.Link != "" {
		if to, err := url.Parse(w.Link); err != nil || to.Host == "" || to.Scheme != "http" && to.Scheme != "https" {
			return nil, huma.Error422UnprocessableEntity("The link must begin with http:// or https://.", errors.New("write it like https://tracker.example/412"))
		}
	}
	if in.Body.Until != "" {
		day, err := time.Parse(time.DateOnly, in.Body.Until)
		if err != nil || w.State != "known" {
			return nil, huma.Error422UnprocessableEntity("“Known until” is a date, and only for known findings.")
		}
		w.Until = sql.NullTime{Time: day, Valid: true}
	}
	after, err := versionOf(in.IfMatch)
	if err != nil {
		return nil, err
	}
	err = s.store.AddTriage(ctx, f.ID, who.ID, after, &w)
	if errors.Is(err, store.ErrStaleTriage) {
		said, err := s.triagesOf(ctx, f, in.Finding)
		if err != nil || len(said) == 0 {
			return nil, err
		}
		now := viewTriage(&said[0])
		return nil, huma.Error409Conflict(fmt.Sprintf("%s has marked this finding as %s in the meantime. Look at it, and save yours again if it still applies.", now.By, cmp.Or(now.State, "open")))
	}
	if err != nil {
		return nil, err
	}
	return &triageAnswer{etag(w.ID), viewTriage(&w)}, nil
}

// describeRun puts into a report what a run's row says of it.
func describeRun(r *report.Report, site *spec.Site, run *store.Run) {
	end := time.Now()
	if run.EndedAt.Valid {
		end = run.EndedAt.Time
	}
	r.Site, r.Depth, r.Run, r.Started, r.Took = addressOf(site, run), depthOf(run), run.Seed, run.StartedAt, max(0, end.Sub(run.StartedAt)) // a clock may have gone back
	r.Complete, r.Foreign = run.State == store.Finished, run.ExternalChanges
	r.Title = cmp.Or(r.Title, r.Form)
}

// addressOf is where a run was made; of an environment that the site has no more, its id.
func addressOf(site *spec.Site, run *store.Run) string {
	options, err := optionsOf(run)
	if err != nil {
		return site.Address
	}
	at, err := site.In(options.Environment)
	if err != nil {
		return options.Environment
	}
	return at.Address
}

// environmentIn is where a run was made; nil for the site's own address, and for an environment that the site has no more.
func environmentIn(site *spec.Site, run *store.Run) *environmentView {
	options, err := optionsOf(run)
	if err != nil {
		return nil
	}
	for _, e := range environmentsOf(site) {
		if e.ID == options.Environment {
			return &e
		}
	}
	return nil
}

// known are the findings that are said to be known, and still are.
func (s findingsAPI) known(ctx context.Context, in *FormPath) (*reportAnswer, error) {
	f, _, err := s.find(ctx, *in)
	if err != nil {
		return nil, err
	}
	words, err := s.store.Triages(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	list := knownlist.List{Known: []knownlist.Finding{}}
	latest := map[string]bool{}
	for i := range words {
		w := viewTriage(&words[i])
		if !latest[words[i].Finding] && w.State == "known" && !w.Lapsed {
			list.Known = append(list.Known, knownlist.Finding{Finding: words[i].Finding, Until: w.Until, Link: w.Link, Why: w.Comment})
		}
		latest[words[i].Finding] = true
	}
	text, err := list.Text()
	return &reportAnswer{"application/yaml; charset=utf-8", fmt.Sprintf("attachment; filename=%q", f.Ident+"-known.yaml"), text}, err
}

// unusualInRun is what is unusual of a run, with the cases that show it.
type unusualInRun struct {
	UnusualView
	Cases []string `json:"cases" nullable:"false"`
}

func (s findingsAPI) unusual(ctx context.Context, in *RunPath) (*struct {
	Body []unusualInRun `nullable:"false"`
}, error,
) {
	f, d, run, err := s.findRun(ctx, *in)
	if err != nil {
		return nil, err
	}
	r, err := reportsAPI(s).assembleReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	out := []unusualInRun{}
	for _, u := range r.Unusual() {
		out = append(out, unusualInRun{UnusualView{u.Unusual, wording.Unusual(r.Rows, u.Unusual), u.Decision}, u.Cases})
	}
	return &struct {
		Body []unusualInRun `nullable:"false"`
	}{out}, nil
}
