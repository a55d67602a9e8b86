package learning

import (
	"context"
	"slices"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/universal"
	"oddtick/engine/schedule"
	"oddtick/engine/target"
)

// accepting are the cases that a site should not accept, by what they cover, each with the promise that it breaks when it does.
var accepting = map[string]universal.ID{"without token": universal.TokenUnchecked, "foreign_token": universal.TokenForeign}

// other are further cases about requests that no page sends.
var other = []string{"other_method", "as_lists", "surplus parameters", "sent again"}

// Requests submits requests that no page sends, as far as a learned document tells how, and finds what is unusual of the answers: without the
// page's token, by GET, with lists in place of values, with surplus parameters, twice. What was written is deleted at the end, unless keep
// is set.
func Requests(ctx context.Context, site *spec.Site, text []byte, number int64, keep bool) (out []universal.Unusual, err error) {
	form, err := spec.ReadForm("", text)
	if err != nil {
		return nil, err
	}
	form.Accepted.Resubmitted = spec.ResubmittedRejected // so that there is a case for it
	prepared, err := form.Prepare()
	if err != nil {
		return nil, err
	}
	designer, err := design.New(prepared, site)
	if err != nil {
		return nil, err
	}
	cases, _ := target.Drivable(designer.Design(design.Plan{Depth: testcase.Standard}).Cases)
	cases = slices.DeleteFunc(target.Permitted(site, cases), func(c *testcase.Case) bool { return c.InBrowser() || pointOf(c) == "" })
	if len(cases) == 0 {
		return nil, nil
	}
	t, err := target.Open(ctx, target.Config{Site: site, Designer: designer, Cases: cases, Number: number})
	if err != nil {
		return nil, err
	}
	defer t.Close()
	results := &schedule.Collected{}
	err = schedule.Execute(ctx, t, results, nil)
	if !keep && len(t.Databases) > 0 {
		if _, failed := t.CleanUp(context.WithoutCancel(ctx), nil); failed != nil && err == nil {
			err = failed
		}
	}
	for _, c := range cases {
		if r := results.Result(c.ID); r != nil {
			out = universal.Add(out, ofRequest(prepared, pointOf(c), c, r)...)
		}
	}
	if universal.IndexOf(out, universal.Unusual{Promise: universal.TokenUnchecked}) >= 0 { // then any will do
		out = slices.DeleteFunc(out, func(u universal.Unusual) bool { return u.Promise == universal.TokenForeign })
	}
	return out, err
}

// pointOf is what a case about a whole request covers; "" of other cases.
func pointOf(c *testcase.Case) string {
	for _, what := range c.Covers {
		_, accepts := accepting[what.Point]
		if c.Row == testcase.RowForm && what.Kind == testcase.CoversGuess && what.Of == "form" && (accepts || slices.Contains(other, what.Point)) {
			return what.Point
		}
	}
	return ""
}

// ofRequest finds what is unusual of one result.
func ofRequest(form *spec.Prepared, point string, c *testcase.Case, r *report.Result) (out []universal.Unusual) {
	var inserted [][]observation.Change
	for i := range r.Steps {
		s := &r.Steps[i]
		if s.Observation == nil || s.Judgement == nil {
			continue
		}
		for _, u := range universal.Step(&universal.Submitted{Form: form, Step: s.Observation, Ending: universal.Unclear}) {
			if u.Promise == universal.ServerError || u.Promise == universal.InternalsShown || u.Promise == universal.GetWrites {
				out = universal.Add(out, u)
			}
		}
		inserted = append(inserted, slices.DeleteFunc(slices.Clone(s.Observation.Changes), func(ch observation.Change) bool { return ch.Kind != observation.Inserted }))
	}
	if len(r.Steps) == 0 || len(r.Steps) != len(inserted) {
		return out
	}
	last := &r.Steps[len(r.Steps)-1]
	if promise, is := accepting[point]; is && last.Judgement.Ended == oracle.Accepted {
		out = append(out, universal.Unusual{Promise: promise})
	}
	switch point {
	case "surplus parameters":
		out = append(out, surplusStored(c, last)...)
	case "sent again":
		if len(inserted) == 2 && len(inserted[0]) > 0 && len(inserted[1]) > 0 && inserted[0][0].Table == inserted[1][0].Table {
			out = append(out, universal.Unusual{Promise: universal.SentAgainStored, Column: inserted[1][0].Table})
		}
	}
	return out
}

// surplusStored are the columns that hold a surplus parameter's value, though the document says otherwise of them.
func surplusStored(c *testcase.Case, last *report.StepResult) (out []universal.Unusual) {
	for _, check := range last.Judgement.Checks {
		for _, p := range check.Parts {
			if check.Check != judge.StoredData || p.Verdict != judge.Odd || p.Column == "" {
				continue
			}
			for _, extra := range c.Last().Extra {
				if extra.Name == p.Column {
					out = universal.Add(out, universal.Unusual{Promise: universal.SurplusStored, Column: p.Table + "." + p.Column, Sent: extra.Value})
				}
			}
		}
	}
	return out
}
