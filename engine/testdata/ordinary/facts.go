package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"unicode/utf8"
)

// facts changes one record, which a hidden field names, and keeps most of it in a table of names and values.
var facts = Family{
	Name:   "facts",
	Faults: map[string]string{"other-record": "stored_data", "other-fact": "stored_data", "fact-kept": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		fact := func(name string) (value string) {
			must(db.QueryRow("SELECT value FROM boathouse_facts WHERE code = 'b2' AND name = ?", name).Scan(&value))
			return value
		}
		form := func(w http.ResponseWriter, status int, said string, held, errs map[string]string) {
			field := func(name, label string) string {
				at := ""
				if errs[name] != "" {
					at = ` aria-describedby="` + name + `-error"><span id="` + name + `-error" class="error">` + errs[name] + `</span`
				}
				return `<p><label>` + label + ` <input name="` + name + `" value="` + esc(held[name]) + `"` + at + `></label></p>`
			}
			page(w, status, "Boathouse", said+`<form method="post" action="/boathouses/2"><input type="hidden" name="code" value="b2">`+field("title", "Title")+field("harbour", "Harbour")+field("keeper", "Keeper")+`<button>Save</button></form>`)
		}
		mux.HandleFunc("GET /boathouses/2", func(w http.ResponseWriter, r *http.Request) {
			held := map[string]string{"harbour": fact("harbour"), "keeper": fact("keeper")}
			var title string
			must(db.QueryRow("SELECT title FROM boathouses WHERE code = 'b2'").Scan(&title))
			held["title"] = title
			said := ""
			if c, err := r.Cookie("saved"); err == nil && c.Value == "1" {
				http.SetCookie(w, &http.Cookie{Name: "saved", Path: "/", MaxAge: -1})
				said = `<p role="status">` + esc(title) + ` is saved.</p>`
			}
			form(w, 200, said, held, nil)
		})
		mux.HandleFunc("POST /boathouses/2", func(w http.ResponseWriter, r *http.Request) {
			held, errs := map[string]string{}, map[string]string{}
			for name, most := range map[string]int{"title": 30, "harbour": 40, "keeper": 40} {
				held[name] = r.PostFormValue(name)
				if n := utf8.RuneCountInString(strings.TrimSpace(held[name])); n > most {
					errs[name] = "The " + name + " is too long."
				} else if n == 0 && name != "harbour" {
					errs[name] = map[string]string{"title": "Give it a title.", "keeper": "Name the keeper."}[name]
				}
			}
			code := r.PostFormValue("code")
			if code != "b2" { // nobody else's record
				page(w, http.StatusForbidden, "Forbidden", "<p>This is not your boathouse.</p>")
				return
			}
			if len(errs) > 0 {
				form(w, http.StatusUnprocessableEntity, "", held, errs)
				return
			}
			if fault == "other-record" {
				code = "b3"
			}
			exec(db, "UPDATE boathouses SET title = ? WHERE code = ?", strings.TrimSpace(held["title"]), code)
			for _, name := range []string{"harbour", "keeper"} {
				at := name
				if fault == "other-fact" {
					at = map[string]string{"harbour": "keeper", "keeper": "harbour"}[name]
				}
				if fault == "fact-kept" && name == "harbour" {
					continue
				}
				exec(db, "UPDATE boathouse_facts SET value = ? WHERE code = 'b2' AND name = ?", strings.TrimSpace(held[name]), at)
			}
			http.SetCookie(w, &http.Cookie{Name: "saved", Value: "1", Path: "/"})
			http.Redirect(w, r, "/boathouses/2", http.StatusSeeOther)
		})
		return mux
	},
}
