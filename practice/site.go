package practice

import (
	"cmp"
	"context"
	"crypto/rand"
	"database/sql"
	"embed"
	"encoding/hex"
	"html/template"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"
)

//go:embed pages
var pageFiles embed.FS

// Config is what the site needs to start.
type Config struct {
	DSN    string
	Faults []string
	// HashCost is the memory of one password hash, in KiB.
	HashCost int
	// LockFor is how long an account is locked after too many failed sign-ins; 0 is 15 minutes.
	LockFor time.Duration
	// Accounts writes the accounts that are there from the start.
	Accounts bool
	// Mail is the address, host:port, of the server to which mails are given; "" sends none. Public is the site's own address in them.
	Mail, Public string
}

// Site is the running site.
type Site struct {
	db       *sql.DB
	pages    *template.Template
	hashCost uint32
	lockFor  time.Duration

	mail, public string

	mu       sync.RWMutex
	faults   Switches
	sessions map[string]*session
	failed   map[int64]attempts // sign-ins, by holder
}

type session struct {
	holder int64 // who is signed in, 0 for nobody
	token  string
	flash  string
	seen   time.Time
	// entries is how many harvest forms were opened, and logged which of them were logged.
	entries int
	logged  map[string]bool
}

// Open connects to the database and makes the site ready. Close it when done.
func Open(ctx context.Context, c Config) (*Site, error) {
	on, err := ReadSwitches(Faults, c.Faults)
	if err != nil {
		return nil, err
	}
	db, err := OpenDatabase(ctx, c.DSN, tables)
	if err != nil {
		return nil, err
	}
	s := &Site{db: db, faults: on, sessions: map[string]*session{}, failed: map[int64]attempts{}, mail: c.Mail, public: c.Public, hashCost: uint32(max(c.HashCost, 8)), lockFor: cmp.Or(c.LockFor, 15*time.Minute)}
	s.pages = template.Must(template.ParseFS(pageFiles, "pages/*.html"))
	if err := s.shape(ctx); err != nil {
		db.Close()
		return nil, err
	}
	if c.Accounts {
		if err := s.seed(ctx); err != nil {
			db.Close()
			return nil, err
		}
	}
	return s, nil
}

// Close ends the site's connections.
func (s *Site) Close() error { return s.db.Close() }

func (s *Site) on(fault string) bool {
	s.mu.RLock()
	defer s.mu.RUnlock()
	return s.faults[fault]
}

// Handler serves the pages; switches adds the page on which faults are switched.
func (s *Site) Handler(switches bool) http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{$}", func(w http.ResponseWriter, _ *http.Request) { s.render(w, http.StatusOK, "home.html", nil) })
	mux.HandleFunc("GET /join", s.joinPage)
	mux.HandleFunc("POST /join", s.join)
	mux.HandleFunc("GET /waiting-list", s.waitingList)
	mux.HandleFunc("GET /harvests/new", s.harvestPage)
	mux.HandleFunc("GET /harvests", s.harvests)
	mux.HandleFunc("POST /harvests", s.logHarvest)
	mux.HandleFunc("GET /help-out", s.helpPage)
	mux.HandleFunc("POST /help-out", s.help)
	mux.HandleFunc("POST /api/bookings", s.book)
	mux.HandleFunc("GET /sign-in", s.signInPage)
	mux.HandleFunc("POST /sign-in", s.signIn)
	mux.HandleFunc("POST /sign-out", s.signOut)
	mux.HandleFunc("GET /confirm", s.confirm)
	mux.HandleFunc("GET /awaiting", s.awaiting)
	mux.HandleFunc("GET /me", s.detailsPage)
	mux.HandleFunc("POST /me", s.saveDetails)
	mux.HandleFunc("GET /me/password", s.passwordPage)
	mux.HandleFunc("POST /me/password", s.changePassword)
	mux.HandleFunc("GET /wishes", s.wishesPage)
	mux.HandleFunc("POST /wishes", s.saveWishes)
	mux.HandleFunc("GET /members", s.members)
	mux.HandleFunc("GET /stewards", s.stewards)
	mux.HandleFunc("GET /holders/{id}", s.record)
	mux.HandleFunc("GET /help-out.js", func(w http.ResponseWriter, _ *http.Request) {
		serveFile(w, "help-out.js", "text/javascript")
	})
	mux.HandleFunc("GET /style.css", func(w http.ResponseWriter, _ *http.Request) {
		serveFile(w, "style.css", "text/css")
	})
	if switches {
		page := SwitchPage("Ostlewick Allotments", Faults, s.on, s.setFaults)
		mux.Handle("/switches", page)
		mux.Handle("/switches/", page)
	}
	return http.MaxBytesHandler(mux, 4<<20)
}

func (s *Site) render(w http.ResponseWriter, status int, page string, data any) {
	var b strings.Builder
	if err := s.pages.ExecuteTemplate(&b, page, data); err != nil {
		slog.Error("practice site: render", "page", page, "error", err)
		http.Error(w, "Something went wrong.", http.StatusInternalServerError)
		return
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	if s.on("back-shows") {
		h.Set("Cache-Control", "private, max-age=600")
	}
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'")
	w.WriteHeader(status)
	_, _ = w.Write([]byte(b.String()))
}

const sessionCookie = "ostlewick"

// visit finds or begins the visitor's session.
func (s *Site) visit(w http.ResponseWriter, r *http.Request) *session {
	s.mu.Lock()
	defer s.mu.Unlock()
	if c, err := r.Cookie(sessionCookie); err == nil {
		if known := s.sessions[c.Value]; known != nil {
			known.seen = time.Now()
			return known
		}
	}
	s.forgetOld()
	id := random()
	fresh := &session{token: random(), seen: time.Now()}
	s.sessions[id] = fresh
	http.SetCookie(w, s.cookie(id))
	return fresh
}

const maxSessions = 20_000

func (s *Site) forgetOld() {
	if len(s.sessions) < maxSessions {
		return
	}
	for id, old := range s.sessions {
		if time.Since(old.seen) > time.Minute {
			delete(s.sessions, id)
		}
	}
}

func random() string {
	b := make([]byte, 16)
	_, _ = rand.Read(b)
	return hex.EncodeToString(b)
}

func (s *Site) setFlash(v *session, text string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	v.flash = text
}

func (s *Site) takeFlash(v *session) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	text := v.flash
	v.flash = ""
	return text
}

func (s *Site) waitingList(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	welcome := s.takeFlash(v)
	if s.on("reply-again") {
		s.setFlash(v, welcome)
	}
	s.renderWaitingList(w, r, welcome)
}

func (s *Site) renderWaitingList(w http.ResponseWriter, r *http.Request, welcome string) {
	var waiting int
	if err := s.db.QueryRowContext(r.Context(), "SELECT COUNT(*) FROM plot_holders WHERE confirmed_at IS NULL").Scan(&waiting); err != nil {
		slog.Error("practice site: count the waiting", "error", err)
		http.Error(w, "Something went wrong.", http.StatusInternalServerError)
		return
	}
	if s.on("reply-missing") {
		welcome = ""
	}
	s.render(w, http.StatusOK, "waiting-list.html", map[string]any{"Welcome": welcome, "Waiting": waiting})
}

// setFaults switches faults, and makes the tables as they need them.
func (s *Site) setFaults(ctx context.Context, on Switches) error {
	s.mu.Lock()
	s.faults = on
	s.mu.Unlock()
	return s.shape(ctx)
}
