// Package mail receives what a site sends by mail (SMTP, RFC 5321), on this machine only: a simulated outside service that a test
// site is pointed at. Nothing is sent on.
package mail

import (
	"context"
	"fmt"
	"io"
	"net"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/emersion/go-message/mail"
	"github.com/emersion/go-smtp"
	"golang.org/x/net/html"
)

// Mail is one mail as it came in, for one recipient.
type Mail struct {
	At      time.Time `json:"at"`
	From    string    `json:"from"`
	To      string    `json:"to"`
	Subject string    `json:"subject"`
	// Text is all that is to be read, of every part; of HTML the text alone.
	Text string `json:"text"`
	// Links are the addresses in it, in their order, each once.
	Links []string `json:"links,omitempty"`
	// Failure says why it could not be read.
	Failure string `json:"failure,omitempty"`
}

// maxBytes is how large a mail may be, and maxKept how many are kept.
const (
	maxBytes = 4 << 20
	maxKept  = 10_000
)

// Receiver takes mails. It is safe for use by several goroutines.
type Receiver struct {
	server   *smtp.Server // nil of a folder
	listener net.Listener
	done     chan struct{} // closed when a folder is looked at no more
	place    string
	users    int

	mu    sync.Mutex
	moved chan struct{} // closed at the next mail
	list  []Mail
}

// Listen takes mails at an address of this machine, host:port; port 0 is any that is free. Close it when done. At finds it by its address.
func Listen(address string) (*Receiver, error) {
	r, err := listen(address)
	if err != nil {
		return nil, err
	}
	shared.mu.Lock()
	defer shared.mu.Unlock()
	r.share(r.Address())
	return r, nil
}

func listen(address string) (*Receiver, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("the address %q for mails is not host:port", address)
	}
	if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf("%s is not on this machine; mails are received at 127.0.0.1 only", host)
	}
	l, err := net.Listen("tcp", address)
	if err != nil {
		return nil, fmt.Errorf("cannot receive mails at %s: %w; choose another port", address, err)
	}
	r := &Receiver{listener: l, moved: make(chan struct{})}
	r.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{r: r}, nil }))
	r.server.Domain = "localhost"
	r.server.MaxMessageBytes, r.server.MaxRecipients = maxBytes, 100
	r.server.ReadTimeout, r.server.WriteTimeout = time.Minute, time.Minute
	r.server.ErrorLog = silent{}
	go func() { _ = r.server.Serve(l) }() // ends when it is closed
	return r, nil
}

// silent: what a client does wrong concerns the client.
type silent struct{}

func (silent) Printf(string, ...any) {}
func (silent) Println(...any)        {}

// Address is where mails are received, host:port.
func (r *Receiver) Address() string { return r.listener.Addr().String() }

// Close ends receiving, once nobody else uses the receiver.
func (r *Receiver) Close() error {
	if !r.released() {
		return nil
	}
	if r.done != nil {
		close(r.done)
		return nil
	}
	_ = r.listener.Close() // the server may not have taken it over yet
	return r.server.Close()
}

// Count is how many mails have come in.
func (r *Receiver) Count() int {
	r.mu.Lock()
	defer r.mu.Unlock()
	return len(r.list)
}

// Since are the mails that came in after the first n, to one recipient; "" is to anybody.
func (r *Receiver) Since(n int, to string) []Mail {
	r.mu.Lock()
	defer r.mu.Unlock()
	var out []Mail
	for _, m := range r.list[min(n, len(r.list)):] {
		if to == "" || strings.EqualFold(m.To, to) {
			out = append(out, m)
		}
	}
	return out
}

// Wait is the first mail to a recipient after the first n, as soon as it comes; ok is false when ctx ends before.
func (r *Receiver) Wait(ctx context.Context, n int, to string) (m Mail, ok bool) {
	for {
		r.mu.Lock()
		moved := r.moved
		r.mu.Unlock()
		if list := r.Since(n, to); len(list) > 0 {
			return list[0], true
		}
		select {
		case <-moved:
		case <-ctx.Done():
			return Mail{}, false
		}
	}
}

// WaitFor waits until so many mails to a recipient came after the first n; false when ctx ends before.
func (r *Receiver) WaitFor(ctx context.Context, n int, to string, many int) bool {
	for {
		r.mu.Lock()
		moved := r.moved
		r.mu.Unlock()
		if len(r.Since(n, to)) >= many {
			return true
		}
		select {
		case <-moved:
		case <-ctx.Done():
			return false
		}
	}
}

func (r *Receiver) add(m Mail) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if len(r.list) >= maxKept { // the text of the oldest is let go, so that counts stay
		r.list[len(r.list)-maxKept] = Mail{At: r.list[len(r.list)-maxKept].At}
	}
	r.list = append(r.list, m)
	close(r.moved)
	r.moved = make(chan struct{})
}

// session is one client's.
type session struct {
	r    *Receiver
	from string
	to   []string
}

func (s *session) Reset()        { s.from, s.to = "", nil }
func (s *session) Logout() error { return nil }

func (s *session) Mail(from string, _ *smtp.MailOptions) error {
	s.from = from
	return nil
}

func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(in io.Reader) error {
	m := Read(in)
	m.At, m.From = time.Now().UTC(), s.from
	for _, to := range s.to {
		m.To = to
		s.r.add(m)
	}
	return nil
}

// Read reads a mail (RFC 5322, MIME).
func Read(in io.Reader) Mail {
	var m Mail
	reader, err := mail.CreateReader(in)
	if err != nil {
		m.Failure = err.Error()
		return m
	}
	defer reader.Close()
	m.Subject, _ = reader.Header.Subject()
	var text strings.Builder
	for {
		part, err := reader.NextPart()
		if err == io.EOF {
			break
		}
		if err != nil {
			m.Failure = err.Error()
			break
		}
		body, err := io.ReadAll(io.LimitReader(part.Body, maxBytes))
		if err != nil {
			m.Failure = err.Error()
			break
		}
		kind := ""
		if h, inline := part.Header.(*mail.InlineHeader); inline {
			kind, _, _ = h.ContentType()
		}
		switch kind {
		case "text/html":
			words, links := readHTML(string(body))
			text.WriteString(words + "\n")
			m.Links = append(m.Links, links...)
		case "text/plain", "":
			text.Write(body)
			text.WriteString("\n")
			m.Links = append(m.Links, linkForm.FindAllString(string(body), -1)...)
		}
	}
	m.Text = strings.TrimSpace(text.String())
	seen := map[string]bool{}
	m.Links = slices.DeleteFunc(m.Links, func(l string) bool {
		known := seen[l]
		seen[l] = true
		return known
	})
	return m
}

var linkForm = regexp.MustCompile(`https?://[^\s<>"']+[^\s<>"'.,;:!?)]`)

// readHTML is the text of a page and where its links lead.
func readHTML(page string) (text string, links []string) {
	root, err := html.Parse(strings.NewReader(page))
	if err != nil {
		return page, nil
	}
	var words []string
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		switch {
		case n.Type == html.TextNode:
			words = append(words, strings.Fields(n.Data)...)
		case n.Data == "script" || n.Data == "style":
			return
		}
		for _, a := range n.Attr {
			if n.Data == "a" && a.Key == "href" && strings.HasPrefix(a.Val, "http") {
				links = append(links, a.Val)
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c)
		}
	}
	walk(root)
	return strings.Join(words, " "), links
}
