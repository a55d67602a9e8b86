package engine

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/url"
	"slices"
	"strings"
	"time"

	"oddtick/core/design"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/observe/browser"
	"oddtick/observe/page"
	"oddtick/observe/web"
)

// visitor makes the steps of a case, over HTTP or in a browser.
type visitor interface {
	open(ctx context.Context, path string) (*visit, error)
	// submit enters and sends; held tells, of what the page made of the values, whether it is not to be sent.
	submit(ctx context.Context, form *observation.Form, sent *oracle.Submission, unchecked bool, held func([]observation.Entered) bool) (*visit, error)
	reload(ctx context.Context) (*visit, error)
	// again looks once more at what came of the last submission; nil where nothing can have changed.
	again(ctx context.Context) (*visit, error)
	// look opens a page beside the one the visitor sees.
	look(ctx context.Context, path string) ([]observation.Exchange, error)
	cookies(ctx context.Context) (map[string]string, error)
	// picture is the page as it is drawn, nil where nothing is drawn.
	picture(ctx context.Context) ([]byte, error)
	close()
}

// visit is what came of a visitor's step.
type visit struct {
	exchanges []observation.Exchange
	read      func() (*observation.Page, error)
	drawn     *observation.Drawn
	failure   string
}

// overHTTP is a visitor without a browser.
type overHTTP struct {
	*web.Visitor
	p     *spec.Prepared
	names []string
}

func (v *overHTTP) visit(exchanges []observation.Exchange, err error) (*visit, error) {
	out := &visit{exchanges: exchanges}
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
		return page.Read(last.Body, last.URL, v.names)
	}
	return out, nil
}

// isJSON tells whether an answer says that it is JSON.
func isJSON(x *observation.Exchange) bool {
	for _, h := range x.ResponseHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			kind, _, _ := mime.ParseMediaType(h.Value)
			return kind == "application/json" || strings.HasSuffix(kind, "+json")
		}
	}
	return false
}

// sendsJSON: the form's script sends JSON, so that over HTTP there is no form on the page to be filled in.
func sendsJSON(p *spec.Prepared) bool { return p.Form.Submit.Encoding == "json" }

func (v *overHTTP) open(ctx context.Context, path string) (*visit, error) {
	out, err := v.visit(v.Open(ctx, path))
	if err != nil || !sendsJSON(v.p) || out.failure != "" {
		return out, err
	}
	read := out.read
	out.read = func() (*observation.Page, error) {
		p, err := read()
		if err != nil {
			return nil, err
		}
		p.Form, err = v.endpoint(p.URL)
		return p, err
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
	if form.Encoding == "json" {
		return v.visit(v.SendJSON(ctx, form.Method, form.Action, jsonBody(v.p, sent)))
	}
	return v.visit(v.Submit(ctx, form, sent.Pairs))
}

// jsonBody writes a submission as a JSON object in the order of its pairs: numbers as numbers, checkboxes as true and false, several
// choices as a list, a blank number or date as null. What is absent is left out.
func jsonBody(p *spec.Prepared, sent *oracle.Submission) string {
	var b strings.Builder
	b.WriteByte('{')
	written := map[string]bool{}
	member := func(name, value string) {
		if written[name] {
			return
		}
		written[name] = true
		if b.Len() > 1 {
			b.WriteByte(',')
		}
		b.WriteString(quoteJSON(name) + ":" + value)
	}
	for i := range sent.Pairs {
		pair := &sent.Pairs[i]
		f := fieldNamed(p, pair.Name)
		values := sent.Values(pair.Name)
		switch {
		case f == nil && len(values) == 1:
			member(pair.Name, quoteJSON(pair.Value))
		case f != nil && f.Kind == spec.Checkbox:
			member(pair.Name, "true")
		case f != nil && f.Kind != spec.SeveralChoices && len(values) == 1:
			member(pair.Name, jsonValue(f, pair.Value))
		default:
			list := make([]string, len(values))
			for k, v := range values {
				list[k] = quoteJSON(v)
			}
			member(pair.Name, "["+strings.Join(list, ",")+"]")
		}
	}
	for _, f := range p.Fields {
		if f.Kind == spec.Checkbox && !written[f.Name] {
			member(f.Name, "false")
		}
	}
	b.WriteByte('}')
	return b.String()
}

func jsonValue(f *spec.PreparedField, value string) string {
	switch f.Kind {
	case spec.Number:
		if value == "" {
			return "null"
		}
		if json.Valid([]byte(value)) {
			return value
		}
	case spec.Date, spec.Time, spec.DateTime:
		if value == "" {
			return "null"
		}
	}
	return quoteJSON(value)
}

func quoteJSON(text string) string {
	out, _ := json.Marshal(text) // a text can always be written
	return string(out)
}

func (v *overHTTP) reload(ctx context.Context) (*visit, error) { return v.visit(v.Reload(ctx)) }

func (v *overHTTP) again(context.Context) (*visit, error) { return nil, nil }

func (v *overHTTP) look(ctx context.Context, path string) ([]observation.Exchange, error) {
	return v.Look(ctx, path)
}

func (v *overHTTP) cookies(context.Context) (map[string]string, error) { return v.Cookies(), nil }

func (v *overHTTP) picture(context.Context) ([]byte, error) { return nil, nil }

func (v *overHTTP) close() {}

// inBrowser is a visitor with a browser.
type inBrowser struct {
	*browser.Visitor
	p      *spec.Prepared
	names  []string
	action string
}

func (v *inBrowser) visit(seen *browser.Seen, err error) (*visit, error) {
	if err != nil {
		return nil, err
	}
	out := &visit{exchanges: seen.Exchanges, drawn: &seen.Drawn, failure: seen.Failure}
	out.read = func() (*observation.Page, error) {
		p, err := page.ReadDrawn(seen.HTML, seen.Address, v.names)
		if err != nil {
			return nil, err
		}
		addNative(p, seen.Drawn.Native)
		for _, text := range seen.Drawn.Dialogs {
			p.Texts = append(p.Texts, observation.Text{Text: text, Alarm: true})
		}
		for _, earlier := range seen.Passing {
			if earlier.Stage != "submitting" {
				continue
			}
			if q, err := page.ReadDrawn(earlier.HTML, seen.Address, v.names); err == nil {
				addGone(p, q.Texts, earlier.At)
			}
		}
		return p, nil
	}
	return out, nil
}

// addNative adds the browser's own messages to a page's texts. They are seen where the browser shows one; it shows the next when
// the first is corrected.
func addNative(p *observation.Page, list []observation.Native) {
	if !slices.ContainsFunc(list, func(n observation.Native) bool { return n.Shown }) {
		return
	}
	for _, n := range list {
		t := observation.Text{Text: n.Text, Field: n.Field, Tied: true, Alarm: true, Native: true}
		if !slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return o.Native && o.Field == t.Field && o.Text == t.Text }) {
			p.Texts = append(p.Texts, t)
		}
	}
}

// addGone adds texts that were seen for a while and are not any more.
func addGone(p *observation.Page, texts []observation.Text, at time.Duration) {
	for _, t := range texts {
		if t.Hidden || slices.ContainsFunc(p.Texts, func(o observation.Text) bool { return !o.Hidden && o.Text == t.Text && o.Field == t.Field }) {
			continue
		}
		t.Gone = max(1, int(at.Milliseconds()))
		p.Texts = append(p.Texts, t)
	}
}

func (v *inBrowser) open(ctx context.Context, path string) (*visit, error) {
	return v.visit(v.Open(ctx, path, v.names))
}

func (v *inBrowser) submit(ctx context.Context, form *observation.Form, sent *oracle.Submission, unchecked bool, held func([]observation.Entered) bool) (*visit, error) {
	var entries []browser.Entry
	for _, f := range v.p.Fields {
		if f.Kind.Untouched() || f.When != "" && len(sent.Values(f.Name)) == 0 {
			continue
		}
		e := browser.Entry{Name: f.Name, Values: sent.Values(f.Name), Single: f.Kind == spec.Checkbox}
		for i := range sent.Pairs {
			if sent.Pairs[i].Name == f.Name {
				e.File = sent.Pairs[i].File
			}
		}
		if f.Control != nil {
			e.Role, e.Label = f.Control.Role, f.Control.Name
			if e.Label == "" {
				e.Label = f.Label
			}
			for _, o := range f.Options {
				if len(e.Values) == 1 && o.Value == e.Values[0] && o.Label != "" {
					e.Typed = &o.Label
				}
			}
		}
		if f.Mask != nil && len(e.Values) == 1 {
			typed := f.Mask.Unmasked(e.Values[0])
			e.Typed = &typed
		}
		entries = append(entries, e)
	}
	v.action = form.Action
	if to := v.p.Form.Submit.To; to != "" {
		if base, err := url.Parse(form.Action); err == nil {
			if target, err := base.Parse(to); err == nil {
				v.action = target.String()
			}
		}
	}
	return v.visit(v.Submit(ctx, v.action, entries, unchecked, held))
}

func (v *inBrowser) reload(ctx context.Context) (*visit, error) { return v.visit(v.Reload(ctx)) }

func (v *inBrowser) again(ctx context.Context) (*visit, error) {
	return v.visit(v.Again(ctx, v.action))
}

func (v *inBrowser) look(ctx context.Context, path string) ([]observation.Exchange, error) {
	seen, err := v.Look(ctx, path)
	if err != nil {
		return nil, err
	}
	return seen.Exchanges, nil
}

func (v *inBrowser) cookies(ctx context.Context) (map[string]string, error) { return v.Cookies(ctx) }

func (v *inBrowser) picture(ctx context.Context) ([]byte, error) { return v.Picture(ctx) }

func (v *inBrowser) close() { v.Close() }

// left reads from a request what it sent; nil where its body is of no form that is known.
func left(x *observation.Exchange, driver oracle.Driver) *oracle.Submission {
	out := &oracle.Submission{Driver: driver}
	contentType := ""
	for _, h := range x.RequestHeader {
		if strings.EqualFold(h.Name, "Content-Type") {
			contentType = h.Value
		}
	}
	kind, params, _ := mime.ParseMediaType(contentType)
	switch {
	case x.Method == "GET":
		u, err := url.Parse(x.URL)
		if err != nil {
			return nil
		}
		out.Encoding, out.Pairs = "urlencoded", pairsOf(u.RawQuery)
	case kind == "application/x-www-form-urlencoded":
		out.Encoding, out.Pairs = "urlencoded", pairsOf(x.RequestBody)
	case kind == "multipart/form-data":
		out.Encoding = "multipart"
		parts := multipart.NewReader(strings.NewReader(x.RequestBody), params["boundary"])
		for {
			part, err := parts.NextPart()
			if err == io.EOF {
				break
			}
			if err != nil {
				return nil
			}
			content, err := io.ReadAll(part)
			if err != nil {
				return nil
			}
			p := oracle.Pair{Name: part.FormName(), Value: string(content)}
			if part.FileName() != "" {
				p.Value = part.FileName()
			}
			out.Pairs = append(out.Pairs, p)
		}
	case strings.HasSuffix(kind, "json"):
		out.Encoding = "json"
		var object map[string]any
		if json.Unmarshal([]byte(x.RequestBody), &object) != nil {
			return nil
		}
		for name, value := range object {
			addMember(out, name, value)
		}
		slices.SortFunc(out.Pairs, func(a, b oracle.Pair) int { return strings.Compare(a.Name, b.Name) })
	default:
		return nil
	}
	return out
}

func addMember(out *oracle.Submission, name string, value any) {
	switch v := value.(type) {
	case nil:
	case string:
		out.Pairs = append(out.Pairs, oracle.Pair{Name: name, Value: v})
	case []any:
		for _, one := range v {
			addMember(out, name, one)
		}
	default:
		if text, err := json.Marshal(v); err == nil {
			out.Pairs = append(out.Pairs, oracle.Pair{Name: name, Value: string(text)})
		}
	}
}

// pairsOf reads application/x-www-form-urlencoded in its order.
func pairsOf(text string) []oracle.Pair {
	var out []oracle.Pair
	for _, part := range strings.Split(text, "&") {
		if part == "" {
			continue
		}
		name, value, _ := strings.Cut(part, "=")
		n, errN := url.QueryUnescape(name)
		v, errV := url.QueryUnescape(value)
		if errN != nil || errV != nil {
			n, v = name, value
		}
		out = append(out, oracle.Pair{Name: n, Value: v})
	}
	return out
}

// newVisitor is somebody new, by the driver of a case's steps.
func (r *Run) newVisitor(ctx context.Context, c *design.Case) (visitor, error) {
	if InBrowser(c) {
		return r.visitorBy(ctx, oracle.Browser)
	}
	return r.visitorBy(ctx, oracle.HTTP)
}

func (r *Run) visitorBy(ctx context.Context, driver oracle.Driver) (visitor, error) {
	if driver != oracle.Browser {
		return &overHTTP{r.client.NewVisitor(), r.p, r.names}, nil
	}
	v, err := r.browserVisitor(ctx)
	if err != nil {
		return nil, err
	}
	return &inBrowser{Visitor: v, p: r.p, names: r.names}, nil
}
