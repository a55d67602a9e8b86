package api

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"

	"oddtick/core/finding"
	"oddtick/core/report"
	"oddtick/core/testcase"
	"oddtick/formats/har"
	"oddtick/formats/htmlreport"
	"oddtick/formats/junit"
	"oddtick/formats/markdown"
	"oddtick/formats/playwright"
	"oddtick/formats/result"
	"oddtick/formats/sheet"
	"oddtick/formats/workbook"
	"oddtick/server/forms"
	"oddtick/server/store"

	"github.com/danielgtaylor/huma/v2"
)

type reportRequest struct {
	RunPath
	Format string `path:"format" enum:"html,markdown,junit,json,csv,xlsx,playwright"`
}

type reportAnswer struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// reportsAPI answers requests.
type reportsAPI struct{ *Server }

func registerReports(api huma.API, server *Server) {
	s := reportsAPI{server}
	huma.Register(api, huma.Operation{OperationID: "getReport", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/report/{format}", Summary: "A run as HTML, Markdown, JUnit XML, JSON, CSV, an Excel workbook, or a Playwright test of its findings"}, s.report)
	huma.Register(api, huma.Operation{OperationID: "getArchive", Tags: []string{"runs"}, Method: http.MethodGet, Path: "/api/sites/{site}/forms/{form}/runs/{run}/archive", Summary: "A case's requests and responses as an HTTP Archive"}, s.archive)
}

func (s reportsAPI) report(ctx context.Context, in *reportRequest) (*reportAnswer, error) {
	f, d, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	r, err := s.assembleReport(ctx, f, d, run)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	kind, ending := "application/json", "json"
	switch in.Format {
	case "html":
		kind, ending = "text/html; charset=utf-8", "html"
		err = htmlreport.Write(&b, r)
	case "markdown":
		kind, ending = "text/markdown; charset=utf-8", "md"
		err = markdown.Write(&b, r)
	case "junit":
		kind, ending = "application/xml", "xml"
		err = junit.Write(&b, r)
	case "playwright":
		kind, ending = "text/plain; charset=utf-8", "spec.ts"
		var simplest []string
		for _, one := range finding.Of(r) {
			simplest = append(simplest, one.Simplest)
		}
		err = playwright.Write(&b, r, simplest)
	case "xlsx":
		kind, ending = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", "xlsx"
		err = workbook.Write(&b, r)
	case "csv":
		kind, ending = "text/csv; charset=utf-8", "csv"
		err = sheet.Write(&b, r)
	default:
		err = result.Write(&b, r)
	}
	if err != nil {
		return nil, err
	}
	return &reportAnswer{kind, fmt.Sprintf("attachment; filename=%q", fmt.Sprintf("%s-run-%d.%s", f.Ident, run.Number, ending)), b.Bytes()}, nil
}

// secretNames are the request names whose values are secrets.
func secretNames(d *forms.Design) []string {
	var out []string
	for _, f := range d.Prepared.Fields {
		if f.Secret {
			out = append(out, f.Name)
		}
	}
	return out
}

type archiveRequest struct {
	RunPath
	Case string `query:"case" required:"true"`
}

func (s reportsAPI) archive(ctx context.Context, in *archiveRequest) (*reportAnswer, error) {
	f, d, run, err := s.findRun(ctx, in.RunPath)
	if err != nil {
		return nil, err
	}
	r, err := s.store.Result(ctx, run.ID, in.Case)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("The case " + in.Case + " has no result in this run.")
	}
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := har.Write(&b, r, secretNames(d)); err != nil {
		return nil, err
	}
	return &reportAnswer{"application/json", fmt.Sprintf("attachment; filename=%q", fmt.Sprintf("%s-run-%d.har", f.Ident, run.Number)), b.Bytes()}, nil
}

func depthOf(run *store.Run) testcase.Depth { return testcase.Depth(run.Depth) }

func (s reportsAPI) assembleReport(ctx context.Context, f *store.Form, d *forms.Design, run *store.Run) (*report.Report, error) {
	site, err := s.store.SiteDocument(ctx, f.SiteID)
	if err != nil {
		return nil, err
	}
	ids, err := run.CaseIDs()
	if err != nil {
		return nil, err
	}
	set, err := d.Cases(ctx, depthOf(run))
	if err != nil {
		return nil, err
	}
	r := report.New(d.Prepared.Form, site)
	r.Omitted = set.Omitted
	describeRun(r, site, run)
	if r.Cases, err = d.Those(ctx, ids); err != nil {
		return nil, err
	}
	results, err := s.store.Results(ctx, run.ID)
	if err != nil {
		return nil, err
	}
	for _, result := range results {
		r.Results[result.Case] = result
	}
	triages, err := s.store.Triages(ctx, f.ID)
	if err != nil {
		return nil, err
	}
	r.Accepted = acceptances(triages)
	r.Coverage, err = coverageOf(ctx, d, r)
	return r, err
}
