// Package gate is what every request passes before anything else of it is looked at.
package gate

import (
	"cmp"
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"oddtick/server/store"

	"github.com/alexedwards/scs/mysqlstore"
	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	lru "github.com/hashicorp/golang-lru/v2"
)

// Gate is what every request passes before anything else of it is looked at: the host it names, the page it comes from, and who sends it.
type Gate struct {
	store    *store.Store
	Sessions *scs.SessionManager
	sweeper  *mysqlstore.MySQLStore
	public   *url.URL // where people reach Odd Tick, nil where that is loopback alone
	proxies  []netip.Prefix
	touched  *lru.Cache[string, time.Time]
	Throttle *Throttle
}

// Options are what an administrator sets of who comes in. The zero value serves loopback alone.
type Options struct {
	// Public is where people reach Odd Tick, such as https://oddtick.example; nil where that is loopback alone.
	Public *url.URL
	// Proxies are the addresses, or networks in CIDR notation, of proxies whose X-Forwarded headers are believed.
	Proxies []string
	// Idle is how long a session lasts that is not used, Lifetime how long it lasts at all; 0 for 8 hours and 7 days.
	Idle, Lifetime time.Duration
}

// New makes a gate whose sessions are kept in a store. Close it when done.
func New(st *store.Store, o Options) (*Gate, error) {
	g := &Gate{store: st, public: o.Public, Sessions: scs.New(), sweeper: mysqlstore.NewWithCleanupInterval(st.DB(), 10*time.Minute), Throttle: newThrottle()}
	g.touched, _ = lru.New[string, time.Time](10_000) // fails for sizes below one only
	g.Sessions.Store = g.sweeper
	g.Sessions.IdleTimeout = cmp.Or(o.Idle, 8*time.Hour)
	g.Sessions.Lifetime = cmp.Or(o.Lifetime, 7*24*time.Hour)
	g.Sessions.HashTokenInStore = true
	for _, p := range o.Proxies {
		network, err := netip.ParsePrefix(p)
		if err != nil {
			address, err := netip.ParseAddr(p)
			if err != nil {
				g.Close()
				return nil, fmt.Errorf("the trusted proxy %q is not an address", p)
			}
			network = netip.PrefixFrom(address, address.BitLen())
		}
		g.proxies = append(g.proxies, network)
	}
	return g, nil
}

// Close ends the deleting of sessions that are over.
func (g *Gate) Close() { g.sweeper.StopCleanup() }

// Sender is what is known of who sent a request.
type Sender struct {
	Address string
	Agent   string // as the browser calls itself
	Secure  bool   // by TLS, to this process or to a proxy that is trusted
	User    *store.User
}

type senderKey struct{}

func SenderOf(ctx context.Context) Sender {
	s, _ := ctx.Value(senderKey{}).(Sender)
	return s
}

const cookieName = "oddtick"

// CookieName is the name of the session's cookie. With __Host- a browser takes it from this very host alone, by TLS, for all paths.
func (s Sender) CookieName() string {
	if s.Secure {
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

// Pass lets a request through that names this server, comes from its own pages, and, for all of the API but signing in, from somebody
// who is signed in.
func (g *Gate) Pass(c *gin.Context) {
	r := c.Request
	if !g.names(r.Host) {
		refuse(c, http.StatusMisdirectedRequest, "Odd Tick is not available under this name. An administrator can set it with ODDTICK_PUBLIC.")
		return
	}
	from := Sender{Address: c.ClientIP(), Agent: r.UserAgent(), Secure: r.TLS != nil || c.RemoteIP() != "" && g.trusts(c.RemoteIP()) && r.Header.Get("X-Forwarded-Proto") == "https"}
	headers(c, from.Secure)
	if !strings.HasPrefix(r.URL.Path, "/api/") {
		return
	}
	changes := r.Method != http.MethodGet && r.Method != http.MethodHead
	if changes && !g.ownPage(r, from.Secure) {
		refuse(c, http.StatusForbidden, "The request comes from a page of another site.")
		return
	}
	if health[r.Method+" "+r.URL.Path] { // the database, where sessions are, may not answer
		return
	}
	value, _ := c.Cookie(from.CookieName())
	ctx, err := g.Sessions.Load(r.Context(), value)
	if err != nil {
		fail(c, http.StatusServiceUnavailable, "The sessions cannot be read: Odd Tick's database does not answer.", err)
		return
	}
	if !open[r.Method+" "+r.URL.Path] {
		from.User, err = g.signedIn(ctx)
		switch {
		case errors.Is(err, store.ErrNotFound):
			refuse(c, http.StatusUnauthorized, "Sign in first.")
			return
		case err != nil:
			fail(c, http.StatusServiceUnavailable, "Odd Tick's database does not answer.", err)
			return
		}
		token := g.Sessions.GetString(ctx, TokenKey)
		if changes && (token == "" || subtle.ConstantTimeCompare([]byte(token), []byte(c.GetHeader(TokenHeader))) != 1) {
			refuse(c, http.StatusForbidden, "The request does not carry this session's token. Reload the page.")
			return
		}
		g.touch(ctx, value)
	}
	c.Request = r.WithContext(context.WithValue(ctx, senderKey{}, from))
}

// names tells whether a Host header names this server: loopback, or where people reach it.
func (g *Gate) names(host string) bool {
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
func (g *Gate) ownPage(r *http.Request, secure bool) bool {
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
func (g *Gate) signedIn(ctx context.Context) (*store.User, error) {
	id := g.Sessions.GetInt64(ctx, UserKey)
	if id == 0 {
		return nil, store.ErrNotFound
	}
	u, err := g.store.User(ctx, id)
	if err == nil && u.SessionVersion != g.Sessions.GetInt(ctx, VersionKey) {
		return nil, store.ErrNotFound
	}
	return u, err
}

// StillSignedIn tells whether the session of a request that goes on has not ended meanwhile.
func (g *Gate) StillSignedIn(ctx context.Context) bool {
	token := g.Sessions.Token(ctx)
	if token == "" {
		return false
	}
	now, err := g.Sessions.Load(context.Background(), token) // with the request's own context it would be the session as it was then
	if err != nil {
		return store.Unreachable(err) // it is asked again
	}
	_, err = g.signedIn(now)
	return err == nil || store.Unreachable(err)
}

// touch puts off a session's end, once a minute at most. A session that has ended meanwhile stays ended.
func (g *Gate) touch(ctx context.Context, token string) {
	now := time.Now()
	if last, ok := g.touched.Get(token); ok && now.Sub(last) < time.Minute {
		return
	}
	g.touched.Add(token, now)
	expiry := now.Add(g.Sessions.IdleTimeout)
	if deadline := g.Sessions.Deadline(ctx); deadline.Before(expiry) {
		expiry = deadline
	}
	if err := g.store.KeepSession(ctx, StoredToken(token), expiry); err != nil {
		g.touched.Remove(token)
	}
}

// StoredToken is a session's token as scs keeps it.
func StoredToken(token string) string {
	sum := sha256.Sum256([]byte(token))
	return base64.RawURLEncoding.EncodeToString(sum[:])
}

const Policy = "default-src 'self'; img-src 'self' data:; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"

// headers keep pages from being framed, and from loading or running anything that is not Odd Tick's own.
func headers(c *gin.Context, secure bool) {
	h := c.Writer.Header()
	if secure {
		h.Set("Strict-Transport-Security", "max-age=31536000; includeSubDomains")
	}
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), geolocation=(), microphone=(), payment=(), usb=()")
	h.Set("Content-Security-Policy", Policy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
}

// trusts tells whether a request comes from a proxy whose X-Forwarded headers are believed.
func (g *Gate) trusts(address string) bool {
	a, err := netip.ParseAddr(address)
	return err == nil && slices.ContainsFunc(g.proxies, func(n netip.Prefix) bool { return n.Contains(a.Unmap()) })
}

const (
	TokenHeader = "X-Oddtick-Token"
	UserKey     = "user"
	VersionKey  = "version"
	TokenKey    = "token"
	AddressKey  = "address"
	AgentKey    = "agent"
)
