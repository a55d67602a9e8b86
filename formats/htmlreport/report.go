// Package htmlreport writes a result as one HTML file that needs nothing else: it opens from a disk without a network, prints, and
// holds the lattice and the scales as pictures (SVG) with words for those who cannot see them.
package htmlreport

import (
	"cmp"
	"fmt"
	"html/template"
	"io"

	"oddtick/core/testcase"

	_ "embed"
	"oddtick/core/cover"
	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/prose"
	"oddtick/core/readiness"
	"oddtick/core/report"
	"oddtick/core/wording"
	"oddtick/core/wording/phrases"
	"oddtick/formats/steps"
)

//go:embed report.html
var page string

var pages = template.Must(template.New("report").Funcs(template.FuncMap{
	"say": phrases.Report, "isolated": isolated,
	"severity":    func(s finding.Severity) prose.Text { return phrases.Severities[string(s)].Text() },
	"depth":       func(d testcase.Depth) prose.Text { return phrases.Depths[string(d)].Text() },
	"requirement": func(s readiness.RequirementState) prose.Text { return phrases.RequirementStates[string(s)].Text() },
	"kind":        func(k cover.Kind) prose.Text { return cmp.Or(phrases.CoverageKinds[string(k)].Text(), prose.Text(k)) },
}).Parse(page))

// isolated keeps a text of another direction of writing from mixing with the sentence around it (Unicode's FIRST STRONG ISOLATE).
func isolated(s string) string { return "\u2068" + s + "\u2069" }

type view struct {
	Language                            string
	Title, Form, Site, Started, Seconds string
	Depth                               testcase.Depth
	Tally                               report.Tally
	Ready                               prose.Text
	Run                                 int
	Foreign                             int
	Stopped                             bool
	Findings                            []found
	Unusual                             []unusual
	Checks                              []prose.Text
	Rows                                []row
	Covered                             []cover.Shown
	Omitted                             []testcase.Omission
	Left                                int
	Requirements                        []readiness.Requirement
	Accepted                            []readiness.Finding
}

type found struct {
	Words wording.CauseWords
	finding.Finding
	Steps []steps.Step
	Odd   []steps.Difference
	Curl  string
	Shown []string // its cases, as far as they are named
	More  int
}

type row struct {
	Label  string
	Cases  int
	Odd    int
	Cells  []cell
	Scales []scale
}

// maxNamed is how many cases or missing things are named one by one.
const maxNamed = 40

// Write writes the report.
func Write(w io.Writer, r *report.Report) error {
	n := r.Tally()
	v := view{
		Language: phrases.Language(),
		Title:    cmp.Or(r.Title, r.Form), Form: r.Form, Site: r.Site, Depth: r.Depth, Started: r.Started.UTC().Format("2 January 2006, 15:04 UTC"), Seconds: fmt.Sprintf("%.1f", r.Took.Seconds()),
		Tally: n, Run: n.Run(), Foreign: r.Foreign, Stopped: !r.Complete,
		Checks: wording.Checks(), Rows: rows(r), Covered: r.Coverage, Omitted: r.Omitted, Left: len(r.Left),
	}
	list := finding.Of(r)
	for _, f := range list {
		result := r.Results[f.Simplest]
		one := found{Finding: f, Words: wording.Cause(r.Rows, &f.Cause), Steps: steps.Of(r, result), Odd: visible(steps.Differences(result)), Shown: f.Cases[:min(len(f.Cases), maxNamed)]}
		for i := range one.Steps {
			for k := range one.Steps[i].Values {
				one.Steps[i].Values[k].Text = steps.Visible(one.Steps[i].Values[k].Text)
			}
		}
		one.More = len(f.Cases) - len(one.Shown)
		one.Curl, _ = steps.Curl(r, result)
		v.Findings = append(v.Findings, one)
	}
	for _, u := range r.Unusual() {
		v.Unusual = append(v.Unusual, unusual{u, string(wording.Unusual(r.Rows, u.Unusual))})
	}
	told := readiness.FactsOf(r, list, readiness.AcceptedIn(r.Accepted, r.Started))
	v.Ready, v.Requirements = readiness.Of(r.ReadyWhen, told, r.Started).Headline, told.Requirements
	for i := range told.Findings {
		if told.Findings[i].Accepted {
			v.Accepted = append(v.Accepted, told.Findings[i])
		}
	}
	return pages.Execute(w, &v)
}

// unusual is what breaks a promise that holds on every form, with its sentence.
type unusual struct {
	report.Unusual
	Sentence string
}

func visible(list []steps.Difference) []steps.Difference {
	for i := range list {
		list[i].Expected, list[i].Observed = steps.Visible(list[i].Expected), steps.Visible(list[i].Observed)
	}
	return list
}

func rows(r *report.Report) []row {
	var out []row
	index := map[string]int{}
	cases := map[string][]*testcase.Case{}
	for _, c := range r.Cases {
		if _, known := index[c.Row]; !known {
			index[c.Row] = len(out)
			out = append(out, row{Label: wording.Row(r, c.Row)})
		}
		cases[c.Row] = append(cases[c.Row], c)
	}
	for id, i := range index {
		one := &out[i]
		one.Cases = len(cases[id])
		for _, c := range cases[id] {
			if r.VerdictOf(c) == judge.Odd {
				one.Odd++
			}
		}
		for k := range judge.Checks {
			one.Cells = append(one.Cells, cellOf(r, cases[id], k))
		}
		one.Scales = scalesOf(r, cases[id])
	}
	return out
}
