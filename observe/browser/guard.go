package browser

import (
	"context"
	"crypto/rand"
	"errors"
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"
)

// guard is a proxy on loopback that contacts allowed hosts only. The browser is told to ask nothing but it.
type guard struct {
	listener  net.Listener
	server    *http.Server
	o         Options
	transport *http.Transport
	// word is the name of the header by which the guard, and nobody else, says that no answer came.
	word string

	// asked is how many requests a host has not answered to their end.
	asked atomic.Int64

	mu      sync.Mutex
	refused []string
}

// startGuard starts a guard for those connections alone that are own.
func startGuard(o Options, own func(client, server netip.AddrPort) bool) (*guard, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	g := &guard{listener: l, o: o, transport: &http.Transport{Proxy: nil, DialContext: o.Dial}, word: "Oddtick-" + rand.Text()}
	g.server = &http.Server{Handler: g, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = g.server.Serve(&doorkeeper{l, own}) }() // it ends when it is closed
	return g, nil
}

func (g *guard) close() {
	_ = g.server.Close()
	g.transport.CloseIdleConnections()
}

func (g *guard) refuse(w http.ResponseWriter, host string) {
	g.mu.Lock()
	g.refused = append(g.refused, host)
	g.mu.Unlock()
	http.Error(w, host+" is not among the site's allowed addresses", http.StatusForbidden)
}

// ServeHTTP implements http.Handler.
func (g *guard) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if !g.o.Allowed(r.Host) && !g.o.Allowed(withoutPort(r.Host)) {
		g.refuse(w, r.Host)
		return
	}
	g.asked.Add(1)
	defer g.asked.Add(-1)
	if r.Method == http.MethodConnect {
		g.tunnel(w, r)
		return
	}
	out := r.Clone(r.Context())
	out.RequestURI = ""
	out.Header.Del("Proxy-Connection")
	out.Header.Del("Accept-Encoding") // it is asked for, and decoded, here, where its size is bounded
	if g.own(r.Host) {                // secrets go to the site's own host, and not to those that are merely allowed
		for name, value := range g.o.Headers {
			out.Header.Set(name, value)
		}
		if g.o.User != "" {
			out.SetBasicAuth(g.o.User, g.o.Password)
		}
	}
	res, err := g.transport.RoundTrip(out)
	if err != nil {
		w.Header().Set(g.word, err.Error())
		http.Error(w, err.Error(), http.StatusBadGateway)
		return
	}
	defer res.Body.Close()
	if coding := res.Header.Get("Content-Encoding"); coding != "" && !strings.EqualFold(coding, "identity") {
		said := "the answer comes in the encoding " + strconv.Quote(coding) + ", which was not asked for"
		w.Header().Set(g.word, said)
		http.Error(w, said, http.StatusBadGateway)
		return
	}
	for name, list := range res.Header {
		w.Header()[name] = list
	}
	w.WriteHeader(res.StatusCode)
	most := int64(maxAnswer)
	if r.Header.Get("Sec-Fetch-Dest") == "document" {
		most = maxDocument
	}
	_, _ = io.Copy(w, io.LimitReader(res.Body, most)) // the browser may have gone
}

func (g *guard) own(host string) bool {
	base, err := url.Parse(g.o.Address)
	return err == nil && base.Scheme == "http" && strings.EqualFold(withoutPort(host), withoutPort(base.Host))
}

// How much is let through, in bytes and decoded: of a page, as drawing more would take minutes, and of any other answer.
const (
	maxDocument = 4 << 20
	maxAnswer   = 32 << 20
)

// withoutPort is a host whose port is the one that its scheme has anyway.
func withoutPort(host string) string {
	name, port, err := net.SplitHostPort(host)
	if err != nil || port != "80" && port != "443" {
		return host
	}
	return name
}

func (g *guard) tunnel(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 10*time.Second)
	defer cancel()
	far, err := g.o.Dial(ctx, "tcp", r.Host)
	if err != nil {
		http.Error(w, err.Error(), http.StatusBadGateway)
		return
	}
	defer far.Close()
	near, _, err := http.NewResponseController(w).Hijack()
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	defer near.Close()
	if _, err := near.Write([]byte("HTTP/1.1 200 OK\r\n\r\n")); err != nil {
		return
	}
	done := make(chan error, 2)
	copyTo := func(to, from net.Conn) {
		_, err := io.Copy(to, from)
		done <- err
	}
	go copyTo(far, near)
	go copyTo(near, far)
	<-done
}

// errNoBrowser says that there is no Chromium.
var errNoBrowser = errors.New("no Chromium is installed; install Debian's package chromium")
