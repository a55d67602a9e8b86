package server

import (
	"context"
	"errors"
	"net/http"
	"strconv"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

func itoa(n int) string { return strconv.Itoa(n) }

type casesView struct {
	Depth   string               `json:"depth"`
	Rows    []design.Row         `json:"rows"`
	Cases   map[string]caseBrief `json:"cases"`
	Order   []string             `json:"order"`
	Omitted []design.Omission    `json:"omitted"`
	Run     *runBrief            `json:"run,omitempty" doc:"the run whose verdicts are shown"`
}

type caseBrief struct {
	Title     string        `json:"title"`
	Row       string        `json:"row"`
	Technique string        `json:"technique"`
	Covers    []string      `json:"covers"`
	Expect    string        `json:"expect"`
	Steps     int           `json:"steps"`
	Verdict   judge.Verdict `json:"verdict,omitempty"`
	Headline  string        `json:"headline,omitempty"`
}

type casesRequest struct {
	FormPath
	Depth string `query:"depth" enum:"quick,standard,thorough" default:"standard"`
	Run   int    `query:"run" minimum:"0" doc:"whose verdicts are shown; 0 is the newest"`
}

func (s *Server) registerCases(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "cases", Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/cases", Summary: "A form's cases as rows of scales, with the verdicts of a run"}, s.cases)
	huma.Register(api, huma.Operation{OperationID: "case", Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/case", Summary: "One case, with what was observed in a run"}, s.oneCase)
}

func (s *Server) cases(ctx context.Context, in *casesRequest) (*struct{ Body casesView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	set := d.cases(design.Depth(in.Depth))
	v := casesView{Depth: in.Depth, Rows: set.rows, Cases: make(map[string]caseBrief, len(set.cases)), Omitted: append([]design.Omission{}, set.omitted...), Order: make([]string, 0, len(set.cases))}
	for _, c := range set.cases {
		v.Order = append(v.Order, c.ID)
		v.Cases[c.ID] = caseBrief{Title: c.Title, Row: c.Row, Technique: string(c.Technique), Covers: c.Covers, Expect: string(c.Last().Expect), Steps: len(c.Steps)}
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
	for _, m := range marks {
		if c, ok := v.Cases[m.Case]; ok {
			c.Verdict, c.Headline = m.Verdict, m.Headline
			v.Cases[m.Case] = c
		}
	}
	v.Run, err = s.runBrief(ctx, run, marks)
	return &struct{ Body casesView }{v}, err
}

type caseView struct {
	Case *design.Case `json:"case"`
	// Run is the number of the run in which the result was obtained.
	Run    int           `json:"run,omitempty"`
	Result *judge.Result `json:"result,omitempty"`
	Also   []string      `json:"also" doc:"other cases that are odd in the same way"`
}

type caseRequest struct {
	FormPath
	ID  string `query:"id" required:"true" doc:"the case's id"`
	Run int    `query:"run" minimum:"0" doc:"0 is the newest"`
}

func (s *Server) oneCase(ctx context.Context, in *caseRequest) (*struct{ Body caseView }, error) {
	f, d, err := s.find(ctx, in.FormPath)
	if err != nil {
		return nil, err
	}
	c := d.cases(design.Thorough).byID[in.ID]
	if c == nil {
		return nil, huma.Error404NotFound("The form's revision has no case " + in.ID + ".")
	}
	v := caseView{Case: c, Also: []string{}}
	run, err := s.store.RunByNumber(ctx, f.ID, in.Run)
	if errors.Is(err, store.ErrNotFound) {
		return &struct{ Body caseView }{v}, nil
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
	groups, err := causes(marks)
	if err != nil {
		return nil, err
	}
	for _, g := range groups {
		if v.Result != nil && v.Result.Cause != nil && g.Cause == *v.Result.Cause {
			v.Also = append(v.Also, g.Cases...)
		}
	}
	return &struct{ Body caseView }{v}, nil
}
