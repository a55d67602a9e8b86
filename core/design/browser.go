package design

import (
	"slices"

	"oddtick/core/prose"
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
		if f.Kind.Untouched() || f.Kind == spec.Upload || testcase.RuleOf(f, spec.RuleSameAs) != nil {
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
			case r.Kind == spec.RuleMustBeChecked:
				b.AddFieldCase(testcase.Quick, f, testcase.LocalID(r)+".unticked", phrases.NotChecked.Text(), testcase.Partitioning, covers, testcase.Recipe{Make: testcase.Absent}, testcase.Mark{Scale: "state", At: 0, Label: "not checked"})
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
		if c.Language != "" || last.Forged != "" || last.Concurrent || last.Back || last.Driver != submission.HTTP || last.Do != testcase.Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] || len(last.Without) > 0 || len(last.Extra) > 0 || last.Body != nil {
			continue
		}
		if cannotBeEntered[b.Maker.Kinds[last.Breaks[0]]] || b.Maker.Form.Field(last.Breaks[0]) != nil { // a honeypot is not seen either
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

// browsing makes the usual case once more in each further way of using a browser, and on a narrow screen also those in which the browser shows
// the message of a rule: one of each field's, as a field's messages stand at one place, and all at depth thorough.
func browsing(b *testcase.Builder) {
	if b.Maker.Form.Form.Page == "" {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	for i, by := range b.Maker.Browsing {
		in := func(title prose.Text) prose.Text { return phrases.BrowsedBy[string(by)].With("title", title) }
		seen := map[string]bool{}
		for _, c := range slices.Clone(b.Cases) {
			last := c.Last()
			if by != spec.Narrow || c.Browsing != "" || !last.Unchecked || last.Driver != submission.Browser || len(last.Breaks) != 1 {
				continue
			}
			name := c.Name
			name.Role += "." + string(by)
			twin := b.Twin(c, name, testcase.Covering(testcase.CoversMessage, last.Breaks[0], string(by)))
			twin.Title, twin.Browsing = in(c.Title), by
			depth := testcase.Standard
			if seen[c.Row] {
				depth = testcase.Thorough
			}
			seen[c.Row] = true
			b.Add(depth, twin)
		}
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID("form.usual." + string(by)), Title: in(phrases.AllAsAskedFor.Text()), Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Browsing: by,
			Covers: testcase.Covering(testcase.CoversGuess, "form", "usual "+string(by)), Mark: testcase.Mark{Scale: "requests", At: 31 + float64(i), Label: string(by)},
			Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Inputs: b.Inputs(0, nil)}},
		})
	}
}

// replacements are answers that do not come, or that the page's script cannot use.
func replacements(b *testcase.Builder) {
	if b.Maker.Form.Form.Page == "" {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	for i, r := range []struct {
		by         spec.Replaced
		role       string // in ids
		title      phrases.Phrase
		shortTitle string
	}{
		{spec.NetworkLost, "network_lost", phrases.NetworkLost, "network lost"},
		{spec.ServerError, "server_error", phrases.ServerError, "server error"},
		{spec.Unauthorized, "unauthorised", phrases.Unauthorized, "status 401"},
		{spec.Slow, "slow", phrases.SlowAnswer, "slow"},
	} {
		if _, tried := b.Maker.Form.Form.OnFailure.Of(r.by); !tried {
			continue
		}
		b.Add(testcase.Standard, &testcase.Case{
			ID: b.ID("form." + r.role), Title: r.title.Text(), Row: testcase.RowForm, Technique: testcase.ErrorGuessing, Covers: testcase.Covering(testcase.CoversGuess, "form", r.role),
			Mark: testcase.Mark{Scale: "requests", At: 20 + float64(i), Label: r.shortTitle}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, Replaced: r.by, Inputs: b.Inputs(0, nil)}},
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

// backAndForth goes through a form's steps, back to the first and forth again before it is submitted: what was entered stays.
func backAndForth(b *testcase.Builder) {
	if !slices.ContainsFunc(b.Maker.Form.Form.Stages, func(s spec.Stage) bool { return s.Back != "" }) {
		return
	}
	b.Driver = submission.Browser
	defer func() { b.Driver = submission.HTTP }()
	b.Add(testcase.Standard, &testcase.Case{
		ID: b.ID("form.back_and_forth"), Title: phrases.BackAndForth.Text(), Row: testcase.RowForm, Technique: testcase.Transitions, Covers: testcase.Covering(testcase.CoversGuess, "form", "back and forth"),
		Mark: testcase.Mark{Scale: "requests", At: 29, Label: "back and forth"}, Steps: []testcase.Step{{Do: testcase.Submit, Driver: b.Driver, BackAndForth: true, Inputs: b.Inputs(0, nil)}},
	})
}

// cannotBeEntered are kinds of rules that a control's own values never break.
var cannotBeEntered = map[spec.RuleKind]bool{spec.RuleNumber: true, spec.RuleDate: true, spec.RuleTime: true, spec.RuleOneOfOptions: true}
