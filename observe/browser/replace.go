package browser

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/fetch"
	"github.com/chromedp/cdproto/network"
)

// How says how a form is submitted.
type How struct {
	// Unchecked switches the browser's own checks off.
	Unchecked bool
	// Replaced is what the page is given in place of the site's answer: network_lost, server_error, unauthorized, or slow, for the same
	// answer later; "" for the answer itself.
	Replaced string
	// Stages are the steps on which the form is filled in; none where it stands on one page.
	Stages []Stage
	// BackAndForth goes back from the last stage to the first before the form is submitted, and forth again.
	BackAndForth bool
	// Button is the accessible name of the button that submits, "" for the form's own.
	Button string
}

const (
	networkLost  = "network_lost"
	serverError  = "server_error"
	unauthorized = "unauthorized"
	slow         = "slow"
)

// slowness is how much later a slow answer comes, and againAfter when the button is pressed once more meanwhile.
const (
	slowness   = 1500 * time.Millisecond
	againAfter = 300 * time.Millisecond
)

// replacement is what becomes of the requests that submit something, while it is set.
type replacement struct {
	by      string
	late    atomic.Bool   // one was kept back
	once    sync.Once     // closes applied
	applied chan struct{} // closed when the first was decided of
	held    sync.WaitGroup
}

// maxHoldTime is how long a request to be replaced is waited for.
const maxHoldTime = 2 * time.Second

// wait returns when a request was decided of, or none comes: the page may not send at all.
func (r *replacement) wait(ctx context.Context) {
	select {
	case <-r.applied:
	case <-ctx.Done():
	case <-time.After(maxHoldTime):
	}
}

// replace gives the page something else than the site's answers to what it submits, until done is called.
func (t *tab) replace(ctx context.Context, by string) (r *replacement, done func(), err error) {
	r = &replacement{by: by, applied: make(chan struct{})}
	t.replacing.Store(r)
	if _, err := call(ctx, t.target, fetch.Enable, fetch.EnableParams{Patterns: []*fetch.RequestPattern{{URLPattern: "*"}}}); err != nil {
		return nil, nil, fmt.Errorf("replace the answer: %w", err)
	}
	return r, func() {
		r.held.Wait()
		t.replacing.Store(nil)
		_, _ = call(context.WithoutCancel(ctx), t.target, fetch.Disable, cdp.Empty{}) // requests that are held go on then
	}, nil
}

// paused decides of a request that waits for its replacement.
func (t *tab) paused(e *fetch.EventRequestPaused) {
	r := t.replacing.Load()
	ctx, cancel := context.WithTimeout(t.b.ctx, t.b.o.Timeout)
	defer cancel()
	if r != nil {
		r.held.Add(1)
		defer r.held.Done()
	}
	submits := e.Request.Method != "GET" && e.Request.Method != "HEAD" && e.Request.Method != "OPTIONS"
	if r != nil && submits && r.by == slow {
		r.once.Do(func() { close(r.applied) })
	} else if r != nil && submits {
		defer r.once.Do(func() { close(r.applied) })
	}
	// what fails here has gone already
	switch {
	case r == nil || !submits:
		_, _ = call(ctx, t.target, fetch.ContinueRequest, fetch.ContinueRequestParams{RequestID: e.RequestID})
	case r.by == networkLost:
		_, _ = call(ctx, t.target, fetch.FailRequest, fetch.FailRequestParams{RequestID: e.RequestID, ErrorReason: network.ErrorReasonInternetDisconnected})
	case r.by == serverError || r.by == unauthorized:
		status, phrase := 500, "Internal Server Error"
		if r.by == unauthorized {
			status, phrase = 401, "Unauthorized"
		}
		_, _ = call(ctx, t.target, fetch.FulfillRequest, fetch.FulfillRequestParams{
			RequestID: e.RequestID, ResponseCode: int64(status), ResponsePhrase: phrase,
			ResponseHeaders: []*fetch.HeaderEntry{{Name: "Content-Type", Value: "text/html; charset=utf-8"}}, Body: []byte("<!doctype html><title>" + phrase + "</title>"),
		})
	default:
		if !r.late.Swap(true) {
			time.Sleep(slowness)
		}
		_, _ = call(ctx, t.target, fetch.ContinueRequest, fetch.ContinueRequestParams{RequestID: e.RequestID})
	}
}
