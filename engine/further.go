package engine

import (
	"context"
	"fmt"
	"strings"

	"oddtick/core/design"
	"oddtick/core/judge"
)

// Further is what more is known of an odd case: whether it always shows, and the simplest case that shows it too.
type Further struct {
	Case  string      `json:"case"`
	Cause judge.Cause `json:"cause"`
	// Odd of Times repetitions showed the same cause. Other counts those that were odd for another.
	Times int `json:"times"`
	Odd   int `json:"odd"`
	Other int `json:"other,omitempty"`
	// Simplest shows the same cause with as little as possible out of the ordinary: Fields have other than their usual values.
	Simplest *judge.Result `json:"simplest,omitempty"`
	Fields   []string      `json:"fields,omitempty"`
	// Submissions is how many cases were made for it; Stopped tells that there could have been more.
	Submissions int  `json:"submissions"`
	Stopped     bool `json:"stopped,omitempty"`
}

// Words say how often it shows, and with what.
func (f *Further) Words() string {
	often := fmt.Sprintf("always: %d of %d", f.Odd, f.Times)
	switch f.Odd {
	case f.Times:
	case 0:
		often = fmt.Sprintf("not shown again: 0 of %d, which does not say that it is mended", f.Times)
	default:
		often = fmt.Sprintf("intermittent: %d of %d", f.Odd, f.Times)
	}
	switch {
	case f.Simplest == nil:
		return often
	case len(f.Fields) == 0:
		return often + "; usual values show it"
	}
	return often + "; it takes no more than an unusual " + strings.Join(f.Fields, ", ")
}

// The repetitions that tell always from now and then, how many more there are where it shows only sometimes, and how many submissions
// looking further may take.
const (
	repetitions     = 5
	moreRepetitions = 20
	mostFurther     = 60
)

// LookFurther repeats an odd case, and takes from it what is out of the ordinary while it stays odd for the same cause. A case whose
// cause does not always show is repeated more often instead, for its rate. progress is told of each submission.
func (r *Run) LookFurther(ctx context.Context, c *design.Case, cause judge.Cause, progress func(made int)) (*Further, error) {
	f := &Further{Case: c.ID, Cause: cause}
	made := func(one *design.Case) (*judge.Result, error) {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		f.Submissions++
		result, err := r.alone(ctx, one, 1+f.Submissions)
		if err == nil && progress != nil {
			progress(f.Submissions)
		}
		return result, err
	}
	shows := func(result *judge.Result) bool { return result.Cause != nil && *result.Cause == cause }
	repeat := func(times int) error {
		for range times {
			result, err := made(c)
			if err != nil {
				return err
			}
			f.Times++
			switch {
			case shows(result):
				f.Odd++
				f.Simplest = result
			case result.Verdict == judge.Odd:
				f.Other++
			}
		}
		return nil
	}
	if err := repeat(repetitions); err != nil {
		return nil, err
	}
	if f.Odd < f.Times {
		return f, repeat(moreRepetitions)
	}
	best := c
	for again := true; again; {
		again = false
		for _, simpler := range r.c.Designer.Simpler(best) {
			if f.Submissions >= mostFurther {
				f.Stopped, again = true, false
				break
			}
			result, err := made(simpler)
			if err != nil {
				return nil, err
			}
			if shows(result) {
				best, f.Simplest, again = simpler, result, true
				break
			}
		}
	}
	f.Fields = r.c.Designer.Unusual(best)
	return f, nil
}

// Once makes one case by itself.
func (r *Run) Once(ctx context.Context, c *design.Case) (*judge.Result, error) {
	return r.alone(ctx, c, 1)
}

// alone makes one case by itself, and puts right what the next one stands on.
func (r *Run) alone(ctx context.Context, c *design.Case, attempt int) (*judge.Result, error) {
	if err := r.rebase(ctx, &Collected{}); err != nil {
		return nil, err
	}
	mark := len(r.journal)
	result := r.perform(ctx, c, attempt, true)
	if err := r.repair(ctx, mark); err != nil {
		return nil, err
	}
	r.unlock(ctx, c)
	return result, nil
}
