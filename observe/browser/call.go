package browser

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/chromedp/cdproto/cdp"
)

// callWait is how long the browser may take to carry out one command.
const callWait = 20 * time.Second

// errNoAnswer says that a command was not carried out in time.
var errNoAnswer = errors.New("the browser does not answer")

// call has the browser carry out a command. It never waits without end.
func call[P, R any](ctx context.Context, s cdp.Session, c cdp.Command[P, R], params P) (R, error) {
	return callWithin(ctx, callWait, s, c, params)
}

// callWithin is call with another limit.
func callWithin[P, R any](ctx context.Context, limit time.Duration, s cdp.Session, c cdp.Command[P, R], params P) (R, error) {
	limited, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	result, err := cdp.Call(limited, s, c, params)
	if err != nil && limited.Err() != nil && ctx.Err() == nil {
		err = fmt.Errorf("%w within %s", errNoAnswer, limit)
	}
	return result, err
}
