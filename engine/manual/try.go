// Package manual makes submissions of values that a person entered, and takes what a person saw.
package manual

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/draft"
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
	v, err := t.VisitorBy(ctx, by.Driver, "")
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
	byName := map[string]*spec.PreparedField{}
	for _, f := range t.Form.Fields {
		byName[f.Name] = f
	}
	placed := map[string]bool{}
	add := func(f *spec.PreparedField) {
		placed[f.ID] = true
		for _, v := range values[f.ID] {
			out.Pairs = append(out.Pairs, submission.Pair{Name: f.Name, Value: v})
		}
	}
	for i := range form.Controls {
		c := &form.Controls[i]
		f := byName[c.Name]
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

// maxRounds is how often marks are taken off values that a site does not take.
const maxRounds = 3

// Trace makes the submissions of a trace: a blank form, a wrong one, a wrong repetition, the tester's valid values with marks on
// them (spaces around, capitals in addresses), and the same once more. Where marks are refused they are taken off again.
func Trace(ctx context.Context, t *target.Target, values Values) ([]draft.Probe, error) {
	var out []draft.Probe
	probe := func(kind draft.ProbeKind, values Values) (*draft.Probe, error) {
		tried, _, err := Try(ctx, t, values, overHTTPWay)
		if err != nil {
			return nil, err
		}
		if tried.Failure != "" {
			return nil, target.Cannot("%s", tried.Failure)
		}
		lookOnceMore(ctx, t, tried.Observation)
		out = append(out, draft.Probe{Kind: kind, Values: values, Step: tried.Observation})
		return &out[len(out)-1], nil
	}
	if _, err := probe(draft.BlankProbe, blank(t)); err != nil {
		return out, err
	}
	if _, err := probe(draft.WrongProbe, wrong(t, values)); err != nil {
		return out, err
	}
	if differs := differs(t, values); differs != nil {
		if _, err := probe(draft.DiffersProbe, differs); err != nil {
			return out, err
		}
	}
	marks := map[string]bool{}
	for _, f := range t.Form.Fields {
		marks[f.ID] = true
	}
	for round := 0; ; round++ {
		if round >= maxRounds {
			clear(marks)
		}
		marked := marked(t, values, marks)
		p, err := probe(draft.ValidProbe, marked)
		if err != nil {
			return out, err
		}
		if p.Accepted() {
			_, err = probe(draft.AgainProbe, marked)
			return out, err
		}
		if len(marks) == 0 {
			return out, nil
		}
		before := len(marks)
		for _, said := range p.SeenMessages(t.Form.Form) {
			delete(marks, said.Field)
		}
		if len(marks) == before {
			clear(marks)
		}
	}
}

// lookOnceMore opens the page after acceptance once more: what was said once is not said again.
func lookOnceMore(ctx context.Context, t *target.Target, o *observation.Step) {
	final := o.Final()
	if final == nil || len(o.Changes) == 0 {
		return
	}
	exchanges, err := t.Client.NewVisitor().Open(ctx, final.URL)
	if err != nil || len(exchanges) == 0 {
		return
	}
	last := exchanges[len(exchanges)-1]
	p, err := t.ReadPage(&last)
	if err != nil {
		return
	}
	seen := observation.ShownAt{Page: last.URL, Texts: []string{}}
	for _, text := range p.Texts {
		seen.Texts = append(seen.Texts, text.Text)
	}
	o.Shown = append(o.Shown, seen)
}

func blank(t *target.Target) Values {
	out := Values{}
	for _, f := range t.Form.Fields {
		switch f.Kind {
		case spec.Checkbox, spec.MultipleChoice, spec.Upload:
			out[f.ID] = nil
		case spec.Hidden, spec.Readonly:
		default:
			out[f.ID] = []string{""}
		}
	}
	return out
}

// wrong are values that no field of its kind takes. Secrets keep their valid values, so that what is said of others is not about
// them; choices that cannot be wrong in a browser are.
func wrong(t *target.Target, values Values) Values {
	out := blank(t)
	for _, f := range t.Form.Fields {
		switch f.Kind {
		case spec.Email, spec.URL:
			out[f.ID] = []string{"no address"}
		case spec.Number:
			out[f.ID] = []string{"many"}
		case spec.Date, spec.Time, spec.DateTime:
			out[f.ID] = []string{"soon"}
		case spec.SingleChoice, spec.MultipleChoice:
			out[f.ID] = []string{"not-offered"}
		case spec.Password, spec.Checkbox:
			out[f.ID] = values[f.ID]
		case spec.Text, spec.Textarea, spec.Tel:
			out[f.ID] = []string{"?"}
		}
	}
	return out
}

// differs repeats the first repeated field wrongly, nil where none is repeated.
func differs(t *target.Target, values Values) Values {
	out := Values{}
	found := false
	for i, f := range t.Form.Fields {
		out[f.ID] = values[f.ID]
		if !found && draft.RepeatOf(t.Form.Form, i) >= 0 && len(values[f.ID]) == 1 && values[f.ID][0] != "" {
			out[f.ID] = []string{values[f.ID][0] + "x"}
			found = true
		}
	}
	if !found {
		return nil
	}
	return out
}

// marked puts spaces around texts and capitals into addresses, for the fields that still bear marks.
func marked(t *target.Target, values Values, marks map[string]bool) Values {
	out := Values{}
	for _, f := range t.Form.Fields {
		list, entered := values[f.ID]
		if !entered {
			continue
		}
		out[f.ID] = slices.Clone(list)
		if !marks[f.ID] || len(list) != 1 || list[0] == "" || f.IsSecret() {
			continue
		}
		switch f.Kind {
		case spec.Email:
			out[f.ID][0] = " " + strings.ToUpper(list[0][:1]) + list[0][1:] + " "
		case spec.Text, spec.Tel, spec.URL:
			out[f.ID][0] = fmt.Sprintf(" %s ", list[0])
		}
	}
	return out
}
