package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"unicode/utf8"
)

// decks is filled in on a phone and by the keyboard too. Its faults are seen there alone.
var decks = Family{
	Name:      "decks",
	InBrowser: true,
	Faults:    map[string]string{"covered": "outcome", "unsaid": "messages", "no-tab": "outcome", "mouse-button": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			style := map[string]string{"covered": `.banner { position: fixed; inset: 0 }`, "unsaid": `.error { display: none }`}[fault]
			list, button := "", ""
			switch fault {
			case "no-tab":
				list = ` tabindex="-1"`
			case "mouse-button":
				button = ` tabindex="-1"`
			}
			say := func(name string) string {
				if errs[name] == "" {
					return ""
				}
				return `<span id="` + name + `-error" class="error">` + errs[name] + `</span>`
			}
			sort := r.PostFormValue("sort")
			page(w, status, "Order a deck", `<meta name="viewport" content="width=device-width"><style>body { max-width: 60rem; padding: 0 1rem } .banner { background: wheat } @media (max-width: 500px) { input { width: 100% } `+style+` }</style>
<nav><a href="/">Home</a> <a href="/help">Help</a></nav>
<form method="post" action="/deck">`+textField(r, "name", "Name", errs["name"])+
				`<p><label>Wood <select name="wood" aria-describedby="wood-error"`+list+`><option value="">–</option>`+options(r.PostFormValue("wood"), "l=larch", "o=oak")+`</select></label>`+say("wood")+`</p>
<fieldset><legend>Sort</legend><label><input type="radio" name="sort" value="a"`+chosen("checked", sort == "a" || sort == "")+`> first</label> <label><input type="radio" name="sort" value="b"`+chosen("checked", sort == "b")+`> second</label>`+say("sort")+`</fieldset>
<p><label><input type="checkbox" name="oiled"`+chosen("checked", r.PostFormValue("oiled") != "")+`> Oiled</label></p>
<p><label>Note <textarea name="note">`+esc(r.PostFormValue("note"))+`</textarea></label>`+say("note")+`</p><button`+button+`>Order</button></form><p class="banner">We deliver on Fridays.</p>`)
		}
		mux.HandleFunc("GET /deck", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /deck/ordered", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Ordered", "<p>The deck is ordered.</p>") })
		mux.HandleFunc("POST /deck", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			name, wood, sort := strings.TrimSpace(r.PostFormValue("name")), r.PostFormValue("wood"), r.PostFormValue("sort")
			if name == "" || len([]rune(name)) > 40 {
				errs["name"] = "Whose deck?"
			}
			if wood != "l" && wood != "o" {
				errs["wood"] = "Which wood?"
			}
			if sort != "a" && sort != "b" {
				errs["sort"] = "Which sort?"
			}
			if utf8.RuneCountInString(strings.ReplaceAll(r.PostFormValue("note"), "\r\n", "\n")) > 1000 {
				errs["note"] = "A note has at most 1000 characters."
			}
			if len(errs) > 0 {
				form(w, r, 422, errs)
				return
			}
			exec(db, "INSERT INTO decks (name, wood, sort, oiled, note) VALUES (?, ?, ?, ?, ?)", name, wood, sort, r.PostFormValue("oiled") != "", r.PostFormValue("note"))
			http.Redirect(w, r, "/deck/ordered", http.StatusSeeOther)
		})
		return mux
	},
}
