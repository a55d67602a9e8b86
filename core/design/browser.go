package design

import (
	"slices"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
)

// browserLayer covers the rules that the browser must hold, by typing there.
func browserLayer(s *testcase.Builder) {
	s.Layer, s.Driver = spec.InBrowser, submission.Browser
	defer func() { s.Layer, s.Driver = spec.OnServer, submission.HTTP }()
	for _, f := range s.Maker.Form.Fields {
		if f.Kind.Untouched() || f.Kind == spec.Upload || testcase.RuleOf(f, spec.RuleAgrees) != nil {
			continue
		}
		for _, r := range f.Rules {
			if r.Layer != spec.InBrowser {
				continue
			}
			covers := testcase.Covering(testcase.CoversPartition, r.ID, testcase.BrokenPoint)
			switch {
			case r.Kind == spec.RuleRequired:
				s.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".blank", "left blank", testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed}, testcase.Mark{Scale: testcase.ScaleOf(f), At: -1e12, Label: "blank"})
			case r.Kind == spec.RuleTicked:
				s.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".unticked", "not ticked", testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: "state", At: 0, Label: "not ticked"})
			case r.Auto != nil && s.Maker.Sets[f.ID] != nil:
				broken(s, f, r)
			}
		}
		boundaries(s, f)
	}
}

// seenInBrowser submits one case that breaks each rule of the server from the browser too, its own checks switched off, so that
// messages drawn by script are seen, and whether they are visible.
func seenInBrowser(s *testcase.Builder) {
	if s.Maker.Form.Form.Page == "" {
		return // an endpoint
	}
	s.Driver = submission.Browser
	defer func() { s.Driver = submission.HTTP }()
	seen := map[string]bool{}
	for _, c := range slices.Clone(s.Cases) {
		last := c.Last()
		if c.Language != "" || last.Forged != "" || last.Together || last.Back || last.Driver != submission.HTTP || last.Do != testcase.Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] || len(last.Without) > 0 || len(last.Extra) > 0 || last.Body != nil {
			continue
		}
		if cannotBeEntered[s.Maker.Kinds[last.Breaks[0]]] {
			continue
		}
		seen[last.Breaks[0]] = true
		by := c.Name
		by.Driver = submission.Browser
		twin := s.Twin(c, by, testcase.Covering(testcase.CoversMessage, last.Breaks[0], "in the browser"))
		twin.Title += ", from the browser with its own checks off"
		for i := range twin.Steps {
			twin.Steps[i].Driver, twin.Steps[i].Unchecked = submission.Browser, true
		}
		s.Add(testcase.Standard, twin)
	}
}

// replacements are answers that do not come, or that the page's script cannot use.
func replacements(s *testcase.Builder) {
	if s.Maker.Form.Form.Page == "" {
		return
	}
	s.Driver = submission.Browser
	defer func() { s.Driver = submission.HTTP }()
	for i, by := range []spec.Replaced{spec.NetworkLost, spec.ServerError, spec.Unauthorised, spec.Slow} {
		if _, tried := s.Maker.Form.Form.Unanswered.Of(by); !tried {
			continue
		}
		role := spec.Identifier(string(by))
		s.Add(testcase.Standard, &testcase.Case{
			ID: s.Id("form." + role), Title: "the answer replaced: " + string(by), Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", role),
			Mark: testcase.Mark{Scale: "requests", At: 20 + float64(i), Label: string(by)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: s.Driver, Replaced: by, Inputs: s.Inputs(0, nil)}},
		})
	}
}

// reloaded loads the page again after acceptance, where that is promised to bring the form back.
func reloaded(s *testcase.Builder) {
	if s.Maker.Form.Form.Accepted.Reloaded == "" || s.Maker.Form.Form.Page == "" {
		return
	}
	s.Driver = submission.Browser
	defer func() { s.Driver = submission.HTTP }()
	s.Add(testcase.Standard, &testcase.Case{
		ID: s.Id("form.reloaded"), Title: "the page loaded again after acceptance", Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", "reloaded"),
		Mark: testcase.Mark{Scale: "requests", At: 30, Label: "loaded again"}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: s.Driver, Inputs: s.Inputs(0, nil)}, {Do: testcase.Reload, Driver: s.Driver}},
	})
}

// cannotBeEntered are kinds of rules that a control's own values never break.
var cannotBeEntered = map[spec.RuleKind]bool{spec.RuleNumber: true, spec.RuleDate: true, spec.RuleTime: true, spec.RuleListed: true}
