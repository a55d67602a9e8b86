package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/google/uuid"
)

// landing leads to a page with a search box, a form for news, notices that are marked like errors, and a list.
var landing = Family{
	Name:   "landing",
	Faults: map[string]string{"name-cut": "stored_data", "no-row": "outcome", "mail-twice": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu, one sync.Mutex
		welcome := map[string]string{}
		form := func(w http.ResponseWriter, status int, r *http.Request, errs map[string]string) {
			field := func(name, label, kind string) string {
				said := ""
				if errs[name] != "" {
					said = `<div class="invalid-feedback">` + errs[name] + `</div>`
				}
				return fmt.Sprintf(`<div class="form-group"><label for="%[1]s">%[2]s</label><input type="%[3]s" id="%[1]s" name="%[1]s" value="%[4]s">%[5]s</div>`, name, label, kind, esc(r.PostFormValue(name)), said)
			}
			page(w, status, "Register with the kite club", `<form method="post" action="/register" novalidate>`+field("name", "Name", "text")+field("mail", "E-mail", "email")+
				`<div class="form-group"><label for="wind">Highest wind</label><select id="wind" name="wind">`+options(r.PostFormValue("wind"), "=choose", "4=a breeze", "6=strong", "8=a gale")+`</select>`+
				strings.Replace(`<div class="invalid-feedback">`+errs["wind"]+`</div>`, `<div class="invalid-feedback"></div>`, "", 1)+`</div><button>Register</button></form>`)
		}
		mux.HandleFunc("GET /register", func(w http.ResponseWriter, r *http.Request) { form(w, 200, r, nil) })
		mux.HandleFunc("GET /club", func(w http.ResponseWriter, r *http.Request) {
			said := ""
			if c, err := r.Cookie("note"); err == nil {
				mu.Lock()
				if name := welcome[c.Value]; name != "" {
					said = `<div class="alert alert-success">Welcome to the club, ` + esc(name) + `.</div>`
				}
				delete(welcome, c.Value)
				mu.Unlock()
			}
			rows, err := db.Query("SELECT full_name FROM flyers ORDER BY id DESC LIMIT 5")
			must(err)
			defer rows.Close()
			list := ""
			for rows.Next() {
				var name string
				must(rows.Scan(&name))
				list += "<li>" + esc(name) + "</li>"
			}
			page(w, 200, "The kite club", `<form role="search" action="/search"><label for="q">Search the club</label><input id="q" name="q"><span class="error">Words of three letters and more</span></form>
<div role="alert" class="alert">Above six Beaufort the beach is closed.</div><div class="widget-alert">Two lines were found on the dunes.</div>`+said+`
<section class="warning"><h2>Lines that failed</h2><ul class="error-log"><li>Braided, 40 m</li></ul></section><h2>Newest members</h2><ul>`+list+`</ul>
<form action="/news" method="post"><label>E-mail <input name="mail" type="email"></label><span class="error-text">We never pass it on.</span><button>Get the news</button></form>`)
		})
		mux.HandleFunc("POST /register", func(w http.ResponseWriter, r *http.Request) {
			name, mail, wind := strings.TrimSpace(r.PostFormValue("name")), strings.TrimSpace(r.PostFormValue("mail")), r.PostFormValue("wind")
			errs := map[string]string{}
			one.Lock()
			defer one.Unlock()
			if n := utf8.RuneCountInString(name); n == 0 {
				errs["name"] = "Tell us your name."
			} else if n > 30 {
				errs["name"] = "At most 30 characters."
			}
			switch user, host, at := strings.Cut(mail, "@"); {
			case mail == "":
				errs["mail"] = "Tell us your address."
			case !at || !mailShape.MatchString(mail) || user == "" || host == "" || utf8.RuneCountInString(mail) > 60:
				errs["mail"] = "We cannot write to that."
			case fault != "mail-twice" && has(db, "flyers WHERE mail = ?", mail):
				errs["mail"] = "That address is in the club."
			}
			if wind != "4" && wind != "6" && wind != "8" {
				errs["wind"] = "Choose a wind."
			}
			if len(errs) > 0 {
				form(w, 200, r, errs)
				return
			}
			if fault == "name-cut" && utf8.RuneCountInString(name) > 25 {
				name = string([]rune(name)[:25])
			}
			if fault != "no-row" || wind != "8" {
				exec(db, "INSERT INTO flyers (full_name, mail, wind) VALUES (?, ?, ?)", name, mail, wind)
			}
			id := uuid.NewString()
			mu.Lock()
			welcome[id] = name
			mu.Unlock()
			http.SetCookie(w, &http.Cookie{Name: "note", Value: id, Path: "/"})
			http.Redirect(w, r, "/club", http.StatusSeeOther)
		})
		return mux
	},
}
