// Package attempt makes one case once: open, expect, submit, observe, judge.
package attempt

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

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/template"
	"oddtick/core/testcase"
	"oddtick/core/universal"
	"oddtick/core/wording"
	"oddtick/engine/driver"
	"oddtick/engine/target"
	"oddtick/observe/browser"
	"oddtick/observe/page"
)

// Attempt is one go at a case: its steps one after the other, by one visitor.
type Attempt struct {
	Target  *target.Target
	Case    *testcase.Case
	Number  int
	Watch   bool // look for changes after each step; false in a batch, whose changes are looked for at its end
	Visitor driver.Visitor
	// beside tells what became of another session of the account, nil where none stands by.
	beside  func(context.Context) observation.SessionState
	Account *spec.Account       // who is signed in, or signs in
	Own     bool                // the account is signed in already, by a journey
	Instead *oracle.Expectation // what a journey expects of its submission, nil for what the form promises
	// later judges the step made last, where that is postponed: until the page of the next is on its way, or the case is made.
	postpone   bool
	later      func()
	Env        testcase.Env
	prefetched *prefetched // what was made of the step before its page was there
	faultMu    sync.Mutex
	fault      error // a panic that ended the case
	// WhileSending is called before a step's submission is put together, for what can be done meanwhile; nil for nothing.
	WhileSending func()
	firstSent    time.Time
	seen         []*observation.Step
	mails        int                 // that had come before the step was made
	written      []submission.Lookup // values that the attempt's own accepted steps have stored
	Result       *report.Result
	// Drawn asks for a picture whatever the verdict. pictures are JPEG files by the step they show.
	Drawn    bool
	Pictures map[string][]byte
}

func New(t *target.Target, c *testcase.Case, number int, watch bool) *Attempt {
	a := &Attempt{Target: t, Case: c, Number: number, Watch: watch, Result: &report.Result{Case: c.ID, Attempt: number}}
	a.Env = testcase.Env{Run: t.Config.Number, Try: (number - 1) * MostTries, Rows: t.Rows}
	return a
}

// Make makes the case's steps.
func (a *Attempt) Make(ctx context.Context) {
	r, c := a.Target, a.Case
	a.Result.Started = time.Now().UTC()
	defer func() {
		_ = a.caught(recover()) // finish tells of it
		a.Result.Took = time.Since(a.Result.Started)
	}()
	a.Begin()
	if isTogether(c) {
		race(ctx, a)
		r.Mailbox.Settle(ctx)
		return
	}
	v, err := r.NewVisitor(ctx, c)
	if err != nil {
		a.unobserved(c.Steps[0].Do, err)
		return
	}
	a.Visitor = v
	defer v.Close()
	a.postpone = !c.InBrowser() // in the browser an odd page is looked at again
	for i := range c.Steps {
		step, err := a.Step(ctx, i)
		if err != nil {
			a.unobserved(c.Steps[i].Do, err)
			break
		}
		if step == nil {
			break
		}
		a.Result.Steps = append(a.Result.Steps, *step)
		if step.Observation == nil {
			break // the rest has nothing to stand on
		}
	}
}

// judgeBefore judges the step before, where that was postponed.
func (a *Attempt) judgeBefore() {
	if later := a.later; later != nil {
		a.later = nil
		later()
	}
}

// previousStepHolds tells whether a next step has something to stand on. Where the one before should have been accepted and was not, it would
// be judged against a state that is not there, and the case is odd already.
func (a *Attempt) previousStepHolds() bool {
	n := len(a.Result.Steps)
	return n == 0 || a.Case.Steps[n-1].Expect != oracle.Accepted || a.Result.Steps[n-1].Judgement.Checks[0].Verdict != judge.Odd
}

// unobserved: the browser or a database could not do or tell what was asked.
func (a *Attempt) unobserved(do testcase.Action, err error) {
	a.Result.Broken = !errors.Is(err, browser.ErrStuck) && !errors.As(err, new(*FaultError)) // which would be so once more
	a.Result.Steps = append(a.Result.Steps, report.StepResult{Do: do, Judgement: judge.Unobserved(err.Error())})
}

// Finish sums the attempt up.
func (a *Attempt) Finish() (out *report.Result) {
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
	steps := make([]*judge.Judgement, len(a.Result.Steps))
	for i := range steps {
		steps[i] = a.Result.Steps[i].Judgement
	}
	a.Result.Verdict = judge.Case(steps)
	a.Result.Checks = judge.CaseChecks(steps)
	wording.Result(a.Target.Form, a.Case, a.Result)
	a.hideTokens()
	a.Result.Pictures = a.Pictures
	return a.Result
}

// MostTries is how often new values are tried for one that no row holds yet.
const MostTries = testcase.MostTries

// Step makes a step; nil where the step before leaves it nothing to stand on.
func (a *Attempt) Step(ctx context.Context, i int) (*report.StepResult, error) {
	s := &a.Case.Steps[i]
	beside := a.prefetches(s)
	if !beside {
		a.judgeBefore()
		if !a.previousStepHolds() {
			return nil, nil
		}
	}
	if s.Do == testcase.Reload {
		return a.reload(ctx)
	}
	if err := wait(ctx, s.Wait); err != nil {
		return nil, err
	}
	a.prefetched = nil
	if beside {
		a.prefetched = a.prefetch(ctx, i)
	}
	before, stop, err := a.pageFor(ctx, s)
	a.prefetched.wait()
	if fault := a.faulty(); fault != nil {
		return nil, fault
	}
	if err != nil {
		return nil, err
	}
	if !a.previousStepHolds() {
		return nil, nil
	}
	if stop != nil {
		return &report.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if s.Forged == submission.SignedOut {
		defer a.signedOut(ctx, before)()
	}
	if record := a.Target.Form.Form.Requests.Record(s.Record); record != nil {
		back, err := a.otherRecord(ctx, before, record)
		if err != nil {
			return nil, err
		}
		defer back()
	}
	if s.Forged == submission.ForeignToken {
		if stop, err := a.foreignToken(ctx, before); err != nil || stop != nil {
			return &report.StepResult{Do: s.Do, Judgement: stop}, err
		}
	}
	if a.WhileSending != nil {
		a.WhileSending()
	}
	a.lookAt(before.Form)
	sent, world, stop, err := a.Compose(ctx, i, before.Form)
	a.prefetched = nil
	if err != nil {
		return nil, err
	}
	if stop != nil {
		return &report.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if stop := a.tooLate(s); stop != nil {
		return &report.StepResult{Do: s.Do, Judgement: stop}, nil
	}
	if s.SetupOnly {
		return a.aside(ctx, before, sent, world)
	}
	if s.WithSecondSession {
		gone, stop, err := a.openSecondSession(ctx)
		if err != nil || stop != nil {
			return &report.StepResult{Do: s.Do, Judgement: stop}, err
		}
		a.beside = gone
	}
	if err := a.lookBeforeSubmitting(ctx); err != nil {
		return nil, err
	}
	return a.Submit(ctx, s.Do, before, sent, world)
}

// mostForTooMany is within what time a case must have made its submissions, for all of them to count within a minute.
const mostForTooMany = 55 * time.Second

// tooLate tells why a step that is to be one too many says nothing, nil for any other.
func (a *Attempt) tooLate(s *testcase.Step) *judge.Judgement {
	if a.firstSent.IsZero() {
		a.firstSent = time.Now()
	}
	if s.TooMany && time.Since(a.firstSent) > mostForTooMany {
		return judge.Unobserved(fmt.Sprintf("the site took longer than %s for the submissions before, so that some of them no longer count", mostForTooMany))
	}
	return nil
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
func (a *Attempt) aside(ctx context.Context, before *observation.Page, sent *submission.Submission, world *oracle.World) (*report.StepResult, error) {
	e := &oracle.Expectation{Outcome: oracle.Answered}
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	o.Sent, o.Before = sent, before
	v, err := a.Visitor.Submit(ctx, before.Form, sent, world.Unchecked, func([]observation.Entered) bool { return false })
	if err != nil {
		return nil, err
	}
	return a.observed(ctx, testcase.Submit, e, o, v)
}

// lookAt takes what a form holds as what recipes are made from.
func (a *Attempt) lookAt(form *observation.Form) {
	a.Env.Now = time.Now()
	a.Env.OnPage = make(map[string]string, len(form.Controls))
	a.Env.Offered = map[string][]string{}
	for _, c := range form.Controls {
		if _, known := a.Env.OnPage[c.Name]; !known {
			a.Env.OnPage[c.Name] = c.Value
		}
		a.Env.Offered[c.Name] = append(append(a.Env.Offered[c.Name], c.Offered...), c.Value)
	}
	if a.Watch {
		a.Target.OnPage = a.Env.OnPage
	}
}

// Submit sends a submission from an opened page and judges what comes of it.
func (a *Attempt) Submit(ctx context.Context, do testcase.Action, before *observation.Page, sent *submission.Submission, world *oracle.World) (*report.StepResult, error) {
	expected := sync.OnceValue(func() *oracle.Expectation {
		if a.Instead != nil {
			return a.Instead
		}
		return oracle.Expect(a.Target.Form, world, sent)
	})
	if a.Watch {
		a.Target.Helpers.Submit(func() { // while the site is at work
			defer func() { _ = recover() }() // who asks for it panics alike
			expected()
		})
	}
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	o.Sent, o.Before = sent, before
	a.mails = a.Target.Mailbox.Count()
	if len(a.Target.Form.Secrets) > 0 {
		o.Known = a.Target.Plain.Take(a.Target.Form, sent)
	}
	var instead *judge.Judgement
	v, err := a.Visitor.Submit(ctx, before.Form, sent, world.Unchecked, func(entered []observation.Entered) bool {
		var stop bool
		stop, instead = decideBlocked(a.Target.Form, expected(), world, entered)
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

// decideBlocked decides of what a page made of the values whether it is sent. instead is set where the page does not let a visitor do
// what the case is about, or lacks a control.
func decideBlocked(p *spec.Prepared, e *oracle.Expectation, w *oracle.World, entered []observation.Entered) (stop bool, instead *judge.Judgement) {
	for i := range entered {
		got := &entered[i]
		f := driver.FieldNamed(p, got.Name)
		if f == nil {
			continue
		}
		got.Changed = driver.Remade(f, got)
		if got.Refused == "" && !got.Changed {
			continue
		}
		refused := got.Refused
		if refused == "" {
			refused = driver.MadeOf(got)
		}
		about := e.Breaks(p, f)
		switch {
		case got.Unreached:
			stop = true // which is what the case is about
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

// beginStep is the observation of a step that is about to be made.
func (a *Attempt) beginStep(ctx context.Context) (*observation.Step, error) {
	cookies, err := a.Visitor.Cookies(ctx)
	return &observation.Step{At: time.Now().UTC(), CookiesBefore: cookies, Watched: a.Target.Databases.Tables(), Changes: []observation.Change{}}, err
}

// Open goes to the page and reads it. failure says why there is nothing to fill in.
func (a *Attempt) Open(ctx context.Context) (before *observation.Page, failure string, err error) {
	v, err := a.Visitor.Open(ctx, a.address())
	if err != nil {
		return nil, "", err
	}
	if v.Failure != "" {
		return nil, "the page cannot be opened: " + v.Failure, nil
	}
	before, err = v.Page()
	switch {
	case err != nil:
		return nil, err.Error(), nil
	case before == nil || before.Form == nil:
		status := 0
		if n := len(v.Exchanges); n > 0 {
			status = v.Exchanges[n-1].Status
		}
		return nil, fmt.Sprintf("the page %s does not hold the form (status %d): %s", a.Target.Form.Form.Page, status, a.Target.WhichPage(before)), nil
	}
	if n := len(v.Exchanges); n > 0 && a.Case != nil && a.Case.JudgesPage {
		before.ContentLanguage = v.Exchanges[n-1].Header("Content-Language")
	}
	return before, "", nil
}

func (a *Attempt) reload(ctx context.Context) (*report.StepResult, error) {
	o, err := a.beginStep(ctx)
	if err != nil {
		return nil, err
	}
	if n := len(a.seen); n > 0 {
		o.Before = a.seen[n-1].After
	}
	v, err := a.Visitor.Reload(ctx)
	if err != nil {
		return nil, err
	}
	e := &oracle.Expectation{Outcome: oracle.NothingFurther}
	accepted := &a.Target.Form.Form.Accepted
	if a.Case.Last().Driver == submission.Browser {
		e.Form = accepted.Reloaded
	}
	if n := len(a.Result.Steps); n > 0 && (accepted.ReplyOnce || e.Form != "") && a.Result.Steps[n-1].Expectation != nil {
		e.Gone = a.Result.Steps[n-1].Expectation.Reply
	}
	return a.observed(ctx, testcase.Reload, e, o, v)
}

func (a *Attempt) observed(ctx context.Context, do testcase.Action, e *oracle.Expectation, o *observation.Step, v *driver.Visit) (*report.StepResult, error) {
	take(o, v)
	var err error
	if o.CookiesAfter, err = a.Visitor.Cookies(ctx); err != nil {
		return nil, err
	}
	if e.Outcome == oracle.Accepted && v.Failure == "" {
		if !byRow(e) {
			a.lookForShown(ctx, e, o)
		}
		if a.beside != nil {
			o.OtherSession = a.beside(ctx)
		}
	}
	if a.Watch {
		if err := a.lookForChanges(ctx, o); err != nil {
			return nil, err
		}
		if e.Outcome == oracle.Accepted && v.Failure == "" && byRow(e) {
			a.lookForShown(ctx, e, o)
		}
		if err := a.lookForStanding(ctx, e, o); err != nil {
			return nil, err
		}
	}
	a.lookForMails(ctx, e, o)
	if n := len(v.Exchanges); e.RefusalPage != nil && n > 0 {
		o.Links = page.Links(v.Exchanges[n-1].Body, v.Exchanges[n-1].URL)
	}
	if a.postpone {
		if n := len(v.Exchanges); n > 0 {
			a.lookForUsual(ctx, o, v.Exchanges[n-1].URL)
		}
		a.later = func() {
			o.After = a.after(o, v)
			judgement := a.Target.Judging().Step(a.Target.Form, e, o, a.seen)
			last := &a.Result.Steps[len(a.Result.Steps)-1]
			last.Judgement, last.Unusual = judgement, unusual(a.Target.Form, e, o, judgement)
			a.remember(e, o, judgement)
		}
		return &report.StepResult{Do: do, Expectation: e, Observation: o}, nil
	}
	if o.After = a.after(o, v); o.After != nil {
		a.lookForUsual(ctx, o, o.After.URL)
	}
	judgement := a.Target.Judging().Step(a.Target.Form, e, o, a.seen)
	if judgement.Verdict == judge.Odd && do == testcase.Submit && o.Failure == "" {
		if judgement, err = a.lookAgain(ctx, e, o, judgement); err != nil {
			return nil, err
		}
	}
	a.remember(e, o, judgement)
	if judgement.Verdict == judge.Odd || a.Drawn {
		a.draw(ctx, o)
	}
	return &report.StepResult{Do: do, Expectation: e, Observation: o, Judgement: judgement, Unusual: unusual(a.Target.Form, e, o, judgement)}, nil
}

// unusual is what breaks a promise that holds on every form, and of which the document says nothing. The field that differs is that of the only
// rule which the submission breaks.
func unusual(p *spec.Prepared, e *oracle.Expectation, o *observation.Step, judgement *judge.Judgement) []universal.Unusual {
	s := &universal.Submitted{Form: p, Step: o, Ending: universal.Unclear}
	switch judgement.Ended {
	case oracle.Accepted:
		s.Ending = universal.Accepted
	case oracle.RejectedByServer:
		s.Ending = universal.Rejected
	case oracle.Contradictory: // a document that says little of the answer tells acceptance from nothing but the rows
		if len(o.Changes) > 0 && !slices.ContainsFunc(o.NewTexts(), func(t observation.Text) bool { return t.Alarm && !t.Hidden }) {
			s.Ending = universal.Accepted
		}
	}
	if len(e.Failing) == 1 {
		if rule := p.Rule(e.Failing[0].Rule); rule != nil && rule.Field != nil {
			s.Field = rule.Field.ID
		}
	}
	return universal.Unwritten(universal.Step(s), e, judgement)
}

// remember takes what was seen of a step as what the next stand on.
func (a *Attempt) remember(e *oracle.Expectation, o *observation.Step, judgement *judge.Judgement) {
	a.seen = append(a.seen, o)
	if e.Outcome == oracle.Accepted && judgement.Checks[0].Verdict == judge.AsExpected {
		a.written = append(a.written, oracle.Needs(a.Target.Form, o.Sent)...)
		a.learnSecret(o.Sent)
	}
}

// lookForMails takes the mails that a submission has sent. In a batch they are looked for at its end.
func (a *Attempt) lookForMails(ctx context.Context, e *oracle.Expectation, o *observation.Step) {
	box := a.Target.Mailbox
	if box == nil || o.Sent == nil || len(e.Mails) == 0 && !e.NoMail {
		if a.Watch {
			box.Settle(ctx) // what it sends is not the next one's
		}
		return
	}
	o.MailsReceived = true
	if !a.Watch {
		return
	}
	var values []string
	for _, p := range o.Sent.Pairs {
		values = append(values, strings.TrimSpace(p.Value))
	}
	o.Mails = box.Collect(ctx, a.mails, e, values)
}

// draw keeps a picture of the page where there is one.
func (a *Attempt) draw(ctx context.Context, o *observation.Step) {
	picture, err := a.Visitor.Picture(ctx)
	if err != nil || picture == nil || o.Drawn == nil {
		return // the rest of the evidence stands without it
	}
	o.Drawn.Picture = strconv.Itoa(len(a.seen))
	if a.Pictures == nil {
		a.Pictures = map[string][]byte{}
	}
	a.Pictures[o.Drawn.Picture] = picture
}

func (a *Attempt) lookForChanges(ctx context.Context, o *observation.Step) error {
	changes, err := a.Target.Changes(ctx)
	o.Changes = append(o.Changes, changes...)
	return err
}

// lookForStanding reads a row that was to be updated and did not change, where it can be told which one it is: it may hold the values already.
func (a *Attempt) lookForStanding(ctx context.Context, e *oracle.Expectation, o *observation.Step) error {
	for i := range e.Rows {
		row := &e.Rows[i]
		if !row.Updates || slices.ContainsFunc(o.Changes, func(c observation.Change) bool { return c.Table == row.Table && judge.IsRow(row, &c) }) {
			continue
		}
		cells, err := a.standing(ctx, row)
		if err != nil {
			return err
		}
		if cells != nil {
			o.Standing = append(o.Standing, observation.Change{Table: row.Table, Kind: observation.Changed, Key: row.Key, Before: cells, After: cells})
		}
	}
	return nil
}

// standing is the row that is to be updated, as it stands; nil where it cannot be told which one it is.
func (a *Attempt) standing(ctx context.Context, row *oracle.Row) ([]observation.Cell, error) {
	if row.KeyColumn != "" {
		return a.ownRow(ctx)
	}
	db, can := a.Target.Databases.Of(row.Table).(target.Finder)
	if len(row.Where) == 0 || !can {
		return nil, nil
	}
	where := make([]observation.Cell, len(row.Where))
	for i, held := range row.Where {
		where[i] = observation.Cell{Column: held.Column, Value: held.Value}
	}
	return db.Find(ctx, row.Table, where...)
}

// lookAgain waits for what comes late on a page that scripts draw: what looks wrong at first may only not be there yet.
func (a *Attempt) lookAgain(ctx context.Context, e *oracle.Expectation, o *observation.Step, first *judge.Judgement) (*judge.Judgement, error) {
	v, err := a.Visitor.Again(ctx)
	if err != nil || v == nil {
		return first, err
	}
	later := *o
	take(&later, v)
	later.Drawn.Entered, later.Drawn.Blocked, later.Drawn.Times, later.Drawn.Correction = o.Drawn.Entered, o.Drawn.Blocked, o.Drawn.Times, o.Drawn.Correction
	if later.After = a.after(&later, v); later.After == nil {
		return first, nil
	}
	if o.After != nil {
		driver.AddGone(later.After, o.After.Texts, later.At.Sub(o.At))
	}
	if a.Watch {
		if err := a.lookForChanges(ctx, &later); err != nil {
			return nil, err
		}
	}
	*o = later
	return a.Target.Judging().Step(a.Target.Form, e, o, a.seen), nil
}

// take notes what came of a visitor's step.
func take(o *observation.Step, v *driver.Visit) {
	o.Exchanges, o.Failure, o.Drawn = v.Exchanges, v.Failure, v.Drawn
	if o.Exchanges == nil {
		o.Exchanges = []observation.Exchange{}
	}
	if first := o.First(); first != nil && o.Sent != nil && v.Drawn != nil {
		o.Left = driver.AsSent(first, o.Sent.Driver)
	}
}

// byRow: the page of a saved value is found by the row that was written, so that the row is looked at first.
func byRow(e *oracle.Expectation) bool {
	return slices.ContainsFunc(e.Shown, func(s oracle.Shown) bool { return len(template.Names(s.Page)) > 0 })
}

// lookForShown goes to the places where saved values are promised to be seen.
func (a *Attempt) lookForShown(ctx context.Context, e *oracle.Expectation, o *observation.Step) {
	for _, want := range e.Shown {
		got := observation.ShownAt{Page: judge.WithRows(a.Target.Form.Form, o.Changes, want.Page), At: want.At}
		if len(template.Names(got.Page)) > 0 {
			got.Failure = "the row that it is about was not seen"
			o.Shown = append(o.Shown, got)
			continue
		}
		v, err := a.Visitor.Look(ctx, got.Page)
		switch {
		case err != nil:
		case v.Failure != "" || len(v.Exchanges) == 0:
			err = errors.New(cmp.Or(v.Failure, "no page came"))
		case v.Exchanges[len(v.Exchanges)-1].Status >= 400:
			err = fmt.Errorf("the page answers with status %d", v.Exchanges[len(v.Exchanges)-1].Status)
		default:
			got.Texts, err = page.TextsAt(v.Exchanges[len(v.Exchanges)-1].Body, want.At)
		}
		if err != nil {
			got.Failure = err.Error()
		}
		o.Shown = append(o.Shown, got)
	}
}
