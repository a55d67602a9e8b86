package sheds

import (
	"encoding/json"
	"net/http"
	"net/mail"
	"strings"
	"time"
	"unicode/utf8"
)

// keyRequest is what the dialog's script sends. Members of another type count as missing.
type keyRequest map[string]json.RawMessage

func (k keyRequest) text(name string) string {
	var out string
	_ = json.Unmarshal(k[name], &out)
	return out
}

func (k keyRequest) number(name string) (n float64, ok bool) {
	return n, json.Unmarshal(k[name], &n) == nil && string(k[name]) != "null"
}

func (k keyRequest) yes(name string) bool { return string(k[name]) == "true" }

func isEmail(text string) bool {
	a, err := mail.ParseAddress(text)
	if err != nil || a.Address != text || len(text) > 120 {
		return false
	}
	_, host, _ := strings.Cut(text, "@")
	return !strings.ContainsAny(text, " \t\"") && strings.Trim(host, ".-") == host && host != "" && !strings.ContainsAny(host, "_[")
}

func (s *Site) emailTaken(r *http.Request, email string) (bool, error) {
	if s.on("keys-email-case") {
		return s.exists(r.Context(), "SELECT COUNT(*) FROM key_requests WHERE BINARY email = ?", email)
	}
	return s.exists(r.Context(), "SELECT COUNT(*) FROM key_requests WHERE LOWER(email) = LOWER(?)", email)
}

// emailFree answers the page's question while somebody types.
func (s *Site) emailFree(w http.ResponseWriter, r *http.Request) {
	taken, err := s.emailTaken(r, strings.TrimSpace(r.URL.Query().Get("email")))
	if err != nil {
		fail(w, "look up an e-mail address", err)
		return
	}
	answer(w, http.StatusOK, "application/json", map[string]bool{"free": !taken})
}

// day reads a day, as it stands in London.
func day(text string) (time.Time, bool) {
	d, err := time.Parse(time.DateOnly, text)
	return d, err == nil
}

var london = func() *time.Location {
	l, err := time.LoadLocation("Europe/London")
	if err != nil {
		return time.UTC
	}
	return l
}()

// today is the day in London, as a day in UTC.
func today() time.Time {
	now := time.Now().In(london)
	return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
}

func (s *Site) askForKey(w http.ResponseWriter, r *http.Request) {
	var k keyRequest
	if json.NewDecoder(r.Body).Decode(&k) != nil || k == nil {
		refuse(w, http.StatusBadRequest, "The body is not a JSON object.", nil)
		return
	}
	name, email := strings.TrimSpace(k.text("fullName")), strings.TrimSpace(k.text("email"))
	reason := strings.TrimSpace(strings.ReplaceAll(k.text("reason"), "\r\n", "\n"))
	plot, err := s.plotNamed(r.Context(), k.text("plot"))
	if err != nil {
		fail(w, "look up a plot", err)
		return
	}
	var errs wrong
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		errs.say("fullName", "Enter your name.")
	case n > 60 && !s.on("keys-name-long"):
		errs.say("fullName", "Use at most 60 characters.")
	}
	switch {
	case email == "":
		errs.say("email", "Enter your e-mail address.")
	case !isEmail(email) && !s.on("keys-email-trusted"):
		errs.say("email", "This is not an e-mail address.")
	default:
		taken, err := s.emailTaken(r, email)
		if err != nil {
			fail(w, "look up an e-mail address", err)
			return
		}
		if taken {
			errs.say("email", "This address already has a key.")
		}
	}
	if plot == "" && !(s.on("keys-plot-unknown") && k.text("plot") != "") {
		errs.say("plot", "Choose your plot.")
	}
	count, isNumber := k.number("keys")
	most, least := 3.0, 1.0
	if s.on("keys-count-four") {
		most = 4
	}
	if s.on("keys-count-none") {
		least = 0
	}
	switch {
	case !isNumber:
		errs.say("keys", "Say how many keys you need.")
	case count < least || count > most || count != float64(int(count)):
		errs.say("keys", "You can have 1 to 3 keys.")
	}
	earliest, latest := today().AddDate(0, 0, 1), today().AddDate(0, 0, 60)
	if s.on("keys-day-today") {
		earliest = today()
	}
	if s.on("keys-day-late") {
		latest = latest.AddDate(0, 0, 1)
	}
	collect, isDay := day(k.text("collectOn"))
	switch {
	case !isDay:
		errs.say("collectOn", "Choose a day.")
	case collect.Before(earliest) || collect.After(latest):
		errs.say("collectOn", "Choose a day from tomorrow to 60 days ahead.")
	}
	if utf8.RuneCountInString(reason) > 300 {
		errs.say("reason", "Use at most 300 characters.")
	}
	if !k.yes("rules") && !s.on("keys-rules-trusted") {
		errs.say("rules", "Accept the rules of the key cupboard.")
	}
	if len(errs) > 0 {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", errs)
		return
	}
	stored := k.text("plot")
	if s.on("keys-plot-name") {
		stored = plot
	}
	kept := any(reason)
	if s.on("keys-reason-cut") && utf8.RuneCountInString(reason) > 100 {
		kept = string([]rune(reason)[:100])
	}
	if reason == "" {
		kept = nil
	}
	res, err := s.db.ExecContext(r.Context(), "INSERT INTO key_requests (full_name, email, plot, key_count, collect_on, reason, asked_at) VALUES (?, ?, ?, ?, ?, ?, ?)",
		name, s.kept(email), stored, int(count), collect.Format(time.DateOnly), kept, now())
	if isTaken(err) {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", wrong{{"email", "This address already has a key."}})
		return
	}
	if err != nil {
		fail(w, "keep a request for a key", err)
		return
	}
	id, _ := res.LastInsertId()
	answer(w, http.StatusCreated, "application/json", map[string]any{"id": id, "plot": stored, "keys": int(count)})
}

// kept is an e-mail address as it is stored.
func (s *Site) kept(email string) string {
	if s.on("keys-email-case") {
		return email
	}
	return strings.ToLower(email)
}

func now() string { return time.Now().UTC().Format("2006-01-02 15:04:05.000") }
