package practice

import (
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"
	"unicode"

	"github.com/alexedwards/argon2id"
)

// Account is somebody who is there from the start.
type Account struct {
	Name, Mail, Password string
	// Confirmed, Wishes and Steward say what is stored about them.
	Confirmed, Wishes, Steward bool
}

// Accounts are those that are there from the start, where they are asked for: one for every mix of what a page's access hangs on.
var Accounts = []Account{
	{"maple", "maple@bed.test", "Maple-plot-21", true, true, false},
	{"fern", "fern@bed.test", "Fern-plot-22", true, false, false},
	{"dew", "dew@bed.test", "Dew-plot-2300", false, false, false},
	{"briar", "briar@bed.test", "Briar-plot-24", false, true, false},
	{"stella", "stella@bed.test", "Stella-plot-25", true, true, true},
	{"rowan", "rowan@bed.test", "Rowan-plot-26", true, true, false},
}

// holder is who is signed in.
type holder struct {
	id                                         int64
	name, mail, shown, reach, membership, role string
	hash                                       string
	confirmed, wishes                          bool
}

func (h *holder) member() bool  { return h.confirmed && h.wishes }
func (h *holder) steward() bool { return h.role == "steward" }

const holderColumns = "h.id, h.login_name, h.mail, IFNULL(h.display_name, h.login_name), h.reach_by, IFNULL(h.membership, ''), h.role, h.pass_hash, h.confirmed_at IS NOT NULL, w.holder_id IS NOT NULL FROM plot_holders h LEFT JOIN plot_wishes w ON w.holder_id = h.id"

// find is the holder for whom a condition holds, nil for nobody.
func (s *Site) find(ctx context.Context, where string, args ...any) (*holder, error) {
	h := &holder{}
	err := s.db.QueryRowContext(ctx, "SELECT "+holderColumns+" WHERE "+where, args...).
		Scan(&h.id, &h.name, &h.mail, &h.shown, &h.reach, &h.membership, &h.role, &h.hash, &h.confirmed, &h.wishes)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return h, err
}

// seed writes the accounts that are there from the start, or puts them back as they were.
func (s *Site) seed(ctx context.Context) error {
	for i, a := range Accounts {
		hash, err := argon2id.CreateHash(a.Password, &argon2id.Params{Memory: s.hashCost, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
		if err != nil {
			return err
		}
		role, confirmed := "holder", any(nil)
		if a.Steward {
			role = "steward"
		}
		if a.Confirmed {
			confirmed = "2026-01-15 10:00:00"
		}
		id := 11 + i
		if _, err := s.db.ExecContext(ctx, `INSERT INTO plot_holders (id, login_name, mail, pass_hash, born, plots_wanted, agreed, agreed_at, role, confirmed_at, membership) VALUES (?, ?, ?, ?, '1980-05-01', 1, 1, '2026-01-15 09:00:00', ?, ?, ?)
			ON DUPLICATE KEY UPDATE login_name = VALUES(login_name), mail = VALUES(mail), pass_hash = VALUES(pass_hash), role = VALUES(role), confirmed_at = VALUES(confirmed_at), membership = VALUES(membership), display_name = NULL, reach_by = ''`,
			id, a.Name, a.Mail, hash, role, confirmed, fmt.Sprintf("OS-9%03d", id)); err != nil {
			return fmt.Errorf("write the account %s: %w", a.Name, err)
		}
		if _, err := s.db.ExecContext(ctx, "DELETE FROM plot_wishes WHERE holder_id = ?", id); err != nil {
			return err
		}
		if !a.Wishes {
			continue
		}
		if _, err := s.db.ExecContext(ctx, "INSERT INTO plot_wishes (holder_id, size_m2, area_code, share, changed_at) VALUES (?, 100, 'east', 'whole', '2026-02-01 12:00:00')", id); err != nil {
			return err
		}
	}
	return nil
}

// signedIn is who is signed in by a visitor's session, nil for nobody.
func (s *Site) signedIn(r *http.Request, v *session) (*holder, error) {
	s.mu.RLock()
	id := v.holder
	s.mu.RUnlock()
	if s.on("cookie-trusted") {
		if c, err := r.Cookie(sessionCookie); err == nil {
			if _, claimed, ok := strings.Cut(c.Value, "."); ok {
				return s.find(r.Context(), "h.id = ?", claimed)
			}
		}
	}
	if id == 0 {
		return nil, nil
	}
	return s.find(r.Context(), "h.id = ?", id)
}

// page tells of a visitor's page: who is signed in, or where somebody else is sent.
func (s *Site) pageFor(w http.ResponseWriter, r *http.Request) (*session, *holder, bool) {
	v := s.visit(w, r)
	h, err := s.signedIn(r, v)
	if err != nil {
		s.fail(w, "find who is signed in", err)
		return nil, nil, false
	}
	if h == nil {
		http.Redirect(w, r, "/sign-in?next="+url.QueryEscape(r.URL.Path), http.StatusSeeOther)
		return nil, nil, false
	}
	return v, h, true
}

// fresh gives a visitor a new session id, with another token.
func (s *Site) fresh(w http.ResponseWriter, r *http.Request, holderID int64) *session {
	s.mu.Lock()
	defer s.mu.Unlock()
	if c, err := r.Cookie(sessionCookie); err == nil {
		if known := s.sessions[c.Value]; known != nil && s.faults["session-kept"] {
			known.holder = holderID
			return known
		}
		delete(s.sessions, c.Value)
	}
	id := random()
	if holderID != 0 && s.faults["cookie-trusted"] {
		id += fmt.Sprintf(".%d", holderID)
	}
	v := &session{token: random(), seen: time.Now(), holder: holderID}
	s.sessions[id] = v
	http.SetCookie(w, s.cookie(id))
	return v
}

// cookie holds a session's id.
func (s *Site) cookie(id string) *http.Cookie {
	return &http.Cookie{Name: sessionCookie, Value: id, Path: "/", HttpOnly: !s.faults["cookie-readable"], SameSite: http.SameSiteLaxMode}
}

// endOthers ends a holder's sessions but one.
func (s *Site) endOthers(holderID int64, but *session) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for id, v := range s.sessions {
		if v.holder == holderID && v != but {
			delete(s.sessions, id)
		}
	}
}

// formOf reads a submitted form, and answers one that cannot be read or has another token.
func (s *Site) formOf(w http.ResponseWriter, r *http.Request, v *session) (url.Values, bool) {
	if err := r.ParseForm(); err != nil {
		http.Error(w, "The form cannot be read.", http.StatusBadRequest)
		return nil, false
	}
	if subtle.ConstantTimeCompare([]byte(r.PostForm.Get("_token")), []byte(v.token)) != 1 {
		http.Error(w, "This form is too old. Open the page again.", http.StatusForbidden)
		return nil, false
	}
	return r.PostForm, true
}

const mistaken = "That name and that password do not belong together."

// attempts are failed sign-ins in a row.
type attempts struct {
	failed int
	until  time.Time
}

// maxFailed is after how many failed sign-ins in a row an account is locked.
const maxFailed = 5

func (s *Site) signInPage(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	s.render(w, http.StatusOK, "sign-in.html", map[string]any{"Token": v.token, "Next": r.URL.Query().Get("next"), "Form": formView{Values: map[string]string{}}})
}

func (s *Site) signIn(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	form, ok := s.formOf(w, r, v)
	if !ok {
		return
	}
	name, password, next := trim(form.Get("login")), form.Get("secret"), form.Get("next")
	errs := formErrors{}
	if name == "" {
		errs["login"] = []string{"Enter your username or e-mail address."}
	}
	if password == "" {
		errs["secret"] = []string{"Enter your password."}
	}
	var h *holder
	if len(errs) == 0 {
		var text string
		var err error
		if h, text, err = s.recognise(r.Context(), name, password); err != nil {
			s.fail(w, "sign in", err)
			return
		}
		if text != "" {
			errs["secret"] = []string{text}
		}
	}
	if len(errs) > 0 {
		s.render(w, http.StatusUnprocessableEntity, "sign-in.html", map[string]any{"Token": v.token, "Next": next, "Form": formView{Values: map[string]string{"login": form.Get("login")}, Errors: errs}})
		return
	}
	s.fresh(w, r, h.id)
	if !s.on("open-redirect") && (!strings.HasPrefix(next, "/") || strings.HasPrefix(next, "//") || strings.Contains(next, `\`) || strings.ContainsFunc(next, unicode.IsControl)) || next == "" {
		next = "/me"
	}
	http.Redirect(w, r, next, http.StatusSeeOther)
}

// recognise finds whose name and password these are; text says why nobody is let in.
func (s *Site) recognise(ctx context.Context, name, password string) (h *holder, text string, err error) {
	if h, err = s.find(ctx, "h.login_name = ? OR h.mail = ?", name, strings.ToLower(name)); err != nil {
		return nil, "", err
	}
	if h == nil {
		if s.on("mistakes-apart") {
			return nil, "Nobody has that name.", nil
		}
		_, _ = argon2id.ComparePasswordAndHash(password, unknownHash) // so that it takes as long
		return nil, mistaken, nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	tried := s.failed[h.id]
	if time.Now().Before(tried.until) {
		return nil, s.tooMany(), nil
	}
	same, err := argon2id.ComparePasswordAndHash(password, h.hash)
	if err != nil {
		return nil, "", err
	}
	if !same && s.faults["password-any-case"] {
		for _, a := range Accounts { // their passwords are known here
			if a.Name == h.name && strings.EqualFold(a.Password, password) {
				same = true
			}
		}
	}
	if same {
		delete(s.failed, h.id)
		return h, "", nil
	}
	if tried.failed++; tried.failed >= maxFailed {
		tried.failed = 0
		if !s.faults["never-locked"] {
			tried.until = time.Now().Add(s.lockFor)
		}
	}
	s.failed[h.id] = tried
	return nil, mistaken, nil
}

// tooMany says how long an account is locked.
func (s *Site) tooMany() string {
	if s.lockFor < time.Minute {
		return fmt.Sprintf("Too many attempts. Try again in %.0f seconds.", s.lockFor.Seconds())
	}
	return fmt.Sprintf("Too many attempts. Try again in %.0f minutes.", s.lockFor.Minutes())
}

// unknownHash is that of no account.
var unknownHash, _ = argon2id.CreateHash("nobody's", &argon2id.Params{Memory: 8, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})

func (s *Site) signOut(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	if _, ok := s.formOf(w, r, v); !ok {
		return
	}
	if s.on("sign-out-keeps") {
		http.SetCookie(w, &http.Cookie{Name: sessionCookie, Path: "/", MaxAge: -1})
	} else {
		s.fresh(w, r, 0)
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
}

// confirmation is a code that confirms an address once.
func (s *Site) confirmation(ctx context.Context, holderID int64) (code string, err error) {
	code = random()
	sum := sha256.Sum256([]byte(code))
	_, err = s.db.ExecContext(ctx, "INSERT INTO confirmations (code_hash, holder_id, made_at) VALUES (?, ?, ?)", hex.EncodeToString(sum[:]), holderID, time.Now().UTC().Format("2006-01-02 15:04:05"))
	return code, err
}

// confirmWithin is how long a code confirms.
const confirmWithin = 48 * time.Hour

func (s *Site) confirm(w http.ResponseWriter, r *http.Request) {
	s.visit(w, r)
	sum := sha256.Sum256([]byte(r.URL.Query().Get("code")))
	code := hex.EncodeToString(sum[:])
	var holderID int64
	var made time.Time
	var used sql.NullTime
	err := s.db.QueryRowContext(r.Context(), "SELECT holder_id, made_at, used_at FROM confirmations WHERE code_hash = ?", code).Scan(&holderID, &made, &used)
	refuse := func(text string) {
		s.render(w, http.StatusUnprocessableEntity, "confirm.html", map[string]any{"Error": text})
	}
	switch {
	case errors.Is(err, sql.ErrNoRows):
		refuse("This link is not one of ours.")
		return
	case err != nil:
		s.fail(w, "read a confirmation", err)
		return
	case used.Valid && !s.on("confirm-twice"):
		refuse("This link was used already.")
		return
	case time.Since(made) > confirmWithin:
		refuse("This link is too old. Ask for another one.")
		return
	}
	if s.on("confirm-other") {
		if err := s.db.QueryRowContext(r.Context(), "SELECT MAX(id) FROM plot_holders WHERE confirmed_at IS NULL AND id <> ?", holderID).Scan(&holderID); err != nil {
			slog.Error("practice site", "step", "confirm", "error", err)
		}
	}
	now := time.Now().UTC().Format("2006-01-02 15:04:05")
	for _, q := range []struct {
		text string
		args []any
	}{
		{"UPDATE confirmations SET used_at = ? WHERE code_hash = ?", []any{now, code}},
		{"UPDATE plot_holders SET confirmed_at = ? WHERE id = ?", []any{now, holderID}},
	} {
		if _, err := s.db.ExecContext(r.Context(), q.text, q.args...); err != nil {
			s.fail(w, "confirm", err)
			return
		}
	}
	s.render(w, http.StatusOK, "confirm.html", map[string]any{})
}
