package api

import (
	"context"
	"errors"
	"net/http"
	"strconv"

	"oddtick/core/access"
	"oddtick/core/cover"
	"oddtick/core/design"
	"oddtick/core/design/decision"
	"oddtick/core/investigate"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/scale"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/core/wording/promise"
	"oddtick/engine/target"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

func itoa(n int) string { return strconv.Itoa(n) }

type casesView struct {
	Depth   string               `json:"depth"`
	Rows    []scale.Row          `json:"rows"`
	Cases   map[string]caseBrief `json:"cases"`
	Order   []string             `json:"order"`
	Omitted []testcase.Omission  `json:"omitted"`
	// Stale are edited cases that are no longer computed.
	Stale []string  `json:"stale"`
	Run   *runBrief `json:"run,omitempty" doc:"the run whose verdicts are shown"`
	// Changes are those since the run's revision, where it is not the newest.
	Changes *delta `json:"changes,omitempty"`
}

type caseBrief struct {
	Title         prose.Text     `json:"title"`
	Row           string         `json:"row"`
	Technique     string         `json:"technique"`
	Depth         testcase.Depth `json:"depth"`
	Driver        string         `json:"driver"`
	Expect        string         `json:"expect"`
	Breaks        []string       `json:"breaks,omitempty"`
	Steps         int            `json:"steps"`
	Verdict       judge.Verdict  `json:"verdict,omitempty"`
	Headline      prose.Text     `json:"headline,omitempty"`
	Widespread    bool           `json:"widespread,omitempty" doc:"odd only in what is widespread"`
	Skipped       string         `json:"skipped,omitempty" doc:"why it is skipped"`
	Tags          []string       `json:"tags,omitempty"`
	Edited        bool           `json:"edited,omitempty" doc:"its values or title were changed, or it was added by hand"`
	SourceExpects string         `json:"source_expects,omitempty" doc:"the outcome its source expects, if it differs from the rules"`
}

type casesRequest struct {
	FormPath
	PlanQuery
	Run int `query:"run" minimum:"0" doc:"whose verdicts are shown; 0 is the newest"`
}

// PlanQuery is a plan in an address.
type PlanQuery struct {
	Depth    string `query:"depth" enum:"quick,standard,thorough" default:"standard"`
	Strength int    `query:"strength" minimum:"1" maximum:"6" default:"2" doc:"cover every combination of this many fields"`
	Large    bool   `query:"large" doc:"compute combinations even if there are more than 300,000; never more than a million"`
	AtMost   int    `query:"at_most" minimum:"0" doc:"only this many cases, those that cover the most; 0 for all"`
}

func (q *PlanQuery) plan() design.Plan {
	return design.Plan{Depth: testcase.Depth(q.Depth), Strength: q.Strength, AtMost: q.AtMost, Large: q.Large}
}

// casesAPI answers requests.
type casesAPI struct{ *Server }

func registerCases(api huma.API, server *Server) {
	s := casesAPI{server}
	huma.Register(api, huma.Operation{OperationID: "listCases", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/cases", Summary: "A form's cases on their scales, with the verdicts of a run"}, s.cases)
	huma.Register(api, huma.Operation{OperationID: "getCase", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/case", Summary: "One case, why it exists, and what was observed in a run"}, s.oneCase)
	huma.Register(api, huma.Operation{OperationID: "getTechniques", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/techniques", Summary: "The decision tables, combinations and states that cases come from"}, s.techniques)
	huma.Register(api, huma.Operation{OperationID: "getCoverage", Tags: []string{"cases"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/coverage", Summary: "How much of what the form promises is tested"}, s.coverage)
	huma.Register(api, huma.Operation{OperationID: "convertTable", Tags: []string{"cases"}, Method: http.MethodPost, Path: "/api/sites/{site}/forms/{form}/table-expression", Summary: "A decision table as an expression"}, s.tableExpression)
}

func (s casesAPI) cases(ctx context.Context, in *casesRequest) (*struct{ Body casesView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	set, err := d.Set(ctx, in.plan())
	if err != nil {
		return nil, err
	}
	v := casesView{Depth: in.Depth, Rows: set.Rows, Cases: make(map[string]caseBrief, len(set.Cases)), Omitted: append([]testcase.Omission{}, set.Omitted...), Order: make([]string, 0, len(set.Cases)), Stale: []string{}}
	for _, c := range set.Cases {
		v.Order = append(v.Order, c.ID)
		v.Cases[c.ID] = briefOf(c)
	}
	for _, e := range set.Stale {
		v.Stale = append(v.Stale, e.Case)
	}
	run, err := s.store.RunByNumber(ctx, f.ID, in.Run)
	switch {
	case errors.Is(err, store.ErrNotFound) && in.Run == 0:
		return &struct{ Body casesView }{v}, nil
	case errors.Is(err, store.ErrNotFound):
		return nil, huma.Error404NotFound("There is no run " + itoa(in.Run) + " of this form.")
	case err != nil:
		return nil, err
	}
	marks, err := s.store.Marks(ctx, run.ID, 0)
	if err != nil {
		return nil, err
	}
	odd, err := oddChecks(run, marks)
	if err != nil {
		return nil, err
	}
	for _, m := range marks {
		if c, ok := v.Cases[m.Case]; ok {
			c.Verdict, c.Headline = m.Verdict, m.Headline
			c.Widespread = m.Verdict == judge.Odd && odd.OnlyWidespread(m.Case)
			v.Cases[m.Case] = c
		}
	}
	if run.RevisionID != f.RevisionID {
		then, err := s.designs.Of(ctx, f, run.RevisionID)
		if err != nil {
			return nil, err
		}
		before, err := then.Set(ctx, in.plan())
		if err != nil {
			return nil, err
		}
		changes := deltaOf(before, set, saysElse(then.Prepared, d.Prepared))
		v.Changes = &changes
	}
	v.Run, err = briefRun(ctx, s.Server, f.Ident, run, marks)
	return &struct{ Body casesView }{v}, err
}

func briefOf(c *testcase.Case) caseBrief {
	last := c.Last()
	b := caseBrief{Title: c.Title, Row: c.Row, Technique: string(c.Technique), Depth: c.Depth(), Driver: string(last.Driver), Expect: string(last.Expect), Breaks: last.Breaks, Steps: len(c.Steps)}
	if e := c.Edit; e != nil {
		b.Skipped, b.Tags, b.Edited = e.Skip, e.Tags, e.Added || e.Title != "" || len(e.Inputs)+len(e.Absent) > 0
		if e.Expect != "" && (e.Expect == "accepted") != (last.Expect == "accepted") {
			b.SourceExpects = e.Expect
		}
	}
	return b
}

type caseView struct {
	Case *testcase.Case `json:"case"`
	// Run is the number of the run in which the result was obtained.
	Run    int            `json:"run,omitempty"`
	Result *report.Result `json:"result,omitempty"`
	Also   []string       `json:"also" doc:"other cases that are odd for the same reason"`
	// Covers is what the case covers by definition, Only what no other case of its depth does.
	Covers []covered `json:"covers"`
	Only   []covered `json:"only"`
	// Twin is the same input by the other driver, with what came of it in the same run.
	Twin *twin `json:"twin,omitempty"`
	// Bound is the limit that can be looked for from here, where there is one.
	Bound *bound `json:"bound,omitempty"`
	// Left says why runs leave it out; empty for one that they make.
	Left   string      `json:"left,omitempty"`
	Inputs []caseInput `json:"inputs" doc:"what the last submission sends, on a reference day"`
	// Reason says in words why the outcome is expected.
	Reason prose.Text `json:"reason"`
}

// bound is an end of a rule's range, or of a field's values where nothing is promised of it: open.
type bound struct {
	Rule string       `json:"rule"`
	End  testcase.End `json:"end" enum:"min,max"`
	Open bool         `json:"open,omitempty"`
}

// boundOf is the limit that a case is about, or near which it lies.
func boundOf(d *forms.Design, c *testcase.Case) *bound {
	if rule, end, ok := investigate.EndOf(d.Designer.Maker, c); ok {
		return &bound{Rule: rule, End: end}
	}
	if field, ok := investigate.OpenEndOf(d.Designer.Maker, c); ok {
		return &bound{field, testcase.Upper, true}
	}
	return nil
}

type twin struct {
	Case     string            `json:"case"`
	Driver   submission.Driver `json:"driver"`
	Verdict  judge.Verdict     `json:"verdict,omitempty"`
	Headline prose.Text        `json:"headline,omitempty"`
}

// twinOf is the case with the same input by the other driver, nil where there is none.
func twinOf(ctx context.Context, d *forms.Design, c *testcase.Case) (*twin, error) {
	for _, driver := range []submission.Driver{submission.HTTP, submission.Browser} {
		if id := c.By(driver); id != "" && id != c.ID {
			other, err := d.Find(ctx, id)
			if err != nil || other != nil {
				return &twin{Case: id, Driver: driver}, err
			}
		}
	}
	return nil, nil
}

type covered struct {
	Kind  string     `json:"kind"`
	Words prose.Text `json:"words"`
}

// caseInput is a field's value in a case, on a reference day.
type caseInput struct {
	Field  string `json:"field"`
	Label  string `json:"label"`
	Value  string `json:"value" doc:"empty of a secret"`
	Length int    `json:"length" doc:"in characters"`
	Secret bool   `json:"secret,omitempty"`
	Absent bool   `json:"absent,omitempty" doc:"the parameter is not sent"`
	Asked  bool   `json:"asked" doc:"its condition holds, or it has none"`
	// Edited: the value is typed by a tester. Usual: it is the one that every case starts from.
	Edited bool `json:"edited,omitempty"`
	Usual  bool `json:"usual,omitempty"`
	Fixed  bool `json:"fixed,omitempty" doc:"the page sets it; it cannot be filled in"`
}

type caseRequest struct {
	FormPath
	ID  string `query:"id" required:"true" doc:"the case's id"`
	Run int    `query:"run" minimum:"0" doc:"0 is the newest"`
}

// caseAnswer carries the version that a change of the case must name in If-Match.
type caseAnswer struct {
	ETag string `header:"ETag"`
	Body caseView
}

func (s casesAPI) oneCase(ctx context.Context, in *caseRequest) (*caseAnswer, error) {
	f, err := s.findForm(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	version, err := s.store.CaseEditsVersion(ctx, f.ID) // before the edits, so that a version never stands for edits that came after it
	if err != nil {
		return nil, err
	}
	d, err := s.designs.Of(ctx, f, f.RevisionID)
	if err != nil {
		return nil, err
	}
	c, err := d.Find(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	if c == nil {
		return nil, huma.Error404NotFound("This revision of the form has no case " + in.ID + ".")
	}
	v, err := viewCase(ctx, d, c)
	if err != nil {
		return nil, err
	}
	run, err := s.store.RunByNumber(ctx, f.ID, in.Run)
	if errors.Is(err, store.ErrNotFound) {
		return &caseAnswer{etag(int64(version)), *v}, nil
	}
	if err != nil {
		return nil, err
	}
	v.Result, err = s.store.Result(ctx, run.ID, in.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return nil, err
	}
	v.Run = run.Number
	marks, err := s.store.Marks(ctx, run.ID, 0)
	if err != nil {
		return nil, err
	}
	if v.Twin != nil {
		for _, m := range marks {
			if m.Case == v.Twin.Case {
				v.Twin.Verdict, v.Twin.Headline = m.Verdict, m.Headline
			}
		}
	}
	groups, err := causes(marks)
	if err != nil {
		return nil, err
	}
	for _, g := range groups {
		if v.Result != nil && v.Result.Cause != nil && g.Has(*v.Result.Cause) {
			v.Also = append(v.Also, g.Cases...)
		}
	}
	return &caseAnswer{etag(int64(version)), *v}, nil
}

// viewCase says of a case what it sends, why it exists, and what only it covers.
func viewCase(ctx context.Context, d *forms.Design, c *testcase.Case) (*caseView, error) {
	v := &caseView{Case: c, Also: []string{}, Covers: []covered{}, Only: []covered{}, Left: target.Left(c), Bound: boundOf(d, c)}
	var err error
	if v.Twin, err = twinOf(ctx, d, c); err != nil {
		return nil, err
	}
	plan := design.Plan{Depth: c.Depth(), Strength: c.Strength(), Large: c.Strength() > 0}
	if plan.Strength > 0 && plan.Depth == testcase.Quick {
		plan.Depth = testcase.Standard
	}
	set, err := d.Set(ctx, plan)
	if err != nil {
		return nil, err
	}
	covers, only := cover.By(d.Designer, set.Set, c.ID)
	for _, i := range covers {
		v.Covers = append(v.Covers, covered{string(i.Kind), i.Words})
	}
	for _, i := range only {
		v.Only = append(v.Only, covered{string(i.Kind), i.Words})
	}
	v.Inputs, v.Reason, err = inputsOf(d, c)
	return v, err
}

func inputsOf(d *forms.Design, c *testcase.Case) ([]caseInput, prose.Text, error) {
	at := c.About()
	sent, err := d.Designer.Reader().Values(c, at)
	if err != nil {
		return nil, "", err
	}
	usual := d.Designer.Usual()
	out := []caseInput{}
	for i, f := range d.Prepared.Fields {
		value := sent.Values[i]
		in := caseInput{Field: f.ID, Label: f.Label, Value: value.Sent, Length: len([]rune(value.Sent)), Secret: f.Secret, Absent: !value.Present, Asked: sent.Filled[i], Fixed: f.Kind.Untouched()}
		if f.Secret {
			in.Value = ""
		}
		in.Usual = testcase.SameRecipe(c.Steps[at].Inputs, usual, f.ID)
		if c.Edit != nil {
			_, in.Edited = c.Edit.Inputs[f.ID]
		}
		out = append(out, in)
	}
	e := d.Designer.Expected(c)
	if e == nil {
		return out, "", nil
	}
	wording.Expectation(d.Prepared, e)
	return out, wording.Reason(e), nil
}

// techniquesView is what cases come from besides the fields' own scales.
type techniquesView struct {
	Tables   []*decision.Table `json:"tables"`
	Combined *design.Combined  `json:"combined,omitempty"`
	Growth   []design.Size     `json:"growth" doc:"how many rows each strength takes"`
	States   *access.States    `json:"states"`
}

type techniquesRequest struct {
	FormPath
	PlanQuery
}

func (s casesAPI) techniques(ctx context.Context, in *techniquesRequest) (*struct{ Body techniquesView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	set, err := d.Set(ctx, in.plan())
	if err != nil {
		return nil, err
	}
	if c := set.Combined; c != nil && c.Large {
		if tuples, _ := d.Designer.Tuples(in.plan()); tuples > forms.MostTuples {
			none := *c
			none.Large, none.Why = false, prose.Text(forms.TooManyTuples(tuples))
			set = &forms.CaseSet{Set: &design.Set{Tables: set.Tables, Combined: &none}}
		}
	}
	growth, err := d.Grown(ctx)
	if err != nil {
		return nil, err
	}
	v := techniquesView{Tables: append([]*decision.Table{}, set.Tables...), Combined: set.Combined, Growth: growth, States: access.StatesOf(site, nil, promise.Step)}
	return &struct{ Body techniquesView }{v}, nil
}

type coverageView struct {
	Kinds []cover.Coverage `json:"kinds"`
	// Run is the number of the run whose observed cases count; 0: what the cases would cover.
	Run int `json:"run"`
}

type coverageRequest struct {
	FormPath
	PlanQuery
	Observed bool `query:"observed" doc:"count only cases of the latest run that were observed"`
}

func (s casesAPI) coverage(ctx context.Context, in *coverageRequest) (*struct{ Body coverageView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	var v coverageView
	counts := func(c *testcase.Case) bool { return !c.Off() }
	if in.Observed {
		run, err := s.store.RunByNumber(ctx, f.ID, 0)
		if errors.Is(err, store.ErrNotFound) {
			return nil, huma.Error404NotFound("This form has not been run yet, so nothing was observed.")
		}
		if err != nil {
			return nil, err
		}
		marks, err := s.store.Marks(ctx, run.ID, 0)
		if err != nil {
			return nil, err
		}
		seen := map[string]bool{}
		for _, m := range marks {
			seen[m.Case] = m.Checks != "" && (m.Checks[0] == 'e' || m.Checks[0] == 'o')
		}
		v.Run = run.Number
		counts = func(c *testcase.Case) bool { return seen[c.ID] }
	}
	all, err := d.Set(ctx, design.Plan{Depth: testcase.Thorough, Strength: in.Strength, Large: in.Large})
	if err != nil {
		return nil, err
	}
	set, err := d.Set(ctx, in.plan())
	if err != nil {
		return nil, err
	}
	v.Kinds = cover.Of(d.Designer, set.Set, all.Set, counts)
	return &struct{ Body coverageView }{v}, nil
}

type tableRequest struct {
	FormPath
	Body struct {
		Conditions []string          `json:"conditions" maxItems:"30"`
		Columns    []decision.Column `json:"columns" maxItems:"200"`
		Yes        string            `json:"yes" doc:"the outcome for which the expression is true"`
	}
}

type tableAnswer struct {
	Expression string `json:"expression"`
}

func (s casesAPI) tableExpression(ctx context.Context, in *tableRequest) (*struct{ Body tableAnswer }, error) {
	_, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	text, err := decision.Expression(in.Body.Conditions, in.Body.Columns, in.Body.Yes)
	if err == nil {
		_, _, err = d.Prepared.Conditions(text)
	}
	if err != nil {
		return nil, huma.Error422UnprocessableEntity("The table cannot be written as an expression: " + err.Error() + ".")
	}
	return &struct{ Body tableAnswer }{tableAnswer{text}}, nil
}
