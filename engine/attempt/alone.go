package attempt

import (
	"context"

	"oddtick/core/investigate"
	"oddtick/core/testcase"

	"oddtick/core/report"
	"oddtick/engine/target"
)

// Once makes one case by itself.
func Once(ctx context.Context, t *target.Target, c *testcase.Case) (*report.Result, error) {
	return Alone(ctx, t, c, 1)
}

// Alone makes one case by itself, and puts right what the next one stands on.
func Alone(ctx context.Context, t *target.Target, c *testcase.Case, attempt int) (*report.Result, error) {
	if _, err := t.AwaitForeign(ctx); err != nil {
		return nil, err
	}
	mark := len(t.Journal)
	result := perform(ctx, t, c, attempt, true)
	if err := t.Repair(ctx, mark); err != nil {
		return nil, err
	}
	t.Unlock(ctx, c)
	return result, nil
}

// perform makes the attempt. What the site does wrong is in the result, and so is what could not be observed, with the reason.
func perform(ctx context.Context, t *target.Target, c *testcase.Case, number int, watch bool) *report.Result {
	a := New(t, c, number, watch)
	a.Make(ctx)
	return a.Finish()
}

// By makes single cases of a target for who looks further.
func By(t *target.Target) investigate.Submit {
	return func(ctx context.Context, c *testcase.Case, attempt int) (*report.Result, error) {
		return Alone(ctx, t, c, attempt)
	}
}
