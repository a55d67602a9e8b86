package practice

import (
	"context"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"math"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/go-sql-driver/mysql"
	"golang.org/x/crypto/argon2"
)

type option struct{ Code, Label string }

var heardOptions = []option{{"nb", "From a neighbour"}, {"od", "At the open day"}, {"br", "From the notice board"}, {"xx", "Elsewhere"}}

var (
	usernameForm   = regexp.MustCompile(`^[A-Za-z0-9-]+$`)
	mailForm       = regexp.MustCompile("^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$")
	membershipForm = regexp.MustCompile(`^OS-[0-9]{4}$`)
	numberForm     = regexp.MustCompile(`^[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)([eE][+-]?[0-9]{1,3})?$`)
	referralForm   = regexp.MustCompile(`^[a-z0-9]{1,20}$`)
)

// joinView is what the Join page shows.
type joinView struct {
	formView
	Terms bool
	Heard []option
}

func (s *Site) joinPage(w http.ResponseWriter, r *http.Request) {
	if s.on("get-joins") && r.URL.Query().Has("username") {
		r.PostForm = r.URL.Query()
		s.join(w, r)
		return
	}
	v := s.visit(w, r)
	referral := r.URL.Query().Get("ref")
	if !referralForm.MatchString(referral) {
		referral = "web"
	}
	s.render(w, http.StatusOK, "join.html", joinView{formView: formView{Token: v.token, Values: map[string]string{"ref": referral}}, Heard: heardOptions})
}

// application is a submitted Join form, normalised.
type application struct {
	username, mail, rawMail, password, again, membership, heard, referral, role string
	born                                                                        time.Time
	plots                                                                       float64
	terms                                                                       bool
}

func (s *Site) join(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	if err := r.ParseForm(); err != nil {
		http.Error(w, "The form cannot be read.", http.StatusBadRequest)
		return
	}
	form := r.PostForm
	if !s.on("token-unchecked") && !s.hasToken(v, form.Get("_token")) {
		http.Error(w, "This form is too old. Open the page again.", http.StatusForbidden)
		return
	}
	for name, list := range form {
		if s.on("long-input-fails") && len(list[0]) > 1000 || s.on("list-fails") && strings.HasSuffix(name, "[]") {
			http.Error(w, "Internal Server Error", http.StatusInternalServerError)
			return
		}
	}
	if form.Get("website") != "" { // the trap field, which no person sees
		http.Error(w, "This does not look like a person's form.", http.StatusUnprocessableEntity)
		return
	}
	a, errs := s.check(form)
	if len(errs) == 0 {
		if err := s.lookUp(r.Context(), a, errs); err != nil {
			s.fail(w, "look up", err)
			return
		}
	}
	var id int64
	if len(errs) == 0 {
		var err error
		if id, err = s.store(r.Context(), a, errs); err != nil {
			s.fail(w, "store", err)
			return
		}
	}
	if len(errs) > 0 {
		s.reject(w, v, form, errs)
		return
	}
	if err := s.askToConfirm(r.Context(), id, a); err != nil { // who has joined can ask again
		slog.Error("practice site", "step", "send a confirmation", "error", err)
	}
	s.welcome(w, r, v, a)
}

// hasToken tells whether a form came from a page of its own session.
func (s *Site) hasToken(v *session, token string) bool {
	if s.on("token-any") {
		s.mu.Lock()
		defer s.mu.Unlock()
		for _, other := range s.sessions {
			if other.token == token {
				return true
			}
		}
		return false
	}
	return subtle.ConstantTimeCompare([]byte(token), []byte(v.token)) == 1
}

func (s *Site) fail(w http.ResponseWriter, what string, err error) {
	slog.Error("practice site", "step", what, "error", err)
	http.Error(w, "Something went wrong.", http.StatusInternalServerError)
}

func trim(text string) string { return strings.TrimFunc(text, unicode.IsSpace) }

// check judges what the form alone can tell, each field by itself and then what must agree.
func (s *Site) check(form url.Values) (application, formErrors) {
	errs := formErrors{}
	say := func(field, text string) { errs[field] = append(errs[field], text) }
	a := application{password: form.Get("pass"), again: form.Get("pass_again"), membership: trim(form.Get("member_no")), heard: form.Get("heard"), terms: form.Get("terms") != "", role: "holder", rawMail: form.Get("e_mail")}
	a.username = trim(form.Get("username"))
	if s.on("username-untrimmed") {
		a.username = form.Get("username")
	}
	a.mail = strings.ToLower(trim(a.rawMail))
	if s.on("email-case-kept") {
		a.mail = trim(a.rawMail)
	}
	if s.on("role-taken") && form.Get("role") != "" {
		a.role = form.Get("role")
		a.role = a.role[:min(20, len(a.role))]
	}
	if a.referral = form.Get("ref"); !referralForm.MatchString(a.referral) {
		a.referral = ""
	}
	s.checkUsername(&a, say)
	s.checkMail(&a, say)
	s.checkPassword(&a, say)
	s.checkMembership(&a, say)
	s.checkBorn(&a, form.Get("born_on"), say)
	s.checkPlots(&a, form.Get("plots"), say)
	if a.heard != "" && labelOf(a.heard) == "" {
		say("heard", "Choose one of the answers.")
	}
	if !a.terms {
		say("terms", "Please accept the rules of the association.")
	}
	if len(errs) == 0 && a.again != a.password {
		say("pass_again", "The two passwords differ.")
	}
	return a, errs
}

func (s *Site) checkUsername(a *application, say func(field, text string)) {
	if a.username == "" {
		say("username", "Choose a username.")
		return
	}
	least, most := 3, 20
	if s.on("username-two") {
		least = 2
	}
	if s.on("username-cut") {
		most = 190
	}
	if n := utf8.RuneCountInString(a.username); n < least || n > most {
		say("username", "Use 3 to 20 characters.")
	}
	if !usernameForm.MatchString(a.username) {
		say("username", "Use letters, digits and hyphens only.")
	}
	if s.on("username-cut") && len(a.username) > 20 {
		a.username = a.username[:20]
	}
}

func (s *Site) checkMail(a *application, say func(field, text string)) {
	if a.mail == "" {
		say("e_mail", "Enter your e-mail address.")
		return
	}
	if !mailForm.MatchString(a.mail) {
		say("e_mail", "That is not an e-mail address.")
	}
	if utf8.RuneCountInString(a.mail) > 190 {
		say("e_mail", "Use at most 190 characters.")
	}
}

func (s *Site) checkPassword(a *application, say func(field, text string)) {
	if a.password == "" {
		say("pass", "Choose a password.")
		return
	}
	n := len(a.password)
	if s.on("password-characters") {
		n = utf8.RuneCountInString(a.password)
	}
	if n < 10 || n > 72 {
		say("pass", "Use 10 to 72 bytes.")
	}
	if !strings.ContainsFunc(a.password, func(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' }) || !strings.ContainsAny(a.password, "0123456789") {
		say("pass", "Use at least a letter and a digit.")
	}
}

func (s *Site) checkMembership(a *application, say func(field, text string)) {
	if a.membership == "" {
		return
	}
	if !membershipForm.MatchString(a.membership) {
		text := "A membership number is OS- and four digits."
		if s.on("message-text") {
			text = "A membership number is made of letters."
		}
		say("member_no", text)
		return
	}
	if s.on("membership-zeros") {
		n, _ := strconv.Atoi(a.membership[3:])
		a.membership = fmt.Sprintf("OS-%d", n)
	}
}

var london = func() *time.Location {
	zone, err := time.LoadLocation("Europe/London")
	if err != nil {
		return time.UTC
	}
	return zone
}()

func (s *Site) checkBorn(a *application, text string, say func(field, text string)) {
	if text == "" {
		say("born_on", "Enter your date of birth.")
		return
	}
	born, err := time.Parse("2006-01-02", text)
	if err != nil {
		say("born_on", "That is not a date.")
		return
	}
	now := time.Now().In(london)
	latest := time.Date(now.Year()-18, now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	if now.Month() == time.February && now.Day() == 29 && latest.Month() == time.March {
		latest = latest.AddDate(0, 0, -1)
	}
	if s.on("born-day-early") {
		latest = latest.AddDate(0, 0, 1)
	}
	if born.After(latest) || born.Year() < 1900 {
		switch {
		case s.on("message-missing"):
			say("born_on", "")
		case s.on("message-misplaced"):
			say("plots", "You must be 18 or over.")
		default:
			say("born_on", "You must be 18 or over.")
		}
	}
	if s.on("born-swapped") && born.Day() <= 12 {
		born = time.Date(born.Year(), time.Month(born.Day()), int(born.Month()), 0, 0, 0, 0, time.UTC)
	}
	a.born = born
}

func (s *Site) checkPlots(a *application, text string, say func(field, text string)) {
	if text == "" {
		say("plots", "Say how many plots you want.")
		return
	}
	n, err := strconv.ParseFloat(text, 64)
	if !numberForm.MatchString(text) || err != nil {
		say("plots", "Enter a number.")
		return
	}
	most := 4.0
	if s.on("plots-five") {
		most = 5
	}
	if n < 1 || n > most {
		say("plots", "You can ask for 1 to 4 plots.")
	}
	if n != math.Trunc(n) && !s.on("plots-half") {
		say("plots", "Plots are given whole.")
	}
	a.plots = math.Trunc(n)
}

func labelOf(code string) string {
	for _, o := range heardOptions {
		if o.Code == code {
			return o.Label
		}
	}
	return ""
}

// lookUp judges what only the table can tell.
func (s *Site) lookUp(ctx context.Context, a application, errs formErrors) error {
	mail := a.mail
	if s.on("email-spaces-new") {
		mail = strings.ToLower(a.rawMail)
	}
	for _, c := range []struct{ column, value, field, text string }{
		{"login_name", a.username, "username", "That username is taken."},
		{"mail", mail, "e_mail", "We know that address already."},
		{"membership", a.membership, "member_no", "That membership number is in use."},
	} {
		var n int
		// the length is compared too, as = does not see spaces at the end
		query := "SELECT COUNT(*) FROM plot_holders WHERE " + c.column + " = ? AND CHAR_LENGTH(" + c.column + ") = ?"
		if err := s.db.QueryRowContext(ctx, query, c.value, utf8.RuneCountInString(c.value)).Scan(&n); err != nil {
			return err
		}
		if n > 0 {
			errs[c.field] = append(errs[c.field], c.text)
		}
	}
	return nil
}

var takenKeys = map[string][2]string{
	"one_login":      {"username", "That username is taken."},
	"one_mail":       {"e_mail", "We know that address already."},
	"one_membership": {"member_no", "That membership number is in use."},
}

// store writes the row. A value that was taken since it was looked up is reported like any other.
func (s *Site) store(ctx context.Context, a application, errs formErrors) (id int64, err error) {
	hash, err := s.hash(a.password)
	if err != nil {
		return 0, err
	}
	heard := any(a.heard)
	switch {
	case a.heard == "" && !s.on("heard-empty"):
		heard = nil
	case s.on("heard-label"):
		heard = labelOf(a.heard)
	}
	var membership any
	if a.membership != "" {
		membership = a.membership
	}
	agreed := a.terms != s.on("terms-reversed")
	done, err := s.db.ExecContext(ctx, "INSERT INTO plot_holders (login_name, mail, pass_hash, membership, born, plots_wanted, heard_code, agreed, agreed_at, referral, role) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		a.username, a.mail, hash, membership, a.born.Format("2006-01-02"), a.plots, heard, agreed, time.Now().UTC().Format("2006-01-02 15:04:05.000"), a.referral, a.role)
	var taken *mysql.MySQLError
	if errors.As(err, &taken) && taken.Number == 1062 {
		for key, field := range takenKeys {
			if strings.Contains(taken.Message, key) {
				errs[field[0]] = append(errs[field[0]], field[1])
				return 0, nil
			}
		}
	}
	if err != nil {
		return 0, err
	}
	return done.LastInsertId()
}

func (s *Site) hash(password string) (string, error) {
	switch {
	case s.on("secret-plain"):
		return password, nil
	case s.on("secret-base64"):
		return base64.StdEncoding.EncodeToString([]byte(password)), nil
	case s.on("secret-fast-hash"):
		sum := sha256.Sum256([]byte(password))
		return hex.EncodeToString(sum[:]), nil
	case s.on("secret-one-salt"):
		salt := []byte("ostlewick-garden")
		key := argon2.IDKey([]byte(password), salt, 1, s.hashCost, 1, 32)
		return fmt.Sprintf("$argon2id$v=19$m=%d,t=1,p=1$%s$%s", s.hashCost, base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(key)), nil
	}
	return argon2id.CreateHash(password, &argon2id.Params{Memory: s.hashCost, Iterations: 1, Parallelism: 1, SaltLength: 16, KeyLength: 32})
}

func (s *Site) reject(w http.ResponseWriter, v *session, form url.Values, errs formErrors) {
	view := joinView{
		formView: formView{Token: v.token, Values: map[string]string{}, Errors: errs, Hidden: map[string]bool{"e_mail": s.on("message-hidden")}, Untied: map[string]bool{"username": s.on("message-untied")}},
		Terms:    form.Get("terms") != "", Heard: heardOptions,
	}
	for _, name := range []string{"username", "e_mail", "member_no", "born_on", "plots", "heard", "ref"} {
		view.Values[name] = form.Get(name)
	}
	if s.on("refill-lost") {
		view.Values, view.Terms = map[string]string{"ref": form.Get("ref")}, false
	}
	if s.on("refill-email-lost") {
		view.Values["e_mail"] = ""
	}
	if s.on("refill-password") {
		view.Values["pass"] = form.Get("pass")
	}
	if s.on("message-first-only") {
		view.Errors = firstOnly(errs)
	}
	if s.on("token-lost") {
		view.Token = ""
	}
	s.render(w, http.StatusUnprocessableEntity, "join.html", view)
}

func firstOnly(errs formErrors) formErrors {
	for _, name := range []string{"username", "e_mail", "pass", "pass_again", "member_no", "born_on", "plots", "heard", "terms"} {
		if list := errs[name]; len(list) > 0 {
			return formErrors{name: list[:1]}
		}
	}
	return errs
}

func (s *Site) welcome(w http.ResponseWriter, r *http.Request, v *session, a application) {
	text := fmt.Sprintf("Welcome, %s. You are on the waiting list.", a.username)
	if s.on("no-redirect") {
		s.renderWaitingList(w, r, text)
		return
	}
	s.setFlash(v, text)
	target := "/waiting-list"
	switch {
	case s.on("redirect-nowhere"):
		target = "/waiting-lists"
	case s.on("secret-in-redirect"):
		target += "?p=" + url.QueryEscape(a.password)
	}
	http.Redirect(w, r, target, http.StatusSeeOther)
}
