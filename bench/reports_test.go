package bench

import (
	"bytes"
	"fmt"
	"testing"
	"time"

	"oddtick/core/compare"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/formats/htmlreport"
	"oddtick/formats/result"

	"github.com/stretchr/testify/require"
)

// largeResult is a result of many cases in forty rows; one in fifty is odd, for one of forty causes.
func largeResult(cases int) *report.Report {
	r := &report.Report{Form: "wide", Site: "http://127.0.0.1:4650", Started: time.Now().UTC(), Took: time.Minute, Complete: true, Results: map[string]*report.Result{}}
	for i := range cases {
		row := fmt.Sprintf("f%d", i%40)
		c := &testcase.Case{ID: fmt.Sprintf("wide/%s.length.%d/http", row, i), Title: "a length", Row: row, Technique: testcase.Boundaries, Covers: []testcase.Cover{{Kind: testcase.CoversRule, Of: row + ".length"}, {Kind: testcase.CoversBoundary, Of: row + ".length", Point: fmt.Sprint(i % 400)}}, Mark: testcase.Mark{Scale: "length, characters", At: float64(i / 40), Label: fmt.Sprint(i / 40)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: submission.HTTP, Expect: oracle.Accepted}}}
		one := &report.Result{Case: c.ID, Attempt: 1, Verdict: judge.AsExpected, Headline: "Accepted, as expected", Started: r.Started, Took: 4 * time.Millisecond}
		sent := &submission.Submission{Driver: submission.HTTP, Encoding: "urlencoded"}
		for k := range 12 {
			sent.Pairs = append(sent.Pairs, submission.Pair{Name: fmt.Sprintf("field_%d", k), Value: fmt.Sprintf("heather row %d of %d", k, i)})
		}
		step := &judge.Judgement{Verdict: judge.AsExpected, Headline: one.Headline}
		for _, check := range judge.Checks {
			step.Checks = append(step.Checks, judge.Check{Check: check, Verdict: judge.AsExpected, Parts: []judge.Part{{Verdict: judge.AsExpected, Words: judge.Words{Name: "a part", Expected: "as it is promised", Observed: "as it is promised"}}, {Verdict: judge.AsExpected, Words: judge.Words{Name: "another part", Expected: "none", Observed: "none"}}}})
			one.Checks = append(one.Checks, judge.AsExpected)
		}
		if i%50 == 0 {
			one.Verdict, one.Headline, one.Checks[4] = judge.Odd, "Accepted, and cut short", judge.Odd
			one.Cause = &report.Cause{Row: row, Check: judge.StoredData, Subject: judge.Subject{Aspect: judge.ColumnValue, Table: "plots", Column: row}, Difference: judge.CutShort}
			step.Checks[4].Verdict, step.Checks[4].Parts[0].Verdict = judge.Odd, judge.Odd
		}
		one.Steps = []report.StepResult{{Do: testcase.Submit, Observation: &observation.Step{Sent: sent, Before: &observation.Page{URL: "http://127.0.0.1:4650/wide"}, Exchanges: []observation.Exchange{{Method: "POST", URL: "http://127.0.0.1:4650/wide", Status: 303, Body: "<!doctype html><p>Thank you</p>"}}}, Judgement: step}}
		r.Cases = append(r.Cases, c)
		r.Results[c.ID] = one
	}
	return r
}

// BenchmarkReports compares what is made of a large result with reading it.
func BenchmarkReports(b *testing.B) {
	const cases = 20_000
	var file bytes.Buffer
	require.NoError(b, result.Write(&file, largeResult(cases)))
	timed := func(what func()) float64 {
		var list []float64
		for range 5 {
			started := time.Now()
			what()
			list = append(list, time.Since(started).Seconds())
		}
		return median(list)
	}
	var r *report.Report
	reading := timed(func() {
		var err error
		r, err = result.Read(bytes.NewReader(file.Bytes()))
		require.NoError(b, err)
	})
	var page bytes.Buffer
	found := 0
	line("time for the findings of 20,000 cases over reading them", timed(func() { found = len(finding.Of(r)) })/reading, 2, "at most 3")
	line("time to compare two results of 20,000 cases over reading one", timed(func() { compare.Of(r, r) })/reading, 2, "at most 3")
	line("time for the HTML report of 20,000 cases over reading them", timed(func() {
		page.Reset()
		require.NoError(b, htmlreport.Write(&page, r))
	})/reading, 2, "at most 6")
	line("size of that report in megabytes", float64(page.Len())/1e6, 1, "under 10")
	require.Positive(b, found)
}
