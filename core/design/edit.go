package design

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"oddtick/core/design/decision"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
)

// Manual is a case written by hand or imported.
const Manual testcase.Technique = "added by hand"

// apply joins the cases with what testers changed about them. Edits of cases that are no longer computed are kept in stale.
func apply(b *testcase.Builder, edits []spec.CaseEdit) (stale []spec.CaseEdit) {
	for i := range edits {
		e := &edits[i]
		c := b.Seen[e.Case]
		switch {
		case e.Added:
			c = own(b, e)
		case c == nil:
			stale = append(stale, *e)
			continue
		case len(e.Inputs) > 0 || len(e.Absent) > 0:
			c = typed(b, c, e)
		}
		if c == nil {
			stale = append(stale, *e)
			continue
		}
		c.Edit = e
		if e.Title != "" {
			c.Title = prose.Text(e.Title)
		}
		if e.EveryDepth || e.Added {
			c.Level = 0
		}
	}
	return stale
}

// own is a case written by hand: the usual submission with the values typed.
func own(b *testcase.Builder, e *spec.CaseEdit) *testcase.Case {
	driver := submission.Driver(cmp.Or(e.Driver, string(submission.HTTP)))
	b.Add(testcase.Quick, &testcase.Case{
		ID: e.Case, Title: prose.Text(e.Title), Row: testcase.RowOwn, Technique: Manual, Covers: []testcase.Cover{}, Mark: testcase.Mark{Scale: "by hand", At: float64(len(b.Cases)), Label: decision.Short(e.Title), Given: true},
		Steps: []testcase.Step{{Do: testcase.Submit, Driver: driver, Inputs: b.Inputs(0, typedRecipes(b, e))}},
	})
	return b.Seen[e.Case]
}

// typed makes the case anew with the values typed in its last step.
func typed(b *testcase.Builder, c *testcase.Case, e *spec.CaseEdit) *testcase.Case {
	changed := *c
	changed.Steps = slices.Clone(c.Steps)
	// what is typed may be about something else
	changed.Covers = []testcase.Cover{}
	last := changed.Last()
	last.Inputs = slices.Clone(last.Inputs)
	recipes := typedRecipes(b, e)
	for i, in := range last.Inputs {
		if r, ok := recipes[in.Field]; ok {
			last.Inputs[i].Recipe = r
		}
	}
	at := slices.Index(b.Cases, c)
	b.Cases = slices.Delete(b.Cases, at, at+1)
	delete(b.Seen, c.ID)
	b.Add(testcase.Depths[c.Level], &changed)
	if b.Seen[c.ID] == nil {
		return nil
	}
	// it keeps its place
	b.Cases = slices.Insert(b.Cases[:len(b.Cases)-1], at, &changed)
	return &changed
}

func typedRecipes(b *testcase.Builder, e *spec.CaseEdit) map[string]testcase.Recipe {
	out := map[string]testcase.Recipe{}
	for _, id := range slices.Sorted(maps.Keys(e.Inputs)) {
		out[id] = testcase.Recipe{Make: testcase.Fixed, Text: e.Inputs[id]}
	}
	for _, id := range e.Absent {
		out[id] = testcase.Recipe{Make: testcase.Absent}
	}
	return out
}

// beyond tells whether edits speak of cases that only the greatest depth has.
func beyond(b *testcase.Builder, edits []spec.CaseEdit) bool {
	return slices.ContainsFunc(edits, func(e spec.CaseEdit) bool { return !e.Added && b.Seen[e.Case] == nil })
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
func (d *Designer) Edited(c *testcase.Case, e *spec.CaseEdit) (edited *testcase.Case, why prose.Text) {
	s := d.NewBuilder(context.Background(), map[testcase.Draft]string{})
	if c != nil && !e.Added {
		copied := *c
		copied.Edit = nil
		s.Cases, s.Seen[c.ID] = []*testcase.Case{&copied}, &copied
	}
	apply(s, []spec.CaseEdit{*e})
	if len(s.Cases) == 0 {
		if len(s.Omitted) > 0 {
			why = s.Omitted[0].Why
		}
		return nil, why
	}
	return s.Cases[0], ""
}
