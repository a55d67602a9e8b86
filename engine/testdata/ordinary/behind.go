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

// signIn serves a sign-in form that writes: the time, and the one session that an account has. who is the account of a request, "".
func signIn(mux *http.ServeMux, db *sql.DB, path, cookie string, keyed func(w http.ResponseWriter, id string)) (who func(*http.Request) string) {
	form := func(w http.ResponseWriter, said string) {
		page(w, 200, "Sign in", said+`<form method="post" action="`+path+`"><label>Name <input name="nick"></label><label>Password <input type="password" name="pass"></label><button>Sign in</button></form>`)
	}
	mux.HandleFunc("GET "+path, func(w http.ResponseWriter, _ *http.Request) { form(w, "") })
	mux.HandleFunc("POST "+path, func(w http.ResponseWriter, r *http.Request) {
		nick := r.PostFormValue("nick")
		if r.PostFormValue("pass") != "over the bar" || !has(db, "skippers WHERE handle = ?", nick) {
			form(w, `<div class="error">Name or password is wrong.</div>`)
			return
		}
		id := uuid.NewString()
		exec(db, "UPDATE skippers SET last_login = NOW(3), visits = visits + 1 WHERE handle = ?", nick)
		exec(db, "REPLACE INTO sessions VALUES ((SELECT number FROM skippers WHERE handle = ?), ?)", nick, id)
		keyed(w, id)
		http.Redirect(w, r, cookie, http.StatusSeeOther)
	})
	return func(r *http.Request) string {
		c, err := r.Cookie("yard")
		if err != nil {
			return ""
		}
		var nick string
		if err := db.QueryRow("SELECT handle FROM skippers JOIN sessions ON sessions.skipper = skippers.number WHERE token = ?", c.Value).Scan(&nick); err != nil {
			return ""
		}
		return nick
	}
}

// behind is a form behind a sign-in that writes, whose cookie is for one path only; an account has one session at a time.
var behind = Family{
	Name:   "behind",
	Faults: map[string]string{"every-boat": "stored_data", "name-long": "outcome", "sail-kept": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		who := signIn(mux, db, "/in", "/yard/boat", func(w http.ResponseWriter, id string) {
			http.SetCookie(w, &http.Cookie{Name: "yard", Value: id, Path: "/yard", HttpOnly: true, SameSite: http.SameSiteStrictMode})
		})
		form := func(w http.ResponseWriter, nick string, v func(string) string, errs map[string]string) {
			said := ""
			for _, name := range []string{"boat", "sail"} {
				if errs[name] != "" {
					said += `<li>` + errs[name] + `</li>`
				}
			}
			if said != "" {
				said = `<ul class="errorlist">` + said + `</ul>`
			}
			page(w, 200, "Boat of "+nick, `<p class="alert">The slip is closed at low water.</p>`+said+fmt.Sprintf(`<form method="post" action="/yard/boat"><label>Boat <input name="boat" value="%s"></label><label>Sail <select name="sail">%s</select></label><button>Save</button></form>`, esc(v("boat")), options(v("sail"), "l=lug", "g=gaff", "b=bermuda")))
		}
		mux.HandleFunc("GET /yard/boat", func(w http.ResponseWriter, r *http.Request) {
			nick := who(r)
			if nick == "" {
				http.Redirect(w, r, "/in", http.StatusSeeOther)
				return
			}
			var boat, sail string
			must(db.QueryRow("SELECT boat, sail FROM skippers WHERE handle = ?", nick).Scan(&boat, &sail))
			form(w, nick, func(name string) string { return map[string]string{"boat": boat, "sail": sail}[name] }, nil)
		})
		mux.HandleFunc("GET /yard/saved", func(w http.ResponseWriter, r *http.Request) {
			page(w, 200, "Saved", `<p>Your boat is saved, `+esc(who(r))+`.</p><p class="alert">The slip is closed at low water.</p>`)
		})
		mux.HandleFunc("POST /yard/boat", func(w http.ResponseWriter, r *http.Request) {
			nick := who(r)
			if nick == "" {
				http.Redirect(w, r, "/in", http.StatusSeeOther)
				return
			}
			boat, sail := strings.TrimSpace(r.PostFormValue("boat")), r.PostFormValue("sail")
			errs := map[string]string{}
			most := 20
			if fault == "name-long" {
				most = 21
			}
			switch n := utf8.RuneCountInString(boat); {
			case n == 0:
				errs["boat"] = "A boat has a name."
			case n > most:
				errs["boat"] = "The name has at most 20 characters."
			}
			if sail != "l" && sail != "g" && sail != "b" {
				errs["sail"] = "Choose a sail."
			}
			if len(errs) > 0 {
				form(w, nick, r.PostFormValue, errs)
				return
			}
			switch fault {
			case "every-boat":
				exec(db, "UPDATE skippers SET boat = ?, sail = ?", boat, sail)
			case "sail-kept":
				exec(db, "UPDATE skippers SET boat = ? WHERE handle = ?", boat, nick)
			default:
				exec(db, "UPDATE skippers SET boat = ?, sail = ? WHERE handle = ?", boat, sail, nick)
			}
			http.Redirect(w, r, "/yard/saved", http.StatusSeeOther)
		})
		return mux
	},
}

// keys lets a skipper change the handle, which is part of the key of the skipper's row.
var keys = Family{
	Name:   "keys",
	Faults: map[string]string{"club-lost": "stored_data", "handle-small": "stored_data", "second-row": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		who := signIn(mux, db, "/in", "/handle", func(w http.ResponseWriter, id string) {
			http.SetCookie(w, &http.Cookie{Name: "yard", Value: id, Path: "/", HttpOnly: true})
		})
		form := func(w http.ResponseWriter, status int, handle, said string) {
			if said != "" {
				said = `<span class="error">` + said + `</span>`
			}
			page(w, status, "Change your handle", `<form method="post" action="/handle"><div><label>Handle <input name="handle" value="`+esc(handle)+`"></label>`+said+`</div><button>Change</button></form>`)
		}
		handle := func(w http.ResponseWriter, r *http.Request) {
			nick := who(r)
			if nick == "" {
				http.Redirect(w, r, "/in", http.StatusSeeOther)
				return
			}
			if r.Method == http.MethodGet {
				form(w, 200, nick, "")
				return
			}
			next := strings.TrimSpace(r.PostFormValue("handle"))
			mu.Lock()
			defer mu.Unlock()
			switch n := utf8.RuneCountInString(next); {
			case n == 0:
				form(w, 422, r.PostFormValue("handle"), "A skipper has a handle.")
				return
			case n > 16:
				form(w, 422, r.PostFormValue("handle"), "A handle has at most 16 characters.")
				return
			case !strings.EqualFold(next, nick) && has(db, "skippers WHERE handle = ?", next):
				form(w, 422, r.PostFormValue("handle"), "That handle is taken.")
				return
			}
			switch fault {
			case "club-lost":
				exec(db, "UPDATE skippers SET handle = ?, club = 'none' WHERE handle = ?", next, nick)
			case "handle-small":
				exec(db, "UPDATE skippers SET handle = ? WHERE handle = ?", strings.ToLower(next), nick)
			case "second-row":
				exec(db, "INSERT INTO skippers (club, handle, number) SELECT club, ?, (SELECT MAX(number) + 1 FROM skippers) FROM skippers WHERE handle = ?", next, nick)
			default:
				exec(db, "UPDATE skippers SET handle = ? WHERE handle = ?", next, nick)
			}
			http.Redirect(w, r, "/handle", http.StatusSeeOther)
		}
		mux.HandleFunc("GET /handle", handle)
		mux.HandleFunc("POST /handle", handle)
		return mux
	},
}
