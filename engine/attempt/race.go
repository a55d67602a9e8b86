package attempt

import (
	"context"
	"math"
	"slices"
	"sync"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/driver"
)

// Submissions are released together again and again until a race as narrow as narrowEnough would hardly be missed, or maxReleases.
const (
	narrowEnough = time.Millisecond
	maxReleases  = 8
	minReleases  = 3
)

// isTogether tells whether a case's steps are released at the same moment.
func isTogether(c *testcase.Case) bool {
	return slices.ContainsFunc(c.Steps, func(s testcase.Step) bool { return s.Concurrent })
}

// released is one of the submissions that are released together.
type released struct {
	visitor driver.Visitor
	before  *observation.Page
	sent    *submission.Submission
	world   *oracle.World
	step    *observation.Step
	visit   *driver.Visit
	err     error
}

// race makes a case whose steps are released at the same moment, each by a visitor of its own: again and again with new values,
// until something is odd. The result holds the steps of the last round, the one that got the value first.
func race(ctx context.Context, a *Attempt) {
	about := &report.Race{Submissions: len(a.Case.Steps)}
	a.Result.Race = about
	var chances []chance
	base := a.Env.Try
	defer func() { a.Env.Try = base }()
	for about.Rounds < maxReleases && (about.Rounds < minReleases || about.Narrowest > narrowEnough) {
		a.Env.Try = base + about.Rounds*len(a.Case.Steps)
		a.Env.Earlier, a.Result.Steps = nil, nil
		list, stop, err := raceOnce(ctx, a)
		odd := false
		if err == nil && stop == nil {
			odd = settle(ctx, a, list)
		}
		for _, one := range list {
			if one != nil && one.visitor != nil {
				one.visitor.Close()
			}
		}
		if err != nil {
			a.unobserved(testcase.Submit, err)
			return
		}
		if stop != nil {
			a.Result.Steps = []report.StepResult{{Do: testcase.Submit, Judgement: stop}}
			return
		}
		about.Rounds++
		if odd {
			return
		}
		chances = append(chances, chanceOf(list))
		about.Narrowest = narrowest(chances)
	}
}

// raceOnce makes one: all visitors open the page, and their submissions are released when the last is ready. The visitors are the caller's to
// close.
func raceOnce(ctx context.Context, a *Attempt) (list []*released, stop *judge.Judgement, err error) {
	list = make([]*released, len(a.Case.Steps))
	failures := make([]string, len(list))
	var wg sync.WaitGroup
	for i := range list {
		one := &released{}
		list[i] = one
		if one.visitor, one.err = a.Target.NewVisitor(ctx, a.Case); one.err != nil {
			return list, nil, one.err
		}
		wg.Go(func() {
			defer func() { _ = a.caught(recover()) }()
			by := &Attempt{Target: a.Target, Case: a.Case, Visitor: one.visitor}
			one.before, failures[i], one.err = by.Open(ctx)
		})
	}
	wg.Wait()
	if err := a.faulty(); err != nil {
		return list, nil, err
	}
	for i, one := range list {
		if one.err != nil {
			return list, nil, one.err
		}
		if failures[i] != "" {
			return list, judge.Unobserved(failures[i]), nil
		}
		a.lookAt(one.before.Form)
		if one.sent, one.world, stop, err = a.Compose(ctx, i, one.before.Form); err != nil || stop != nil {
			return list, stop, err
		}
	}
	start := make(chan struct{})
	for _, one := range list {
		by := &Attempt{Target: a.Target, Case: a.Case, Visitor: one.visitor}
		if one.step, err = by.beginStep(ctx); err != nil {
			close(start)
			return list, nil, err
		}
		one.step.Sent, one.step.Before = one.sent, one.before
		wg.Go(func() {
			defer func() { _ = a.caught(recover()) }()
			<-start
			one.step.At = time.Now().UTC()
			one.visit, one.err = one.visitor.Submit(ctx, one.before.Form, one.sent, one.world.Unchecked, func([]observation.Entered) bool { return false })
		})
	}
	close(start)
	wg.Wait()
	if err := a.faulty(); err != nil {
		return list, nil, err
	}
	for _, one := range list {
		if one.err != nil {
			return list, nil, one.err
		}
		take(one.step, one.visit)
		one.step.After = (&Attempt{Target: a.Target}).after(one.step, one.visit)
		if one.step.CookiesAfter, err = one.visitor.Cookies(ctx); err != nil {
			return list, nil, err
		}
	}
	changes, err := a.Target.Changes(ctx)
	if err != nil {
		return list, nil, err
	}
	share(changes, list, func(one *released) bool {
		return judge.AnsweredAsAccepted(a.Target.Form, oracle.Expect(a.Target.Form, one.world, one.sent), one.step)
	})
	return list, nil, nil
}

// lookForShownBy goes, after a race, to the places where the accepted submission's values are promised to be seen.
func lookForShownBy(ctx context.Context, a *Attempt, one *released, e *oracle.Expectation) {
	if e.Outcome == oracle.Accepted && one.visit.Failure == "" && len(one.step.Shown) == 0 {
		by := &Attempt{Target: a.Target, Case: a.Case, Visitor: one.visitor}
		by.lookForShown(ctx, e, one.step)
	}
}

// share gives each row that changed to a submission: to the one most of whose values it holds, of those that not all of them sent; else
// to the one that has the row whose key it holds; else to one that was answered as an accepted one is; else to the one most of whose
// values it holds at all, and of several to that with the fewest rows.
func share(changes []observation.Change, list []*released, answeredAsAccepted func(*released) bool) {
	common := func(value string) bool {
		return !slices.ContainsFunc(list, func(one *released) bool {
			return !slices.ContainsFunc(one.sent.Pairs, func(p submission.Pair) bool { return p.Value == value })
		})
	}
	var rest []observation.Change
	for _, c := range changes {
		if owner := ownerOf(&c, list, func(value string) bool { return !common(value) }); owner != nil {
			owner.step.Changes = append(owner.step.Changes, c)
		} else {
			rest = append(rest, c)
		}
	}
	var accepted []*released
	for _, one := range list {
		if answeredAsAccepted(one) {
			accepted = append(accepted, one)
		}
	}
	if len(accepted) == 0 {
		accepted = list
	}
	for _, c := range rest {
		at := slices.IndexFunc(list, func(one *released) bool {
			return slices.ContainsFunc(one.step.Changes, func(other observation.Change) bool { return other.Table != c.Table && holds(&c, other.Key) })
		})
		var owner *released
		if at >= 0 {
			owner = list[at]
		} else if owner = ownerOf(&c, accepted, func(string) bool { return true }); owner == nil {
			owner = accepted[0]
		}
		owner.step.Changes = append(owner.step.Changes, c)
	}
}

func holds(c *observation.Change, value string) bool {
	return value != "" && slices.ContainsFunc(c.After, func(cell observation.Cell) bool { return cell.Value == value })
}

// ownerOf is the submission most of whose values, of those that count, a row holds; nil where it holds none.
func ownerOf(c *observation.Change, list []*released, counts func(value string) bool) (best *released) {
	most := 0
	for _, one := range list {
		held := 0
		for i := range one.sent.Pairs {
			if value := one.sent.Pairs[i].Value; counts(value) && holds(c, value) {
				held++
			}
		}
		if held > most || held == most && best != nil && len(one.step.Changes) < len(best.step.Changes) {
			best, most = one, held
		}
	}
	return best
}

// settle judges a round: one submission gets the value, and comes first in the result; the others are refused.
func settle(ctx context.Context, a *Attempt, list []*released) (odd bool) {
	slices.SortStableFunc(list, func(x, y *released) int { return ended(x).Compare(ended(y)) })
	expected := func(one *released, taken bool) *oracle.Expectation {
		w := *one.world
		if taken {
			w.LookupResults = map[string]bool{}
			for rule, yes := range one.world.LookupResults {
				w.LookupResults[rule] = yes || slices.Contains(a.Case.Last().Breaks, rule)
			}
		}
		e := oracle.Expect(a.Target.Form, &w, one.sent)
		e.Mails, e.NoMail = nil, false // by which of them a mail was sent is not known
		return e
	}
	first := slices.IndexFunc(list, func(one *released) bool {
		return a.Target.Judging().Step(a.Target.Form, expected(one, false), one.step, nil).Checks[0].Verdict == judge.AsExpected
	})
	if first > 0 {
		one := list[first]
		list = slices.Insert(slices.Delete(list, first, first+1), 0, one)
	}
	for i, one := range list {
		e := expected(one, i > 0)
		lookForShownBy(ctx, a, one, e)
		judgement := a.Target.Judging().Step(a.Target.Form, e, one.step, nil)
		a.Result.Steps = append(a.Result.Steps, report.StepResult{Do: testcase.Submit, Expectation: e, Observation: one.step, Judgement: judgement})
		odd = odd || judgement.Verdict == judge.Odd
	}
	return odd
}

// ended is when a submission was answered.
func ended(one *released) time.Time {
	at := one.step.At
	if first := one.step.First(); first != nil {
		at = at.Add(first.Took)
	}
	return at
}

// chance is what a round's times say about the races it would have shown: how far apart two requests that followed each other left,
// and how much the time until an answer varied, in seconds.
type chance struct {
	gaps   []float64
	spread float64
}

func chanceOf(list []*released) chance {
	var at, took []float64
	for _, one := range list {
		if first := one.step.First(); first != nil {
			at = append(at, float64(one.step.At.UnixNano())/1e9)
			took = append(took, first.Took.Seconds())
		}
	}
	slices.Sort(at)
	var c chance
	for i := 1; i < len(at); i++ {
		c.gaps = append(c.gaps, at[i]-at[i-1])
	}
	mean, squares := 0.0, 0.0
	for _, t := range took {
		mean += t / float64(len(took))
	}
	for _, t := range took {
		squares += (t - mean) * (t - mean)
	}
	if len(took) > 1 {
		c.spread = math.Sqrt(squares / float64(len(took)-1))
	}
	return c
}

// missed is the chance that no two of the requests met within a time between check and writing, in seconds: each gap between two of
// them is taken to vary as the answers' times do, by a normal distribution.
func (c chance) missed(width float64) float64 {
	out := 1.0
	sigma := math.Max(c.spread*math.Sqrt2, 1e-6)
	below := func(x float64) float64 { return 0.5 * math.Erfc(-x/math.Sqrt2) }
	for _, gap := range c.gaps {
		out *= 1 - (below((width-gap)/sigma) - below((-width-gap)/sigma))
	}
	return out
}

// narrowest is the least width that all rounds together miss at most once in a hundred.
func narrowest(rounds []chance) time.Duration {
	lo, hi := 0.0, 10.0
	for range 40 {
		mid, missed := (lo+hi)/2, 1.0
		for _, c := range rounds {
			missed *= c.missed(mid)
		}
		if missed <= 0.01 {
			hi = mid
		} else {
			lo = mid
		}
	}
	return time.Duration(hi * float64(time.Second)).Round(time.Microsecond)
}
