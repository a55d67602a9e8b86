package page

import (
	"reflect"
	"slices"
	"strings"
	"sync"

	"oddtick/core/observation"
)

// Again reads pages that are opened again and again. Of such a page mostly nothing differs but the token in a hidden control: once
// two readings have shown that, a page is known by its text around the token and need not be parsed. It may be used by several
// goroutines.
type Again struct {
	mu    sync.Mutex
	pages map[string]*opened // by address
}

// opened is a page as it was opened last.
type opened struct {
	body string
	page *observation.Page
	// around is the text between the places of the token, nil while they are not known; the control at token holds it.
	around []string
	token  int
}

// Read reads a page as the function Read does. The controls are the caller's own; the texts are shared and not to be written to.
func (a *Again) Read(body, address string, names []string) (*observation.Page, error) {
	a.mu.Lock()
	before := a.pages[address]
	a.mu.Unlock()
	if before != nil {
		if token, ok := before.tokenIn(body); ok {
			return before.with(before.token, token), nil
		}
	}
	p, err := Read(body, address, names)
	if err != nil || p.Form == nil || len(p.Form.Controls) == 0 {
		return p, err
	}
	now := &opened{body: body, page: p}
	if before != nil {
		now.remember(before)
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.pages == nil {
		a.pages = map[string]*opened{}
	}
	a.pages[address] = now
	return now.with(0, p.Form.Controls[0].Value), nil
}

// remember finds the control whose value alone makes the difference to the page before.
func (o *opened) remember(before *opened) {
	was, is := before.page.Form.Controls, o.page.Form.Controls
	at := 0
	for at < min(len(was), len(is)) && was[at].Value == is[at].Value {
		at++
	}
	if at >= min(len(was), len(is)) || is[at].Type != "hidden" || !plain(was[at].Value) || !plain(is[at].Value) {
		return
	}
	around := strings.Split(o.body, is[at].Value)
	if slices.Equal(around, strings.Split(before.body, was[at].Value)) && reflect.DeepEqual(before.with(at, is[at].Value), o.page) {
		o.around, o.token = around, at
	}
}

// tokenIn is the token of a body that is otherwise the page's.
func (o *opened) tokenIn(body string) (token string, ok bool) {
	places := len(o.around) - 1
	if places < 1 {
		return "", false
	}
	length := len(body)
	for _, text := range o.around {
		length -= len(text)
	}
	if length <= 0 || length%places != 0 || !strings.HasPrefix(body, o.around[0]) {
		return "", false
	}
	token = body[len(o.around[0]):][:length/places]
	rest := body[len(o.around[0]):]
	for _, text := range o.around[1:] {
		if !strings.HasPrefix(rest, token) || !strings.HasPrefix(rest[len(token):], text) {
			return "", false
		}
		rest = rest[len(token)+len(text):]
	}
	return token, plain(token)
}

// with is the page with another value in one control.
func (o *opened) with(at int, value string) *observation.Page {
	p, form := *o.page, *o.page.Form
	form.Controls = slices.Clone(form.Controls)
	form.Controls[at].Value = value
	p.Form = &form
	return &p
}

// shortestToken keeps values apart from what stands in a page by chance.
const shortestToken = 8

// plain tells whether a value is long enough to be found, and means nothing to an HTML parser wherever it stands.
func plain(value string) bool {
	return len(value) >= shortestToken && !strings.ContainsFunc(value, func(r rune) bool {
		return !strings.ContainsRune("-_+./=", r) && (r < '0' || r > '9') && (r < 'A' || r > 'Z') && (r < 'a' || r > 'z')
	})
}
