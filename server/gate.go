package server

import (
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"strings"
	"time"

	"oddtick/server/store"

	"github.com/gin-gonic/gin"
	lru "github.com/hashicorp/golang-lru/v2"
)

// gate is what every request passes before anything else of it is looked at: the host it names, the page it comes from, and who sends it.
type gate struct {
	public  *url.URL // where people reach Odd Tick, nil where that is loopback alone
	touched *lru.Cache[string, time.Time]
}

func newGate(public *url.URL) *gate {
	touched, _ := lru.New[string, time.Time](10_000) // fails for sizes below one only
	return &gate{public: public, touched: touched}
}

// sender is what is known of who sent a request.
type sender struct {
	address string
	agent   string // as the browser calls itself
	secure  bool   // by TLS, to this process or to a proxy that is trusted
	user    *store.User
}

type senderKey struct{}

func senderOf(ctx context.Context) sender {
	s, _ := ctx.Value(senderKey{}).(sender)
	return s
}

const cookieName = "oddtick"

// cookie is the name of the session's cookie. With __Host- a browser takes it from this very host alone, by TLS, for all paths.
func (s sender) cookie() string {
	if s.secure {
		return "__Host-" + cookieName
	}
	return cookieName
}

// refuse answers with a problem (RFC 9457).
func refuse(c *gin.Context, status int, detail string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, gin.H{"title": http.StatusText(status), "status": status, "detail": detail})
}

// open are the addresses of the API that need no session.
var open = map[string]bool{
	"POST /api/session": true, "POST /api/first-user": true, "POST /api/first-user/link": true,
}

// health are the addresses that tell how the server is, to anybody.
var health = map[string]bool{"GET /api/live": true, "GET /api/ready": true}

// pass lets a request through that names this server, comes from its own pages, and, for all of the API but signing in, from somebody
// who is signed in.
func (s *Server) pass(c *gin.Context) {
	r := c.Request
	if !s.gate.names(r.Host) {
		refuse(c, http.StatusMisdirectedRequest, "Odd Tick is not served under this name. An administrator sets it with ODDTICK_PUBLIC.")
		return
	}
	from := sender{address: c.ClientIP(), agent: r.UserAgent(), secure: r.TLS != nil || c.RemoteIP() != "" && s.trusts(c.RemoteIP()) && r.Header.Get("X-Forwarded-Proto") == "https"}
	headers(c, from.secure)
	if !strings.HasPrefix(r.URL.Path, "/api/") {
		return
	}
	changes := r.Method != http.MethodGet && r.Method != http.MethodHead
	if changes && !s.gate.ownPage(r, from.secure) {
		refuse(c, http.StatusForbidden, "The request comes from a page of another site.")
		return
	}
	if health[r.Method+" "+r.URL.Path] { // the database, where sessions are, may not answer
		return
	}
	value, _ := c.Cookie(from.cookie())
	ctx, err := s.sessions.Load(r.Context(), value)
	if err != nil {
		s.fail(c, http.StatusServiceUnavailable, "The sessions cannot be read: Odd Tick's database does not answer.", err)
		return
	}
	if !open[r.Method+" "+r.URL.Path] {
		from.user, err = s.signedIn(ctx)
		switch {
		case errors.Is(err, store.ErrNotFound):
			refuse(c, http.StatusUnauthorized, "Sign in first.")
			return
		case err != nil:
			s.fail(c, http.StatusServiceUnavailable, "Odd Tick's database does not answer.", err)
			return
		}
		token := s.sessions.GetString(ctx, tokenKey)
		if changes && (token == "" || subtle.ConstantTimeCompare([]byte(token), []byte(c.GetHeader(tokenHeader))) != 1) {
			refuse(c, http.StatusForbidden, "The request does not carry this session's token. Reload the page.")
			return
		}
		s.touch(ctx, value)
	}
	c.Request = r.WithContext(context.WithValue(ctx, senderKey{}, from))
}

// names tells whether a Host header names this server: loopback, or where people reach it.
func (g *gate) names(host string) bool {
	if g.public != nil && strings.EqualFold(host, g.public.Host) {
		return true
	}
	name := host
	if h, _, err := net.SplitHostPort(host); err == nil {
		name = h
	}
	address, err := netip.ParseAddr(strings.Trim(name, "[]"))
	return strings.EqualFold(name, "localhost") || err == nil && address.IsLoopback()
}

// ownPage tells whether a browser sent a request from a page of this server. Other programs say neither.
func (g *gate) ownPage(r *http.Request, secure bool) bool {
	if site := r.Header.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return false
	}
	origin := r.Header.Get("Origin")
	scheme := "http"
	if secure {
		scheme = "https"
	}
	return origin == "" || strings.EqualFold(origin, scheme+"://"+r.Host) || g.public != nil && strings.EqualFold(origin, g.public.Scheme+"://"+g.public.Host)
}

// signedIn is who a session is of; store.ErrNotFound where it is nobody's, or has ended.
func (s *Server) signedIn(ctx context.Context) (*store.User, error) {
	id := s.sessions.GetInt64(ctx, userKey)
	if id == 0 {
		return nil, store.ErrNotFound
	}
	u, err := s.store.User(ctx, id)
	if err == nil && u.SessionVersion != s.sessions.GetInt(ctx, versionKey) {
		return nil, store.ErrNotFound
	}
	return u, err
}

// stillSignedIn tells whether the session of a request that goes on has not ended meanwhile.
func (s *Server) stillSignedIn(ctx context.Context) bool {
	token := s.sessions.Token(ctx)
	if token == "" {
		return false
	}
	now, err := s.sessions.Load(context.Background(), token) // with the request's own context it would be the session as it was then
	if err != nil {
		return store.Unreachable(err) // it is asked again
	}
	_, err = s.signedIn(now)
	return err == nil || store.Unreachable(err)
}

// touch puts off a session's end, once a minute at most. A session that has ended meanwhile stays ended.
func (s *Server) touch(ctx context.Context, token string) {
	now := time.Now()
	if last, ok := s.gate.touched.Get(token); ok && now.Sub(last) < time.Minute {
		return
	}
	s.gate.touched.Add(token, now)
	expiry := now.Add(s.sessions.IdleTimeout)
	if deadline := s.sessions.Deadline(ctx); deadline.Before(expiry) {
		expiry = deadline
	}
	if err := s.store.KeepSession(ctx, kept(token), expiry); err != nil {
		s.gate.touched.Remove(token)
	}
}

// kept is a session's token as scs keeps it.
func kept(token string) string {
	sum := sha256.Sum256([]byte(token))
	return base64.RawURLEncoding.EncodeToString(sum[:])
}
