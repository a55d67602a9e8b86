package engine

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// overHTTP is a visitor without a browser.
type overHTTP struct {
	*web.Visitor
	p     *spec.Prepared
	names []string
	base  string // the site's address
	pages *page.Again
}

func (v *overHTTP) visit(exchanges []observation.Exchange, err error) (*visit, error) {
	return v.visitRead(page.Read, exchanges, err)
}

func (v *overHTTP) visitRead(read func(body, address string, names []string) (*observation.Page, error), exchanges []observation.Exchange, err error) (*visit, error) {
	out := &visit{exchanges: exchanges}
	if errors.As(err, new(*web.TooManyError)) {
		return nil, err // which says nothing of the form
	}
	if err != nil {
		out.failure = err.Error()
	}
	out.read = func() (*observation.Page, error) {
		if len(exchanges) == 0 {
			return nil, nil
		}
		last := &exchanges[len(exchanges)-1]
		if isJSON(last) {
			if p, ok := page.ReadJSON(last.Body, last.URL, v.names); ok {
				return p, nil
			}
		}
		return read(last.Body, last.URL, v.names)
	}
	return out, nil
}

// isJSON tells whether an answer says that it is JSON.
func isJSON(x *observation.Exchange) bool {
	for _, h := range x.ResponseHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			kind, _, _ := strings.Cut(strings.ToLower(h.Value), ";")
			kind = strings.TrimSpace(kind)
			return kind == "application/json" || strings.HasSuffix(kind, "+json")
		}
	}
	return false
}

// sendsJSON: the form's script sends JSON, so that over HTTP there is no form on the page to be filled in.
func sendsJSON(p *spec.Prepared) bool { return p.Form.Submit.Encoding == "json" }

// withTokens adds tokens that the page holds in a meta element or a cookie, not in a control, for its script to send along: as a
// parameter, and in the header that is usual for it.
func withTokens(p *observation.Page, tokens []string, body string, v *web.Visitor) {
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

func (v *overHTTP) open(ctx context.Context, path string) (*visit, error) {
	if path == "" { // an endpoint without a page
		form, err := v.endpoint(v.base)
		return &visit{read: func() (*observation.Page, error) { return &observation.Page{URL: form.Action, Form: form}, nil }}, err
	}
	exchanges, err := v.Open(ctx, path)
	out, err := v.visitRead(v.pages.Read, exchanges, err)
	if err != nil || out.failure != "" || len(out.exchanges) == 0 {
		return out, err
	}
	read := out.read
	out.read = func() (*observation.Page, error) {
		p, err := read()
		if err == nil && sendsJSON(v.p) {
			p.Form, err = v.endpoint(p.URL)
		}
		if err != nil {
			return nil, err
		}
		withTokens(p, v.p.Form.Token, out.exchanges[len(out.exchanges)-1].Body, v.Visitor)
		return p, nil
	}
	return out, nil
}

// endpoint is where the form's script sends to, as if it were a form on the page.
func (v *overHTTP) endpoint(address string) (*observation.Form, error) {
	base, err := url.Parse(address)
	if err != nil {
		return nil, err
	}
	target, err := base.Parse(v.p.Form.Submit.To)
	if err != nil {
		return nil, fmt.Errorf("the form's target %q cannot be read: %w", v.p.Form.Submit.To, err)
	}
	method := v.p.Form.Submit.Method
	if method == "" {
		method = "POST"
	}
	return &observation.Form{Method: method, Action: target.String(), Encoding: "json"}, nil
}

func (v *overHTTP) submit(ctx context.Context, form *observation.Form, sent *oracle.Submission, _ bool, _ func([]observation.Entered) bool) (*visit, error) {
	with := *form
	// without the token as a parameter it is not sent in a header either
	with.Header = slices.DeleteFunc(slices.Clone(form.Header), func(h observation.Header) bool {
		return !slices.ContainsFunc(sent.Pairs, func(p oracle.Pair) bool { return p.Value == h.Value })
	})
	pairs, contentType := v.forge(&with, sent)
	if sent.Body != nil {
		return v.visit(v.SendJSON(ctx, &with, *sent.Body, contentType))
	}
	if form.Encoding == "json" {
		return v.visit(v.SendJSON(ctx, &with, jsonBody(v.p, sent), contentType))
	}
	return v.visit(v.Submit(ctx, &with, pairs, contentType))
}
