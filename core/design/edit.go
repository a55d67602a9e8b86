package design

import (
	"context"
	"maps"
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// Manual is a case written by hand or imported.
const Manual Technique = "written by hand"

// apply joins the cases with what testers changed about them. Edits of cases that are no longer computed are kept in stale.
func (s *sheet) apply(edits []spec.CaseEdit) (stale []spec.CaseEdit) {
	for i := range edits {
		e := &edits[i]
		c := s.seen[e.Case]
		switch {
		case e.Own:
			c = s.own(e)
		case c == nil:
			stale = append(stale, *e)
			continue
		case len(e.Inputs) > 0 || len(e.Absent) > 0:
			c = s.typed(c, e)
		}
		if c == nil {
			stale = append(stale, *e)
			continue
		}
		c.Edit = e
		if e.Title != "" {
			c.Title = e.Title
		}
		if e.Kept || e.Own {
			c.depth = 0
		}
	}
	return stale
}

// own is a case written by hand: the usual submission with the values typed, by the driver that its id ends with.
func (s *sheet) own(e *spec.CaseEdit) *Case {
	driver := oracle.HTTP
	if strings.HasSuffix(e.Case, "/"+string(oracle.Browser)) {
		driver = oracle.Browser
	}
	s.add(Quick, &Case{
		ID: e.Case, Title: e.Title, Row: RowOwn, Technique: Manual, Covers: []Cover{}, Mark: Mark{"by hand", float64(len(s.cases)), short(e.Title)},
		Steps: []Step{{Do: Submit, Driver: driver, Inputs: s.inputs(0, s.typedRecipes(e))}},
	})
	return s.seen[e.Case]
}

// typed makes the case anew with the values typed in its last step.
func (s *sheet) typed(c *Case, e *spec.CaseEdit) *Case {
	changed := *c
	changed.Steps = slices.Clone(c.Steps)
	// what is typed may be about something else
	changed.Covers = []Cover{}
	last := changed.Last()
	last.Inputs = slices.Clone(last.Inputs)
	recipes := s.typedRecipes(e)
	for i, in := range last.Inputs {
		if r, ok := recipes[in.Field]; ok {
			last.Inputs[i].Recipe = r
		}
	}
	at := slices.Index(s.cases, c)
	s.cases = slices.Delete(s.cases, at, at+1)
	delete(s.seen, c.ID)
	s.add(Depths[c.depth], &changed)
	if s.seen[c.ID] == nil {
		return nil
	}
	// it keeps its place
	s.cases = slices.Insert(s.cases[:len(s.cases)-1], at, &changed)
	return &changed
}

func (s *sheet) typedRecipes(e *spec.CaseEdit) map[string]Recipe {
	out := map[string]Recipe{}
	for _, id := range slices.Sorted(maps.Keys(e.Inputs)) {
		out[id] = Recipe{Make: Fixed, Text: e.Inputs[id]}
	}
	for _, id := range e.Absent {
		out[id] = Recipe{Make: Absent}
	}
	return out
}

// beyond tells whether edits speak of cases that only the greatest depth has.
func (s *sheet) beyond(edits []spec.CaseEdit) bool {
	return slices.ContainsFunc(edits, func(e spec.CaseEdit) bool { return !e.Own && s.seen[e.Case] == nil })
}

// OwnID is the id of a case written by hand, by its title.
func OwnID(form, title string) string {
	role := spec.Identifier(title)
	if len(role) > 120 {
		role = role[:120]
	}
	return form + "/own." + role + "/http"
}

// Edited is a case with an edit, or one written by hand where c is nil. It is nil where it cannot be made, with the reason.
func (d *Designer) Edited(c *Case, e *spec.CaseEdit) (edited *Case, why string) {
	s := d.newSheet(context.Background(), map[draft]string{})
	if c != nil && !e.Own {
		copied := *c
		copied.Edit = nil
		s.cases, s.seen[c.ID] = []*Case{&copied}, &copied
	}
	s.apply([]spec.CaseEdit{*e})
	if len(s.cases) == 0 {
		if len(s.omitted) > 0 {
			why = s.omitted[0].Why
		}
		return nil, why
	}
	return s.cases[0], ""
}
