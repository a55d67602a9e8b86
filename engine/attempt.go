package engine

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/wording"
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
	beside  func(context.Context) observation.SessionState
	account *spec.Account       // who is signed in, or signs in
	own     bool                // the account is signed in already, by a journey
	instead *oracle.Expectation // what a journey expects of its submission, nil for what the form promises
	// later judges the step made last, where that is postponed: until the page of the next is on its way, or the case is made.
	postpone bool
	later    func()
	env      design.Env
	ahead    *ahead // what was made of the step before its page was there
	faultMu  sync.Mutex
	fault    error // a panic that ended the case
	seen     []*observation.Step
	written  []oracle.LookUp // values that the attempt's own accepted steps have stored
	result   *report.Result
	// drawn asks for a picture whatever the verdict. pictures are JPEG files by the step they show.
	drawn    bool
	pictures map[string][]byte
}

// perform makes the attempt. What the site does wrong is in the result, and so is what could not be observed, with the reason.
func (r *Run) perform(ctx context.Context, c *design.Case, number int, watch bool) *report.Result {
	a := r.attempt(c, number, watch)
	a.make(ctx)
	return a.finish()
}

func (r *Run) attempt(c *design.Case, number int, watch bool) *attempt {
	a := &attempt{r: r, c: c, number: number, watch: watch, result: &report.Result{Case: c.ID, Attempt: number}}
	a.env = design.Env{Run: r.c.Number, Try: (number - 1) * mostTries, Rows: r.rows}
	return a
}

// make makes the case's steps.
func (a *attempt) make(ctx context.Context) {
	r, c := a.r, a.c
	a.result.Started = time.Now().UTC()
	defer func() {
		_ = a.caught(recover()) // finish tells of it
		a.result.Took = time.Since(a.result.Started)
	}()
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
	a.postpone = !InBrowser(c) // in the browser an odd page is looked at again
	for i := range c.Steps {
		step, err := a.step(ctx, i)
		if err != nil {
			a.unobserved(c.Steps[i].Do, err)
			break
		}
		if step == nil {
			break
		}
		a.result.Steps = append(a.result.Steps, *step)
		if step.Observation == nil {
			break // the rest has nothing to stand on
		}
	}
}

// judgeBefore judges the step before, where that was postponed.
func (a *attempt) judgeBefore() {
	if later := a.later; later != nil {
		a.later = nil
		later()
	}
}

// grounded tells whether a next step has something to stand on. Where the one before should have been accepted and was not, it would
// be judged against a state that is not there, and the case is odd already.
func (a *attempt) grounded() bool {
	n := len(a.result.Steps)
	return n == 0 || a.c.Steps[n-1].Expect != oracle.Accepted || a.result.Steps[n-1].Judgement.Checks[0].Verdict != judge.Odd
}

// unobserved: the browser or a database could not do or tell what was asked.
func (a *attempt) unobserved(do design.Action, err error) {
	a.result.Broken = !errors.Is(err, browser.ErrStuck) && !errors.As(err, new(*FaultError)) // which would be so once more
	a.result.Steps = append(a.result.Steps, report.StepResult{Do: do, Judgement: judge.Unobserved(err.Error())})
}

// finish sums the attempt up.
func (a *attempt) finish() (out *report.Result) {
	defer func() {
		if err := a.caught(recover()); err != nil {
			out = a.faultResult(err)
		}
	}()
	if a.faulty() == nil {
		a.judgeBefore()
	}
	if err := a.faulty(); err != nil {
		return a.faultResult(err)
	}
	steps := make([]*judge.Step, len(a.result.Steps))
	for i := range steps {
		steps[i] = a.result.Steps[i].Judgement
	}
	a.result.Verdict = judge.Case(steps)
	a.result.Checks = judge.CaseChecks(steps)
	wording.Result(a.r.p, a.c, a.result)
	a.result.Pictures = a.pictures
	return a.result
}

// mostTries is how often new values are tried for one that no row holds yet.
const mostTries = 40

// step makes a step; nil where the step before leaves it nothing to stand on.
func (a *attempt) step(ctx context.Context, i int) (*report.StepResult, error) {
	s := &a.c.Steps[i]
	beside := a.looksAhead(s)
	if !beside {
		a.judgeBefore()
		if !a.grounded() {
			return nil, nil
		}
	}
	if s.Do == design.Reload {
		return a.reload(ctx)
	}
	if err := wait(ctx, s.Wait); err != nil {
		return nil, err
	}
	a.ahead = nil
	if beside {
		a.ahead = a.lookAhead(ctx, i)
	}
	before, stop, err := a.pageFor(ctx, s)
	a.ahead.wait()
	if fault := a.faulty(); fault != nil {
		return nil, fault
	}
	if err != nil {
		return nil, err
	}
	if !a.grounded() {
		return nil, nil
	}
	if stop != nil {
		return &report.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if s.Forged == oracle.ForeignToken {
		if stop, err := a.foreignToken(ctx, before); err != nil || stop != nil {
			return &report.StepResult{Do: s.Do, Judgement: stop}, err
		}
	}
	if a.watch && a.r.judging != nil {
		a.r.judging.now() // while this step's submission is put together, and the site is at work on it
	}
	a.lookAt(before.Form)
	sent, world, stop, err := a.compose(ctx, i, before.Form)
	a.ahead = nil
	if err != nil {
		return nil, err
	}
	if stop != nil {
		return &report.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if s.Aside {
		return a.aside(ctx, before, sent, world)
	}
	if s.Beside {
		gone, stop, err := a.standBy(ctx)
		if err != nil || stop != nil {
			return &report.StepResult{Do: s.Do, Judgement: stop}, err
		}
		a.beside = gone
	}
	if err := a.lookBeforeSubmitting(ctx); err != nil {
		return nil, err
	}
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
func (a *attempt) aside(ctx context.Context, before *observation.Page, sent *oracle.Submission, world *oracle.World) (*report.StepResult, error) {
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
	a.env.OnPage = make(map[string]string, len(form.Controls))
	for _, c := range form.Controls {
		if _, known := a.env.OnPage[c.Name]; !known {
			a.env.OnPage[c.Name] = c.Value
		}
	}
	if a.watch {
		a.r.onPage = a.env.OnPage
	}
}

// submit sends a submission from an opened page and judges what comes of it.
func (a *attempt) submit(ctx context.Context, do design.Action, before *observation.Page, sent *oracle.Submission, world *oracle.World) (*report.StepResult, error) {
	expected := sync.OnceValue(func() *oracle.Expectation {
		if a.instead != nil {
			return a.instead
		}
		return oracle.Expect(a.r.p, world, sent)
	})
	if a.watch {
		a.r.helpers.do(func() { // while the site is at work
			defer func() { _ = recover() }() // who asks for it panics alike
			expected()
		})
	}
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	o.Sent, o.Before = sent, before
	if len(a.r.p.Secrets) > 0 {
		o.Known = a.r.plain.take(a.r.p, sent)
	}
	var instead *judge.Step
	v, err := a.visitor.submit(ctx, before.Form, sent, world.Unchecked, func(entered []observation.Entered) bool {
		var stop bool
		stop, instead = heldBack(a.r.p, expected(), world, entered)
		return stop
	})
	if err != nil {
		return nil, err
	}
	if instead != nil {
		return &report.StepResult{Do: do, Judgement: instead}, nil
	}
	return a.observed(ctx, do, expected(), o, v)
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
		about := e.Breaks(p, f)
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
		return nil, fmt.Sprintf("the page %s does not hold the form (status %d): %s", a.r.p.Form.Page, status, a.r.whichPage(before)), nil
	}
	return before, "", nil
}

func (r *Run) readPage(x *observation.Exchange) (*observation.Page, error) {
	return page.Read(x.Body, x.URL, r.names)
}

func (a *attempt) reload(ctx context.Context) (*report.StepResult, error) {
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

func (a *attempt) observed(ctx context.Context, do design.Action, e *oracle.Expectation, o *observation.Step, v *visit) (*report.StepResult, error) {
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
		if err := a.lookForStanding(ctx, e, o); err != nil {
			return nil, err
		}
	}
	if a.postpone {
		if n := len(v.exchanges); n > 0 {
			a.lookForUsual(ctx, o, v.exchanges[n-1].URL)
		}
		a.later = func() {
			o.After = a.after(o, v)
			judgement := a.r.how().Step(a.r.p, e, o, a.seen)
			a.result.Steps[len(a.result.Steps)-1].Judgement = judgement
			a.learn(e, o, judgement)
		}
		return &report.StepResult{Do: do, Expectation: e, Observation: o}, nil
	}
	if o.After = a.after(o, v); o.After != nil {
		a.lookForUsual(ctx, o, o.After.URL)
	}
	judgement := a.r.how().Step(a.r.p, e, o, a.seen)
	if judgement.Verdict == judge.Odd && do == design.Submit && o.Failure == "" {
		if judgement, err = a.lookAgain(ctx, e, o, judgement); err != nil {
			return nil, err
		}
	}
	a.learn(e, o, judgement)
	if judgement.Verdict == judge.Odd || a.drawn {
		a.draw(ctx, o)
	}
	return &report.StepResult{Do: do, Expectation: e, Observation: o, Judgement: judgement}, nil
}

// learn takes what was seen of a step as what the next stand on.
func (a *attempt) learn(e *oracle.Expectation, o *observation.Step, judgement *judge.Step) {
	a.seen = append(a.seen, o)
	if e.Outcome == oracle.Accepted && judgement.Checks[0].Verdict == judge.AsExpected {
		a.written = append(a.written, oracle.Needs(a.r.p, o.Sent)...)
		a.learnSecret(o.Sent)
	}
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

// lookForStanding reads the visitor's own row where it was to be updated and did not change: it may hold the values already.
func (a *attempt) lookForStanding(ctx context.Context, e *oracle.Expectation, o *observation.Step) error {
	for i := range e.Rows {
		row := &e.Rows[i]
		if !row.Updates || row.KeyColumn == "" || slices.ContainsFunc(o.Changes, func(c observation.Change) bool { return c.Table == row.Table }) {
			continue
		}
		cells, err := a.ownRow(ctx)
		if err != nil {
			return err
		}
		if cells != nil {
			o.Standing = append(o.Standing, observation.Change{Table: row.Table, Kind: observation.Changed, Key: row.Key, Before: cells, After: cells})
		}
	}
	return nil
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
	if later.After = a.after(&later, v); later.After == nil {
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
	return a.r.how().Step(a.r.p, e, o, a.seen), nil
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
		v, err := a.visitor.look(ctx, want.Page)
		switch {
		case err != nil:
		case v.failure != "" || len(v.exchanges) == 0:
			err = errors.New(cmp.Or(v.failure, "no page came"))
		case v.exchanges[len(v.exchanges)-1].Status >= 400:
			err = fmt.Errorf("the page answers with status %d", v.exchanges[len(v.exchanges)-1].Status)
		default:
			got.Texts, err = page.TextsAt(v.exchanges[len(v.exchanges)-1].Body, want.At)
		}
		if err != nil {
			got.Failure = err.Error()
		}
		o.Shown = append(o.Shown, got)
	}
}
