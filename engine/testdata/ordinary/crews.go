package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/pquerna/otp/totp"
)

// crewSecret is what the one-time codes of the crew are computed from.
const crewSecret = "JBSWY3DPEHPK3PXP"

// crews signs the crew in on a page of their own, with a one-time code on a second one; the skippers sign in elsewhere.
var crews = Family{
	Name:   "crews",
	Faults: map[string]string{"all-berths": "stored_data", "berth-cut": "stored_data", "watch-open": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		signIn(mux, db, "/in", "/berth", func(w http.ResponseWriter, id string) {
			http.SetCookie(w, &http.Cookie{Name: "yard", Value: id, Path: "/", HttpOnly: true})
		})
		var mu sync.Mutex
		tags, halfway := map[string]string{}, map[string]string{} // by the cookie's value
		held := func(r *http.Request, of map[string]string) (tag, id string) {
			c, err := r.Cookie("crew")
			if err != nil {
				return "", ""
			}
			mu.Lock()
			defer mu.Unlock()
			return of[c.Value], c.Value
		}
		enter := func(w http.ResponseWriter, of map[string]string, tag, to string, r *http.Request) {
			id := uuid.NewString()
			mu.Lock()
			of[id] = tag
			mu.Unlock()
			http.SetCookie(w, &http.Cookie{Name: "crew", Value: id, Path: "/", HttpOnly: true})
			http.Redirect(w, r, to, http.StatusSeeOther)
		}
		tagForm := func(w http.ResponseWriter, said string) {
			page(w, 200, "Crew", said+`<form method="post" action="/crew/in"><label>Tag <input name="tag"></label><label>Pin <input type="password" name="pin"></label><button>On</button></form>`)
		}
		codeForm := func(w http.ResponseWriter, said string) {
			page(w, 200, "Code", said+`<form method="post" action="/crew/code"><label>Code <input name="otp" inputmode="numeric" autocomplete="one-time-code"></label><button>Check</button></form>`)
		}
		mux.HandleFunc("GET /crew/in", func(w http.ResponseWriter, _ *http.Request) { tagForm(w, "") })
		mux.HandleFunc("POST /crew/in", func(w http.ResponseWriter, r *http.Request) {
			if r.PostFormValue("pin") != "fathom 9" || !has(db, "crew WHERE tag = ?", r.PostFormValue("tag")) {
				tagForm(w, `<div class="error">Tag or pin is wrong.</div>`)
				return
			}
			enter(w, halfway, r.PostFormValue("tag"), "/crew/code", r)
		})
		mux.HandleFunc("GET /crew/code", func(w http.ResponseWriter, _ *http.Request) { codeForm(w, "") })
		mux.HandleFunc("POST /crew/code", func(w http.ResponseWriter, r *http.Request) {
			tag, _ := held(r, halfway)
			code := strings.TrimSpace(r.PostFormValue("otp"))
			right := totp.Validate(code, crewSecret)
			if before, err := totp.GenerateCode(crewSecret, time.Now().Add(-30*time.Second)); err == nil && code == before {
				right = true
			}
			if tag == "" || !right {
				codeForm(w, `<div class="error">That code is wrong.</div>`)
				return
			}
			enter(w, tags, tag, "/berth", r)
		})
		berth := func(w http.ResponseWriter, r *http.Request, said, value string) {
			errs := ""
			if said != "" {
				errs = `<span id="e" class="error">` + said + `</span>`
			}
			page(w, 200, "Berth", `<form method="post" action="/berth"><p><label>Berth <input name="berth" value="`+esc(value)+`" aria-describedby="e"></label>`+errs+`</p><button>Keep</button></form>`)
		}
		mux.HandleFunc("GET /berth", func(w http.ResponseWriter, r *http.Request) {
			tag, _ := held(r, tags)
			if tag == "" {
				http.Redirect(w, r, "/crew/in", http.StatusSeeOther)
				return
			}
			var now string
			must(db.QueryRow("SELECT berth FROM crew WHERE tag = ?", tag).Scan(&now))
			berth(w, r, "", now)
		})
		mux.HandleFunc("GET /deck", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Deck", "<p>Your berth is kept.</p>") })
		mux.HandleFunc("POST /berth", func(w http.ResponseWriter, r *http.Request) {
			tag, _ := held(r, tags)
			text := strings.TrimSpace(r.PostFormValue("berth"))
			switch {
			case tag == "" && fault == "watch-open":
				tag = "k7"
			case tag == "":
				page(w, 401, "Crew", `<p>Your watch is over. <a href="/crew/in">Come back.</a></p>`)
				return
			}
			if n := utf8.RuneCountInString(text); n < 2 || n > 12 {
				berth(w, r, "A berth has 2 to 12 characters.", r.PostFormValue("berth"))
				return
			}
			switch fault {
			case "all-berths":
				exec(db, "UPDATE crew SET berth = ?", text)
			case "berth-cut":
				exec(db, "UPDATE crew SET berth = LEFT(?, 11) WHERE tag = ?", text, tag)
			default:
				exec(db, "UPDATE crew SET berth = ? WHERE tag = ?", text, tag)
			}
			http.Redirect(w, r, "/deck", http.StatusSeeOther)
		})
		return mux
	},
}
