package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"unicode/utf8"
)

// knots has two controls of one name, which are told apart by their order, as lists of rows in forms are.
var knots = Family{
	Name:   "knots",
	Faults: map[string]string{"second-first": "stored_data", "second-any": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		labels := [2]string{"First knot", "Second knot"}
		form := func(w http.ResponseWriter, status int, held, said [2]string) {
			body := ""
			for i, label := range labels {
				message, id := "", []string{"a", "b"}[i]
				if said[i] != "" {
					message = `<span id="` + id + `-error" class="error">` + said[i] + `</span>`
				}
				body += `<p><label for="` + id + `">` + label + `</label> <input id="` + id + `" name="knot[]" value="` + esc(held[i]) + `" aria-describedby="` + id + `-error">` + message + `</p>`
			}
			page(w, status, "Knots", `<form method="post" action="/knots">`+body+`<button>Tie</button></form>`)
		}
		mux.HandleFunc("GET /knots", func(w http.ResponseWriter, _ *http.Request) { form(w, 200, [2]string{}, [2]string{}) })
		mux.HandleFunc("GET /tied", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Tied", "<p>Both are tied.</p>") })
		mux.HandleFunc("POST /knots", func(w http.ResponseWriter, r *http.Request) {
			_ = r.ParseForm()
			var held, text, said [2]string
			for i := range text {
				if given := r.PostForm["knot[]"]; i < len(given) {
					held[i] = given[i]
				}
				text[i] = strings.TrimSpace(held[i])
				if n := utf8.RuneCountInString(text[i]); (n < 2 || n > 12) && !(i == 1 && fault == "second-any") {
					said[i] = labels[i] + " has 2 to 12 letters."
				}
			}
			if said != [2]string{} {
				form(w, 422, held, said)
				return
			}
			if fault == "second-first" {
				text[1] = text[0]
			}
			exec(db, "INSERT INTO knots (first, second) VALUES (?, ?)", text[0], text[1])
			http.Redirect(w, r, "/tied", http.StatusSeeOther)
		})
		return mux
	},
}
