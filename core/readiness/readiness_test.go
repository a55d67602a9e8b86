package readiness_test

import (
	"testing"
	"time"

	"oddtick/core/finding"
	"oddtick/core/judge"
	"oddtick/core/readiness"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

var now = time.Date(2026, 11, 30, 9, 0, 0, 0, time.UTC)

// whole is a form of which all was run an hour ago and nothing is odd.
func whole() *readiness.Facts {
	return &readiness.Facts{Run: 3, Started: now.Add(-time.Hour), Depth: testcase.Standard, Ran: 4, Newest: 4, Tally: report.Tally{Total: 10, AsExpected: 10}, Shown: 19, Promised: 20}
}

func TestWhetherAFormMayShip(t *testing.T) {
	t.Parallel()
	open := readiness.Finding{ID: "a", Severity: finding.Critical}
	minor := readiness.Finding{ID: "b", Severity: finding.Minor}
	accepted := readiness.Finding{ID: "c", Severity: finding.Major, Accepted: true}
	for name, c := range map[string]struct {
		asked  *spec.ReadyWhen
		change func(f *readiness.Facts)
		state  readiness.State
		codes  []readiness.Code
		says   string
	}{
		"nothing odd":          {nil, func(*readiness.Facts) {}, readiness.Ready, nil, "ready to ship"},
		"accepted":             {nil, func(f *readiness.Facts) { f.Findings = []readiness.Finding{accepted} }, readiness.Ready, nil, "ready to ship, 1 finding accepted"},
		"findings by weight":   {nil, func(f *readiness.Facts) { f.Findings = []readiness.Finding{minor, open, open, accepted} }, readiness.NotReady, []readiness.Code{readiness.FindingsOpen, readiness.FindingsOpen}, "not ready to ship: 2 critical findings, 1 minor finding"},
		"minor ones may":       {&spec.ReadyWhen{NoFindings: []string{"critical", "major"}}, func(f *readiness.Facts) { f.Findings = []readiness.Finding{minor} }, readiness.Ready, nil, "ready to ship"},
		"critical ones do not": {&spec.ReadyWhen{NoFindings: []string{"critical"}}, func(f *readiness.Facts) { f.Findings = []readiness.Finding{minor, open} }, readiness.NotReady, []readiness.Code{readiness.FindingsOpen}, "not ready to ship: 1 critical finding"},
		"not observed":         {nil, func(f *readiness.Facts) { f.Tally.AsExpected, f.Tally.NotObserved = 9, 1 }, readiness.NotReady, []readiness.Code{readiness.NotObserved}, "not ready to ship: 1 case not observed"},
		"some may be":          {&spec.ReadyWhen{MaxNotObserved: 1}, func(f *readiness.Facts) { f.Tally.AsExpected, f.Tally.NotObserved = 9, 1 }, readiness.Ready, nil, "ready to ship"},
		"never run":            {nil, func(f *readiness.Facts) { f.Run, f.Tally = 0, report.Tally{Total: 10, NotRun: 10} }, readiness.NotKnown, []readiness.Code{readiness.NeverRun}, "not known whether it may ship: never run"},
		"begun":                {nil, func(f *readiness.Facts) { f.Tally.AsExpected, f.Tally.NotRun, f.Running = 4, 6, true }, readiness.NotKnown, []readiness.Code{readiness.InProgress}, "not known whether it may ship: a run is in progress (4 of 10 cases done)"},
		"stopped":              {nil, func(f *readiness.Facts) { f.Tally.AsExpected, f.Tally.NotRun = 4, 6 }, readiness.NotKnown, []readiness.Code{readiness.CasesNotRun}, "not known whether it may ship: 6 of 10 cases not run"},
		"stopped, and odd": {nil, func(f *readiness.Facts) {
			f.Tally.AsExpected, f.Tally.NotRun, f.Findings = 4, 6, []readiness.Finding{open}
		}, readiness.NotReady, []readiness.Code{readiness.FindingsOpen, readiness.CasesNotRun}, "not ready to ship: 1 critical finding, 6 of 10 cases not run"},
		"another revision":    {nil, func(f *readiness.Facts) { f.Newest = 5 }, readiness.NotKnown, []readiness.Code{readiness.RulesChanged}, "not known whether it may ship: the rules changed since the run (revision 4, now 5)"},
		"enough shown":        {&spec.ReadyWhen{MinCoverage: 95}, func(*readiness.Facts) {}, readiness.Ready, nil, "ready to ship"},
		"too little shown":    {&spec.ReadyWhen{MinCoverage: 96}, func(*readiness.Facts) {}, readiness.NotReady, []readiness.Code{readiness.CoverageLow}, "not ready to ship: coverage 95 % (at least 96 % needed)"},
		"nothing known of it": {&spec.ReadyWhen{MinCoverage: 96}, func(f *readiness.Facts) { f.Promised = 0 }, readiness.NotKnown, []readiness.Code{readiness.CoverageUnknown}, "not known whether it may ship: coverage not known (at least 96 % needed)"},
		"in time":             {&spec.ReadyWhen{MaxDays: 7}, func(f *readiness.Facts) { f.Started = now.Add(-7*24*time.Hour - time.Hour) }, readiness.Ready, nil, "ready to ship"},
		"too long ago":        {&spec.ReadyWhen{MaxDays: 7}, func(f *readiness.Facts) { f.Started = now.Add(-8 * 24 * time.Hour) }, readiness.NotKnown, []readiness.Code{readiness.TooOld}, "not known whether it may ship: last run 8 days ago (at most 7 allowed)"},
		"too shallow":         {&spec.ReadyWhen{Depth: "thorough"}, func(*readiness.Facts) {}, readiness.NotKnown, []readiness.Code{readiness.TooShallow}, "not known whether it may ship: run at standard depth (thorough needed)"},
		"deep enough":         {&spec.ReadyWhen{Depth: "standard"}, func(*readiness.Facts) {}, readiness.Ready, nil, "ready to ship"},
		"no cases":            {nil, func(f *readiness.Facts) { f.Problem = "line 3: no fields" }, readiness.NotKnown, []readiness.Code{readiness.NotDesigned}, "not known whether it may ship: no cases can be designed (line 3: no fields)"},
		"a requirement": {nil, func(f *readiness.Facts) {
			f.Requirements = []readiness.Requirement{{State: readiness.RequirementNotTested}, {State: readiness.RequirementOdd}}
		}, readiness.NotKnown, []readiness.Code{readiness.RequirementsUnseen}, "not known whether it may ship: 1 requirement not tested"},
	} {
		f := whole()
		c.change(f)
		v := readiness.Of(c.asked, f, now)
		require.Equal(t, c.state, v.State, name)
		require.EqualValues(t, c.says, v.Headline, name)
		var codes []readiness.Code
		for _, r := range v.Reasons {
			codes = append(codes, r.Code)
		}
		require.Equal(t, c.codes, codes, name)
	}
}

func TestAccessAndJourneysStandInTheWayToo(t *testing.T) {
	t.Parallel()
	week := &spec.ReadyWhen{MaxDays: 7}
	never := readiness.OfChecks(nil, &readiness.Checks{}, now)
	odd := readiness.OfChecks(week, &readiness.Checks{Done: true, Started: now, Total: 40, Odd: 2, Dark: 1}, now)
	old := readiness.OfChecks(week, &readiness.Checks{Done: true, Started: now.AddDate(0, 0, -9), Total: 40}, now)
	fine := readiness.OfChecks(week, &readiness.Checks{Done: true, Started: now, Total: 40}, now)
	require.EqualValues(t, "not known whether it may ship: never run", never.Headline)
	require.EqualValues(t, "not ready to ship: 2 of 40 checks odd, 1 of 40 checks not observed", odd.Headline)
	require.EqualValues(t, "not known whether it may ship: last run 9 days ago (at most 7 allowed)", old.Headline)
	require.Equal(t, readiness.Ready, fine.State)
	require.EqualValues(t, "not ready to ship: 1 of 3 parts not ready, 1 not fully tested", readiness.OfAll([]readiness.Verdict{never, odd, fine}).Headline)
	require.EqualValues(t, "not ready to ship: 1 of 2 parts not ready", readiness.OfAll([]readiness.Verdict{odd, fine}).Headline)
	require.EqualValues(t, "not known whether it may ship: 1 of 2 parts not fully tested", readiness.OfAll([]readiness.Verdict{never, fine}).Headline)
	require.Equal(t, readiness.Ready, readiness.OfAll([]readiness.Verdict{fine, fine}).State)
	require.Equal(t, readiness.NotKnown, readiness.OfAll(nil).State)
}

func TestRequirementsAreToldByTheirRules(t *testing.T) {
	t.Parallel()
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {id: name, name: name, rules: [{required: {requirement: {id: R-1, link: "https://wiki.example/r1"}}}, {length: {max: 9, layers: [server, browser], requirement: {id: R-2}}}]}
  - {id: size, name: size, kind: number, rules: [{required: {requirement: {id: R-1}}}, {range: {min: 1, requirement: {id: R-3}}}]}
across: [{id: small, must_hold: 'size < 9', requirement: {id: R-4}}]
`))
	require.NoError(t, err)
	of := form.Requirements()
	require.Equal(t, []spec.RequirementRules{
		{Requirement: spec.Requirement{ID: "R-1", Link: "https://wiki.example/r1"}, Rules: []string{"name.required", "size.required"}},
		{Requirement: spec.Requirement{ID: "R-2"}, Rules: []string{"name.length", "name.length_browser"}},
		{Requirement: spec.Requirement{ID: "R-3"}, Rules: []string{"size.range"}},
		{Requirement: spec.Requirement{ID: "R-4"}, Rules: []string{"across.small"}},
	}, of)
	r := report.New(form, nil)
	add := func(id, rule string, v judge.Verdict) {
		c := &testcase.Case{ID: id, Covers: []testcase.Cover{{Kind: testcase.CoversRule, Of: rule}}}
		r.Cases = append(r.Cases, c)
		if v != "" {
			r.Results[id] = &report.Result{Case: id, Verdict: v}
		}
	}
	add("blank", "name.required", judge.AsExpected)
	add("no size", "size.required", judge.Odd)
	add("long", "name.length", judge.AsExpected)
	add("short", "name.length_browser", judge.NotObserved)
	add("far", "size.range", "")
	add("large", "across.small", judge.AsExpected)
	found := []finding.Finding{
		{ID: "everywhere", Cause: report.Cause{Check: judge.Secrets}, Cases: []string{"blank", "no size", "long"}},
		{ID: "accepted", Headline: "Size accepted when left blank", Cause: report.Cause{Check: judge.Outcome, Rule: "size.required"}, Cases: []string{"no size"}},
	}
	var got []any
	for _, one := range readiness.Requirements(r, found) {
		got = append(got, one.ID, one.State, one.Cases, one.Observed, one.Findings)
	}
	require.Equal(t, []any{
		"R-1", readiness.RequirementOdd, 2, 2,
		[]string{"accepted"},
		"R-2", readiness.RequirementNotObserved, 2, 1,
		[]string{},
		"R-3", readiness.RequirementNotTested, 1, 0,
		[]string{},
		"R-4", readiness.RequirementAsExpected, 1, 1,
		[]string{},
	}, got)
}
