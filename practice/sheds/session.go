package sheds

import (
	"crypto/rand"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
)

// token is what a visitor sends along, and until when.
type token struct {
	tenant int64
	until  time.Time
	renews bool // it only gets another
}

// How long tokens last.
const (
	accessLasts  = 10 * time.Minute
	refreshLasts = 12 * time.Hour
	maxTokens    = 50_000
)

func random() string {
	b := make([]byte, 16)
	_, _ = rand.Read(b)
	return hex.EncodeToString(b)
}

func (s *Site) keep(t token) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.tokens) >= maxTokens {
		for text, old := range s.tokens {
			if time.Now().After(old.until) || len(s.tokens) >= maxTokens {
				delete(s.tokens, text)
			}
		}
	}
	text := random()
	s.tokens[text] = t
	return text
}

// tenantOf is who sends a request, 0 for nobody.
func (s *Site) tenantOf(r *http.Request) int64 {
	text, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	if !ok {
		return 0
	}
	s.mu.RLock()
	defer s.mu.RUnlock()
	t, known := s.tokens[text]
	if !known || t.renews || time.Now().After(t.until) {
		return 0
	}
	return t.tenant
}

// signedIn is who sends a request; nobody else is let in.
func (s *Site) signedIn(w http.ResponseWriter, r *http.Request) (int64, bool) {
	id := s.tenantOf(r)
	if id == 0 {
		w.Header().Set("WWW-Authenticate", "Bearer")
		refuse(w, http.StatusUnauthorized, "Please sign in.", nil)
	}
	return id, id != 0
}

func (s *Site) signIn(w http.ResponseWriter, r *http.Request) {
	var in struct{ Email, Password string }
	if json.NewDecoder(r.Body).Decode(&in) != nil {
		refuse(w, http.StatusBadRequest, "The body is not a JSON object.", nil)
		return
	}
	var errs wrong
	if strings.TrimSpace(in.Email) == "" {
		errs.say("email", "Enter your e-mail address.")
	}
	if in.Password == "" {
		errs.say("password", "Enter your password.")
	}
	if len(errs) > 0 {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", errs)
		return
	}
	const mismatch = "E-mail address and password do not match."
	var id int64
	var hash string
	err := s.db.QueryRowContext(r.Context(), "SELECT id, pass_hash FROM tenants WHERE email = ?", strings.TrimSpace(in.Email)).Scan(&id, &hash)
	switch {
	case errors.Is(err, sql.ErrNoRows) && s.on("enter-told-apart"):
		refuse(w, http.StatusUnauthorized, "There is no such account.", nil)
		return
	case errors.Is(err, sql.ErrNoRows):
		hash = "$argon2id$v=19$m=8,t=1,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA" // the same work for nobody
	case err != nil:
		fail(w, "find a tenant", err)
		return
	}
	match, _ := argon2id.ComparePasswordAndHash(in.Password, hash)
	if !match && s.on("enter-case") {
		for _, t := range Tenants {
			match = match || strings.EqualFold(t.Email, strings.TrimSpace(in.Email)) && strings.EqualFold(t.Password, in.Password)
		}
	}
	if !match || id == 0 {
		refuse(w, http.StatusUnauthorized, mismatch, nil)
		return
	}
	s.handOut(w, id)
}

func (s *Site) handOut(w http.ResponseWriter, id int64) {
	answer(w, http.StatusOK, "application/json", map[string]any{
		"access":     s.keep(token{tenant: id, until: time.Now().Add(accessLasts)}),
		"refresh":    s.keep(token{tenant: id, until: time.Now().Add(refreshLasts), renews: true}),
		"expires_in": int(accessLasts.Seconds()),
	})
}

func (s *Site) refresh(w http.ResponseWriter, r *http.Request) {
	var in struct{ Refresh string }
	if json.NewDecoder(r.Body).Decode(&in) != nil {
		refuse(w, http.StatusBadRequest, "The body is not a JSON object.", nil)
		return
	}
	s.mu.RLock()
	t, known := s.tokens[in.Refresh]
	s.mu.RUnlock()
	if !known || !t.renews || time.Now().After(t.until) {
		refuse(w, http.StatusUnauthorized, "Please sign in.", nil)
		return
	}
	s.handOut(w, t.tenant)
}
