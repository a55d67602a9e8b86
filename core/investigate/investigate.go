// Package investigate finds out more of an odd case: whether it always shows, with how little, and where the site's own limit lies.
package investigate

import (
	"context"
	"errors"
	"fmt"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/testcase"
)

// Investigation is what more is known of an odd case: whether it always shows, and the simplest case that shows it too.
type Investigation struct {
	Case  string       `json:"case"`
	Cause report.Cause `json:"cause"`
	// Odd of Times repetitions showed the same cause. Other counts those that were odd for another.
	Times int `json:"times"`
	Odd   int `json:"odd"`
	Other int `json:"other,omitempty"`
	// Simplest shows the same cause with as little as possible out of the ordinary: Fields have other than their usual values.
	Simplest *report.Result `json:"simplest,omitempty"`
	Fields   []string       `json:"fields,omitempty"`
	// Limit is where the site's real limit lies, where the case is about one.
	Limit *Limit `json:"limit,omitempty"`
	// Submissions is how many cases were made for it; Stopped tells that there could have been more.
	Submissions int  `json:"submissions"`
	Stopped     bool `json:"stopped,omitempty"`
}

// The repetitions that tell always from now and then, how many more there are where it shows only sometimes, and how many submissions
// are made at most to repeat a case and to make it smaller; a limit takes as many more as halving takes.
const (
	repetitions     = 5
	moreRepetitions = 20
	MaxSubmissions  = 60
)

// Submit makes one case by itself, as its nth attempt, and tells what came of it.
type Submit func(ctx context.Context, c *testcase.Case, attempt int) (*report.Result, error)

// CannotError says why something cannot be found out.
type CannotError struct {
	Reason string
	Err    error // what it comes of, nil for nothing
}

func (e *CannotError) Error() string { return e.Reason }

func (e *CannotError) Unwrap() error { return e.Err }

func cannot(format string, args ...any) error {
	err := fmt.Errorf(format, args...)
	return &CannotError{err.Error(), errors.Unwrap(err)}
}

// looking is looking further under way.
type looking struct {
	*Investigation
	maker    *testcase.Maker
	submit   Submit
	c        *testcase.Case
	progress func(made int)
}

// Investigate repeats an odd case, takes from it what is out of the ordinary while it stays odd for the same cause, and finds the
// site's limit where the case is about one. A case whose cause does not always show is repeated more often instead, for its rate.
// progress is told of each submission. When ctx ends, what is known by then is returned.
func Investigate(ctx context.Context, m *testcase.Maker, submit Submit, c *testcase.Case, cause report.Cause, progress func(made int)) (*Investigation, error) {
	l := &looking{&Investigation{Case: c.ID, Cause: cause}, m, submit, c, progress}
	err := l.all(ctx)
	if ctx.Err() != nil && l.Times > 0 {
		l.Stopped = true
		return l.Investigation, nil
	}
	return l.Investigation, err
}

func (l *looking) all(ctx context.Context) error {
	if err := l.repeat(ctx, repetitions); err != nil {
		return err
	}
	if l.Odd < l.Times {
		return l.repeat(ctx, moreRepetitions)
	}
	if err := l.shrink(ctx); err != nil {
		return err
	}
	rule, end, ok := EndOf(l.maker, l.c)
	if !ok {
		return nil
	}
	limit, err := findLimit(ctx, l.maker, l.submit, rule, end, l.made)
	if errors.As(err, new(*CannotError)) {
		return nil // the finding stands without it
	}
	l.Limit = limit
	return err
}

// made counts a submission.
func (l *looking) made() {
	l.Submissions++
	if l.progress != nil {
		l.progress(l.Submissions)
	}
}

// make makes a case; shows tells whether it is odd for the same cause.
func (l *looking) make(ctx context.Context, c *testcase.Case) (result *report.Result, shows bool, err error) {
	if err := ctx.Err(); err != nil {
		return nil, false, err
	}
	if result, err = l.submit(ctx, c, 2+l.Submissions); err != nil {
		return nil, false, err
	}
	if ctx.Err() != nil {
		return nil, false, ctx.Err() // what was cut off says nothing
	}
	l.made()
	return result, result.Shows(l.Cause), nil
}

func (l *looking) repeat(ctx context.Context, times int) error {
	for range times {
		result, shows, err := l.make(ctx, l.c)
		if err != nil {
			return err
		}
		l.Times++
		switch {
		case shows:
			l.Odd++
			l.Simplest = result
		case result.Verdict == judge.Odd:
			l.Other++
		}
	}
	return nil
}

// shrink takes one thing after another from the case that is out of the ordinary, for as long as it shows the same.
func (l *looking) shrink(ctx context.Context) error {
	best := l.c
	defer func() { l.Fields = Unusual(l.maker, best) }()
	for again := true; again; {
		again = false
		for _, simpler := range Simpler(l.maker, best) {
			if l.Submissions >= MaxSubmissions {
				l.Stopped = true
				return nil
			}
			result, shows, err := l.make(ctx, simpler)
			if err != nil {
				return err
			}
			if shows {
				best, l.Simplest, again = simpler, result, true
				break
			}
		}
	}
	return nil
}
