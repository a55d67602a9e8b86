package ordinary

import (
	"crypto/rand"
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"
)

// refusals refuses what no page sends with the status that HTTP has for it, and each form's key is good for one booking.
var refusals = Family{
	Name: "refusals",
	Faults: map[string]string{
		"allow-forgotten": "response", "type-any": "outcome", "token-unsaid": "messages", "token-of-all": "outcome", "again-found": "response",
	},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var one sync.Mutex
		sessions := map[string]map[string]bool{} // of each session its keys, and whether they are used up
		refuse := func(w http.ResponseWriter, status int, text string) {
			page(w, status, http.StatusText(status), `<p role="alert">`+text+`</p>`)
		}
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			one.Lock()
			defer one.Unlock()
			id := ""
			if c, err := r.Cookie("visit"); err == nil && sessions[c.Value] != nil {
				id = c.Value
			} else {
				id = rand.Text()
				sessions[id] = map[string]bool{}
				http.SetCookie(w, &http.Cookie{Name: "visit", Value: id, Path: "/", HttpOnly: true})
			}
			key := rand.Text()
			sessions[id][key] = false
			field := func(name, label string) string { return textField(r, name, label, errs[name]) }
			page(w, status, "Ferry", `<form method="post" action="/ferry/book"><input type="hidden" name="form_key" value="`+key+`">`+field("name", "Name")+field("seats", "Seats")+`<button>Book</button></form>`)
		}
		mux.HandleFunc("GET /ferry", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /ferry/booked", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Booked", "<p>Your seats are kept.</p>") })
		mux.HandleFunc("/ferry/book", func(w http.ResponseWriter, r *http.Request) {
			if r.Method != http.MethodPost {
				if fault != "allow-forgotten" {
					w.Header().Set("Allow", "POST, OPTIONS")
				}
				refuse(w, http.StatusMethodNotAllowed, "Book with the form.")
				return
			}
			if kind, _, _ := strings.Cut(r.Header.Get("Content-Type"), ";"); kind != "application/x-www-form-urlencoded" && kind != "multipart/form-data" {
				if fault == "type-any" {
					exec(db, "INSERT INTO seats (name, seats) VALUES ('', 0)")
					http.Redirect(w, r, "/ferry/booked", http.StatusSeeOther)
					return
				}
				refuse(w, http.StatusUnsupportedMediaType, "Please send it as a form.")
				return
			}
			id := ""
			if c, err := r.Cookie("visit"); err == nil {
				id = c.Value
			}
			one.Lock()
			used, known := sessions[id][r.PostFormValue("form_key")]
			if fault == "token-of-all" {
				for _, keys := range sessions {
					if u, any := keys[r.PostFormValue("form_key")]; any {
						used, known = u, true
					}
				}
			}
			one.Unlock()
			switch {
			case !known:
				text := "The form has expired."
				if fault == "token-unsaid" {
					text = "Something went wrong."
				}
				refuse(w, http.StatusForbidden, text)
				return
			case used:
				status := http.StatusConflict
				if fault == "again-found" {
					status = http.StatusBadRequest
				}
				refuse(w, status, "You have booked already.")
				return
			}
			errs := map[string]string{}
			name := strings.TrimSpace(r.PostFormValue("name"))
			if n := utf8.RuneCountInString(name); n == 0 {
				errs["name"] = "Enter a name."
			} else if n > 40 {
				errs["name"] = "The name is too long."
			}
			seats, ok := whole(strings.TrimSpace(r.PostFormValue("seats")), 1, 9)
			if !ok {
				errs["seats"] = "Seats are 1 to 9."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			one.Lock()
			if sessions[id] != nil {
				sessions[id][r.PostFormValue("form_key")] = true
			}
			one.Unlock()
			exec(db, "INSERT INTO seats (name, seats) VALUES (?, ?)", name, seats)
			http.Redirect(w, r, "/ferry/booked", http.StatusSeeOther)
		})
		return mux
	},
}
