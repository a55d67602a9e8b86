package web

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"mime"
	"net/http"
	"net/http/cookiejar"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"oddtick/core/observation"
	"oddtick/core/submission"

	whatwg "github.com/nlnwa/whatwg-url/url"
	"golang.org/x/net/html/charset"
)

const (
	maxBody      = 1 << 20
	maxRedirects = 10
)

// Client makes visitors of one site. Its connections are shared.
type Client struct {
	base      *url.URL
	allowed   map[string]bool
	transport *http.Transport
	o         Options
	pins      pins
	// late is why a request ends that was not answered in time.
	late error
	// waited counts how often, and how long, the site asked to wait.
	waited patience
}

// Options say where a site is and how it is reached.
type Options struct {
	// Address is the base address. Allowed are hosts besides its own that may be contacted.
	Address string
	Allowed []string
	// Timeout is for one request.
	Timeout time.Duration
	// Headers go along with every request.
	Headers map[string]string
	// User and Password are for HTTP's basic authentication; none is sent without a user.
	User, Password string
	// Authority is a further certificate authority to trust, in PEM.
	Authority string
	// Language is what is asked for, en where nothing is said.
	Language string
	// TooManyPromised: an answer of status 429 is the site's promise, and is taken as any other.
	TooManyPromised bool
	// LeastWait is how long is waited at least after such an answer.
	LeastWait time.Duration
	// MaxBody is how much of an answer is read, in bytes; a megabyte where nothing is said.
	MaxBody int
	// LookUp resolves names; the system's where it is nil.
	LookUp func(ctx context.Context, host string) ([]netip.Addr, error)
}

// NewClient prepares for a site.
func NewClient(o Options) (*Client, error) {
	base, err := url.Parse(o.Address)
	if err != nil || base.Host == "" || base.Scheme != "http" && base.Scheme != "https" {
		return nil, fmt.Errorf("the site's address %q must begin with http:// or https://, like http://127.0.0.1:4650", o.Address)
	}
	if base.User != nil {
		base.User = nil
		return nil, fmt.Errorf("the site's address holds a name or a password, and is shown to everybody; write %s, and them as authentication: {user: …, password: …}", base)
	}
	if o.Language == "" {
		o.Language = "en"
	}
	if o.MaxBody <= 0 {
		o.MaxBody = maxBody
	}
	c := &Client{base: base, allowed: map[string]bool{base.Host: true}, o: o, late: fmt.Errorf("no whole answer within %v", o.Timeout)}
	for _, host := range o.Allowed {
		c.allowed[host] = true
	}
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.Proxy = nil
	transport.MaxIdleConnsPerHost = 16
	transport.DialContext = c.Dial
	if o.Authority != "" {
		roots, err := x509.SystemCertPool()
		if err != nil {
			roots = x509.NewCertPool()
		}
		if !roots.AppendCertsFromPEM([]byte(o.Authority)) {
			return nil, errors.New("the certificate authority is not a certificate in PEM; paste it from BEGIN CERTIFICATE to END CERTIFICATE")
		}
		transport.TLSClientConfig = &tls.Config{RootCAs: roots, MinVersion: tls.VersionTLS12}
	}
	c.transport = transport
	return c, nil
}

// Close ends idle connections.
func (c *Client) Close() { c.transport.CloseIdleConnections() }

// Allowed tells whether a host, with its port where it has one, may be contacted.
func (c *Client) Allowed(host string) bool { return c.allowed[host] }

// own tells whether an address is the site's own: its headers and authentication go nowhere else. A site at http may lead to https.
func (c *Client) own(u *url.URL) bool {
	if u.Scheme == c.base.Scheme {
		return PortOf(u) == PortOf(c.base) && strings.EqualFold(u.Hostname(), c.base.Hostname())
	}
	return u.Scheme == "https" && PortOf(u) == "443" && PortOf(c.base) == "80" && strings.EqualFold(u.Hostname(), c.base.Hostname())
}

// PortOf is the port of an address, or the one that its scheme has where it names none.
func PortOf(u *url.URL) string {
	switch {
	case u.Port() != "":
		return u.Port()
	case u.Scheme == "https":
		return "443"
	}
	return "80"
}

// Own tells whether a path or address is of the site itself, and not of a host that is merely allowed.
func (v *Visitor) Own(address string) bool {
	u, err := v.client.base.Parse(address)
	return err == nil && v.client.own(u)
}

// NotAllowedError says that an address lies outside the allowed hosts; it was not contacted.
type NotAllowedError struct{ Host string }

func (e *NotAllowedError) Error() string {
	return fmt.Sprintf("%s is not among the site's allowed addresses", e.Host)
}

// Visitor is one visitor with cookies of their own.
type Visitor struct {
	client *Client
	jar    *cookiejar.Jar
	// language is what the visitor asks for.
	language string
	bearer   string // token that goes along with requests to the site, "" for none
	// refreshToken asks for a new bearer token, "" for none.
	refreshToken string
	// takesTooMany: an answer of status 429 is taken as any other, as where the client's options say so.
	takesTooMany bool
	last         *request
	set          map[cookieName]SetCookie // as they were set last
}

// SetCookie is a cookie with its attributes, and the address that set it.
type SetCookie struct {
	*http.Cookie
	From *url.URL
	at   time.Time
}

// cookieName is what one cookie is told from another by (RFC 6265, section 5.3).
type cookieName struct{ name, domain, path string }

func (c *SetCookie) id() cookieName {
	domain := strings.ToLower(strings.TrimPrefix(c.Domain, "."))
	if domain == "" {
		domain = c.From.Hostname()
	}
	return cookieName{c.Name, domain, c.path()}
}

// path is where the cookie is for: its own attribute, or the folder of the address that set it.
func (c *SetCookie) path() string {
	if strings.HasPrefix(c.Path, "/") {
		return c.Path
	}
	if at := strings.LastIndexByte(c.From.Path, '/'); at > 0 {
		return c.From.Path[:at]
	}
	return "/"
}

type request struct {
	method, url, contentType string
	// shown is the body for the record: files stand in it as words.
	body, shown string
	// header are lines besides those of every request.
	header []observation.Header
}

// NewVisitor is somebody who was never here.
func (c *Client) NewVisitor() *Visitor {
	jar, _ := cookiejar.New(nil) // fails for no options
	return &Visitor{client: c, jar: jar, language: c.o.Language}
}

// SetLanguage makes the visitor ask for another language, a language tag (BCP 47).
func (v *Visitor) SetLanguage(language string) { v.language = language }

// TakeTooMany makes the visitor take an answer that there were too many requests as any other.
func (v *Visitor) TakeTooMany() { v.takesTooMany = true }

// SetBearer makes the visitor send a bearer token (RFC 6750) to the site itself, and nowhere else.
func (v *Visitor) SetBearer(token string) { v.bearer = token }

// Bearer is the token that the visitor sends, "" for none.
func (v *Visitor) Bearer() string { return v.bearer }

// SetRefreshToken keeps the token by which a new bearer token is asked for.
func (v *Visitor) SetRefreshToken(token string) { v.refreshToken = token }

// RefreshToken is the token by which a new bearer token is asked for, "" for none.
func (v *Visitor) RefreshToken() string { return v.refreshToken }

// PostJSON sends a JSON body to a path of the site and follows redirects.
func (v *Visitor) PostJSON(ctx context.Context, path, body string) ([]observation.Exchange, error) {
	target, err := v.client.base.Parse(path)
	if err != nil {
		return nil, fmt.Errorf("the path %q cannot be read: %w", path, err)
	}
	last := v.last
	defer func() { v.last = last }()
	return v.follow(ctx, &request{method: http.MethodPost, url: target.String(), contentType: "application/json", body: body, shown: "…"})
}

// Open requests a page by its path and follows redirects.
func (v *Visitor) Open(ctx context.Context, path string) ([]observation.Exchange, error) {
	target, err := v.client.base.Parse(path)
	if err != nil {
		return nil, fmt.Errorf("the path %q cannot be read: %w", path, err)
	}
	return v.follow(ctx, &request{method: http.MethodGet, url: target.String()})
}

// Look opens a page beside the one the visitor sees: a reload stays with that one.
func (v *Visitor) Look(ctx context.Context, path string) ([]observation.Exchange, error) {
	last := v.last
	defer func() { v.last = last }()
	return v.Open(ctx, path)
}

// Submit sends pairs to where the form points, in its encoding, and follows redirects. A content type is said in place of the
// encoding's own, where one is given.
func (v *Visitor) Submit(ctx context.Context, form *observation.Form, pairs []submission.Pair, contentType string) ([]observation.Exchange, error) {
	r := &request{method: form.Method, url: form.Action, header: form.Header}
	switch {
	case form.Method == http.MethodGet:
		target, err := url.Parse(form.Action)
		if err != nil {
			return nil, fmt.Errorf("the form's target %q cannot be read: %w", form.Action, err)
		}
		target.RawQuery = encode(pairs)
		r.url = target.String()
	case form.Encoding == "multipart":
		var err error
		if r.contentType, r.body, r.shown, err = multipartBody(pairs); err != nil {
			return nil, err
		}
	default:
		r.contentType, r.body = "application/x-www-form-urlencoded", encode(pairs)
		r.shown = r.body
	}
	if contentType != "" && r.contentType != "" {
		r.contentType = contentType
	}
	return v.follow(ctx, r)
}

// SendJSON sends a JSON body (RFC 8259), as another content type where one is given, and follows redirects. By GET there is no body.
func (v *Visitor) SendJSON(ctx context.Context, form *observation.Form, body, contentType string) ([]observation.Exchange, error) {
	if form.Method == http.MethodGet {
		return v.follow(ctx, &request{method: form.Method, url: form.Action, header: form.Header})
	}
	if contentType == "" {
		contentType = "application/json"
	}
	return v.follow(ctx, &request{method: form.Method, url: form.Action, contentType: contentType, body: body, shown: body, header: form.Header})
}

// encode writes pairs in their order as application/x-www-form-urlencoded; line ends become CRLF, as a browser sends them.
func encode(pairs []submission.Pair) string {
	parts := make([]string, len(pairs))
	for i, p := range pairs {
		if p.File != nil {
			p.Value = p.File.Name // of a file its name alone is sent, as a browser does
		}
		parts[i] = url.QueryEscape(p.Name) + "=" + url.QueryEscape(crlf(p.Value))
	}
	return strings.Join(parts, "&")
}

// crlf writes line ends as a browser sends them.
func crlf(value string) string {
	return strings.ReplaceAll(strings.ReplaceAll(value, "\r\n", "\n"), "\n", "\r\n")
}

// Reload asks again for what the visitor sees, as a browser's reload does: a page that answered a submission is submitted again.
func (v *Visitor) Reload(ctx context.Context) ([]observation.Exchange, error) {
	if v.last == nil {
		return nil, errors.New("there is no page to reload")
	}
	return v.follow(ctx, v.last)
}

// SetCookies gives the visitor cookies in place of those it has.
func (v *Visitor) SetCookies(cookies []SetCookie) {
	v.jar, _ = cookiejar.New(nil) // fails for no options
	v.set = nil
	for _, c := range cookies {
		v.keep(c)
	}
}

// AddCookie gives the visitor a cookie beside those it has.
func (v *Visitor) AddCookie(c SetCookie) { v.keep(c) }

// keep sets a cookie.
func (v *Visitor) keep(c SetCookie) {
	v.jar.SetCookies(c.From, []*http.Cookie{c.Cookie})
	if v.set == nil {
		v.set = map[cookieName]SetCookie{}
	}
	v.set[c.id()] = c
}

// Cookies are the visitor's cookies as they were set, for whatever path and host of the site they are, by their names' order.
func (v *Visitor) Cookies() []SetCookie {
	var out []SetCookie
	for _, c := range v.set {
		if !c.over() && v.kept(&c) {
			out = append(out, c)
		}
	}
	slices.SortFunc(out, func(a, b SetCookie) int {
		x, y := a.id(), b.id()
		return cmp.Or(strings.Compare(x.name, y.name), strings.Compare(x.path, y.path), strings.Compare(x.domain, y.domain))
	})
	return out
}

// Refused says which cookies of the site are not kept, and why; "" where all are.
func (v *Visitor) Refused() string {
	var out []string
	for _, c := range v.set {
		if why := v.notKept(&c); why != "" {
			out = append(out, fmt.Sprintf("the cookie %s is not kept: %s", c.Name, why))
		}
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

// over: the cookie was taken back, or has ended.
func (c *SetCookie) over() bool {
	return c.MaxAge < 0 || c.Value == "" || c.MaxAge == 0 && !c.Expires.IsZero() && c.Expires.Before(time.Now()) || c.MaxAge > 0 && time.Since(c.at) >= time.Duration(c.MaxAge)*time.Second
}

// kept tells whether the visitor sends a cookie where it is for.
func (v *Visitor) kept(c *SetCookie) bool {
	at := *c.From
	at.Path = c.path()
	return slices.ContainsFunc(v.jar.Cookies(&at), func(k *http.Cookie) bool { return k.Name == c.Name && k.Value == c.Value })
}

// notKept says why a cookie that was set is not kept, "" where it is, or was taken back.
func (v *Visitor) notKept(c *SetCookie) string {
	switch {
	case c.over() || v.kept(c):
		return ""
	case c.Secure && c.From.Scheme == "http":
		return "it is for HTTPS only"
	case c.Domain != "":
		return "it is for " + c.Domain
	}
	return "it is not valid"
}

// Cookie is a cookie's value as a script of the page would use it, "" where there is none.
func (v *Visitor) Cookie(name string) string {
	for _, c := range v.Cookies() {
		if c.Name == name {
			if plain, err := url.PathUnescape(c.Value); err == nil {
				return plain
			}
			return c.Value
		}
	}
	return ""
}

// CookieDigests are digests of the visitor's cookies for the site, by name.
func (v *Visitor) CookieDigests() map[string]string {
	out := map[string]string{}
	for _, c := range v.Cookies() {
		sum := sha256.Sum256([]byte(c.Value))
		out[c.Name] = hex.EncodeToString(sum[:6])
	}
	return out
}

func (v *Visitor) follow(ctx context.Context, r *request) ([]observation.Exchange, error) {
	var out []observation.Exchange
	for {
		x, err := v.once(ctx, r)
		if err != nil {
			return out, err
		}
		out = append(out, *x)
		last := &out[len(out)-1]
		if x.Location == "" {
			v.last = r
			return out, nil
		}
		target, err := url.Parse(x.Location)
		switch {
		case err != nil:
			last.NotFollowed = "the redirect's target cannot be read"
		case !v.client.allowed[target.Host]:
			last.NotFollowed = (&NotAllowedError{target.Host}).Error()
		case len(out) > maxRedirects:
			last.NotFollowed = fmt.Sprintf("more than %d redirects", maxRedirects)
		}
		if last.NotFollowed != "" {
			v.last = r
			return out, nil
		}
		next := &request{method: http.MethodGet, url: x.Location}
		if x.Status == http.StatusTemporaryRedirect || x.Status == http.StatusPermanentRedirect {
			next.method, next.body, next.shown, next.contentType = r.method, r.body, r.shown, r.contentType
		}
		r = next
	}
}

// buffers are what answers are read into before they are text.
var buffers = sync.Pool{New: func() any { return new(bytes.Buffer) }}

// once makes a request. Where the site says that there were too many it waits as it is asked to, and makes it again.
func (v *Visitor) once(ctx context.Context, r *request) (*observation.Exchange, error) {
	for try := range maxTooMany {
		x, err := v.answer(ctx, r)
		if err != nil || x.Status != http.StatusTooManyRequests || v.takesTooMany || v.client.o.TooManyPromised {
			return x, err
		}
		long := max(RetryAfter(x, try), v.client.o.LeastWait)
		if err := v.client.waited.wait(ctx, long); err != nil {
			return nil, err
		}
	}
	return nil, &TooManyError{Times: maxTooMany}
}

func (v *Visitor) answer(ctx context.Context, r *request) (*observation.Exchange, error) {
	if v.client.o.Timeout > 0 {
		var cancel context.CancelFunc
		ctx, cancel = context.WithTimeoutCause(ctx, v.client.o.Timeout, v.client.late)
		defer cancel()
	}
	req, err := http.NewRequestWithContext(ctx, r.method, r.url, strings.NewReader(r.body))
	if err != nil {
		return nil, fmt.Errorf("request %s: %w", r.url, err)
	}
	if !v.client.allowed[req.URL.Host] {
		return nil, &NotAllowedError{req.URL.Host}
	}
	req.Header.Set("User-Agent", "OddTick")
	req.Header.Set("Accept", "text/html,application/xhtml+xml;q=0.9,*/*;q=0.8")
	if r.contentType == "application/json" {
		req.Header.Set("Accept", "application/json, */*;q=0.5")
	}
	req.Header.Set("Accept-Language", v.language)
	for _, h := range r.header {
		req.Header.Set(h.Name, h.Value)
	}
	own := v.client.own(req.URL)
	if own {
		for name, value := range v.client.o.Headers {
			req.Header.Set(name, value)
		}
	}
	switch u := req.URL.User; {
	case own && v.client.o.User != "":
		req.SetBasicAuth(v.client.o.User, v.client.o.Password)
	case u != nil:
		password, _ := u.Password()
		req.SetBasicAuth(u.Username(), password)
	}
	if own && v.bearer != "" {
		req.Header.Set("Authorization", "Bearer "+v.bearer)
	}
	if r.contentType != "" {
		req.Header.Set("Content-Type", r.contentType)
		req.Header.Set("Origin", req.URL.Scheme+"://"+req.URL.Host)
	}
	for _, c := range v.jar.Cookies(req.URL) {
		req.AddCookie(c)
	}
	started := time.Now()
	res, err := v.client.transport.RoundTrip(req) // cookies and redirects are the visitor's own
	if err != nil {
		return nil, fmt.Errorf("%s %s: %w", r.method, req.URL.Path, err)
	}
	defer res.Body.Close()
	body := buffers.Get().(*bytes.Buffer)
	defer buffers.Put(body)
	body.Reset()
	if _, err := body.ReadFrom(io.LimitReader(res.Body, int64(v.client.o.MaxBody)+1)); err != nil {
		return nil, fmt.Errorf("%s %s: read the answer: %w", r.method, req.URL.Path, err)
	}
	raw := body.Bytes()
	for _, c := range res.Cookies() {
		v.keep(SetCookie{c, req.URL, started})
	}
	x := &observation.Exchange{Method: r.method, URL: r.url, RequestHeader: v.client.shown(req.Header), RequestBody: r.shown, Status: res.StatusCode, ResponseHeader: headers(res.Header), Took: time.Since(started)}
	if len(raw) > v.client.o.MaxBody {
		raw, x.Truncated = raw[:v.client.o.MaxBody], true
	}
	x.Body = decode(raw, res.Header.Get("Content-Type"))
	if res.StatusCode >= 300 && res.StatusCode < 400 {
		x.Location = goesTo(r.url, res.Header.Get("Location"))
	}
	return x, nil
}

// goesTo is the address a browser goes to, sent from one with a Location (URL Standard, section 4.4: a backslash counts as a slash, and
// https:host names a host); "" where it goes nowhere.
func goesTo(from, location string) string {
	if location == "" {
		return ""
	}
	target, err := whatwg.ParseRef(from, location)
	if err != nil {
		return ""
	}
	return target.Href(false)
}

// decode turns a body into UTF-8 by its declared or guessed encoding.
func decode(raw []byte, contentType string) string {
	if _, params, err := mime.ParseMediaType(contentType); err == nil && strings.EqualFold(params["charset"], "utf-8") {
		return inUTF8(raw)
	}
	encoding, name, _ := charset.DetermineEncoding(raw, contentType)
	if name == "utf-8" {
		return inUTF8(raw)
	}
	text, err := encoding.NewDecoder().Bytes(raw)
	if err != nil {
		return inUTF8(raw)
	}
	return string(text)
}

func inUTF8(raw []byte) string {
	if utf8.Valid(raw) {
		return string(raw)
	}
	return strings.ToValidUTF8(string(raw), "\uFFFD")
}

// shown lists a request's headers; the values of the site's own extra headers and of its authentication are secrets.
func (c *Client) shown(h http.Header) []observation.Header {
	out := headers(h)
	for i := range out {
		_, extra := c.o.Headers[out[i].Name]
		for name := range c.o.Headers {
			extra = extra || strings.EqualFold(name, out[i].Name)
		}
		if extra || out[i].Name == "Authorization" {
			out[i].Value = "…"
		}
	}
	return out
}

// headers lists headers by name, those of one name as they came. Cookies' values are left out: they are secrets.
func headers(h http.Header) []observation.Header {
	out := make([]observation.Header, 0, len(h))
	for name, list := range h {
		for _, value := range list {
			if name == "Cookie" || name == "Set-Cookie" {
				value = observation.WithoutCookieValues(value)
			}
			out = append(out, observation.Header{Name: name, Value: value})
		}
	}
	slices.SortStableFunc(out, func(a, b observation.Header) int { return strings.Compare(a.Name, b.Name) })
	return out
}
