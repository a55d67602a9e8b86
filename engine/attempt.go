package engine

import (
	"context"
	"fmt"
	"slices"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// attempt is one go at a case: its steps one after the other, by one visitor.
type attempt struct {
	r       *Run
	c       *design.Case
	number  int
	watch   bool // look for changes after each step; false in a batch, whose changes are looked for at its end
	visitor *web.Visitor
	env     design.Env
	seen    []*observation.Step
	written []oracle.LookUp // values that the attempt's own accepted steps have stored
	result  *judge.Result
}

// perform makes the attempt. An error is of the engine's own doing, such as a database that is gone; what the site does wrong is
// in the result.
func (r *Run) perform(ctx context.Context, c *design.Case, number int, watch bool) (*judge.Result, error) {
	a := &attempt{r: r, c: c, number: number, watch: watch, visitor: r.client.NewVisitor(), result: &judge.Result{Case: c.ID, Attempt: number, Started: time.Now().UTC()}}
	a.env = design.Env{Run: r.c.Number, Try: (number - 1) * mostTries}
	for i := range c.Steps {
		step, err := a.step(ctx, i)
		if err != nil {
			return nil, fmt.Errorf("case %s: %w", c.ID, err)
		}
		a.result.Steps = append(a.result.Steps, *step)
		if step.Observation == nil {
			break // the rest has nothing to stand on
		}
		if i+1 < len(c.Steps) && c.Steps[i].Expect == oracle.Accepted && step.Judgement.Checks[0].Verdict == judge.Odd {
			// the next steps would be judged against a state that is not there; the case is odd already
			break
		}
	}
	a.finish()
	return a.result, nil
}

func (a *attempt) finish() {
	steps := make([]*judge.Step, len(a.result.Steps))
	for i := range steps {
		steps[i] = a.result.Steps[i].Judgement
	}
	a.result.Verdict = judge.Case(steps)
	a.result.Checks = judge.CaseChecks(steps)
	a.result.Headline = steps[len(steps)-1].Headline
	if cause, headline, ok := judge.CauseOf(a.c.Row, steps); ok {
		a.result.Cause, a.result.Headline = &cause, headline
	}
	a.result.Took = time.Since(a.result.Started)
}

// mostTries is how often new values are tried for one that no row holds yet.
const mostTries = 40

func (a *attempt) step(ctx context.Context, i int) (*judge.StepResult, error) {
	s := &a.c.Steps[i]
	if s.Do == design.Reload {
		return a.reload(ctx)
	}
	before, failure := a.open(ctx)
	if failure != "" {
		return &judge.StepResult{Do: s.Do, Judgement: judge.Unobserved(failure)}, nil
	}
	a.env.Now = time.Now()
	a.env.OnPage = map[string]string{}
	for _, c := range before.Form.Controls {
		if _, known := a.env.OnPage[c.Name]; !known {
			a.env.OnPage[c.Name] = c.Value
		}
	}
	sent, world, stop, err := a.compose(ctx, i, before.Form)
	if err != nil {
		return nil, err
	}
	if stop != nil {
		return &judge.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	expectation := oracle.Expect(a.r.p, world, sent)
	o := &observation.Step{Sent: sent, At: time.Now().UTC(), Before: before, CookiesBefore: a.visitor.Cookies(), Watched: a.r.dbs.tables(), Changes: []observation.Change{}}
	exchanges, err := a.visitor.Submit(ctx, before.Form, sent.Pairs)
	return a.observed(ctx, s.Do, expectation, o, exchanges, err)
}

// open goes to the page and reads it. failure says why there is nothing to fill in.
func (a *attempt) open(ctx context.Context) (before *observation.Page, failure string) {
	exchanges, err := a.visitor.Open(ctx, a.r.p.Form.Page)
	if err != nil {
		return nil, "the page cannot be opened: " + err.Error()
	}
	last := &exchanges[len(exchanges)-1]
	before, err = a.r.readPage(last)
	switch {
	case err != nil:
		return nil, err.Error()
	case before.Form == nil:
		return nil, fmt.Sprintf("the page %s does not hold the form (status %d)", a.r.p.Form.Page, last.Status)
	}
	return before, ""
}

func (r *Run) readPage(x *observation.Exchange) (*observation.Page, error) {
	return page.Read(x.Body, x.URL, r.names)
}

func (a *attempt) reload(ctx context.Context) (*judge.StepResult, error) {
	o := &observation.Step{At: time.Now().UTC(), Watched: a.r.dbs.tables(), Changes: []observation.Change{}, CookiesBefore: a.visitor.Cookies()}
	if n := len(a.seen); n > 0 {
		o.Before = a.seen[n-1].After
	}
	exchanges, err := a.visitor.Reload(ctx)
	return a.observed(ctx, design.Reload, &oracle.Expectation{Outcome: oracle.NothingFurther}, o, exchanges, err)
}

func (a *attempt) observed(ctx context.Context, do design.Action, e *oracle.Expectation, o *observation.Step, exchanges []observation.Exchange, failure error) (*judge.StepResult, error) {
	o.Exchanges = exchanges
	if failure != nil {
		o.Failure = failure.Error()
	}
	// the page is read while the database is asked
	read := make(chan *observation.Page, 1)
	go func() {
		var after *observation.Page
		if final := o.Final(); final != nil {
			after, _ = page.Read(final.Body, final.URL, a.r.names) // what cannot be read is no page
		}
		read <- after
	}()
	o.CookiesAfter = a.visitor.Cookies()
	if e.Outcome == oracle.Accepted && failure == nil {
		a.lookForShown(ctx, e, o)
	}
	var err error
	if a.watch {
		var changes []observation.Change
		changes, err = a.r.dbs.changes(ctx)
		o.Changes = append(o.Changes, changes...)
	}
	o.After = <-read
	if err != nil {
		return nil, err
	}
	judgement := judge.Judge(a.r.p, e, o, a.seen)
	a.seen = append(a.seen, o)
	if e.Outcome == oracle.Accepted && judgement.Checks[0].Verdict == judge.AsExpected {
		a.written = append(a.written, oracle.Needs(a.r.p, o.Sent)...)
	}
	return &judge.StepResult{Do: do, Expectation: e, Observation: o, Judgement: judgement}, nil
}

// lookForShown goes to the places where saved values are promised to be seen.
func (a *attempt) lookForShown(ctx context.Context, e *oracle.Expectation, o *observation.Step) {
	for _, want := range e.Shown {
		got := observation.ShownAt{Page: want.Page, At: want.At}
		exchanges, err := a.visitor.Look(ctx, want.Page)
		if err == nil {
			last := exchanges[len(exchanges)-1]
			if last.Status >= 400 {
				err = fmt.Errorf("the page answers with status %d", last.Status)
			} else {
				got.Texts, err = page.TextsAt(last.Body, want.At)
			}
		}
		if err != nil {
			got.Failure = err.Error()
		}
		o.Shown = append(o.Shown, got)
	}
}

// impossible says why the page does not let a visitor send these values: a choice left blank that offers no blank.
func (a *attempt) impossible(form *observation.Form, values design.Resolved) string {
	for _, f := range a.r.p.Fields {
		v, present := values[f.ID]
		c := form.Control(f.Name)
		if f.Kind == spec.OneChoice && present && v == "" && len(f.Rules) > 0 && c != nil && c.Type == "select" && !slices.Contains(c.Offered, "") && !f.Required() {
			return "the page offers no blank choice for " + f.Label
		}
	}
	return ""
}

// compose resolves a step's recipes until no unique value is taken that should be new, and puts the submission together as a
// browser would. stop is set when there is no such value, or the page does not let it be sent.
func (a *attempt) compose(ctx context.Context, i int, form *observation.Form) (sent *oracle.Submission, world *oracle.World, stop *judge.Step, err error) {
	s := &a.c.Steps[i]
	base := a.env.Try
	defer func() { a.env.Try = base }()
	for try := range mostTries {
		a.env.Try = base + try
		values, err := a.r.c.Designer.Resolve(a.c, i, &a.env)
		if err != nil {
			return nil, nil, judge.Unobserved(err.Error()), nil
		}
		if why := a.impossible(form, values); why != "" {
			return nil, nil, judge.Inapplicable(why), nil
		}
		sent = assemble(form, a.r.c.Designer.Submission(s, values), a.r.names, s)
		world = &oracle.World{Now: a.env.Now, Language: a.r.c.Language, Driver: s.Driver}
		if world.Taken, err = a.answer(ctx, oracle.Needs(a.r.p, sent)); err != nil {
			return nil, nil, nil, err
		}
		if !takenByChance(s, world.Taken) {
			a.env.Earlier = append(a.env.Earlier, values)
			return sent, world, nil, nil
		}
	}
	return nil, nil, judge.Unobserved("no unused value left for a field whose values must be new"), nil
}

func takenByChance(s *design.Step, taken map[string]bool) bool {
	for rule, yes := range taken {
		if yes && !slices.Contains(s.Breaks, rule) {
			return true
		}
	}
	return false
}

// answer tells which values are taken. Where no database is watched, only what the attempt itself has stored is known.
func (a *attempt) answer(ctx context.Context, needs []oracle.LookUp) (map[string]bool, error) {
	taken := map[string]bool{}
	for _, l := range needs {
		fold := a.r.fold(l.Rule)
		if len(a.r.dbs) == 0 {
			taken[l.Rule] = slices.ContainsFunc(a.written, func(w oracle.LookUp) bool { return w.Rule == l.Rule && fold(w.Value) == fold(l.Value) })
			continue
		}
		yes, err := a.r.dbs.of(l.Table).LookUp(ctx, l, func(x, y string) bool { return fold(x) == fold(y) })
		if err != nil {
			return nil, err
		}
		taken[l.Rule] = yes
	}
	return taken, nil
}

func (r *Run) fold(ruleID string) func(string) string {
	for _, rule := range r.p.Rules {
		if rule.ID == ruleID {
			return rule.Fold
		}
	}
	return func(s string) string { return s }
}

// assemble orders the submission as a browser would: the page's controls in their order, the fields' values in their places, then
// what is surplus.
func assemble(form *observation.Form, fields *oracle.Submission, names []string, s *design.Step) *oracle.Submission {
	out := &oracle.Submission{Driver: fields.Driver, Encoding: form.Encoding}
	placed := map[string]bool{}
	for i := range form.Controls {
		c := &form.Controls[i]
		if placed[c.Name] || slices.Contains(s.Without, c.Name) {
			continue
		}
		if slices.Contains(names, c.Name) {
			placed[c.Name] = true
			for _, p := range fields.Pairs {
				if p.Name == c.Name && (c.Type != "radio" || p.Value != "") { // of radio buttons none is chosen by sending none
					out.Pairs = append(out.Pairs, p)
				}
			}
			continue
		}
		if successful(c) {
			out.Pairs = append(out.Pairs, oracle.Pair{Name: c.Name, Value: c.Value})
		}
	}
	for _, p := range fields.Pairs {
		if !placed[p.Name] {
			out.Pairs = append(out.Pairs, p)
		}
	}
	return out
}

// successful: the control is part of what a form sends (HTML Standard, constructing the entry list).
func successful(c *observation.Control) bool {
	switch c.Type {
	case "checkbox", "radio":
		return c.Checked && !c.Disabled
	case "file", "image":
		return false
	}
	return !c.Disabled
}
