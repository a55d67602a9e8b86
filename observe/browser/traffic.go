package browser

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"oddtick/core/observation"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
)

// hop is one request and its answer; a redirect is followed by the next hop of the same id.
type hop struct {
	id       network.RequestID
	kind     network.ResourceType
	exchange observation.Exchange
	started  cdp.MonotonicTime
	asked    time.Time
	done     bool
	answered bool
	failure  string
	refused  string // what the guard says of why no answer came
	length   int    // of the body, in bytes
	mime     string
}

// document: the hop is a page, not a part of one.
func (h *hop) document() bool { return h.kind == network.ResourceTypeDocument }

// scripted: a script of the page asked for it.
func (h *hop) scripted() bool {
	return h.kind == network.ResourceTypeXHR || h.kind == network.ResourceTypeFetch || h.kind == network.ResourceTypePing
}

// endless kinds stay open while the page is there.
func (h *hop) endless() bool {
	return h.kind == network.ResourceTypeEventSource || h.kind == network.ResourceTypeWebSocket
}

// traffic records what a tab asks for and gets.
type traffic struct {
	mu      sync.Mutex
	hops    []*hop
	errors  []string
	dialogs []string
	frame   cdp.FrameID
	changed chan struct{} // closed and made anew at each event
	word    string        // the guard's header
	// lasting are the paths of what was read for longer than maxReading, in all tabs of the browser: the next time it is known.
	lasting *sync.Map
}

func newTraffic(word string, lasting *sync.Map) *traffic {
	return &traffic{changed: make(chan struct{}), word: word, lasting: lasting}
}

func (r *traffic) note(change func()) {
	r.mu.Lock()
	defer r.mu.Unlock()
	change()
	close(r.changed)
	r.changed = make(chan struct{})
}

// forget drops what was recorded.
func (r *traffic) forget() {
	r.note(func() { r.hops, r.errors, r.dialogs = nil, nil, nil })
}

func (r *traffic) find(id network.RequestID) *hop {
	for i := len(r.hops) - 1; i >= 0; i-- {
		if r.hops[i].id == id {
			return r.hops[i]
		}
	}
	return nil
}

func (r *traffic) asked(e *network.EventRequestWillBeSent, secret func(string) bool) {
	if strings.HasPrefix(e.Request.URL, "data:") || strings.HasPrefix(e.Request.URL, "blob:") || strings.HasSuffix(e.Request.URL, "/favicon.ico") || e.Type == network.ResourceTypePreflight {
		return
	}
	if e.Type == network.ResourceTypeDocument && e.FrameID != r.frame {
		return // a frame within the page
	}
	r.note(func() {
		if e.RedirectResponse != nil {
			if before := r.find(e.RequestID); before != nil {
				before.answer(e.RedirectResponse)
				before.exchange.Location = e.Request.URL
				before.exchange.Took = took(before.started, e.Timestamp)
				before.done = true
			}
		}
		h := &hop{id: e.RequestID, kind: e.Type, started: e.Timestamp, asked: time.Now()}
		h.exchange = observation.Exchange{Method: e.Request.Method, URL: e.Request.URL, RequestHeader: headers(e.Request.Headers, secret)}
		var body strings.Builder
		for _, part := range e.Request.PostDataEntries {
			body.Write(part.Bytes)
		}
		h.exchange.RequestBody = body.String()
		r.hops = append(r.hops, h)
	})
}

func took(from, to cdp.MonotonicTime) time.Duration {
	return time.Duration((to.Float64() - from.Float64()) * float64(time.Second))
}

func (h *hop) answer(res *network.Response) {
	h.answered = true
	h.exchange.Status = int(res.Status)
	h.exchange.ResponseHeader = headers(res.Headers, nil)
	h.mime = res.MimeType
}

func (r *traffic) answered(e *network.EventResponseReceived) {
	r.note(func() {
		h := r.find(e.RequestID)
		if h == nil {
			return
		}
		for name, value := range e.Response.Headers {
			if strings.EqualFold(name, r.word) {
				h.refused = fmt.Sprint(value)
				return
			}
		}
		h.answer(e.Response)
	})
}

func (r *traffic) finished(id network.RequestID, at cdp.MonotonicTime, length int, failure string) {
	r.note(func() {
		if h := r.find(id); h != nil {
			h.done, h.failure, h.length = true, failure, length
			if h.refused != "" {
				h.failure = h.refused
			}
			h.exchange.Took = took(h.started, at)
		}
	})
}

// What a script reads may be asked for again and again, wait for news, or never end: it is waited for as long, and what it asked for before
// only maxQuietTime from the beginning of the wait.
const (
	maxReading   = 5 * time.Second
	maxStreaming = maxQuietTime // of an answer that has begun
	oftenAsked   = 2            // as often before, by its path
)

// busy tells whether something is under way since a mark that will end, for somebody who waits since begun; wait hears of the next event.
func (r *traffic) busy(mark int, begun time.Time) (busy, any bool, wait <-chan struct{}) {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, h := range r.hops[min(mark, len(r.hops)):] {
		busy = busy || !h.done && !h.endless() && !r.goesOn(h, begun)
		any = any || h.document() || h.scripted()
	}
	return busy, any, r.changed
}

// goesOn tells whether a request is one of those that a page makes as long as it is there.
func (r *traffic) goesOn(h *hop, begun time.Time) bool {
	if !h.scripted() || h.exchange.Method != http.MethodGet {
		return false
	}
	path, _, _ := strings.Cut(h.exchange.URL, "?")
	switch age := time.Since(h.asked); {
	case age > maxReading || h.answered && age > maxStreaming:
		r.lasting.Store(path, true)
		return true
	case time.Since(begun) <= maxQuietTime:
		return false
	}
	if _, known := r.lasting.Load(path); known {
		return true
	}
	before := 0
	for _, other := range r.hops {
		if at, _, _ := strings.Cut(other.exchange.URL, "?"); other != h && at == path && other.exchange.Method == h.exchange.Method && other.asked.Before(h.asked) {
			before++
		}
	}
	return before >= oftenAsked
}

func (r *traffic) mark() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.hops)
}

// since are the hops from a mark on.
func (r *traffic) since(mark int) []*hop {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Clone(r.hops[min(mark, len(r.hops)):])
}

func (r *traffic) said() (errors, dialogs []string) {
	r.mu.Lock()
	defer r.mu.Unlock()
	return slices.Clone(r.errors), slices.Clone(r.dialogs)
}

// submission picks from what was asked for the submitting request with all that followed it: the one that goes where the form
// points, else a page, else what a script sent that is no mere question.
func submission(hops []*hop, action string) []*hop {
	at := -1
	for _, fits := range []func(h *hop) bool{
		func(h *hop) bool {
			return action != "" && (h.document() || h.scripted()) && samePath(h.exchange.URL, action) && h.exchange.Method != "GET" && h.exchange.Method != "OPTIONS"
		},
		(*hop).document,
		func(h *hop) bool {
			return h.scripted() && h.exchange.Method != "GET" && h.exchange.Method != "OPTIONS" && h.kind != network.ResourceTypePing
		},
	} {
		if at = slices.IndexFunc(hops, fits); at >= 0 {
			break
		}
	}
	if at < 0 {
		return nil
	}
	first := hops[at]
	var out []*hop
	for _, h := range hops[at:] {
		if h.id == first.id || h.document() {
			out = append(out, h)
		}
	}
	return out
}

func samePath(a, b string) bool {
	x, errX := url.Parse(a)
	y, errY := url.Parse(b)
	return errX == nil && errY == nil && x.Path == y.Path && (y.Host == "" || x.Host == y.Host)
}

// headers lists headers by name. Cookies' values, and those that are secret, are left out.
func headers(h network.Headers, secret func(string) bool) []observation.Header {
	var out []observation.Header
	for name, value := range h {
		text := fmt.Sprint(value)
		for _, line := range strings.Split(text, "\n") {
			switch {
			case strings.EqualFold(name, "Cookie"), strings.EqualFold(name, "Set-Cookie"):
				line = observation.WithoutCookieValues(line)
			case strings.EqualFold(name, "Authorization"), secret != nil && secret(name):
				line = "…"
			}
			out = append(out, observation.Header{Name: name, Value: line})
		}
	}
	slices.SortFunc(out, func(a, b observation.Header) int { return strings.Compare(a.Name+a.Value, b.Name+b.Value) })
	return out
}
