package manual

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/target"
)

// maxRounds is how often marks are taken off values that a site does not take.
const maxRounds = 3

// maxLimitProbes is how many submissions try the limits of fields, each of them one limit of every field.
const maxLimitProbes = 4

// Trace makes the submissions of a trace: a blank form, a wrong one, a wrong repetition, some with values just beyond the fields'
// limits, the tester's valid values with marks on them (spaces around, capitals in addresses), and the same once more. Where marks are
// refused they are taken off again.
// after is told of each submission, before the next; nil for nobody.
func Trace(ctx context.Context, t *target.Target, values Values, after func(*draft.Probe) error) ([]draft.Probe, error) {
	r := &trace{ctx: ctx, target: t, after: after}
	if t.OnlyOnPage {
		return r.watch(values)
	}
	if _, err := r.submit(draft.Probe{Kind: draft.BlankProbe, Values: blank(t)}); err != nil {
		return r.made, err
	}
	if _, err := r.submit(draft.Probe{Kind: draft.WrongProbe, Values: wrong(t, values)}); err != nil {
		return r.made, err
	}
	if differs := differs(t, marked(t, values, everyField(t))); differs != nil {
		if _, err := r.submit(draft.Probe{Kind: draft.DiffersProbe, Values: differs}); err != nil {
			return r.made, err
		}
	}
	for _, p := range beyond(ctx, t, values) {
		if _, err := r.submit(p); err != nil {
			return r.made, err
		}
	}
	return r.made, r.valid(values)
}

// trace is a trace that is being made.
type trace struct {
	ctx    context.Context
	target *target.Target
	made   []draft.Probe
	after  func(*draft.Probe) error
}

// watch enters the values on the page in a browser, to see what its script sends.
func (r *trace) watch(values Values) ([]draft.Probe, error) {
	tried, _, err := Try(r.ctx, r.target, values, Way{Driver: submission.Browser})
	if err != nil {
		return nil, err
	}
	if tried.Failure != "" {
		return nil, target.Cannot("%s", tried.Failure)
	}
	if tried.Observation == nil {
		return nil, target.Cannot("the page does not take these values: %s", tried.Judgement.Headline)
	}
	return []draft.Probe{{Kind: draft.WatchProbe, Values: values, Step: tried.Observation}}, nil
}

// submit makes one submission.
func (r *trace) submit(p draft.Probe) (*draft.Probe, error) {
	tried, _, err := Try(r.ctx, r.target, p.Values, overHTTPWay)
	if err != nil {
		return nil, err
	}
	if tried.Failure != "" {
		return nil, target.Cannot("%s", tried.Failure)
	}
	lookOnceMore(r.ctx, r.target, tried.Observation)
	p.Step, p.SignsIn = tried.Observation, r.target.SignsIn()
	r.made = append(r.made, p)
	made := &r.made[len(r.made)-1]
	if r.after != nil {
		return made, r.after(made)
	}
	return made, nil
}

// valid submits the tester's values, first with marks, and once more what was accepted.
func (r *trace) valid(values Values) error {
	again := func(values Values) error {
		_, err := r.submit(draft.Probe{Kind: draft.AgainProbe, Values: values})
		return err
	}
	marks := everyField(r.target)
	for round := 0; ; round++ {
		if round >= maxRounds {
			clear(marks)
		}
		marked := marked(r.target, values, marks)
		p, err := r.submit(draft.Probe{Kind: draft.ValidProbe, Values: marked})
		if err != nil {
			return err
		}
		if p.Accepted() {
			return again(marked)
		}
		// what should have been refused was taken, and so these values may be refused as taken
		if at := slices.IndexFunc(r.made, func(p draft.Probe) bool {
			return (p.Kind == draft.DiffersProbe || p.Kind == draft.LimitProbe) && p.Accepted()
		}); at >= 0 {
			return again(r.made[at].Values)
		}
		if len(marks) == 0 {
			return nil
		}
		before := len(marks)
		for _, said := range p.SeenMessages(r.target.Form.Form) {
			delete(marks, said.Field)
		}
		if len(marks) == before {
			clear(marks)
		}
	}
}

// beyond are submissions with values just beyond the fields' limits, each of which breaks one rule of its field.
func beyond(ctx context.Context, t *target.Target, values Values) []draft.Probe {
	designer, err := design.New(t.Form, t.Config.Site)
	if err != nil {
		return nil // what cannot be computed yet is said elsewhere
	}
	set, err := designer.DesignContext(ctx, design.Plan{Depth: testcase.Standard})
	if err != nil {
		return nil
	}
	type broken struct{ value, rule string }
	byField := map[string][]broken{}
	known := map[string]bool{}
	for _, c := range set.Cases {
		field, rule, side := limitOf(c, designer)
		if rule == "" || known[rule+" "+side] {
			continue
		}
		sent, err := designer.Resolve(c, 0, &testcase.Env{Run: time.Now().UnixNano(), Now: time.Now(), OnPage: map[string]string{}})
		if value, ok := sent[field]; err == nil && ok {
			known[rule+" "+side] = true
			byField[field] = append(byField[field], broken{value, rule})
		}
	}
	var out []draft.Probe
	for round := range maxLimitProbes {
		p := draft.Probe{Kind: draft.LimitProbe, Values: Values{}, Breaks: map[string]string{}}
		for _, f := range t.Form.Fields {
			p.Values[f.ID] = values[f.ID]
			if list := byField[f.ID]; round < len(list) {
				p.Values[f.ID], p.Breaks[f.ID] = []string{list[round].value}, list[round].rule
			} else if len(list) > 0 {
				p.Values[f.ID] = []string{list[0].value}
			}
		}
		if len(p.Breaks) == 0 {
			break
		}
		out = append(out, p)
	}
	return out
}

// limited are the kinds of rules whose limits a trace tries.
var limited = []spec.RuleKind{spec.RuleLength, spec.RuleRange, spec.RuleStep, spec.RuleDecimals, spec.RulePattern, spec.RuleCharacters}

// limitOf is the one rule that a case breaks, with its field and at which end; "" where it breaks none of those with limits, or more.
func limitOf(c *testcase.Case, by *design.Designer) (field, rule, side string) {
	if len(c.Steps) != 1 || c.Steps[0].Driver != submission.HTTP || c.Steps[0].Do != testcase.Submit || len(c.Covers) == 0 {
		return "", "", ""
	}
	for _, f := range by.Form.Fields {
		for _, r := range f.Rules {
			if r.ID != c.Covers[0].Of || r.Layer != spec.OnServer || r.Conditional() || !slices.Contains(limited, r.Kind) {
				continue
			}
			e := by.Expected(c)
			if e == nil || len(e.Failing) != 1 || e.Failing[0].Cause != oracle.RuleBroken || e.Failing[0].Rule != r.ID {
				return "", "", ""
			}
			for _, cover := range c.Covers {
				if cover.Kind == testcase.CoversBoundary && (r.Kind == spec.RuleLength || r.Kind == spec.RuleRange) {
					side = cover.Point[:min(len(cover.Point), len(testcase.Lower))]
				}
			}
			return f.ID, r.ID, side
		}
	}
	return "", "", ""
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

func everyField(t *target.Target) map[string]bool {
	out := map[string]bool{}
	for _, f := range t.Form.Fields {
		out[f.ID] = true
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
