package design

import (
	"slices"

	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// browserLayer covers the rules that the browser must hold, by typing there.
func browserLayer(b *testcase.Builder) {
	b.Layer, b.Driver = spec.InBrowser, submission.Browser
	defer func() { b.Layer, b.Driver = spec.OnServer, submission.HTTP }()
	for _, f := range b.Maker.Form.Fields {
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
				b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".blank", phrases.LeftBlank.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Fixed}, testcase.Mark{Scale: testcase.ScaleOf(f), At: -1e12, Label: "blank"})
			case r.Kind == spec.RuleTicked:
				b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".unticked", phrases.NotTicked.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: "state", At: 0, Label: "not ticked"})
			case r.Auto != nil && b.Maker.Sets[f.ID] != nil:
				broken(b, f, r)
			}
		}
		boundaries(b, f)
	}
}

// seenInBrowser submits one case that breaks each rule of the server from the browser too, its own checks switched off, so that
// messages drawn by script are seen, and whether they are visible.
func seenInBrowser(b *testcase.Builder) {
	if b.Maker.Form.Form.Page == "" {
		return // an endpoint
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	seen := map[string]bool{}
	for _, c := range slices.Clone(b.Cases) {
		last := c.Last()
		if c.Language != "" || last.Forged != "" || last.Together || last.Back || last.Driver != submission.HTTP || last.Do != testcase.Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] || len(last.Without) > 0 || len(last.Extra) > 0 || last.Body != nil {
			continue
		}
		if cannotBeEntered[b.Maker.Kinds[last.Breaks[0]]] {
			continue
		}
		seen[last.Breaks[0]] = true
		by := c.Name
		by.Driver = submission.Browser
		twin := b.Twin(c, by, testcase.Covering(testcase.CoversMessage, last.Breaks[0], "in the browser"))
		twin.Title = phrases.UncheckedTwin.With("title", c.Title)
		for i := range twin.Steps {
			twin.Steps[i].Driver, twin.Steps[i].Unchecked = submission.Browser, true
		}
		b.Add(testcase.Standard, twin)
	}
}

// replacements are answers that do not come, or that the page's script cannot use.
func replacements(b *testcase.Builder) {
	if b.Maker.Form.Form.Page == "" {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	for i, by := range []spec.Replaced{spec.NetworkLost, spec.ServerError, spec.Unauthorised, spec.Slow} {
		if _, tried := b.Maker.Form.Form.Unanswered.Of(by); !tried {
			continue
		}
		role := spec.Identifier(string(by))
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID("form." + role), Title: phrases.AnswerReplaced.With("by", by), Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", role),
			Mark: testcase.Mark{Scale: "requests", At: 20 + float64(i), Label: string(by)}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Replaced: by, Inputs: b.Inputs(0, nil)}},
		})
	}
}

// reloaded loads the page again after acceptance, where that is promised to bring the form back.
func reloaded(b *testcase.Builder) {
	if b.Maker.Form.Form.Accepted.Reloaded == "" || b.Maker.Form.Form.Page == "" {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	b.Add(testcase.Standard, &testcase.Case{
		ID: b.ID("form.reloaded"), Title: phrases.LoadedAgain.Text(), Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", "reloaded"),
		Mark: testcase.Mark{Scale: "requests", At: 30, Label: "loaded again"}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, nil)}, {Do: testcase.Reload, Driver: b.Driver}},
	})
}

// cannotBeEntered are kinds of rules that a control's own values never break.
var cannotBeEntered = map[spec.RuleKind]bool{spec.RuleNumber: true, spec.RuleDate: true, spec.RuleTime: true, spec.RuleListed: true}
