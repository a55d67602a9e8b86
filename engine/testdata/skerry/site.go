// Package skerry is a site of other conventions than the practice site's: nested names, problem details for an endpoint, UUIDs for
// keys, hashes in a table of their own, and PUT by a hidden field. It has fifteen faults of its own.
package skerry

import (
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html"
	"net/http"
	"regexp"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/go-sql-driver/mysql"
	"github.com/google/uuid"
	"golang.org/x/crypto/bcrypt"
)

var mailShape = regexp.MustCompile(`^[^\s@]+@[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)*$`)

// Site serves it with one fault, or none where it is "". What its database refuses is a panic, and so the end of the connection.
func Site(db *sql.DB, fault string) http.Handler {
	mux := http.NewServeMux()
	var mu sync.Mutex
	thanks := map[string]string{}
	field := func(name, label, kind, value, errs string) string {
		said := ""
		if errs != "" {
			said = `<span class="error">` + html.EscapeString(errs) + `</span>`
		}
		return fmt.Sprintf(`<p><label>%s <input type="%s" name="%s" value="%s"></label>%s</p>`, label, kind, name, html.EscapeString(value), said)
	}
	show := func(w http.ResponseWriter, status int, f func(string) string, errs map[string][]string) {
		said := func(name string) string { return strings.Join(errs[name], "</span> <span class=\"error\">") }
		cabin := map[string]string{f("passenger[cabin]"): " selected"}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(status)
		several := func(s string) string {
			return strings.ReplaceAll(s, html.EscapeString("</span> <span class=\"error\">"), `</span> <span class="error">`)
		}
		fmt.Fprint(w, several(`<!doctype html><title>Ferry</title><form method="post" action="/passengers">`+
			field("passenger[name]", "Name", "text", f("passenger[name]"), said("name"))+
			field("passenger[contact][mail]", "Mail", "email", f("passenger[contact][mail]"), said("mail"))+
			`<p><label>Cabin <select name="passenger[cabin]"><option value="">-</option><option value="d"`+cabin["d"]+`>Deck</option><option value="i"`+cabin["i"]+`>Inside</option></select></label>`+
			map[bool]string{true: `<span class="error">` + said("cabin") + `</span>`}[said("cabin") != ""]+`</p>`+
			field("passenger[pin]", "Pin", "password", "", said("pin"))+`<button>Sail</button></form>`))
	}
	mux.HandleFunc("GET /passengers/new", func(w http.ResponseWriter, _ *http.Request) {
		show(w, http.StatusOK, func(string) string { return "" }, nil)
	})
	mux.HandleFunc("GET /passengers/thanks", func(w http.ResponseWriter, r *http.Request) {
		c, err := r.Cookie("flash")
		if err != nil {
			return
		}
		mu.Lock()
		defer mu.Unlock()
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprintf(w, `<div class="flash">%s</div>`, html.EscapeString(thanks[c.Value]))
		delete(thanks, c.Value)
	})
	mux.HandleFunc("POST /passengers", func(w http.ResponseWriter, r *http.Request) {
		f := r.PostFormValue
		name, mail, cabin, pin := strings.TrimSpace(f("passenger[name]")), strings.ToLower(strings.TrimSpace(f("passenger[contact][mail]"))), f("passenger[cabin]"), f("passenger[pin]")
		if fault == "untrimmed" {
			name = f("passenger[name]")
		}
		if fault == "mail-case" {
			mail = strings.TrimSpace(f("passenger[contact][mail]"))
		}
		errs := map[string][]string{}
		say := func(at, text string) { errs[at] = append(errs[at], text) }
		most := 40
		if fault == "name-long" {
			most = 41
		}
		switch n := utf8.RuneCountInString(name); {
		case n == 0 && fault == "misplaced":
			say("pin", "can't be blank")
		case n == 0:
			say("name", "can't be blank")
		case n > most:
			say("name", "is too long (at most 40)")
		}
		if mail == "" {
			say("mail", "can't be blank")
		} else {
			if !mailShape.MatchString(mail) || strings.Contains(mail, "..") {
				say("mail", "is no address")
			}
			if utf8.RuneCountInString(mail) > 80 {
				say("mail", "is too long (at most 80)")
			}
		}
		switch {
		case cabin == "":
			say("cabin", "can't be blank")
		case cabin != "d" && cabin != "i" && fault != "cabin":
			say("cabin", "is not one of ours")
		}
		switch n := len(pin); {
		case n == 0:
			say("pin", "can't be blank")
		case n < 6 || n > 30:
			say("pin", "has 6 to 30 bytes")
		}
		id := uuid.NewString()
		if fault == "no-uuid" {
			id = fmt.Sprint("p", uuid.New().ID())
		}
		if len(errs) == 0 {
			_, err := db.Exec("INSERT INTO passengers VALUES (?, ?, ?, ?)", id, name, mail, cabin[:1])
			var taken *mysql.MySQLError
			if err != nil && fault == "taken-fails" {
				w.WriteHeader(http.StatusInternalServerError)
				return
			}
			if ok := asError(err, &taken); ok {
				say("mail", "has sailed with us before")
			} else if err != nil {
				panic(err)
			}
		}
		if len(errs) > 0 {
			status := http.StatusUnprocessableEntity
			if fault == "status" {
				status = http.StatusOK
			}
			show(w, status, f, errs)
			return
		}
		hash, err := bcrypt.GenerateFromPassword([]byte(pin), bcrypt.MinCost)
		if err != nil {
			panic(err)
		}
		digest := string(hash)
		if fault == "pin-plain" {
			digest = base64.StdEncoding.EncodeToString([]byte(pin))
		}
		if fault != "no-credentials" {
			if _, err := db.Exec("INSERT INTO credentials VALUES (?, ?)", id, digest); err != nil {
				panic(err)
			}
		}
		mu.Lock()
		thanks[id] = "All aboard, " + name
		mu.Unlock()
		http.SetCookie(w, &http.Cookie{Name: "flash", Value: id, Path: "/"})
		http.Redirect(w, r, "/passengers/thanks", http.StatusFound)
	})
	crossings(mux, db, fault)
	notice(mux, db, fault)
	return mux
}

func asError(err error, into **mysql.MySQLError) bool {
	e, ok := err.(*mysql.MySQLError)
	*into = e
	return ok && e.Number == 1062
}

// crossings answers with problem details (RFC 9457), each error at a JSON Pointer.
func crossings(mux *http.ServeMux, db *sql.DB, fault string) {
	mux.HandleFunc("POST /api/crossings", func(w http.ResponseWriter, r *http.Request) {
		answer := func(status int, kind string, body any) {
			w.Header().Set("Content-Type", kind)
			w.WriteHeader(status)
			if err := json.NewEncoder(w).Encode(body); err != nil {
				panic(err)
			}
		}
		type problem struct {
			Pointer string `json:"pointer"`
			Detail  string `json:"detail"`
		}
		refuse := func(status int, list ...problem) {
			answer(status, "application/problem+json", map[string]any{"type": "about:blank", "title": "This cannot sail", "status": status, "errors": list})
		}
		if r.Header.Get("Content-Type") != "application/json" {
			refuse(http.StatusUnsupportedMediaType)
			return
		}
		var body map[string]any
		if err := json.NewDecoder(r.Body).Decode(&body); err != nil || body == nil {
			if fault == "unreadable-fails" {
				refuse(http.StatusInternalServerError)
				return
			}
			refuse(http.StatusBadRequest)
			return
		}
		var errs []problem
		seats, isNumber := body["seats"].(float64)
		least := 1.0
		if fault == "seats-none" {
			least = 0
		}
		at := "/seats"
		if fault == "pointer" {
			at = "/harbour"
		}
		switch {
		case body["seats"] == nil || body["seats"] == "":
			errs = append(errs, problem{at, "is needed"})
		case !isNumber || seats < least || seats > 8:
			errs = append(errs, problem{at, "must be 1 to 8"})
		case seats != float64(int(seats)):
			errs = append(errs, problem{at, "must be whole"})
		}
		harbour, _ := body["harbour"].(string)
		switch {
		case harbour == "":
			errs = append(errs, problem{"/harbour", "is needed"})
		case !regexp.MustCompile(`^[A-Z]{3}$`).MatchString(harbour):
			errs = append(errs, problem{"/harbour", "must be three capitals"})
		}
		if len(errs) > 0 {
			refuse(http.StatusUnprocessableEntity, errs...)
			return
		}
		id := uuid.NewString()
		if _, err := db.Exec("INSERT INTO crossings VALUES (?, ?, ?)", id, seats, harbour); err != nil {
			panic(err)
		}
		if fault == "answer-id" {
			id = uuid.NewString()
		}
		answer(http.StatusCreated, "application/json", map[string]any{"id": id, "seats": seats})
	})
}

// notice changes the one notice, by PUT in a hidden field.
func notice(mux *http.ServeMux, db *sql.DB, fault string) {
	page := func(w http.ResponseWriter, status int, text, said string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(status)
		if said != "" {
			said = `<em class="error">` + said + `</em>`
		}
		fmt.Fprintf(w, "<!doctype html><form method=post action=/notice><input type=hidden name=_method value=put><div><label>Text <textarea name=\"notice[text]\">\n%s</textarea></label>%s</div><button>Hang it up</button></form>", html.EscapeString(text), said)
	}
	mux.HandleFunc("GET /notice", func(w http.ResponseWriter, _ *http.Request) {
		var text string
		if err := db.QueryRow("SELECT body FROM notices ORDER BY id LIMIT 1").Scan(&text); err != nil {
			panic(err)
		}
		page(w, http.StatusOK, text, "")
	})
	mux.HandleFunc("POST /notice", func(w http.ResponseWriter, r *http.Request) {
		if r.PostFormValue("_method") != "put" {
			w.WriteHeader(http.StatusMethodNotAllowed)
			return
		}
		text := strings.TrimSpace(r.PostFormValue("notice[text]"))
		switch n := utf8.RuneCountInString(text); {
		case n == 0:
			page(w, http.StatusUnprocessableEntity, text, "can't be blank")
			return
		case n > 60:
			page(w, http.StatusUnprocessableEntity, text, "is too long (at most 60)")
			return
		}
		statement := "UPDATE notices SET body = ? WHERE id = 1"
		if fault == "inserts" {
			statement = "INSERT INTO notices (body) VALUES (?)"
		}
		if _, err := db.Exec(statement, text); err != nil {
			panic(err)
		}
		http.Redirect(w, r, "/notice", http.StatusFound)
	})
}
