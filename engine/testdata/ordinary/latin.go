package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"
)

// latin keeps its texts in columns of another character set, which not every letter has a place in.
var latin = Family{
	Name:   "latin",
	Faults: map[string]string{"accents-lost": "stored_data", "twice": "outcome", "long": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		form := func(w http.ResponseWriter, status int, r *http.Request, at, said string) {
			field := func(name, label string) string {
				text := ""
				if at == name {
					text = `<strong class="error">` + said + `</strong>`
				}
				return `<div><label>` + label + ` <input name="` + name + `" value="` + esc(r.PostFormValue(name)) + `"></label>` + text + `</div>`
			}
			page(w, status, "Name a hut", `<form method="post" action="/huts/new">`+field("hut", "Hut")+field("colour", "Colour")+`<button>Paint it</button></form>`)
		}
		mux.HandleFunc("GET /huts/new", func(w http.ResponseWriter, r *http.Request) { form(w, 200, r, "", "") })
		mux.HandleFunc("GET /huts", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Beach huts", "<p>All painted.</p>") })
		mux.HandleFunc("POST /huts/new", func(w http.ResponseWriter, r *http.Request) {
			hut, colour := strings.TrimSpace(r.PostFormValue("hut")), strings.TrimSpace(r.PostFormValue("colour"))
			fits := func(text string) bool {
				return !strings.ContainsFunc(text, func(c rune) bool { return c < 0x20 || c > 0x7e && c < 0xa0 || c > 0xff })
			}
			mu.Lock()
			defer mu.Unlock()
			most := 38
			if fault == "long" {
				most = 40
			}
			switch n := utf8.RuneCountInString(hut); {
			case n == 0:
				form(w, 422, r, "hut", "Name the hut.")
			case !fits(hut):
				form(w, 422, r, "hut", "Our sign painter has no such letters.")
			case n > most:
				form(w, 422, r, "hut", "At most 38 letters fit.")
			case colour == "":
				form(w, 422, r, "colour", "Which colour?")
			case !fits(colour):
				form(w, 422, r, "colour", "Our sign painter has no such letters.")
			case utf8.RuneCountInString(colour) > 12:
				form(w, 422, r, "colour", "At most 12 letters fit.")
			case fault != "twice" && has(db, "huts WHERE hut = ?", hut):
				form(w, 422, r, "hut", "There is a hut of that name.")
			default:
				if fault == "accents-lost" {
					colour = strings.Map(func(c rune) rune {
						if c > 0x7e {
							return '?'
						}
						return c
					}, colour)
				}
				exec(db, "INSERT INTO huts (hut, colour) VALUES (?, ?)", hut, colour)
				http.Redirect(w, r, "/huts", http.StatusSeeOther)
			}
		})
		return mux
	},
}
