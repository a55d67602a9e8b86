package design

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// browserLayer covers the rules that the browser must hold, by typing there.
func (s *sheet) browserLayer() {
	s.layer, s.driver = spec.InBrowser, oracle.Browser
	defer func() { s.layer, s.driver = spec.OnServer, oracle.HTTP }()
	for _, f := range s.d.p.Fields {
		if f.Kind.Untouched() || f.Kind == spec.Upload || rule(f, spec.RuleAgrees) != nil {
			continue
		}
		for _, r := range f.Rules {
			if r.Layer != spec.InBrowser {
				continue
			}
			covers := cover(CoversPartition, r.ID, BrokenPoint)
			switch {
			case r.Kind == spec.RuleRequired:
				s.one(Quick, f, localID(r)+".blank", "left blank", Partitioning, covers, Recipe{Make: Fixed}, Mark{Scale: scaleOf(f), At: -1e12, Label: "blank"})
			case r.Kind == spec.RuleTicked:
				s.one(Quick, f, localID(r)+".unticked", "not ticked", Partitioning, covers, Recipe{Make: Absent}, Mark{"state", 0, "not ticked"})
			case r.Auto != nil && s.d.sets[f.ID] != nil:
				s.broken(f, r)
			}
		}
		s.boundaries(f)
	}
}

// seenInBrowser submits one case that breaks each rule of the server from the browser too, its own checks switched off, so that
// messages drawn by script are seen, and whether they are visible.
func (s *sheet) seenInBrowser() {
	if s.d.p.Form.Page == "" {
		return // an endpoint
	}
	s.driver = oracle.Browser
	defer func() { s.driver = oracle.HTTP }()
	seen := map[string]bool{}
	for _, c := range slices.Clone(s.cases) {
		last := c.Last()
		if c.Language != "" || last.Forged != "" || last.Together || last.Back || last.Driver != oracle.HTTP || last.Do != Submit || len(last.Breaks) != 1 || seen[last.Breaks[0]] || len(last.Without) > 0 || len(last.Extra) > 0 || last.Body != nil {
			continue
		}
		if cannotBeEntered[s.d.kinds[last.Breaks[0]]] {
			continue
		}
		seen[last.Breaks[0]] = true
		by := c.name
		by.driver = oracle.Browser
		twin := s.twin(c, by, cover(CoversMessage, last.Breaks[0], "in the browser"))
		twin.Title += ", from the browser with its own checks off"
		for i := range twin.Steps {
			twin.Steps[i].Driver, twin.Steps[i].Unchecked = oracle.Browser, true
		}
		s.add(Standard, twin)
	}
}

// replacements are answers that do not come, or that the page's script cannot use.
func (s *sheet) replacements() {
	if s.d.p.Form.Page == "" {
		return
	}
	s.driver = oracle.Browser
	defer func() { s.driver = oracle.HTTP }()
	for i, by := range []spec.Replaced{spec.NetworkLost, spec.ServerError, spec.Unauthorised, spec.Slow} {
		if _, tried := s.d.p.Form.Unanswered.Of(by); !tried {
			continue
		}
		role := spec.Identifier(string(by))
		s.add(Standard, &Case{
			ID: s.id("form." + role), Title: "the answer replaced: " + string(by), Row: RowForm, Technique: ErrorGuessing, Covers: cover(CoversGuess, "form", role),
			Mark: Mark{"requests", 20 + float64(i), string(by)}, Steps: []Step{{Do: Submit, Driver: s.driver, Replaced: by, Inputs: s.inputs(0, nil)}},
		})
	}
}

// reloaded loads the page again after acceptance, where that is promised to bring the form back.
func (s *sheet) reloaded() {
	if s.d.p.Form.Accepted.Reloaded == "" || s.d.p.Form.Page == "" {
		return
	}
	s.driver = oracle.Browser
	defer func() { s.driver = oracle.HTTP }()
	s.add(Standard, &Case{
		ID: s.id("form.reloaded"), Title: "the page loaded again after acceptance", Row: RowForm, Technique: ErrorGuessing, Covers: cover(CoversGuess, "form", "reloaded"),
		Mark: Mark{"requests", 30, "loaded again"}, Steps: []Step{{Do: Submit, Driver: s.driver, Inputs: s.inputs(0, nil)}, {Do: Reload, Driver: s.driver}},
	})
}

// cannotBeEntered are kinds of rules that a control's own values never break.
var cannotBeEntered = map[spec.RuleKind]bool{spec.RuleNumber: true, spec.RuleDate: true, spec.RuleTime: true, spec.RuleListed: true}
