package engine

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/page"
)

// attempt is one go at a case: its steps one after the other, by one visitor.
type attempt struct {
	r       *Run
	c       *design.Case
	number  int
	watch   bool // look for changes after each step; false in a batch, whose changes are looked for at its end
	visitor visitor
	// beside tells what became of another session of the account, nil where none stands by.
	beside  func(context.Context) string
	account *spec.Account       // who is signed in, or signs in
	own     bool                // the account is signed in already, by a journey
	instead *oracle.Expectation // what a journey expects of its submission, nil for what the form promises
	// later judges the last step, where nothing needs its verdict before the next case is made. It is set where postpone is.
	postpone bool
	later    func()
	env      design.Env
	seen     []*observation.Step
	written  []oracle.LookUp // values that the attempt's own accepted steps have stored
	result   *judge.Result
	// drawn asks for a picture whatever the verdict. pictures are JPEG files by the step they show.
	drawn    bool
	pictures map[string][]byte
}

// perform makes the attempt. What the site does wrong is in the result, and so is what could not be observed, with the reason.
func (r *Run) perform(ctx context.Context, c *design.Case, number int, watch bool) *judge.Result {
	a := r.attempt(c, number, watch)
	a.make(ctx)
	return a.finish()
}

func (r *Run) attempt(c *design.Case, number int, watch bool) *attempt {
	a := &attempt{r: r, c: c, number: number, watch: watch, result: &judge.Result{Case: c.ID, Attempt: number}}
	a.env = design.Env{Run: r.c.Number, Try: (number - 1) * mostTries, Rows: r.rows}
	return a
}

// make makes the case's steps.
func (a *attempt) make(ctx context.Context) {
	r, c := a.r, a.c
	a.result.Started = time.Now().UTC()
	defer func() { a.result.Took = time.Since(a.result.Started) }()
	a.begin()
	if isTogether(c) {
		a.together(ctx)
		return
	}
	v, err := r.newVisitor(ctx, c)
	if err != nil {
		a.unobserved(c.Steps[0].Do, err)
		return
	}
	a.visitor = v
	defer v.close()
	for i := range c.Steps {
		step, err := a.step(ctx, i)
		if err != nil {
			a.unobserved(c.Steps[i].Do, err)
			break
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
}

// unobserved: the browser or a database could not do or tell what was asked.
func (a *attempt) unobserved(do design.Action, err error) {
	a.result.Broken = !errors.Is(err, browser.ErrStuck) // which would be so once more
	a.result.Steps = append(a.result.Steps, judge.StepResult{Do: do, Judgement: judge.Unobserved(err.Error())})
}

// finish sums the attempt up.
func (a *attempt) finish() *judge.Result {
	if a.later != nil {
		a.later()
	}
	steps := make([]*judge.Step, len(a.result.Steps))
	for i := range steps {
		steps[i] = a.result.Steps[i].Judgement
	}
	a.result.Verdict = judge.Case(steps)
	a.result.Checks = judge.CaseChecks(steps)
	a.result.Headline = steps[len(steps)-1].Headline
	if reasons := judge.ReasonsOf(a.c, steps); len(reasons) > 0 {
		a.result.Cause, a.result.Headline, a.result.Also = &reasons[0].Cause, reasons[0].Headline, reasons[1:]
	}
	a.result.Pictures = a.pictures
	return a.result
}

// mostTries is how often new values are tried for one that no row holds yet.
const mostTries = 40

func (a *attempt) step(ctx context.Context, i int) (*judge.StepResult, error) {
	s := &a.c.Steps[i]
	if s.Do == design.Reload {
		return a.reload(ctx)
	}
	if err := wait(ctx, s.Wait); err != nil {
		return nil, err
	}
	before, failure, err := a.pageFor(ctx, s)
	if err != nil {
		return nil, err
	}
	if failure != "" {
		return &judge.StepResult{Do: s.Do, Judgement: judge.Unobserved(failure)}, nil
	}
	if s.Forged == oracle.ForeignToken {
		if stop, err := a.foreignToken(ctx, before); err != nil || stop != nil {
			return &judge.StepResult{Do: s.Do, Judgement: stop}, err
		}
	}
	a.lookAt(before.Form)
	sent, world, stop, err := a.compose(ctx, i, before.Form)
	if err != nil {
		return nil, err
	}
	if stop != nil {
		return &judge.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if s.Aside {
		return a.aside(ctx, before, sent, world)
	}
	if !s.Beside {
		return a.submit(ctx, s.Do, before, sent, world)
	}
	gone, stop, err := a.standBy(ctx)
	if err != nil || stop != nil {
		return &judge.StepResult{Do: s.Do, Judgement: stop}, err
	}
	a.beside = gone
	return a.submit(ctx, s.Do, before, sent, world)
}

// wait lets so many seconds go by.
func wait(ctx context.Context, seconds float64) error {
	if seconds <= 0 {
		return nil
	}
	select {
	case <-time.After(time.Duration(seconds * float64(time.Second))):
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// aside makes a submission for the sake of those after it.
func (a *attempt) aside(ctx context.Context, before *observation.Page, sent *oracle.Submission, world *oracle.World) (*judge.StepResult, error) {
	e := &oracle.Expectation{Outcome: oracle.Answered}
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	o.Sent, o.Before = sent, before
	v, err := a.visitor.submit(ctx, before.Form, sent, world.Unchecked, func([]observation.Entered) bool { return false })
	if err != nil {
		return nil, err
	}
	return a.observed(ctx, design.Submit, e, o, v)
}

// lookAt takes what a form holds as what recipes are made from.
func (a *attempt) lookAt(form *observation.Form) {
	a.env.Now = time.Now()
	a.env.OnPage = map[string]string{}
	for _, c := range form.Controls {
		if _, known := a.env.OnPage[c.Name]; !known {
			a.env.OnPage[c.Name] = c.Value
		}
	}
}

// submit sends a submission from an opened page and judges what comes of it.
func (a *attempt) submit(ctx context.Context, do design.Action, before *observation.Page, sent *oracle.Submission, world *oracle.World) (*judge.StepResult, error) {
	e := a.instead
	if e == nil {
		e = oracle.Expect(a.r.p, world, sent)
	}
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	o.Sent, o.Before = sent, before
	var instead *judge.Step
	v, err := a.visitor.submit(ctx, before.Form, sent, world.Unchecked, func(entered []observation.Entered) bool {
		var stop bool
		stop, instead = heldBack(a.r.p, e, world, entered)
		return stop
	})
	if err != nil {
		return nil, err
	}
	if instead != nil {
		return &judge.StepResult{Do: do, Judgement: instead}, nil
	}
	return a.observed(ctx, do, e, o, v)
}

// heldBack decides of what a page made of the values whether it is sent. instead is set where the page does not let a visitor do
// what the case is about, or lacks a control.
func heldBack(p *spec.Prepared, e *oracle.Expectation, w *oracle.World, entered []observation.Entered) (stop bool, instead *judge.Step) {
	for i := range entered {
		got := &entered[i]
		f := fieldNamed(p, got.Name)
		if f == nil {
			continue
		}
		got.Changed = remade(f, got)
		if got.Refused == "" && !got.Changed {
			continue
		}
		refused := got.Refused
		if refused == "" {
			refused = madeOf(got)
		}
		about := slices.ContainsFunc(e.Failing, func(x oracle.Failure) bool { return strings.HasPrefix(x.Rule, f.ID+".") })
		switch {
		case got.Missing:
			return true, judge.Unobserved(f.Label + ": " + refused)
		case e.Outcome == oracle.RejectedByBrowser && about:
			stop = true // the control itself holds the rule
		case got.Refused != "", w.Unchecked, e.Outcome == oracle.RejectedByServer && about:
			return true, judge.Inapplicable(f.Label + ": " + refused)
		}
	}
	return stop, nil
}

// remade: the control holds another value than was typed, and not only as its mask or HTML itself writes it.
func remade(f *spec.PreparedField, e *observation.Entered) bool {
	return e.Changed && !(f.Mask != nil && f.Mask.Made(e.Typed, e.Stands)) && !harmless(f, e)
}

func madeOf(e *observation.Entered) string {
	return fmt.Sprintf("the control makes %q of %q", e.Stands, e.Typed)
}

// harmless: HTML itself makes this of the value (value sanitisation: e-mail addresses and URLs lose the spaces around them).
func harmless(f *spec.PreparedField, e *observation.Entered) bool {
	return (f.Kind == spec.Email || f.Kind == spec.URL) && e.Stands == strings.TrimSpace(e.Typed)
}

func fieldNamed(p *spec.Prepared, name string) *spec.PreparedField {
	for _, f := range p.Fields {
		if f.Name == name {
			return f
		}
	}
	return nil
}

// beginStep is the observation of a step that is about to be made.
func (a *attempt) beginStep(ctx context.Context) (*observation.Step, error) {
	cookies, err := a.visitor.cookies(ctx)
	return &observation.Step{At: time.Now().UTC(), CookiesBefore: cookies, Watched: a.r.dbs.tables(), Changes: []observation.Change{}}, err
}

// open goes to the page and reads it. failure says why there is nothing to fill in.
func (a *attempt) open(ctx context.Context) (before *observation.Page, failure string, err error) {
	v, err := a.visitor.open(ctx, a.r.p.Form.Page)
	if err != nil {
		return nil, "", err
	}
	if v.failure != "" {
		return nil, "the page cannot be opened: " + v.failure, nil
	}
	before, err = v.read()
	switch {
	case err != nil:
		return nil, err.Error(), nil
	case before == nil || before.Form == nil:
		status := 0
		if n := len(v.exchanges); n > 0 {
			status = v.exchanges[n-1].Status
		}
		return nil, fmt.Sprintf("the page %s does not hold the form (status %d)", a.r.p.Form.Page, status), nil
	}
	return before, "", nil
}

func (r *Run) readPage(x *observation.Exchange) (*observation.Page, error) {
	return page.Read(x.Body, x.URL, r.names)
}

func (a *attempt) reload(ctx context.Context) (*judge.StepResult, error) {
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	if n := len(a.seen); n > 0 {
		o.Before = a.seen[n-1].After
	}
	v, err := a.visitor.reload(ctx)
	if err != nil {
		return nil, err
	}
	e := &oracle.Expectation{Outcome: oracle.NothingFurther}
	accepted := &a.r.p.Form.Accepted
	if a.c.Last().Driver == oracle.Browser {
		e.Form = accepted.Reloaded
	}
	if n := len(a.result.Steps); n > 0 && (accepted.Once || e.Form != "") && a.result.Steps[n-1].Expectation != nil {
		e.Gone = a.result.Steps[n-1].Expectation.Reply
	}
	return a.observed(ctx, design.Reload, e, o, v)
}

func (a *attempt) observed(ctx context.Context, do design.Action, e *oracle.Expectation, o *observation.Step, v *visit) (*judge.StepResult, error) {
	take(o, v)
	var err error
	if o.CookiesAfter, err = a.visitor.cookies(ctx); err != nil {
		return nil, err
	}
	if e.Outcome == oracle.Accepted && v.failure == "" {
		a.lookForShown(ctx, e, o)
		if a.beside != nil {
			o.Beside = a.beside(ctx)
		}
	}
	if a.watch {
		if err := a.lookForChanges(ctx, o); err != nil {
			return nil, err
		}
	}
	if a.postpone && len(a.result.Steps) == len(a.c.Steps)-1 && !InBrowser(a.c) {
		a.later = func() {
			o.After, _ = v.read() // what cannot be read is no page
			a.result.Steps[len(a.c.Steps)-1].Judgement = judge.Judge(a.r.p, e, o, a.seen)
		}
		return &judge.StepResult{Do: do, Expectation: e, Observation: o}, nil
	}
	o.After, _ = v.read() // what cannot be read is no page
	judgement := judge.Judge(a.r.p, e, o, a.seen)
	if judgement.Verdict == judge.Odd && do == design.Submit {
		if judgement, err = a.lookAgain(ctx, e, o, judgement); err != nil {
			return nil, err
		}
	}
	a.seen = append(a.seen, o)
	if judgement.Verdict == judge.Odd || a.drawn {
		a.draw(ctx, o)
	}
	if e.Outcome == oracle.Accepted && judgement.Checks[0].Verdict == judge.AsExpected {
		a.written = append(a.written, oracle.Needs(a.r.p, o.Sent)...)
		a.learnSecret(o.Sent)
	}
	return &judge.StepResult{Do: do, Expectation: e, Observation: o, Judgement: judgement}, nil
}

// draw keeps a picture of the page where there is one.
func (a *attempt) draw(ctx context.Context, o *observation.Step) {
	picture, err := a.visitor.picture(ctx)
	if err != nil || picture == nil || o.Drawn == nil {
		return // the rest of the evidence stands without it
	}
	o.Drawn.Picture = strconv.Itoa(len(a.seen))
	if a.pictures == nil {
		a.pictures = map[string][]byte{}
	}
	a.pictures[o.Drawn.Picture] = picture
}

func (a *attempt) lookForChanges(ctx context.Context, o *observation.Step) error {
	changes, err := a.r.changes(ctx)
	o.Changes = append(o.Changes, changes...)
	return err
}

// lookAgain waits for what comes late on a page that scripts draw: what looks wrong at first may only not be there yet.
func (a *attempt) lookAgain(ctx context.Context, e *oracle.Expectation, o *observation.Step, first *judge.Step) (*judge.Step, error) {
	v, err := a.visitor.again(ctx)
	if err != nil || v == nil {
		return first, err
	}
	later := *o
	take(&later, v)
	later.Drawn.Entered, later.Drawn.Blocked, later.Drawn.Correction = o.Drawn.Entered, o.Drawn.Blocked, o.Drawn.Correction
	if later.After, err = v.read(); err != nil || later.After == nil {
		return first, nil
	}
	if o.After != nil {
		addGone(later.After, o.After.Texts, later.At.Sub(o.At))
	}
	if a.watch {
		if err := a.lookForChanges(ctx, &later); err != nil {
			return nil, err
		}
	}
	*o = later
	return judge.Judge(a.r.p, e, o, a.seen), nil
}

// take notes what came of a visitor's step.
func take(o *observation.Step, v *visit) {
	o.Exchanges, o.Failure, o.Drawn = v.exchanges, v.failure, v.drawn
	if o.Exchanges == nil {
		o.Exchanges = []observation.Exchange{}
	}
	if first := o.First(); first != nil && o.Sent != nil && v.drawn != nil {
		o.Left = left(first, o.Sent.Driver)
	}
}

// lookForShown goes to the places where saved values are promised to be seen.
func (a *attempt) lookForShown(ctx context.Context, e *oracle.Expectation, o *observation.Step) {
	for _, want := range e.Shown {
		got := observation.ShownAt{Page: want.Page, At: want.At}
		exchanges, err := a.visitor.look(ctx, want.Page)
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

// composed is a submission that could be sent, with what is known as it is composed.
type composed struct {
	values design.Resolved
	sent   *oracle.Submission
	world  *oracle.World
	needs  []oracle.LookUp
	fresh  []sentValue // of fields whose values are made new
}

// compose resolves a step's recipes until no unique value is taken that should be new, and puts the submission together as a
// browser would. Nor is a new value sent that the run has sent before, as long as there are others: what the site made of it may count
// for the site, and not be found by us. stop is set when there is no such value, or the page does not let it be sent.
func (a *attempt) compose(ctx context.Context, i int, form *observation.Form) (sent *oracle.Submission, world *oracle.World, stop *judge.Step, err error) {
	base := a.env.Try
	defer func() { a.env.Try = base }()
	var chosen *composed
	for try := range mostTries {
		a.env.Try = base + try
		one, stop, err := a.composeOnce(ctx, i, form)
		if err != nil || stop != nil {
			return nil, nil, stop, err
		}
		if byChance(&a.c.Steps[i], one.needs, one.world.Taken) {
			continue
		}
		again := i == 0 && a.r.sent.any(one.fresh)
		if chosen == nil || !again {
			chosen = one
		}
		if !again {
			break
		}
	}
	if chosen == nil {
		return nil, nil, judge.Unobserved("no unused value left for a field whose values must be new"), nil
	}
	a.r.sent.add(chosen.fresh)
	a.env.Earlier = append(a.env.Earlier, chosen.values)
	return chosen.sent, chosen.world, nil, nil
}

func (a *attempt) composeOnce(ctx context.Context, i int, form *observation.Form) (one *composed, stop *judge.Step, err error) {
	s := &a.c.Steps[i]
	values, err := a.r.c.Designer.Resolve(a.c, i, &a.env)
	if err != nil {
		return nil, judge.Unobserved(err.Error()), nil
	}
	if why := a.impossible(form, values); why != "" {
		return nil, judge.Inapplicable(why), nil
	}
	sent := assemble(form, a.r.c.Designer.Submission(s, values), a.r.names, s)
	world := &oracle.World{Now: a.env.Now, Language: a.language(), Driver: s.Driver, Unchecked: s.Unchecked, Locked: s.Locked, Spent: s.Back}
	if s.Mistake != nil {
		if stop := a.mistake(i, sent, world); stop != nil {
			return nil, stop, nil
		}
	}
	needs := oracle.Needs(a.r.p, sent)
	if world.Taken, err = a.answer(ctx, needs); err != nil {
		return nil, nil, err
	}
	if err := a.answerSigned(ctx, sent, world); err != nil {
		return nil, nil, err
	}
	return &composed{values, sent, world, needs, a.r.freshOf(s, needs)}, nil, nil
}

// language is what the visitor asks for.
func (a *attempt) language() string {
	if a.c.Language != "" {
		return a.c.Language
	}
	return a.r.c.Site.Spoken()
}

// byChance: the rows that are there break a rule that the step is not about.
func byChance(s *design.Step, needs []oracle.LookUp, found map[string]bool) bool {
	return !s.Back && slices.ContainsFunc(needs, func(l oracle.LookUp) bool { return found[l.Rule] != l.Must && !slices.Contains(s.Breaks, l.Rule) })
}

// answer tells, by rule, whether there is such a row; where several are asked for, whether all are there. Where no database is watched, only what the attempt itself has stored is known.
func (a *attempt) answer(ctx context.Context, needs []oracle.LookUp) (map[string]bool, error) {
	found := map[string]bool{}
	for _, l := range needs {
		yes, err := a.lookUp(ctx, &l)
		if err != nil {
			return nil, err
		}
		before, asked := found[l.Rule]
		found[l.Rule] = yes && (before || !asked)
	}
	return found, nil
}

func (a *attempt) lookUp(ctx context.Context, l *oracle.LookUp) (bool, error) {
	fold := a.r.fold(l.Rule)
	switch {
	case len(a.r.dbs) > 0:
		return a.r.dbs.of(l.Table).LookUp(ctx, *l, func(x, y string) bool { return fold(x) == fold(y) })
	case l.Must:
		f := a.r.p.Field(a.r.fieldOf(l.Rule))
		return f != nil && f.Example != "" && f.Example == l.Value, nil // all that is known without a database
	}
	return slices.ContainsFunc(a.written, func(w oracle.LookUp) bool {
		if w.Rule != l.Rule || l.Span != nil {
			return w.Rule == l.Rule && w.Span.Overlaps(l.Span)
		}
		return fold(w.Value) == fold(l.Value)
	}), nil
}

// fieldOf is the id of the field that a rule is about.
func (r *Run) fieldOf(ruleID string) string {
	for _, rule := range r.p.Rules {
		if rule.ID == ruleID && rule.Field != nil {
			return rule.Field.ID
		}
	}
	return ""
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
	out := &oracle.Submission{Driver: fields.Driver, Encoding: form.Encoding, Body: fields.Body, Replaced: fields.Replaced, Forged: fields.Forged, Without: fields.Without, Altered: fields.Altered}
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
