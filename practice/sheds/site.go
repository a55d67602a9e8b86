package sheds

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strings"
	"sync"

	"oddtick/practice"
)

//go:embed all:dist
var dist embed.FS

// Config is what the site needs to start.
type Config struct {
	DSN    string
	Faults []string
	// HashMemory is the memory of one password hash, in KiB.
	HashMemory int
}

// Site is the running site.
type Site struct {
	db    *sql.DB
	files fs.FS

	mu     sync.RWMutex
	faults practice.Switches
	tokens map[string]token
}

// Open connects to the database and makes the site ready. Close it when done.
func Open(ctx context.Context, c Config) (*Site, error) {
	on, err := practice.ReadSwitches(Faults, c.Faults)
	if err != nil {
		return nil, err
	}
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		return nil, err
	}
	db, err := practice.OpenDatabase(ctx, c.DSN, tables)
	if err != nil {
		return nil, err
	}
	s := &Site{db: db, files: files, faults: on, tokens: map[string]token{}}
	if err := s.index(ctx); err != nil {
		db.Close()
		return nil, err
	}
	if err := s.seed(ctx, uint32(max(c.HashMemory, 8))); err != nil {
		db.Close()
		return nil, err
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

// setFaults switches faults, and makes the tables as they need them.
func (s *Site) setFaults(ctx context.Context, on practice.Switches) error {
	s.mu.Lock()
	s.faults = on
	s.mu.Unlock()
	return s.index(ctx)
}

// Handler serves the page and what it talks to; switches adds the page on which faults are switched.
func (s *Site) Handler(switches bool) http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /api/plots", s.plots)
	mux.HandleFunc("GET /api/keys/free", s.emailFree)
	mux.HandleFunc("POST /api/keys", s.askForKey)
	mux.HandleFunc("POST /api/session", s.signIn)
	mux.HandleFunc("POST /api/session/refresh", s.refresh)
	mux.HandleFunc("GET /api/sheds/free", s.nameFree)
	mux.HandleFunc("POST /api/sheds", s.apply)
	mux.HandleFunc("GET /api/me", s.details)
	mux.HandleFunc("PUT /api/me", s.saveDetails)
	mux.HandleFunc("/api/", func(w http.ResponseWriter, _ *http.Request) {
		refuse(w, http.StatusNotFound, "There is nothing here.", nil)
	})
	for path, methods := range map[string]string{"/api/keys": "POST", "/api/session": "POST", "/api/sheds": "POST", "/api/me": "GET, PUT"} {
		mux.HandleFunc(path, func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Allow", methods)
			refuse(w, http.StatusMethodNotAllowed, "This is not done by this method.", nil)
		})
	}
	if switches {
		page := practice.SwitchPage("Ostlewick Sheds", Faults, s.on, s.setFaults)
		mux.Handle("/switches", page)
		mux.Handle("/switches/", page)
	}
	mux.HandleFunc("/", s.page)
	return http.MaxBytesHandler(mux, 4<<20)
}

// page serves the built front end; every address that is no file of it is one of the page's own.
func (s *Site) page(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		http.Error(w, "This is not done by this method.", http.StatusMethodNotAllowed)
		return
	}
	h := w.Header()
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'")
	if name := strings.TrimPrefix(path.Clean(r.URL.Path), "/"); strings.HasPrefix(name, "assets/") {
		http.ServeFileFS(w, r, s.files, name)
		return
	}
	h.Set("Cache-Control", "no-store")
	text, err := fs.ReadFile(s.files, "index.html")
	if err != nil {
		http.Error(w, "The front end was not built.", http.StatusInternalServerError)
		return
	}
	var on []string
	for _, f := range Faults {
		if s.on(f.Name) {
			on = append(on, f.Name)
		}
	}
	h.Set("Content-Type", "text/html; charset=utf-8")
	_, _ = w.Write([]byte(strings.Replace(string(text), `data-switches=""`, `data-switches="`+strings.Join(on, " ")+`"`, 1)))
}

// wrong are what is said of members of a request, in their order.
type wrong []member

// member is what is wrong with one member of a request.
type member struct {
	Name   string `json:"name"`
	Detail string `json:"detail"`
}

func (w *wrong) say(name, detail string) { *w = append(*w, member{name, detail}) }

// refuse answers with problem details (RFC 9457).
func refuse(w http.ResponseWriter, status int, title string, errs wrong) {
	answer(w, status, "application/problem+json", struct {
		Title  string `json:"title"`
		Status int    `json:"status"`
		Errors wrong  `json:"errors,omitempty"`
	}{title, status, errs})
}

func answer(w http.ResponseWriter, status int, kind string, body any) {
	text, err := json.Marshal(body)
	if err != nil {
		http.Error(w, "Something went wrong.", http.StatusInternalServerError)
		return
	}
	h := w.Header()
	h.Set("Content-Type", kind)
	h.Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(text)
}

func fail(w http.ResponseWriter, what string, err error) {
	slog.Error("Ostlewick Sheds: "+what, "error", err)
	refuse(w, http.StatusInternalServerError, "Something went wrong.", nil)
}

func (s *Site) plots(w http.ResponseWriter, r *http.Request) {
	rows, err := s.db.QueryContext(r.Context(), "SELECT code, name FROM shed_plots ORDER BY name")
	if err != nil {
		fail(w, "read the plots", err)
		return
	}
	defer rows.Close()
	type plot struct {
		Code string `json:"code"`
		Name string `json:"name"`
	}
	list := []plot{}
	for rows.Next() {
		var p plot
		if err := rows.Scan(&p.Code, &p.Name); err != nil {
			fail(w, "read the plots", err)
			return
		}
		list = append(list, p)
	}
	answer(w, http.StatusOK, "application/json", list)
}

// plotNamed is the name of a plot, "" where there is none of this code.
func (s *Site) plotNamed(ctx context.Context, code string) (string, error) {
	var name string
	err := s.db.QueryRowContext(ctx, "SELECT name FROM shed_plots WHERE BINARY code = ?", code).Scan(&name)
	if errors.Is(err, sql.ErrNoRows) {
		return "", nil
	}
	return name, err
}

// exists tells whether a query finds a row.
func (s *Site) exists(ctx context.Context, query string, args ...any) (bool, error) {
	var found int
	err := s.db.QueryRowContext(ctx, query, args...).Scan(&found)
	return found > 0, err
}
