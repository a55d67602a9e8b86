package browser

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"time"

	"oddtick/core/address"
	"oddtick/core/observation"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
)

// Visitor is one visitor with a tab and cookies of their own. It is for one goroutine.
type Visitor struct {
	b      *Browser
	tab    *tab
	fields []Field
	mark   int      // hops before the last submission
	files  []string // folders of files that were sent
	// finger and keyboard are how the visitor uses the page, where it is not by a mouse.
	finger, keyboard bool
}

// Seen is what came of something a visitor did.
type Seen struct {
	Exchanges []observation.Exchange
	// HTML is the page as it stands, with what cannot be seen marked.
	HTML, Address string
	holdsForm     bool // a field of it at least
	// Passing are earlier states of the page since the submission, oldest first, for what comes and goes.
	Passing []Passing
	Drawn   observation.Drawn
	// Mistaken is what a control made of a mistake, nil where none was made.
	Mistaken *observation.Entered
	// Failure says why no answer came.
	Failure string
}

// Passing is a state of the page that did not last.
type Passing struct {
	Stage string
	At    time.Duration // since the page was opened
	HTML  string
}

// stillAfter is how long nothing must change for a page to be taken as it is, and stillBefore how long a request may take to come.
const (
	stillAfter  = 30 * time.Millisecond
	stillBefore = 100 * time.Millisecond
)

// lateChange is how late a page may still say something after it seemed to be at rest.
const lateChange = 900 * time.Millisecond

// maxQuietTime is how long a page that never comes to rest is waited for.
const maxQuietTime = 1500 * time.Millisecond

// maxLoadingTime is how long a document is waited for that is not parsed to its end; less than a page may take to answer.
const maxLoadingTime = 9 * time.Second

// Field is a field of the form under test, by which its control is found: by its name in the request, or else by role and label.
type Field struct {
	// Name is by which the field is known: its request name, unless it is not the first of that name. Then SentAs is the request name, and
	// Nth how many of that name stand before it.
	Name   string `json:"name"`
	SentAs string `json:"sentAs,omitempty"`
	Nth    int    `json:"nth,omitempty"`
	// Kind is the field's kind, Role the ARIA role of its control where that is said, and Labels its label in each language.
	Kind   string   `json:"kind"`
	Role   string   `json:"role"`
	Labels []string `json:"labels"`
	// OtherName: the control may carry another name than the request.
	OtherName bool `json:"otherName"`
}

// Form is what tells the form under test from all else on its page.
type Form struct {
	Fields []Field
	// OpenedBy is the accessible name of what is pressed for the form to appear, "" for a form that stands on its page.
	OpenedBy string
	// Await: it is waited for on a page that has come to rest without it.
	Await bool
}

// Open goes to a page. form is the one under test, nil where a page is merely looked at.
func (v *Visitor) Open(ctx context.Context, path string, form *Form) (*Seen, error) {
	base, err := url.Parse(v.b.o.Address)
	if err != nil {
		return nil, fmt.Errorf("the site's address %q cannot be read: %w", v.b.o.Address, err)
	}
	target, err := base.Parse(path)
	if err != nil {
		return nil, fmt.Errorf("the path %q cannot be read: %w", path, err)
	}
	v.fields = nil
	if form != nil {
		v.fields = form.Fields
	}
	v.tab.traffic.forget()
	v.tab.origins[target.Scheme+"://"+target.Host] = true
	if !v.b.o.Allowed(target.Host) {
		return &Seen{Failure: target.Host + " is not among the site's allowed addresses"}, nil
	}
	answer, err := callWithin(ctx, v.b.o.Timeout, v.tab.target, page.Navigate, page.NavigateParams{URL: target.String()})
	if errors.Is(err, errNoAnswer) {
		late := v.late()
		_, _ = call(ctx, v.tab.target, page.StopLoading, cdp.Empty{}) // or else the next page tells
		if late != nil {
			return nil, late
		}
		return &Seen{Failure: fmt.Sprintf("GET %s: no answer within %s", target.Path, v.b.o.Timeout)}, nil
	}
	if err != nil {
		return nil, v.gone(fmt.Errorf("open %s: %w", path, err))
	}
	if answer.ErrorText != "" {
		return &Seen{Failure: fmt.Sprintf("GET %s: %s", target.Path, answer.ErrorText)}, nil
	}
	seen, err := v.look(ctx, 0, "", stillAfter)
	if err != nil || seen.Failure != "" {
		return seen, err
	}
	if form != nil && form.OpenedBy != "" {
		pressed, err := v.Press(ctx, form.OpenedBy)
		switch {
		case err != nil:
			return nil, err
		case !pressed:
			seen.Failure = fmt.Sprintf("nothing named %s can be pressed on %s", form.OpenedBy, path)
			return seen, nil
		}
		with, err := v.look(ctx, 0, "", stillBefore)
		if err != nil {
			return nil, err
		}
		seen = with
	}
	for begun := time.Now(); form != nil && form.Await && len(form.Fields) > 0 && !seen.holdsForm && seen.Failure == "" && time.Since(begun) < formWithin; {
		select {
		case <-time.After(2 * stillAfter):
		case <-ctx.Done():
			return nil, ctx.Err()
		}
		if seen, err = v.look(ctx, 0, "", stillAfter); err != nil {
			return nil, err
		}
	}
	_, err = ask[any](ctx, v.tab, "begin", v.known())
	return seen, v.gone(err)
}

// formWithin is how long a form is waited for on a page that has come to rest without it: a script may be slow to draw what it was given.
const formWithin = 2 * time.Second

// known are the fields of the form under test.
func (v *Visitor) known() []Field { return append([]Field{}, v.fields...) }

// gone says that the browser has ended where that is why something failed.
func (v *Visitor) gone(err error) error {
	switch {
	case err == nil:
		return nil
	case v.b.Gone():
		return v.b.gone()
	case errors.As(err, new(*Error)):
		return err
	}
	return &Error{err}
}

// Reload loads what the visitor sees again; a page that answered a submission is submitted again.
func (v *Visitor) Reload(ctx context.Context) (*Seen, error) {
	mark := v.tab.traffic.mark()
	if _, err := call(ctx, v.tab.target, page.Reload, page.ReloadParams{}); err != nil {
		return nil, v.gone(fmt.Errorf("reload the page: %w", err))
	}
	return v.look(ctx, mark, "", stillBefore)
}

// Back goes back to the page that the visitor saw before, as the browser's back button does.
func (v *Visitor) Back(ctx context.Context) (*Seen, error) {
	history, err := call(ctx, v.tab.target, page.GetNavigationHistory, cdp.Empty{})
	if err != nil {
		return nil, v.gone(fmt.Errorf("read the history: %w", err))
	}
	at := int(history.CurrentIndex) - 1
	if at < 0 || at >= len(history.Entries) || !strings.HasPrefix(history.Entries[at].URL, "http") {
		return &Seen{Failure: "there is no page to go back to"}, nil
	}
	mark := v.tab.traffic.mark()
	if _, err := call(ctx, v.tab.target, page.NavigateToHistoryEntry, page.NavigateToHistoryEntryParams{EntryID: history.Entries[at].ID}); err != nil {
		return nil, v.gone(fmt.Errorf("go back: %w", err))
	}
	return v.look(ctx, mark, "", stillBefore)
}

// Again looks once more at what came of the last submission, when the page has been still for a while or the time is over.
func (v *Visitor) Again(ctx context.Context, action string) (*Seen, error) {
	if _, err := ask[bool](ctx, v.tab, "quiet", lateChange.Milliseconds(), maxQuietTime.Milliseconds()+lateChange.Milliseconds()); err != nil && !errors.Is(err, errWorldGone) {
		return nil, v.gone(err)
	}
	return v.look(ctx, v.mark, action, stillAfter)
}

// look waits until the page has come to rest and reads it.
func (v *Visitor) look(ctx context.Context, mark int, action string, still time.Duration) (*Seen, error) {
	failure, err := v.settle(ctx, mark, still)
	if err != nil {
		return nil, err
	}
	out := &Seen{Failure: failure}
	for _, h := range v.tab.traffic.since(0) {
		if host := hostOf(h.exchange.URL); !v.b.o.Allowed(host) && !slices.Contains(out.Drawn.NotAsked, host) {
			out.Drawn.NotAsked = append(out.Drawn.NotAsked, host)
		}
	}
	for _, h := range v.picked(mark, action) {
		if h.failure != "" && !h.answered && out.Failure == "" && h.failure != "canceled" && h.failure != "net::ERR_ABORTED" {
			out.Failure = h.exchange.Method + " " + address.Path(h.exchange.URL) + ": " + h.failure
		}
		if !v.b.o.Allowed(hostOf(h.exchange.URL)) {
			if n := len(out.Exchanges); n > 0 {
				out.Exchanges[n-1].NotFollowed = hostOf(h.exchange.URL) + " is not among the site's allowed addresses"
			}
			out.Failure = ""
			break
		}
		if !h.answered {
			continue
		}
		x := h.exchange
		v.body(ctx, h, &x)
		out.Exchanges = append(out.Exchanges, x)
	}
	if failure != "" {
		_, _ = call(ctx, v.tab.target, page.StopLoading, cdp.Empty{}) // what still stands there can be looked at then
	}
	s, err := v.sight(ctx)
	if err != nil && out.Failure != "" && !v.b.Gone() {
		return out, nil // there is nothing to be seen, and why is known
	}
	if err != nil {
		return nil, err
	}
	out.HTML, out.Address, out.holdsForm = s.HTML, s.Address, s.HoldsForm
	for _, shot := range s.Shots {
		if shot.HTML != s.HTML {
			out.Passing = append(out.Passing, Passing{shot.Stage, time.Duration(shot.At) * time.Millisecond, shot.HTML})
		}
	}
	for _, n := range s.Invalid {
		out.Drawn.Native = append(out.Drawn.Native, observation.Native{Field: n.Name, Text: n.Text, Shown: n.Shown, Custom: n.Custom})
	}
	out.Drawn.Stuck = s.Stuck
	out.Drawn.Focus, out.Drawn.Height = s.Focused, s.Height
	out.Drawn.Errors, out.Drawn.Dialogs = v.tab.traffic.said()
	for _, h := range v.tab.traffic.since(mark) {
		if h.document() || out.has(h.exchange.URL) || !v.b.o.Allowed(hostOf(h.exchange.URL)) {
			continue
		}
		switch {
		case h.failure != "" && h.failure != "canceled" && h.failure != "net::ERR_ABORTED":
			out.Drawn.Lost = append(out.Drawn.Lost, observation.Lost{URL: h.exchange.URL, Why: h.failure})
		case h.exchange.Status >= 400:
			out.Drawn.Lost = append(out.Drawn.Lost, observation.Lost{URL: h.exchange.URL, Why: fmt.Sprintf("status %d", h.exchange.Status)})
		}
	}
	return out, nil
}

func (s *Seen) has(address string) bool {
	for i := range s.Exchanges {
		if s.Exchanges[i].URL == address {
			return true
		}
	}
	return false
}

// picked are the hops that an observation is about: the page that was opened, or the submission with what followed.
func (v *Visitor) picked(mark int, action string) []*hop {
	hops := v.tab.traffic.since(mark)
	if action != "" {
		return submission(hops, action)
	}
	var out []*hop
	for _, h := range hops {
		if h.document() {
			out = append(out, h)
		}
	}
	return out
}

// sight reads the page; where it leaves meanwhile, the next.
func (v *Visitor) sight(ctx context.Context) (*sight, error) {
	for try := range 5 {
		s, err := ask[*sight](ctx, v.tab, "seen", try > 3, v.known())
		switch {
		case errors.Is(err, errWorldGone):
			continue
		case err == nil && s == nil:
			if err := v.tab.openRoots(ctx); err != nil {
				return nil, v.gone(err)
			}
		case err != nil:
			return nil, v.gone(err)
		case s.Loading && try < 4:
			if _, err := ask[bool](ctx, v.tab, "quiet", 0, maxQuietTime.Milliseconds(), maxLoadingTime.Milliseconds()); err != nil && !errors.Is(err, errWorldGone) {
				return nil, v.gone(err)
			}
		case s.Loading:
			return nil, fmt.Errorf("the page's document does not end within %s", maxLoadingTime)
		default:
			return s, nil
		}
	}
	return nil, errors.New("the page does not come to rest: it leaves again and again")
}

// lookAgain is how often settle checks whether what is still under way counts as endless.
const lookAgain = 250 * time.Millisecond

// settle waits until nothing is under way and the page is still. failure is set where an answer does not come in time.
func (v *Visitor) settle(ctx context.Context, mark int, still time.Duration) (failure string, err error) {
	begun := time.Now()
	deadline := begun.Add(v.b.o.Timeout)
	overdue := time.NewTimer(v.b.o.Timeout)
	defer overdue.Stop()
	for {
		for {
			busy, _, changed := v.tab.traffic.busy(mark, begun)
			if !busy {
				break
			}
			select {
			case <-changed:
			case <-time.After(lookAgain):
			case <-ctx.Done():
				return "", ctx.Err()
			case <-v.b.ctx.Done():
				return "", v.b.gone()
			case <-overdue.C:
				return v.unanswered()
			}
		}
		if _, any, _ := v.tab.traffic.busy(mark, begun); any {
			still = stillAfter
		}
		err := v.quiet(ctx, mark, still, begun, deadline)
		busy, _, _ := v.tab.traffic.busy(mark, begun)
		switch {
		case errors.Is(err, errWorldGone):
		case errors.Is(err, errNoAnswer), errors.Is(err, ErrStuck) && busy:
			return v.unanswered()
		case err != nil:
			return "", v.gone(err)
		case !busy:
			return "", nil
		}
	}
}

// quiet waits until the page has been still for so long. Now and then Chromium lets a page that is being left say nothing until the next
// one comes, so an answer that is owed beyond its time ends the wait: errNoAnswer.
func (v *Visitor) quiet(ctx context.Context, mark int, still time.Duration, begun, deadline time.Time) error {
	within, cancel := context.WithCancelCause(ctx)
	defer cancel(nil)
	watch := time.AfterFunc(time.Until(deadline), func() {
		if busy, _, _ := v.tab.traffic.busy(mark, begun); busy {
			cancel(errNoAnswer)
		}
	})
	defer watch.Stop()
	_, err := ask[bool](within, v.tab, "quiet", still.Milliseconds(), maxQuietTime.Milliseconds(), maxLoadingTime.Milliseconds())
	if errors.Is(context.Cause(within), errNoAnswer) {
		return errNoAnswer
	}
	return err
}

// unanswered is the failure of a site that owes an answer beyond its time.
func (v *Visitor) unanswered() (failure string, err error) {
	return fmt.Sprintf("no answer within %s", v.b.o.Timeout), v.late()
}

// late is the error where the time is over and the site owes no answer: then the browser is slow, and nothing can be said of the site.
func (v *Visitor) late() error {
	if v.b.guard.asked.Load() > 0 {
		return nil
	}
	return &Error{fmt.Errorf("it is not ready within %s, and the site owes no answer; is the machine too busy?", v.b.o.Timeout)}
}

// maxBodyLength is how much of an answer is kept, in bytes.
const maxBodyLength = 1 << 20

// body asks for an answer's body, which is gone with its page.
func (v *Visitor) body(ctx context.Context, h *hop, x *observation.Exchange) {
	if x.Location != "" || !h.done || h.failure != "" || h.length > 8*maxBodyLength {
		return
	}
	res, err := call(ctx, v.tab.target, network.GetResponseBody, network.GetResponseBodyParams{RequestID: h.id})
	if err != nil {
		return
	}
	body := res.Body
	if len(body) > maxBodyLength {
		body, x.Truncated = body[:maxBodyLength], true
	}
	x.Body = strings.ToValidUTF8(string(body), "\uFFFD")
}

// Look opens a page in another tab of the same visitor, beside the one they see.
func (v *Visitor) Look(ctx context.Context, path string) (*Seen, error) {
	beside, err := v.b.openBeside(ctx, v.tab)
	if err != nil {
		return nil, v.gone(err)
	}
	defer beside.end()
	return (&Visitor{b: v.b, tab: beside}).Open(ctx, path, &Form{Fields: v.fields})
}

// Cookies are the visitor's cookies for the site and the pages that were opened, by name, as digests.
func (v *Visitor) Cookies(ctx context.Context) (map[string]string, error) {
	out := map[string]string{}
	addresses := []string{v.b.o.Address}
	for _, h := range v.tab.traffic.since(0) {
		if address := h.exchange.URL; v.b.o.Allowed(hostOf(address)) && !slices.Contains(addresses, address) {
			addresses = append(addresses, address)
		}
	}
	res, err := call(ctx, v.tab.target, network.GetCookies, network.GetCookiesParams{URLs: addresses})
	if err != nil {
		return nil, v.gone(fmt.Errorf("read the cookies: %w", err))
	}
	for _, c := range res.Cookies {
		sum := sha256.Sum256([]byte(c.Value))
		out[c.Name] = hex.EncodeToString(sum[:6])
	}
	return out, nil
}

// Cookie is a cookie with its attributes, and the address that set it.
type Cookie struct {
	*http.Cookie
	From string
}

// SetCookies gives the visitor cookies as a site has set them.
func (v *Visitor) SetCookies(ctx context.Context, cookies []Cookie) error {
	for _, c := range cookies {
		p := network.SetCookieParams{Name: c.Name, Value: c.Value, URL: c.From, Domain: c.Domain, Path: c.Path, HTTPOnly: pointer(c.HttpOnly), Secure: pointer(c.Secure)}
		switch c.SameSite {
		case http.SameSiteStrictMode:
			p.SameSite = network.CookieSameSiteStrict
		case http.SameSiteLaxMode:
			p.SameSite = network.CookieSameSiteLax
		case http.SameSiteNoneMode:
			p.SameSite = network.CookieSameSiteNone
		}
		if _, err := call(ctx, v.tab.target, network.SetCookie, p); err != nil {
			return v.gone(fmt.Errorf("set the cookie %s: %w", c.Name, err))
		}
	}
	return nil
}

// Picture draws the page as it stands, from its top, at most 2,000 pixels high, as JPEG.
func (v *Visitor) Picture(ctx context.Context) ([]byte, error) {
	s, err := v.sight(ctx)
	if err != nil {
		return nil, err
	}
	res, err := call(ctx, v.tab.target, page.CaptureScreenshot, page.CaptureScreenshotParams{
		Format: page.CaptureScreenshotFormatJpeg, Quality: pointer(int64(60)), CaptureBeyondViewport: pointer(true),
		Clip: &page.Viewport{Width: width, Height: float64(max(200, min(s.Height, 2000))), Scale: 1},
	})
	if err != nil {
		return nil, v.gone(fmt.Errorf("draw the page: %w", err))
	}
	return res.Data, nil
}

// Close lets the tab go.
func (v *Visitor) Close() {
	for _, folder := range v.files {
		_ = os.RemoveAll(folder)
	}
	v.files = nil
	if v.tab != nil {
		v.b.giveBack(v.tab)
		v.tab = nil
	}
}

// pressedBySpace are the types of controls that the space bar sets.
var pressedBySpace = []string{"checkbox", "radio"}

// click presses the mouse button where an element in hand can be reached, as a person would; what cannot be reached so is clicked
// by its own method.
func (v *Visitor) click(ctx context.Context, e *element) error {
	if v.keyboard && slices.Contains(pressedBySpace, e.Type) {
		if _, err := ask[any](ctx, v.tab, "focusHeld"); err != nil { // within its group, as the arrow keys do
			return err
		}
		return v.tab.strike(ctx, press(" "))
	}
	if !e.Reached {
		_, err := ask[any](ctx, v.tab, "clickHeld")
		return err
	}
	if v.finger {
		return v.tap(ctx, e.X, e.Y)
	}
	mouse := func(kind input.DispatchMouseEventType) stroke {
		return func(ctx context.Context, t cdp.Session) error {
			_, err := call(ctx, t, input.DispatchMouseEvent, input.DispatchMouseEventParams{Type: kind, X: e.X, Y: e.Y, Button: input.MouseButtonLeft, ClickCount: 1})
			return err
		}
	}
	return v.tab.strike(ctx, []stroke{mouse(input.DispatchMouseEventTypeMouseMoved), mouse(input.DispatchMouseEventTypeMousePressed), mouse(input.DispatchMouseEventTypeMouseReleased)})
}

func hostOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return u.Host
}
