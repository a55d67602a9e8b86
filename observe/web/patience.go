package web

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"oddtick/core/observation"
)

// A site that answers that there were too many requests is asked again at most maxTooMany times, and waited for at most maxWait each time.
const (
	maxTooMany = 5
	maxWait    = 2 * time.Minute
)

// TooManyError says that a site keeps answering that there were too many requests (RFC 6585, 429). It says nothing of the form.
type TooManyError struct {
	Times int
	Asks  time.Duration // to wait, where that is longer than it is waited for
}

func (e *TooManyError) Error() string {
	if e.Asks > 0 {
		return fmt.Sprintf("the site answers that there were too many requests (429), and asks to wait %s", e.Asks)
	}
	return fmt.Sprintf("the site answered %d times in a row that there were too many requests (429); run fewer a minute", e.Times)
}

// RetryAfter is how long an answer asks to wait, in seconds or until a date (RFC 9110, 10.2.3); where it does not say, longer each time.
func RetryAfter(x *observation.Exchange, try int) time.Duration {
	for _, h := range x.ResponseHeader {
		if !strings.EqualFold(h.Name, "Retry-After") {
			continue
		}
		if n, err := strconv.Atoi(strings.TrimSpace(h.Value)); err == nil && n >= 0 {
			return time.Duration(n) * time.Second
		}
		if at, err := http.ParseTime(h.Value); err == nil {
			return max(0, time.Until(at))
		}
	}
	return time.Second << try
}

// patience counts how often, and how long, a site was waited for.
type patience struct {
	mu    sync.Mutex
	times int
	long  time.Duration
}

func (p *patience) wait(ctx context.Context, long time.Duration) error {
	if long > maxWait {
		return &TooManyError{Asks: long.Round(time.Second)}
	}
	p.mu.Lock()
	p.times++
	p.long += long
	p.mu.Unlock()
	select {
	case <-time.After(long):
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Wait waits as a site asks to.
func (c *Client) Wait(ctx context.Context, long time.Duration) error { return c.waited.wait(ctx, long) }

// Waited is how often the site asked to wait, and how long it was waited for altogether.
func (c *Client) Waited() (times int, long time.Duration) {
	c.waited.mu.Lock()
	defer c.waited.mu.Unlock()
	return c.waited.times, c.waited.long
}
