package practice

import (
	"encoding/json"
	"mime"
	"net/http"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"
)

var phoneForm = regexp.MustCompile(`^[0-9]{11}$`)

// helpOffer is what the page's script sends.
type helpOffer struct {
	Name     string `json:"name"`
	Phone    string `json:"phone"`
	Area     string `json:"area"`
	Hours    any    `json:"hours"` // a number; what else comes is answered like any wrong one
	Weekends bool   `json:"weekends"`
}

// helpTexts are the server's messages by language.
var helpTexts = map[string]map[string]string{
	"en": {
		"name": "Tell us your name.", "name-long": "Use at most 60 characters.", "phone": "Tell us your telephone number.", "phone-form": "A telephone number has 11 digits.",
		"area": "Choose an area from the list.", "hours": "Say how many hours you can give.", "hours-range": "Give 1 to 10 whole hours.",
	},
	"cy": {
		"name": "Dywedwch eich enw.", "name-long": "Defnyddiwch hyd at 60 nod.", "phone": "Rhowch eich rhif ffôn.", "phone-form": "Mae gan rif ffôn 11 digid.",
		"area": "Dewiswch ardal o'r rhestr.", "hours": "Sawl awr allwch chi ei rhoi?", "hours-range": "Rhowch 1 i 10 awr gyfan.",
	},
}

func language(r *http.Request) string {
	if strings.HasPrefix(r.Header.Get("Accept-Language"), "cy") {
		return "cy"
	}
	return "en"
}

func (s *Site) helpPage(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	type area struct{ Code, Name string }
	rows, err := s.db.QueryContext(r.Context(), "SELECT code, name FROM allotment_areas ORDER BY name")
	if err != nil {
		s.fail(w, "read the areas", err)
		return
	}
	defer rows.Close()
	var areas []area
	for rows.Next() {
		var a area
		if err := rows.Scan(&a.Code, &a.Name); err != nil {
			s.fail(w, "read the areas", err)
			return
		}
		areas = append(areas, a)
	}
	lang := language(r)
	if s.on("help-language") {
		lang = "cy"
	}
	var on []string // what of the script's behaviour is faulty
	for _, name := range []string{"help-script-error", "help-browser-lax", "help-browser-strict", "help-mask", "help-switch", "help-thanks", "help-network-silent", "help-button-stuck", "help-twice", "help-state-kept", "help-late", "help-stays"} {
		if s.on(name) {
			on = append(on, name)
		}
	}
	s.render(w, http.StatusOK, "help.html", map[string]any{"Token": v.token, "Areas": areas, "Language": lang, "Faults": strings.Join(on, " ")})
}

func (s *Site) help(w http.ResponseWriter, r *http.Request) {
	answer := func(status int, body any) {
		w.Header().Set("Content-Type", "application/json")
		w.Header().Set("Cache-Control", "no-store")
		w.WriteHeader(status)
		_ = json.NewEncoder(w).Encode(body) // the visitor may have gone
	}
	problem := func(status int, text string) { answer(status, map[string]any{"error": text}) }
	if kind, _, err := mime.ParseMediaType(r.Header.Get("Content-Type")); err != nil || kind != "application/json" {
		problem(http.StatusUnsupportedMediaType, "Send JSON.")
		return
	}
	var o helpOffer
	d := json.NewDecoder(r.Body)
	d.UseNumber()
	if err := d.Decode(&o); err != nil {
		problem(http.StatusBadRequest, "This is not the JSON that is expected.")
		return
	}
	texts := helpTexts[language(r)]
	errs := map[string][]string{}
	say := func(field, text string) {
		said := texts[text]
		if text == "hours-range" && language(r) == "cy" && s.on("help-key-shown") {
			said = "help." + text
		}
		errs[field] = append(errs[field], said)
	}
	o.Name = trim(o.Name)
	if !s.on("help-server-trusts") {
		switch n := utf8.RuneCountInString(o.Name); {
		case n == 0:
			say("name", "name")
		case n > 60:
			say("name", "name-long")
		}
		switch {
		case o.Phone == "":
			say("phone", "phone")
		case !phoneForm.MatchString(o.Phone):
			say("phone", "phone-form")
		}
	}
	var area string
	if err := s.db.QueryRowContext(r.Context(), "SELECT code FROM allotment_areas WHERE code = ?", o.Area).Scan(&area); err != nil {
		say("area", "area")
	}
	var hours int64
	if given, _ := o.Hours.(json.Number); given == "" && (o.Hours == nil || o.Hours == "") {
		say("hours", "hours")
	} else if n, err := given.Int64(); err != nil || n < 1 || n > 10 {
		say("hours", "hours-range")
	} else {
		hours = n
	}
	if len(errs) > 0 {
		answer(http.StatusUnprocessableEntity, map[string]any{"errors": errs})
		return
	}
	if s.on("help-thanks-without-row") {
		answer(http.StatusCreated, map[string]any{"id": 1, "name": o.Name})
		return
	}
	res, err := s.db.ExecContext(r.Context(), "INSERT INTO helpers (full_name, phone, area_code, hours, weekends, offered_at) VALUES (?, ?, ?, ?, ?, ?)", o.Name, o.Phone, area, hours, o.Weekends, time.Now().UTC().Format("2006-01-02 15:04:05.000"))
	if err != nil {
		s.fail(w, "keep an offer of help", err)
		return
	}
	id, err := res.LastInsertId()
	if err != nil {
		s.fail(w, "keep an offer of help", err)
		return
	}
	answer(http.StatusCreated, map[string]any{"id": id, "name": o.Name})
}
