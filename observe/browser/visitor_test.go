package browser_test

import (
	"bytes"
	"context"
	"fmt"
	"image/jpeg"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/page"

	"github.com/stretchr/testify/require"
)

const ferryPage = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Ferry</title></head><body>
<form method="post" action="/ferry" enctype="multipart/form-data">
<p><label>Name <input name="name" value="old"></label></p>
<p><label>Short <input name="short" maxlength="3"></label></p>
<p><label>Note <textarea name="note" rows="3"></textarea></label></p>
<p><label>Day <input type="date" name="day"></label></p>
<p><label>Hour <input type="time" name="hour"></label></p>
<p><label>Deck <select name="deck"><option value="">-</option><option value="u">Upper</option><option value="l">Lower</option></select></label></p>
<p><label>Meals <select name="meals" multiple><option value="s">Soup</option><option value="b">Bread</option><option value="t">Tea</option></select></label></p>
<p><label><input type="radio" name="side" value="p">Port</label> <label><input type="radio" name="side" value="s" checked>Starboard</label></p>
<p><label><input type="checkbox" name="dog" value="yes">A dog</label></p>
<p><label><input type="checkbox" name="bags" value="1">One</label><label><input type="checkbox" name="bags" value="2" checked>Two</label><label><input type="checkbox" name="bags" value="3">Three</label></p>
<p><label>Ticket <input type="file" name="ticket"></label></p>
<p><label>Fixed <input name="fixed" value="f" readonly></label> <input name="away" style="display:none"> <label>Off <input name="off" disabled></label></p>
<div role="switch" aria-checked="false" tabindex="0" aria-label="Quiet" id="quiet">Quiet</div><input type="hidden" name="quiet" value="no">
<button>Book</button></form>
<script>
document.getElementById("quiet").addEventListener("click", (e) => { const on = e.target.getAttribute("aria-checked") !== "true"; e.target.setAttribute("aria-checked", on); document.querySelector("[name=quiet]").value = on ? "yes" : "no" })
</script></body></html>`

// harbour is a site that takes the ferry form and keeps what came.
type harbour struct {
	*httptest.Server
	mu   sync.Mutex
	last url.Values
	file string
	seen []string // cookies of visitors
}

func newHarbour(t *testing.T, page string) *harbour {
	h := &harbour{}
	h.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		switch {
		case r.Method == http.MethodPost:
			_ = r.ParseMultipartForm(1 << 20)
			h.mu.Lock()
			h.last = r.PostForm
			if f, head, err := r.FormFile("ticket"); err == nil {
				content, _ := io.ReadAll(f)
				h.file = fmt.Sprintf("%s %d", head.Filename, len(content))
			}
			h.mu.Unlock()
			http.Redirect(w, r, "/done", http.StatusSeeOther)
		case r.URL.Path == "/done":
			fmt.Fprint(w, "<!doctype html><p role=status>Booked.</p>")
		default:
			if c, err := r.Cookie("who"); err == nil {
				h.mu.Lock()
				h.seen = append(h.seen, c.Value)
				h.mu.Unlock()
			} else {
				http.SetCookie(w, &http.Cookie{Name: "who", Value: "v", Path: "/"})
			}
			fmt.Fprint(w, page)
		}
	}))
	t.Cleanup(h.Close)
	return h
}

func (h *harbour) sent() url.Values {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.last
}

func startOn(t *testing.T, address string) *browser.Browser {
	u, err := url.Parse(address)
	require.NoError(t, err)
	b, err := browser.Start(browser.Options{Address: address, Allowed: func(host string) bool { return host == u.Host }})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	return b
}

func never([]observation.Entered) bool { return false }

func visitor(t *testing.T, b *browser.Browser, path string, names ...string) *browser.Visitor {
	return visitorOf(t, b, path, formOf(names...))
}

func visitorOf(t *testing.T, b *browser.Browser, path string, form *browser.Form) *browser.Visitor {
	v, err := b.NewVisitor(context.Background())
	require.NoError(t, err)
	t.Cleanup(v.Close)
	seen, err := v.Open(context.Background(), path, form)
	require.NoError(t, err)
	require.Empty(t, seen.Failure)
	return v
}

// TestAFormWithinClosedRoots is drawn, filled in and sent as any other.
func TestAFormWithinClosedRoots(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, `<!doctype html><title>Ferry</title><ferry-book></ferry-book><div style="height: 4px"></div><script>
customElements.define("ferry-book", class extends HTMLElement {
  constructor() {
    super()
    const outer = this.attachShadow({ mode: "closed" })
    outer.innerHTML = "<section></section>"
    outer.firstChild.attachShadow({ mode: "closed" }).innerHTML = '<form method="post" action="/ferry" enctype="multipart/form-data"><label>Name <input name="name"></label><label>Ticket <input type="file" name="ticket"></label><label><input type="checkbox" name="dog" value="yes">A dog</label><button>Book</button></form>'
  }
})
</script>`)
	b := startOn(t, h.URL)
	v := visitor(t, b, "/ferry", "name", "ticket", "dog")
	seen, err := v.Submit(context.Background(), h.URL+"/ferry", []browser.Entry{
		{Name: "name", Values: []string{"Fern"}}, {Name: "ticket", File: &spec.Attachment{Name: "pass.png", Type: "image/png", Size: 500}}, {Name: "dog", Values: []string{"yes"}, Single: true},
	}, browser.How{}, never)
	require.NoError(t, err)
	for _, e := range seen.Drawn.Entered {
		require.Empty(t, e.Refused, e.Name)
	}
	require.Equal(t, url.Values{"name": {"Fern"}, "dog": {"yes"}}, h.sent())
	require.Equal(t, "pass.png 500", h.file)
	text, err := browser.Drawn(context.Background(), browser.Options{Address: h.URL + "/ferry", Allowed: func(string) bool { return true }}, browser.Before{})
	require.NoError(t, err)
	d, err := page.Describe(text, h.URL+"/ferry")
	require.NoError(t, err)
	require.Len(t, d.Forms, 1)
	require.Len(t, d.Forms[0].Fields, 3)
}

// TestEveryKindOfControlIsSet: what a person enters is what is sent.
func TestEveryKindOfControlIsSet(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	ctx := context.Background()
	form := formOf("name", "note", "deck")
	form.Fields = append(form.Fields, browser.Field{Name: "quiet", Kind: "checkbox", Role: "switch", Labels: []string{"Quiet"}})
	v := visitorOf(t, b, "/ferry", form)
	odd := "Fern \"O'Row\" <ä 🌱> 100% & a+b=c"
	seen, err := v.Submit(ctx, h.URL+"/ferry", []browser.Entry{
		{Name: "name", Values: []string{odd}},
		{Name: "short", Values: []string{"abc"}},
		{Name: "note", Values: []string{"two\r\nlines\tand a tab"}},
		{Name: "day", Values: []string{"2026-02-28"}},
		{Name: "hour", Values: []string{"07:40"}},
		{Name: "deck", Values: []string{"l"}},
		{Name: "meals", Values: []string{"s", "t"}},
		{Name: "side", Values: []string{"p"}},
		{Name: "dog", Values: []string{"anything"}, Single: true},
		{Name: "bags", Values: []string{"1", "3"}},
		{Name: "ticket", File: &spec.Attachment{Name: "pass.png", Type: "image/png", Size: 500}},
		{Name: "quiet", Role: "switch", Values: []string{"on"}},
	}, browser.How{}, never)
	require.NoError(t, err)
	for _, e := range seen.Drawn.Entered {
		require.Empty(t, e.Refused, e.Name)
		require.False(t, e.Changed, "%s: %q stands for %q", e.Name, e.Stands, e.Typed)
	}
	require.Equal(t, url.Values{
		"name": {odd}, "short": {"abc"}, "note": {"two\r\nlines\tand a tab"}, "day": {"2026-02-28"}, "hour": {"07:40"}, "deck": {"l"}, "meals": {"s", "t"}, "side": {"p"},
		"dog": {"yes"}, "bags": {"1", "3"}, "fixed": {"f"}, "away": {""}, "quiet": {"yes"},
	}, h.sent())
	require.Equal(t, "pass.png 500", h.file)
	require.Len(t, seen.Exchanges, 2)
	require.Equal(t, []int{303, 200}, []int{seen.Exchanges[0].Status, seen.Exchanges[1].Status})
	require.Contains(t, seen.HTML, "Booked.")
	require.Contains(t, seen.Exchanges[1].Body, "Booked.")

	reloaded, err := v.Reload(ctx)
	require.NoError(t, err)
	require.Equal(t, "GET", reloaded.Exchanges[0].Method, "a reload after a redirect only reads")
	picture, err := v.Picture(ctx)
	require.NoError(t, err)
	drawn, err := jpeg.Decode(bytes.NewReader(picture))
	require.NoError(t, err)
	require.Equal(t, 1280, drawn.Bounds().Dx())
}

// TestWhatCannotBeEnteredIsSaid, and a value that is not entered leaves what stands there.
func TestWhatCannotBeEnteredIsSaid(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	ctx := context.Background()
	entries := []browser.Entry{
		{Name: "name", Values: []string{""}},
		{Name: "short", Values: []string{"abcdef"}},
		{Name: "day", Values: []string{"2026-02-30"}},
		{Name: "deck", Values: []string{"x"}},
		{Name: "side", Values: []string{"x"}},
		{Name: "fixed", Values: []string{"g"}},
		{Name: "away", Values: []string{"g"}},
		{Name: "off", Values: []string{"g"}},
		{Name: "none", Values: []string{"g"}},
		{Name: "quiet", Role: "slider", Values: []string{"1"}},
	}
	says := map[string]string{
		"deck": "the list does not offer x", "side": "the page does not offer x", "fixed": "the control is read-only", "away": "the control is not shown", "off": "the control is disabled",
		"none": "the page has no such control", "quiet": "the page has no slider named Quiet",
	}
	form := formOf("name", "deck")
	form.Fields = append(form.Fields, browser.Field{Name: "quiet", Kind: "number", Role: "slider", Labels: []string{"Quiet"}})
	v := visitorOf(t, b, "/ferry", form)
	var heard []observation.Entered
	seen, err := v.Submit(ctx, h.URL+"/ferry", entries, browser.How{}, func(list []observation.Entered) bool {
		heard = list
		return true
	})
	require.NoError(t, err)
	require.Empty(t, seen.Exchanges, "nothing is sent where it is held back")
	require.Nil(t, h.sent())
	require.Equal(t, heard, seen.Drawn.Entered)
	for _, e := range heard {
		require.Equal(t, says[e.Name], e.Refused, e.Name)
	}
	require.True(t, heard[1].Changed)
	require.Equal(t, "abc", heard[1].Stands, "the control cuts it")
	require.True(t, heard[2].Changed)
	require.Empty(t, heard[2].Stands, "a day that does not exist does not stand")

	v = visitor(t, b, "/ferry", "name", "deck")
	_, err = v.Submit(ctx, h.URL+"/ferry", entries[:2], browser.How{Unchecked: true}, never)
	require.NoError(t, err)
	require.Equal(t, []string{"abcdef"}, h.sent()["short"], "with the browser's own checks off it is not cut")
	require.Equal(t, []string{""}, h.sent()["name"], "what stood there was emptied")
}

func TestNativeChecksAreToldFromScripts(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, `<!doctype html><form method="post"><label>Mail <input type="email" name="mail" required></label> <label>Code <input name="code" pattern="[a-z]{2}"></label><button>Go</button></form>`)
	b := startOn(t, h.URL)
	ctx := context.Background()
	v := visitor(t, b, "/", "mail", "code")
	seen, err := v.Submit(ctx, h.URL+"/", []browser.Entry{{Name: "mail", Values: []string{"no address"}}, {Name: "code", Values: []string{"x1"}}}, browser.How{}, never)
	require.NoError(t, err)
	require.Empty(t, seen.Exchanges)
	require.Len(t, seen.Drawn.Native, 2)
	require.True(t, seen.Drawn.Native[0].Shown)
	require.False(t, seen.Drawn.Native[1].Shown, "the browser shows one at a time")
	require.Contains(t, seen.Drawn.Native[0].Text, "@")
	require.Equal(t, "mail", seen.Drawn.Focus)
	v = visitor(t, b, "/", "mail", "code")
	_, err = v.Submit(ctx, h.URL+"/", []browser.Entry{{Name: "mail", Values: []string{"no address"}}}, browser.How{Unchecked: true}, never)
	require.NoError(t, err)
	require.Equal(t, []string{"no address"}, h.sent()["mail"], "with its own checks off the server is asked")
}

// TestWhatScriptsDoIsSeen: errors, dialogs, parts that fail, hosts that are not allowed, texts that pass, a button that is disabled.
func TestWhatScriptsDoIsSeen(t *testing.T) {
	t.Parallel()
	outside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { t.Error("the outside was contacted") }))
	defer outside.Close()
	h := newHarbour(t, `<!doctype html><form><label>A <input name="a"></label><button>Go</button></form><p id="p"></p><img src="`+outside.URL+`/x.png">
<script>
document.forms[0].addEventListener("submit", (e) => {
	e.preventDefault()
	const p = document.getElementById("p")
	p.textContent = "Wait a moment."
	setTimeout(() => { p.textContent = "" }, 600)
	alert("Not so fast.")
	document.querySelector("button").disabled = true
	throw new Error("the tide is out")
})
</script>`)
	b := startOn(t, h.URL)
	ctx := context.Background()
	v := visitor(t, b, "/", "a")
	seen, err := v.Submit(ctx, h.URL+"/", []browser.Entry{{Name: "a", Values: []string{"x"}}}, browser.How{}, never)
	require.NoError(t, err)
	require.Empty(t, seen.Exchanges)
	require.Equal(t, []string{"Not so fast."}, seen.Drawn.Dialogs)
	require.Len(t, seen.Drawn.Errors, 1)
	require.Contains(t, seen.Drawn.Errors[0], "the tide is out")
	require.Equal(t, []string{strings.TrimPrefix(outside.URL, "http://")}, seen.Drawn.NotAsked)
	passing := ""
	for _, p := range append(seen.Passing, browser.Passing{HTML: seen.HTML}) {
		passing += p.HTML
	}
	require.Contains(t, passing, "Wait a moment.", "what vanishes after a moment is caught")
	again, err := v.Submit(ctx, h.URL+"/", nil, browser.How{}, never)
	require.NoError(t, err)
	require.Contains(t, again.Drawn.Blocked, "is disabled")
}

func TestVisitorsShareNothing(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, `<!doctype html><form method="post"><input name="a"></form><script>localStorage.n = 1 + +(localStorage.n ?? 0); document.title = localStorage.n</script>`)
	b := startOn(t, h.URL)
	ctx := context.Background()
	for range 3 {
		v, err := b.NewVisitor(ctx)
		require.NoError(t, err)
		seen, err := v.Open(ctx, "/", formOf("a"))
		require.NoError(t, err)
		require.Contains(t, seen.HTML, "<title>1</title>", "storage of an earlier visitor")
		cookies, err := v.Cookies(ctx)
		require.NoError(t, err)
		require.Len(t, cookies, 1)
		require.NotEqual(t, "v", cookies["who"], "a cookie's value is a secret")
		beside, err := v.Look(ctx, "/done")
		require.NoError(t, err)
		require.Contains(t, beside.HTML, "Booked.")
		v.Close()
	}
	require.Empty(t, h.seen, "a cookie of an earlier visitor")
}

// TestASlowBrowserIsNoSilentSite: a browser that is held up owes the answer itself; a site that holds it up is what fails.
func TestASlowBrowserIsNoSilentSite(t *testing.T) {
	t.Parallel()
	release := make(chan struct{})
	h := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/slow" {
			<-release
		}
		fmt.Fprint(w, ferryPage)
	}))
	t.Cleanup(h.Close)
	t.Cleanup(func() { close(release) })
	u, err := url.Parse(h.URL)
	require.NoError(t, err)
	b, err := browser.Start(browser.Options{Address: h.URL, Allowed: func(host string) bool { return host == u.Host }, Timeout: time.Second})
	require.NoError(t, err)
	t.Cleanup(b.Close)
	v := visitor(t, b, "/", "name")

	seen, err := v.Open(t.Context(), "/slow", nil)
	require.NoError(t, err)
	require.Contains(t, seen.Failure, "no answer within 1s")

	require.NoError(t, syscall.Kill(b.Process(), syscall.SIGSTOP))
	time.AfterFunc(2*time.Second, func() { _ = syscall.Kill(b.Process(), syscall.SIGCONT) })
	_, err = v.Open(t.Context(), "/", formOf("name"))
	require.ErrorAs(t, err, new(*browser.Error))
	require.ErrorContains(t, err, "the site owes no answer")
}

func TestABrowserThatEndsIsSaid(t *testing.T) {
	t.Parallel()
	h := newHarbour(t, ferryPage)
	b := startOn(t, h.URL)
	v := visitor(t, b, "/", "name")
	require.NotZero(t, b.Process())
	b.Close()
	_, err := v.Reload(context.Background())
	require.ErrorIs(t, err, browser.ErrGone)
	_, err = b.NewVisitor(context.Background())
	require.ErrorIs(t, err, browser.ErrGone)
	require.True(t, b.Gone())
}

// formOf is a form of text fields with these names.
func formOf(names ...string) *browser.Form {
	out := &browser.Form{}
	for _, name := range names {
		out.Fields = append(out.Fields, browser.Field{Name: name, Kind: "text", Labels: []string{}})
	}
	return out
}
