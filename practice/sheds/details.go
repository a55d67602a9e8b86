package sheds

import (
	"encoding/json"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"
)

// contacts are the ways to reach a tenant: code and name.
var contacts = map[string]string{"email": "By e-mail", "phone": "By telephone", "post": "By post"}

var phoneForm = regexp.MustCompile(`^[0-9]{11}$`)

// tenant is what is told of whoever is signed in.
type tenant struct {
	Email      string  `json:"email"`
	ShownName  string  `json:"shownName"`
	Phone      *string `json:"phone"`
	Contact    string  `json:"contact"`
	Newsletter bool    `json:"newsletter"`
	Hash       string  `json:"hash,omitempty"`
}

func (s *Site) tell(w http.ResponseWriter, r *http.Request, id int64, told bool) {
	var t tenant
	err := s.db.QueryRowContext(r.Context(), "SELECT email, shown_name, phone, contact, newsletter, pass_hash FROM tenants WHERE id = ?", id).Scan(&t.Email, &t.ShownName, &t.Phone, &t.Contact, &t.Newsletter, &t.Hash)
	if err != nil {
		fail(w, "read a tenant", err)
		return
	}
	if !told {
		t.Hash = ""
	}
	answer(w, http.StatusOK, "application/json", t)
}

func (s *Site) details(w http.ResponseWriter, r *http.Request) {
	if id, ok := s.signedIn(w, r); ok {
		s.tell(w, r, id, false)
	}
}

func (s *Site) saveDetails(w http.ResponseWriter, r *http.Request) {
	id, ok := s.signedIn(w, r)
	if !ok {
		return
	}
	var k keyRequest
	if json.NewDecoder(r.Body).Decode(&k) != nil || k == nil {
		refuse(w, http.StatusBadRequest, "The body is not a JSON object.", nil)
		return
	}
	name, phone, contact := strings.TrimSpace(k.text("shownName")), k.text("phone"), k.text("contact")
	longest := 40
	if s.on("details-name-long") {
		longest = 60
	}
	var errs wrong
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		errs.say("shownName", "Enter the name that others see.")
	case n > longest:
		errs.say("shownName", "Use at most 40 characters.")
	}
	if phone != "" && !phoneForm.MatchString(phone) {
		errs.say("phone", "A telephone number has 11 digits.")
	}
	codes := []string{"email", "phone", "post"}
	switch {
	case !slices.Contains(codes, contact):
		errs.say("contact", "Choose how to be reached.")
	case contact == "phone" && phone == "":
		errs.say("contact", "Enter a telephone number to be reached by it.")
	}
	if len(errs) > 0 {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", errs)
		return
	}
	news := k.yes("newsletter")
	if s.on("details-phone-digit") && phone != "" {
		phone = phone[:len(phone)-1]
	}
	if s.on("details-contact-name") {
		contact = contacts[contact]
	}
	if s.on("details-everybody") {
		if _, err := s.db.ExecContext(r.Context(), "UPDATE tenants SET newsletter = ? WHERE id <> ?", !news, id); err != nil {
			fail(w, "keep details", err)
			return
		}
	}
	query := "UPDATE tenants SET shown_name = ?, phone = NULLIF(?, ''), contact = ?, newsletter = ? WHERE id = ?"
	if s.on("details-news-kept") {
		query = "UPDATE tenants SET shown_name = ?, phone = NULLIF(?, ''), contact = ?, newsletter = newsletter OR ? WHERE id = ?"
	}
	if _, err := s.db.ExecContext(r.Context(), query, name, phone, contact, news, id); err != nil {
		fail(w, "keep details", err)
		return
	}
	s.tell(w, r, id, s.on("details-hash-told"))
}
