package ordinary

import (
	"database/sql"
	"net/http"
	"strings"

	"github.com/google/uuid"
)

// stays signs a guest in: until the browser is closed, or for thirty days if the guest asks for it.
var stays = Family{
	Name:   "stays",
	Faults: map[string]string{"forgotten-at-once": "session", "kept-unasked": "session", "one-day-only": "session", "seen-by-all": "session", "old-id": "session"},
	open: func(_ *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, said string) {
			errs, refers, message := "", "", ""
			switch {
			case said == "Who are you?":
				errs = said
			case said != "":
				refers, message = ` aria-describedby="said"`, `<p id="said" class="error">`+said+`</p>`
			}
			page(w, status, "Come in", `<form method="post" action="/enter">`+textField(r, "login", "Login", errs)+`<p><label>Word <input type="password" name="word"`+refers+`></label>`+message+`</p><p><label><input type="checkbox" name="stay"> Stay signed in</label></p><button>Come in</button></form>`)
		}
		set := func(w http.ResponseWriter, value string, seconds int) {
			http.SetCookie(w, &http.Cookie{Name: "guest", Value: value, Path: "/", HttpOnly: true, MaxAge: seconds})
		}
		mux.HandleFunc("GET /enter", func(w http.ResponseWriter, r *http.Request) {
			set(w, uuid.NewString(), 0)
			form(w, r, 200, "")
		})
		mux.HandleFunc("GET /house", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "House", "<p>Make yourself at home.</p>") })
		mux.HandleFunc("POST /enter", func(w http.ResponseWriter, r *http.Request) {
			switch {
			case r.PostFormValue("login") == "":
				form(w, r, 403, "Who are you?")
				return
			case r.PostFormValue("login") != "mara" || r.PostFormValue("word") != "smoke and wax":
				form(w, r, 403, "We do not know you.")
				return
			}
			const month = 30 * 24 * 60 * 60
			id, seconds := uuid.NewString(), 0
			if r.PostFormValue("stay") != "" {
				seconds = month
			}
			switch fault {
			case "forgotten-at-once":
				seconds = 0
			case "kept-unasked":
				seconds = month
			case "one-day-only":
				seconds /= 30
			case "old-id":
				if c, err := r.Cookie("guest"); err == nil {
					id = c.Value
				}
			case "seen-by-all":
				http.SetCookie(w, &http.Cookie{Name: "seen", Value: strings.ToUpper(r.PostFormValue("login")), Path: "/"})
			}
			set(w, id, seconds)
			http.Redirect(w, r, "/house", http.StatusSeeOther)
		})
		return mux
	},
}
