// Package manual makes submissions of values that a person entered, and takes what a person saw.
package manual

import (
	"context"
	"time"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/driver"
	"oddtick/engine/target"
)

// Values are what is entered by hand, by field id: none for a control that is left out, several for several choices.
type Values map[string][]string

// Tried is one submission by hand.
type Tried struct {
	report.StepResult
	// Failure says why nothing could be submitted.
	Failure string `json:"failure,omitempty"`
}

// Way is how a submission by hand is made.
type Way struct {
	Driver submission.Driver
	// Unchecked switches the browser's own checks off.
	Unchecked bool
}

// overHTTPWay is a submission without a browser.
var overHTTPWay = Way{Driver: submission.HTTP}

// Try submits values by hand once, as a new visitor, and judges what comes of it by what the form promises so far.
func Try(ctx context.Context, t *target.Target, values Values, by Way) (tried *Tried, picture []byte, err error) {
	if _, err := t.Foreign(ctx); err != nil { // what others changed before is none of this submission's
		return nil, nil, err
	}
	v, err := t.VisitorBy(ctx, by.Driver)
	if err != nil {
		return nil, nil, err
	}
	defer v.Close()
	a := &attempt.Attempt{Target: t, Number: 1, Watch: true, Visitor: v, Drawn: true}
	a.Begin()
	before, failure, err := a.Open(ctx)
	if err != nil {
		return nil, nil, err
	}
	if failure != "" {
		return &Tried{Failure: failure}, nil, nil
	}
	sent := byHand(t, before.Form, values, by.Driver)
	world, err := a.World(ctx, sent)
	if err != nil {
		return nil, nil, err
	}
	world.Unchecked = by.Unchecked
	step, err := a.Submit(ctx, testcase.Submit, before, sent, world)
	if err != nil {
		return nil, nil, err
	}
	if o := step.Observation; o != nil && o.Drawn != nil {
		picture = a.Pictures[o.Drawn.Picture]
	}
	wording.Step(a.Target.Form, step.Expectation, step.Judgement)
	return &Tried{StepResult: *step}, picture, nil
}

// Expected is what values entered by hand must lead to. Nothing is submitted; what the page itself would send is not known.
func Expected(p *spec.Prepared, values Values, by Way, taken map[string]bool) *oracle.Expectation {
	sub := &submission.Submission{Driver: by.Driver, Encoding: "urlencoded"}
	for _, f := range p.Fields {
		for _, v := range values[f.ID] {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: f.Name, Value: v})
		}
	}
	for _, token := range p.Form.Token {
		sub.Pairs = append(sub.Pairs, submission.Pair{Name: token, Value: "of the page"})
	}
	return oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: by.Driver, Unchecked: by.Unchecked, LookupResults: taken}, sub)
}

// byHand orders values as a browser would send them, with what the page's own controls add; a field without values is left as the
// page holds it when it is no field for people.
func byHand(t *target.Target, form *observation.Form, values Values, by submission.Driver) *submission.Submission {
	out := &submission.Submission{Driver: by, Encoding: form.Encoding}
	placed := map[string]bool{}
	// of several fields of one name the next
	fieldOf := func(name string) (found *spec.PreparedField) {
		for _, f := range t.Form.Fields {
			if f.Name == name && (found == nil || placed[found.ID]) {
				found = f
			}
		}
		return found
	}
	add := func(f *spec.PreparedField) {
		placed[f.ID] = true
		for _, v := range values[f.ID] {
			out.Pairs = append(out.Pairs, submission.Pair{Name: f.Name, Value: v})
		}
	}
	for i := range form.Controls {
		c := &form.Controls[i]
		f := fieldOf(c.Name)
		_, entered := values[idOf(f)]
		switch {
		case f != nil && placed[f.ID]:
		case f != nil && (entered || !f.Kind.Untouched()):
			add(f)
		case driver.Successful(c):
			out.Pairs = append(out.Pairs, submission.Pair{Name: c.Name, Value: c.Value})
		}
	}
	for _, f := range t.Form.Fields {
		if _, entered := values[f.ID]; entered && !placed[f.ID] {
			add(f)
		}
	}
	return out
}

func idOf(f *spec.PreparedField) string {
	if f == nil {
		return ""
	}
	return f.ID
}
