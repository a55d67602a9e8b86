package manual

import (
	"context"
	"strings"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/wording"
	"oddtick/engine/attempt"
	"oddtick/engine/target"
)

// Instructions is a case as a person is to make it.
type Instructions struct {
	Case    string `json:"case"`
	Attempt int    `json:"attempt"`
	// Page is the address at which the form is opened.
	Page        string              `json:"page"`
	Values      []Entry             `json:"values"`
	Expectation *oracle.Expectation `json:"expectation"`
	Reason      prose.Text          `json:"reason"`
	// Why says why the case cannot be made.
	Why string `json:"why,omitempty"`

	sent *submission.Submission
	// changes are what was seen of the watched tables since the case was handed out.
	changes []observation.Change
}

// Entry is what is to stand in one field.
type Entry struct {
	Field string    `json:"field"`
	Label string    `json:"label"`
	Kind  spec.Kind `json:"kind"`
	// Value is what is typed, or the label of the option chosen; nothing for a box that stays unticked.
	Value   string `json:"value"`
	Checked bool   `json:"checked,omitempty"`
	// Left: nothing is entered or chosen.
	Left bool `json:"left,omitempty"`
}

// Handable tells whether a person can make a case: one submission of values that are entered.
func Handable(c *testcase.Case) bool {
	if len(c.Steps) != 1 || c.Off() || c.InBrowser() {
		return false
	}
	s := c.Last()
	byPage := s.Forged == "" && c.ChosenBy == "" && s.Expect != oracle.NothingFurther // which a honeypot leads to
	return byPage && s.Do == testcase.Submit && len(s.Extra) == 0 && len(s.Without) == 0 && s.Body == nil
}

// Hand gives a case to a person. What changed in the watched tables before is none of the case's.
func Hand(ctx context.Context, t *target.Target, c *testcase.Case, number int) (*Instructions, error) {
	if _, err := t.Foreign(ctx); err != nil {
		return nil, err
	}
	a := &attempt.Attempt{Target: t, Case: c, Number: number}
	a.Env = testcase.Env{Run: t.Config.Number, Try: (number - 1) * attempt.MostTries, Now: time.Now(), OnPage: map[string]string{}}
	out := &Instructions{Case: c.ID, Attempt: number, Page: strings.TrimSuffix(t.Config.Site.Address, "/") + t.Form.Form.Page, Values: []Entry{}}
	form := &observation.Form{Encoding: t.Form.Form.Submit.Encoding}
	for _, f := range t.Form.Fields {
		form.Controls = append(form.Controls, observation.Control{Name: f.Name})
	}
	for _, token := range t.Form.Form.Token {
		form.Controls = append(form.Controls, observation.Control{Name: token, Value: "of the page"})
	}
	sent, world, stop, err := a.Compose(ctx, 0, form)
	if err != nil {
		return nil, err
	}
	if stop != nil {
		out.Why = stop.Why.Text
		return out, nil
	}
	world.Driver, sent.Driver = submission.Browser, submission.Browser
	out.sent, out.Expectation = sent, oracle.Expect(t.Form, world, sent)
	wording.Expectation(t.Form, out.Expectation)
	out.Reason = wording.Reason(out.Expectation)
	for i := range out.Expectation.Rows {
		columns := out.Expectation.Rows[i].Columns
		for k := range columns {
			if f := t.Form.Field(columns[k].Field); f != nil && f.Kind.Untouched() {
				columns[k].Source = oracle.HoldsAny // what the page holds there is not known
			}
		}
	}
	for _, f := range t.Form.Fields {
		if f.Kind.Untouched() {
			continue
		}
		values := sent.AllOf(f)
		v := Entry{Field: f.ID, Label: f.Label, Kind: f.Kind, Left: len(values) == 0 || values[0] == "", Checked: f.Kind == spec.Checkbox && len(values) > 0}
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

// Changes are what changed in the watched tables since the case was handed out.
func Changes(ctx context.Context, t *target.Target, h *Instructions) ([]observation.Change, error) {
	news, err := t.Changes(ctx)
	h.changes = append(h.changes, news...)
	return h.changes, err
}

// Observe takes what a person saw, with what changed in the watched tables since the case was handed out.
func Observe(ctx context.Context, t *target.Target, c *testcase.Case, h *Instructions, seen Seen) (*report.Result, error) {
	o := &observation.Step{Sent: h.sent, At: time.Now().UTC(), Exchanges: []observation.Exchange{}, Watched: t.Databases.Tables(), Changes: []observation.Change{}}
	changes, err := Changes(ctx, t, h)
	if err != nil {
		return nil, err
	}
	o.Changes = append(o.Changes, changes...)
	a := &attempt.Attempt{Target: t, Case: c, Number: h.Attempt, Result: &report.Result{Case: c.ID, Attempt: h.Attempt, Started: o.At, By: "hand"}}
	if len(seen.Picture) > 0 {
		o.Drawn = &observation.Drawn{Picture: "1"}
		a.Pictures = map[string][]byte{"1": seen.Picture}
	}
	a.Result.Steps = []report.StepResult{{Do: testcase.Submit, Expectation: h.Expectation, Observation: o, Judgement: judge.ByHand(t.Form, h.Expectation, o, seen.Verdict, seen.Note)}}
	a.Finish()
	return a.Result, nil
}
