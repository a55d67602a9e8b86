// Package har writes what a case sent and got as an HTTP Archive (HAR 1.2, the W3C's editor's draft of 2012). Secrets that were sent
// are masked wherever they stand, also in what came back.
package har

import (
	"encoding/json"
	"fmt"
	"html"
	"io"
	"net/url"
	"slices"
	"strings"
	"time"

	"oddtick/core/observation"
	"oddtick/core/report"
)

type file struct {
	Log log `json:"log"`
}

type log struct {
	Version string  `json:"version"`
	Creator creator `json:"creator"`
	Pages   []page  `json:"pages"`
	Entries []entry `json:"entries"`
}

type creator struct {
	Name    string `json:"name"`
	Version string `json:"version"`
}

type page struct {
	Started time.Time `json:"startedDateTime"`
	ID      string    `json:"id"`
	Title   string    `json:"title"`
	Timings struct{}  `json:"pageTimings"`
}

type entry struct {
	Page     string    `json:"pageref"`
	Started  time.Time `json:"startedDateTime"`
	Time     float64   `json:"time"` // milliseconds
	Request  request   `json:"request"`
	Response response  `json:"response"`
	Cache    struct{}  `json:"cache"`
	Timings  timings   `json:"timings"`
}

type request struct {
	Method      string      `json:"method"`
	URL         string      `json:"url"`
	HTTPVersion string      `json:"httpVersion"`
	Cookies     []nameValue `json:"cookies"`
	Headers     []nameValue `json:"headers"`
	Query       []nameValue `json:"queryString"`
	PostData    *postData   `json:"postData,omitempty"`
	HeadersSize int         `json:"headersSize"`
	BodySize    int         `json:"bodySize"`
}

type postData struct {
	MimeType string      `json:"mimeType"`
	Params   []nameValue `json:"params"`
	Text     string      `json:"text"`
}

type response struct {
	Status      int         `json:"status"`
	StatusText  string      `json:"statusText"`
	HTTPVersion string      `json:"httpVersion"`
	Cookies     []nameValue `json:"cookies"`
	Headers     []nameValue `json:"headers"`
	Content     content     `json:"content"`
	RedirectURL string      `json:"redirectURL"`
	HeadersSize int         `json:"headersSize"`
	BodySize    int         `json:"bodySize"`
	Comment     string      `json:"comment,omitempty"`
}

type content struct {
	Size     int    `json:"size"`
	MimeType string `json:"mimeType"`
	Text     string `json:"text"`
}

type timings struct {
	Send    float64 `json:"send"`
	Wait    float64 `json:"wait"`
	Receive float64 `json:"receive"`
}

type nameValue struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Write writes the requests of a case's result, a page a step. secrets are request names whose values are masked.
func Write(w io.Writer, r *report.Result, secrets []string) error {
	m := maskOf(r, secrets)
	out := file{log{Version: "1.2", Creator: creator{"Odd Tick", "1"}, Pages: []page{}, Entries: []entry{}}}
	for i := range r.Steps {
		o := r.Steps[i].Observation
		if o == nil {
			continue
		}
		id := fmt.Sprintf("step-%d", i+1)
		out.Log.Pages = append(out.Log.Pages, page{Started: o.At, ID: id, Title: r.Case + ": " + string(r.Steps[i].Do)})
		at := o.At
		for k := range o.Exchanges {
			e := m.entry(&o.Exchanges[k])
			e.Page, e.Started = id, at
			at = at.Add(o.Exchanges[k].Took)
			out.Log.Entries = append(out.Log.Entries, e)
		}
	}
	e := json.NewEncoder(w)
	e.SetIndent("", " ")
	e.SetEscapeHTML(false)
	return e.Encode(out)
}

// masked stands for a secret.
const masked = "•••"

// mask replaces secrets, longest first, in every form in which they may stand in a request or a page.
type mask struct{ forms, names []string }

func maskOf(r *report.Result, secrets []string) mask {
	m := mask{names: secrets}
	add := func(text string) {
		if len(text) >= 4 && !slices.Contains(m.forms, text) {
			m.forms = append(m.forms, text)
		}
	}
	for i := range r.Steps {
		o := r.Steps[i].Observation
		if o == nil || o.Sent == nil {
			continue
		}
		for _, p := range o.Sent.Pairs {
			if !slices.Contains(secrets, p.Name) {
				continue
			}
			for _, form := range []string{p.Value, url.QueryEscape(p.Value), url.PathEscape(p.Value), html.EscapeString(p.Value)} {
				add(form)
				add(inJSON(form, true))
				add(inJSON(form, false))
			}
		}
	}
	slices.SortFunc(m.forms, func(a, b string) int { return len(b) - len(a) })
	return m
}

// inJSON is a text as it stands between quotation marks, with < > and & escaped or not.
func inJSON(text string, escaped bool) string {
	var b strings.Builder
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(escaped)
	_ = e.Encode(text) // a text can always be written
	quoted := strings.TrimSuffix(b.String(), "\n")
	return quoted[1 : len(quoted)-1]
}

// body hides secrets by their names too, as short ones cannot be looked for.
func (m mask) body(text string) string {
	parts := strings.Split(m.hide(text), "&")
	for i, p := range parts {
		name, _, pair := strings.Cut(p, "=")
		if plain, err := url.QueryUnescape(name); err == nil && pair && slices.Contains(m.names, plain) {
			parts[i] = name + "=" + masked
		}
	}
	return strings.Join(parts, "&")
}

func (m mask) hide(text string) string {
	for _, form := range m.forms {
		text = strings.ReplaceAll(text, form, masked)
	}
	return text
}

func (m mask) headers(list []observation.Header) []nameValue {
	out := []nameValue{}
	for _, h := range list {
		out = append(out, nameValue{h.Name, m.hide(h.Value)})
	}
	return out
}

func headerOf(list []observation.Header, name string) string {
	for _, h := range list {
		if strings.EqualFold(h.Name, name) {
			return h.Value
		}
	}
	return ""
}

func (m mask) entry(x *observation.Exchange) entry {
	took := float64(x.Took) / float64(time.Millisecond)
	e := entry{Time: took, Timings: timings{Wait: took}}
	e.Request = request{Method: x.Method, URL: m.hide(x.URL), HTTPVersion: "HTTP/1.1", Cookies: []nameValue{}, Headers: m.headers(x.RequestHeader), Query: []nameValue{}, HeadersSize: -1, BodySize: len(x.RequestBody)}
	if u, err := url.Parse(x.URL); err == nil {
		for _, pair := range strings.Split(u.RawQuery, "&") {
			if name, value, ok := strings.Cut(pair, "="); ok {
				e.Request.Query = append(e.Request.Query, nameValue{name, m.hide(value)})
			}
		}
	}
	if x.RequestBody != "" {
		e.Request.PostData = &postData{MimeType: headerOf(x.RequestHeader, "Content-Type"), Params: []nameValue{}, Text: m.body(x.RequestBody)}
	}
	e.Response = response{
		Status: x.Status, HTTPVersion: "HTTP/1.1", Cookies: []nameValue{}, Headers: m.headers(x.ResponseHeader), RedirectURL: m.hide(x.Location), HeadersSize: -1, BodySize: len(x.Body),
		Content: content{Size: len(x.Body), MimeType: headerOf(x.ResponseHeader, "Content-Type"), Text: m.hide(x.Body)}, Comment: x.NotFollowed,
	}
	if x.Truncated {
		e.Response.Comment = "the body is cut short"
	}
	return e
}
