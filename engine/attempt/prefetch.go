package attempt

import (
	"context"
	"maps"
	"slices"
	"sync"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/submission"
	"oddtick/core/testcase"
)

// prefetched is what was made and looked up of a step while its page was still on its way. It was made from what the form's controls held
// when it was opened before.
type prefetched struct {
	under  sync.WaitGroup
	env    testcase.Env
	values testcase.Resolved // nil where none could be made
	needs  []submission.Lookup
	// found and known are by the place among needs.
	found, known []bool
}

// MostHelpers look ahead: one makes the values, as many look them up as there are mostly unique ones on a form.
const MostHelpers = 4

// maxPrefetchTime is how old values made ahead may be: some are relative to the moment.
const maxPrefetchTime = time.Second

// prefetches tells whether there is time to use while the page of a step is on its way. Where several cases are made at once the others
// fill it, and in a browser the page is open for long before anything is sent.
func (a *Attempt) prefetches(s *testcase.Step) bool {
	return a.Watch && len(a.Target.Databases) > 0 && s.Do != testcase.Reload && s.Driver != submission.Browser && !s.OnResultPage && !s.Back
}

// prefetch has the step before judged, and the values of a step made and looked up, beside the opening of its page.
func (a *Attempt) prefetch(ctx context.Context, i int) *prefetched {
	h := &prefetched{}
	s := &a.Case.Steps[i]
	h.under.Add(1)
	a.Target.Helpers.Submit(func() {
		defer h.under.Done()
		defer func() { _ = a.caught(recover()) }() // the step asks whether there was a fault
		a.judgeBefore()
		if !a.previousStepHolds() {
			return
		}
		h.env = a.Env
		h.env.Now = time.Now()
		if h.env.OnPage = a.Target.OnPage; h.env.OnPage == nil {
			h.env.OnPage = map[string]string{}
		}
		var err error
		if h.values, err = a.Target.Config.Designer.Resolve(a.Case, i, &h.env); err != nil {
			return // composing says so
		}
		h.needs = oracle.Needs(a.Target.Form, a.Target.Config.Designer.Submission(s, h.values))
		h.found, h.known = make([]bool, len(h.needs)), make([]bool, len(h.needs))
		for k := range h.needs {
			h.under.Add(1)
			ask := func() {
				defer h.under.Done()
				defer func() { _ = a.caught(recover()) }()
				found, err := a.lookUp(ctx, &h.needs[k])
				h.found[k], h.known[k] = found, err == nil
			}
			if k+1 < len(h.needs) {
				a.Target.Helpers.Submit(ask)
			} else {
				ask() // the last is asked by who has made the values
			}
		}
	})
	return h
}

// wait waits until all of it is there.
func (h *prefetched) wait() {
	if h != nil {
		h.under.Wait()
	}
}

// valuesFor are the values that were made ahead, nil where those made now would be others.
func (h *prefetched) valuesFor(a *Attempt, s *testcase.Step) testcase.Resolved {
	if h == nil || h.values == nil || h.env.Try != a.Env.Try || a.Env.Now.Sub(h.env.Now) > maxPrefetchTime {
		return nil
	}
	other := slices.ContainsFunc(s.Inputs, func(in testcase.Input) bool {
		name := a.Target.Form.Field(in.Field).Name
		return in.Recipe.Make == testcase.OnPage && h.env.OnPage[name] != a.Env.OnPage[name]
	})
	if other {
		return nil
	}
	return h.values
}

// answer is the answer to a look-up, where it was asked ahead.
func (h *prefetched) answer(l *submission.Lookup) (found, known bool) {
	if h == nil || l.Span != nil {
		return false, false
	}
	k := slices.IndexFunc(h.needs, func(n submission.Lookup) bool {
		return n.Rule == l.Rule && n.Table == l.Table && n.Column == l.Column && n.Value == l.Value && n.Span == nil && maps.Equal(n.Same, l.Same)
	})
	if k < 0 {
		return false, false
	}
	return h.found[k], h.known[k]
}
