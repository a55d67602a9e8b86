package driver

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"syscall"

	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// OverHTTP is a visitor without a browser.
type OverHTTP struct {
	*web.Visitor
	Form  *spec.Prepared
	Names []string
	Base  string // the site's address
	// ByScript: when the run began, scripts made the form.
	ByScript bool
	Pages    *page.Again
}

// Visited is what came of requests, with the page read when it is asked for.
func (v *OverHTTP) Visited(exchanges []observation.Exchange, err error) (*Visit, error) {
	return v.visitRead(page.Read, exchanges, err)
}

func (v *OverHTTP) visitRead(read func(body, address string, names []string) (*observation.Page, error), exchanges []observation.Exchange, err error) (*Visit, error) {
	out := &Visit{Exchanges: exchanges}
	if errors.As(err, new(*web.TooManyError)) {
		return nil, err // which says nothing of the form
	}
	if err != nil {
		out.Failure = err.Error()
	}
	out.Page = func() (*observation.Page, error) {
		if len(exchanges) == 0 {
			return nil, nil
		}
		last := &exchanges[len(exchanges)-1]
		if last.IsJSON() {
			if p, ok := page.ReadJSON(last.Body, last.URL, v.Names); ok {
				return p, nil
			}
		}
		p, err := read(last.Body, last.URL, v.Names)
		if err == nil && len(v.Names) == 0 && v.Form != nil {
			p.Form, err = page.FormTo(last.Body, last.URL, v.Form.Form.Submit.To)
		}
		if err == nil {
			v.press(p)
		}
		return p, err
	}
	return out, nil
}

// press makes the button that the document names the one that submits the form, where the page has it.
func (v *OverHTTP) press(p *observation.Page) (found bool) {
	if v.Form == nil || v.Form.Form.Submit.Button == "" || p.Form == nil || p.Form.ByScript { // a link that is followed has no form
		return true
	}
	label := v.Form.Form.Submit.Button
	form := *p.Form // pages are read once for several visitors
	found = form.Press(label)
	p.Form = &form
	return found
}

// SendsJSON: the form's script sends JSON, so that over HTTP there is no form on the page to be filled in.
func SendsJSON(p *spec.Prepared) bool { return p.Form.Submit.Encoding == "json" }

// MadeByScript: the page holds no form over HTTP as its scripts make it, and the document says where it is sent, and how scripts do. A page
// that has merely lost its form, of whatever kind, is none.
func MadeByScript(p *spec.Prepared, body string) bool {
	f := p.Form
	usual := f.Submit.Encoding == "urlencoded" && f.OpenedBy == "" && len(f.Stages) == 0
	return f.Submit.To != "" && f.Submit.Encoding != "" && !usual && page.Scripted(body)
}

// WithTokens adds tokens that the page holds in a meta element or a cookie, not in a control, for its script to send along: as a
// parameter, and in the header that is usual for it.
func WithTokens(p *observation.Page, tokens []string, body string, v *web.Visitor) {
	if p == nil || p.Form == nil {
		return
	}
	for _, name := range tokens {
		if p.Form.Control(name) != nil {
			continue
		}
		value := page.Meta(body, name)
		if value == "" {
			value = v.Cookie(name)
		}
		if value != "" {
			p.Form.Controls = append(p.Form.Controls, observation.Control{Name: name, Type: "hidden", Value: value})
			p.Form.Header = append(p.Form.Header, observation.Header{Name: tokenHeader, Value: value})
		}
	}
}

// tokenHeader is the header in which scripts usually send a token.
const tokenHeader = "X-CSRF-Token"

func (v *OverHTTP) Open(ctx context.Context, path string) (*Visit, error) {
	if path == "" { // an endpoint without a page
		form, err := v.endpoint(v.Base)
		return &Visit{Page: func() (*observation.Page, error) { return &observation.Page{URL: form.Action, Form: form}, nil }}, err
	}
	exchanges, err := v.Visitor.Open(ctx, path)
	out, err := v.visitRead(v.Pages.Read, exchanges, err)
	if err != nil || out.Failure != "" || len(out.Exchanges) == 0 {
		return out, err
	}
	read := out.Page
	out.Page = func() (*observation.Page, error) {
		p, err := read()
		if err == nil && (SendsJSON(v.Form) || p.Form == nil && v.ByScript) {
			p.Form, err = v.endpoint(p.URL)
		}
		if err != nil {
			return nil, err
		}
		if !v.press(p) {
			return nil, fmt.Errorf("the form has no button named %s", v.Form.Form.Submit.Button)
		}
		WithTokens(p, v.Form.Form.Token, out.Exchanges[len(out.Exchanges)-1].Body, v.Visitor)
		return p, nil
	}
	return out, nil
}

// endpoint is where the form's script sends to, as if it were a form on the page.
func (v *OverHTTP) endpoint(address string) (*observation.Form, error) {
	base, err := url.Parse(address)
	if err != nil {
		return nil, err
	}
	target, err := base.Parse(v.Form.Form.Submit.To)
	if err != nil {
		return nil, fmt.Errorf("the form's target %q cannot be read: %w", v.Form.Form.Submit.To, err)
	}
	method := v.Form.Form.Submit.Method
	if method == "" {
		method = "POST"
	}
	return &observation.Form{Method: method, Action: target.String(), Encoding: v.Form.Form.Submit.Encoding, ByScript: true}, nil
}

func (v *OverHTTP) Submit(ctx context.Context, form *observation.Form, sent *submission.Submission, _ bool, _ func([]observation.Entered) bool) (*Visit, error) {
	with := *form
	// without the token as a parameter it is not sent in a header either
	with.Header = slices.DeleteFunc(slices.Clone(form.Header), func(h observation.Header) bool {
		return !slices.ContainsFunc(sent.Pairs, func(p submission.Pair) bool { return p.Value == h.Value })
	})
	pairs, contentType := v.forge(&with, sent)
	send := func() ([]observation.Exchange, error) { return v.Visitor.Submit(ctx, &with, pairs, contentType) }
	if sent.Body != nil || form.Encoding == "json" {
		body := v.jsonBody(sent, pairs)
		send = func() ([]observation.Exchange, error) { return v.SendJSON(ctx, &with, body, contentType) }
	}
	exchanges, err := send()
	for range maxCutOff {
		if sent.Forged != submission.TooLarge || !slices.ContainsFunc(cutOff, func(by error) bool { return errors.Is(err, by) }) {
			break
		}
		exchanges, err = send()
	}
	return v.Visited(exchanges, err)
}

// cutOff are how a connection ends that the other side does not want any more.
var cutOff = []error{syscall.ECONNRESET, syscall.EPIPE, net.ErrClosed, io.EOF, io.ErrUnexpectedEOF}

// maxCutOff is how often a request that is too large is sent again where the connection ends before the answer is read: a server that
// answers and does not read on cuts it off, and whether the answer arrives before that is chance.
const maxCutOff = 8

// jsonBody is what is sent as JSON: a submission's own text, or its members.
func (v *OverHTTP) jsonBody(sent *submission.Submission, pairs []submission.Pair) string {
	if sent.Body != nil {
		return *sent.Body
	}
	body := jsonBody(v.Form, sent)
	switch sent.Forged {
	case submission.TooLarge:
		return strings.TrimSuffix(body, "}") + `,"filler":"` + pairs[len(pairs)-1].Value + `"}`
	case submission.Undecodable:
		return strings.Replace(body, `":"`, `":"`+notUTF8, 1)
	}
	return body
}

// notUTF8 begins a text that is not in UTF-8: a byte that stands in none (RFC 3629).
const notUTF8 = "\xff"

// forge makes of a submission what no page sends: other parameters, or another method or content type.
func (v *OverHTTP) forge(form *observation.Form, sent *submission.Submission) (pairs []submission.Pair, contentType string) {
	pairs = slices.Clone(sent.Pairs)
	switch sent.Forged {
	case submission.OtherMethod:
		if form.Method = map[string]string{http.MethodGet: http.MethodPost}[form.Method]; form.Method == "" {
			form.Method = http.MethodGet
		}
	case submission.OtherType:
		contentType = "text/plain"
	case submission.TooLarge:
		if r := v.Form.Form.Requests; r != nil && r.TooLarge != nil {
			pairs = append(pairs, submission.Pair{Name: "filler", Value: strings.Repeat("x", r.TooLarge.Over+1)})
		}
	case submission.OverridesMethod:
		pairs = append(pairs, submission.Pair{Name: "_method", Value: http.MethodDelete})
	case submission.Undecodable:
		for _, f := range v.Form.Fields {
			i := slices.IndexFunc(pairs, func(p submission.Pair) bool { return p.Name == f.Name })
			if f.Kind.Textual() && !f.Secret && i >= 0 {
				pairs[i].Value = notUTF8 + pairs[i].Value
				break
			}
		}
	case submission.AsLists:
		if form.Encoding != "json" { // there a list of its own
			for i := range pairs {
				if slices.Contains(v.Names, pairs[i].Name) {
					pairs[i].Name += "[]"
				}
			}
		}
	case submission.Repeated:
		pairs = nil
		for _, p := range sent.Pairs {
			pairs = append(pairs, p)
			if slices.Contains(v.Names, p.Name) {
				pairs = append(pairs, p)
			}
		}
	}
	return pairs, contentType
}
