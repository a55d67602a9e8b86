package engine

import (
	"context"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/wording"
)

// Handed is a case as a person is to make it.
type Handed struct {
	Case        string              `json:"case"`
	Attempt     int                 `json:"attempt"`
	Values      []HandedValue       `json:"values"`
	Expectation *oracle.Expectation `json:"expectation"`
	Reason      prose.Text          `json:"reason"`
	// Why says why the case cannot be made.
	Why string `json:"why,omitempty"`

	sent *oracle.Submission
}

// HandedValue is what is to stand in one field.
type HandedValue struct {
	Field string    `json:"field"`
	Label string    `json:"label"`
	Kind  spec.Kind `json:"kind"`
	// Value is what is typed, or the label of the option chosen; nothing for a box that stays unticked.
	Value  string `json:"value"`
	Ticked bool   `json:"ticked,omitempty"`
	// Left: nothing is entered or chosen.
	Left bool `json:"left,omitempty"`
}

// Handable tells whether a person can make a case: one submission of values that are entered.
func Handable(c *design.Case) bool {
	if len(c.Steps) != 1 || c.Off() || InBrowser(c) {
		return false
	}
	s := c.Last()
	return s.Do == design.Submit && len(s.Extra) == 0 && len(s.Without) == 0 && s.Body == nil
}

// Hand gives a case to a person. What changed in the watched tables before is none of the case's.
func (r *Run) Hand(ctx context.Context, c *design.Case, number int) (*Handed, error) {
	if _, err := r.foreign(ctx); err != nil {
		return nil, err
	}
	a := &attempt{r: r, c: c, number: number}
	a.env = design.Env{Run: r.c.Number, Try: (number - 1) * mostTries, Now: time.Now(), OnPage: map[string]string{}}
	out := &Handed{Case: c.ID, Attempt: number, Values: []HandedValue{}}
	form := &observation.Form{Encoding: r.p.Form.Submit.Encoding}
	for _, f := range r.p.Fields {
		form.Controls = append(form.Controls, observation.Control{Name: f.Name})
	}
	for _, token := range r.p.Form.Token {
		form.Controls = append(form.Controls, observation.Control{Name: token, Value: "of the page"})
	}
	sent, world, stop, err := a.compose(ctx, 0, form)
	if err != nil {
		return nil, err
	}
	if stop != nil {
		out.Why = stop.Why.Text
		return out, nil
	}
	world.Driver, sent.Driver = oracle.Browser, oracle.Browser
	out.sent, out.Expectation = sent, oracle.Expect(r.p, world, sent)
	wording.Expectation(r.p, out.Expectation)
	out.Reason = wording.Reason(out.Expectation)
	for i := range out.Expectation.Rows {
		columns := out.Expectation.Rows[i].Columns
		for k := range columns {
			if f := r.p.Field(columns[k].Field); f != nil && f.Kind.Untouched() {
				columns[k].Source = oracle.HoldsAny // what the page holds there is not known
			}
		}
	}
	for _, f := range r.p.Fields {
		if f.Kind.Untouched() {
			continue
		}
		values := sent.Values(f.Name)
		v := HandedValue{Field: f.ID, Label: f.Label, Kind: f.Kind, Left: len(values) == 0 || values[0] == "", Ticked: f.Kind == spec.Checkbox && len(values) > 0}
		for i, value := range values {
			for _, o := range f.Options {
				if o.Value == value && o.Label != "" {
					value = o.Label
				}
			}
			if i > 0 {
				v.Value += ", "
			}
			v.Value += value
		}
		if f.Kind == spec.Checkbox {
			v.Value, v.Left = "", false
		}
		out.Values = append(out.Values, v)
	}
	return out, nil
}

// Seen is what a person says of a case.
type Seen struct {
	Verdict judge.Verdict
	Note    string
	Picture []byte // JPEG or PNG
}

// Observe takes what a person saw, with what changed in the watched tables since the case was handed out.
func (r *Run) Observe(ctx context.Context, c *design.Case, h *Handed, seen Seen) (*report.Result, error) {
	o := &observation.Step{Sent: h.sent, At: time.Now().UTC(), Exchanges: []observation.Exchange{}, Watched: r.dbs.tables(), Changes: []observation.Change{}}
	changes, err := r.changes(ctx)
	if err != nil {
		return nil, err
	}
	o.Changes = append(o.Changes, changes...)
	a := &attempt{r: r, c: c, number: h.Attempt, result: &report.Result{Case: c.ID, Attempt: h.Attempt, Started: o.At, By: "hand"}}
	if len(seen.Picture) > 0 {
		o.Drawn = &observation.Drawn{Picture: "1"}
		a.pictures = map[string][]byte{"1": seen.Picture}
	}
	a.result.Steps = []report.StepResult{{Do: design.Submit, Expectation: h.Expectation, Observation: o, Judgement: judge.ByHand(r.p, h.Expectation, o, seen.Verdict, seen.Note)}}
	a.finish()
	return a.result, nil
}
