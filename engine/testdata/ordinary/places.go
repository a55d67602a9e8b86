package ordinary

import (
	"crypto/rand"
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"
)

// places names in its messages the field, the value and the bounds, and leads to the page of the row that it wrote, whose key and number
// nobody knows beforehand.
var places = Family{
	Name: "places",
	Faults: map[string]string{
		"value-of-before": "messages", "bound-of-before": "messages", "other-row": "response", "number-of-before": "messages", "name-not-shown": "messages",
	},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			at := func(name string) string {
				if errs[name] == "" {
					return `">`
				}
				return `" aria-describedby="` + name + `-error"><span id="` + name + `-error" class="error">` + esc(errs[name]) + `</span>`
			}
			page(w, status, "A new shed", `<form method="post" action="/sheds"><p><label>Name of the shed <input name="name" value="`+esc(r.PostFormValue("name"))+at("name")+`</label></p>
<p><label>Width <input name="width" value="`+esc(r.PostFormValue("width"))+at("width")+`</label></p><button>Enter</button></form>`)
		}
		mux.HandleFunc("GET /sheds/new", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /sheds/{id}", func(w http.ResponseWriter, r *http.Request) {
			var name, number string
			if db.QueryRow("SELECT name, number FROM sheds WHERE id = ?", r.PathValue("id")).Scan(&name, &number) != nil {
				page(w, 404, "No shed", "<p>There is no such shed.</p>")
				return
			}
			said := ""
			if fault == "number-of-before" {
				said = "of "
			}
			if r.FormValue("new") != "" {
				said = fmt.Sprintf(`<p role="status">%s is shed %s%s, entered at %s by you.</p>`, esc(name), said, number, time.Now().Format("15:04:05"))
			}
			if fault == "name-not-shown" {
				name = strings.ToUpper(name)
			}
			page(w, 200, "Shed", said+`<p class="name">`+esc(name)+`, `+number+`</p>`)
		})
		mux.HandleFunc("POST /sheds", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			typed, most := r.PostFormValue("name"), 20
			name := strings.TrimSpace(typed)
			if fault == "value-of-before" {
				typed = "the shed"
			}
			if fault == "bound-of-before" {
				most = 30
			}
			if n := utf8.RuneCountInString(name); n == 0 {
				errs["name"] = "Name of the shed is missing."
			} else if n < 3 || n > 20 {
				errs["name"] = fmt.Sprintf("Name of the shed: “%s” is not 3 to %d characters long.", typed, most)
			}
			width := strings.TrimSpace(r.PostFormValue("width"))
			metres, ok := whole(width, -1e9, 1e9)
			switch {
			case width == "":
				errs["width"] = "Width is missing."
			case !ok:
				errs["width"] = fmt.Sprintf("“%s” is not a number.", r.PostFormValue("width"))
			case metres < 1 || metres > 12:
				errs["width"] = "Width is between 1 and 12 metres."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			result, err := db.Exec("INSERT INTO sheds (name, width, number) VALUES (?, ?, ?)", name, metres, rand.Text()[:8])
			must(err)
			id, err := result.LastInsertId()
			must(err)
			if fault == "other-row" {
				id = max(1, id-1)
			}
			http.Redirect(w, r, fmt.Sprintf("/sheds/%d?new=1", id), http.StatusSeeOther)
		})
		return mux
	},
}
