package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"unicode/utf8"
)

// summary says each mistake twice: in a list of links above the form, and at the field; for a group before its field set, which refers
// to it, or in its legend. A line that two fields refer to stands above both.
var summary = Family{
	Name:   "summary",
	Faults: map[string]string{"side-misplaced": "messages", "links-only": "messages", "day-any": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, errs map[string]string) {
			v := func(name string) string { return esc(r.PostFormValue(name)) }
			list := ""
			for _, f := range [][2]string{{"keeper", "keeper"}, {"side", "side-p"}, {"shift", "shift-d"}, {"day", "day"}, {"month", "month"}} {
				if errs[f[0]] != "" {
					list += fmt.Sprintf(`<li><a href="#%s">%s</a></li>`, f[1], errs[f[0]])
				}
			}
			if list != "" {
				list = `<div role="alert" class="error-summary" id="summary"><h2>There is a problem</h2><ul>` + list + `</ul></div>`
			}
			said := func(name string) string {
				if errs[name] == "" || fault == "links-only" {
					return ""
				}
				return `<span id="` + name + `-error" class="error-message">` + errs[name] + `</span>`
			}
			side := said("side")
			at := map[bool]string{true: side, false: ""}
			if fault == "side-misplaced" {
				at[true] = strings.ReplaceAll(side, ` id="side-error"`, "")
			}
			page(w, map[bool]int{true: 200, false: 400}[list == ""], "Keep the light", list+`<form method="post" action="/watch" novalidate>
<div><label for="keeper">Keeper</label>`+said("keeper")+`<input id="keeper" name="keeper" value="`+v("keeper")+`" aria-describedby="summary keeper-error"></div>
`+at[fault != "side-misplaced"]+`<fieldset aria-describedby="side-error"><legend>Side</legend>
<label><input type="radio" id="side-p" name="side" value="p"`+chosen("checked", v("side") == "p")+`> Port</label><label><input type="radio" name="side" value="s"`+chosen("checked", v("side") == "s")+`> Starboard</label></fieldset>
<fieldset><legend>Shift `+said("shift")+at[fault == "side-misplaced"]+`</legend>
<label><input type="radio" id="shift-d" name="shift" value="d"`+chosen("checked", v("shift") == "d")+`> Dusk</label><label><input type="radio" name="shift" value="n"`+chosen("checked", v("shift") == "n")+`> Night</label></fieldset>
<div><label>Day <input id="day" name="day" value="`+v("day")+`" aria-describedby="summary day-error"></label>`+said("day")+`</div><div><label>Month <input id="month" name="month" value="`+v("month")+`" aria-describedby="summary month-error"></label>`+said("month")+`</div><button>Keep watch</button></form>`)
		}
		mux.HandleFunc("GET /watch", func(w http.ResponseWriter, r *http.Request) { form(w, r, nil) })
		mux.HandleFunc("GET /watches", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Watches", "<p>The light is kept.</p>") })
		mux.HandleFunc("POST /watch", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			keeper := strings.TrimSpace(r.PostFormValue("keeper"))
			if n := utf8.RuneCountInString(keeper); n == 0 {
				errs["keeper"] = "Enter the keeper"
			} else if n > 25 {
				errs["keeper"] = "The keeper must have 25 characters or fewer"
			}
			if s := r.PostFormValue("side"); s != "p" && s != "s" {
				errs["side"] = "Select a side"
			}
			if s := r.PostFormValue("shift"); s != "d" && s != "n" {
				errs["shift"] = "Select a shift"
			}
			number := func(name, text string, most int) int {
				n, ok := whole(strings.TrimSpace(r.PostFormValue(name)), 1, float64(most))
				if !ok {
					errs[name] = text
				}
				return n
			}
			most := 31
			if fault == "day-any" {
				most = 32
			}
			day, month := number("day", "Day must be 1 to 31", most), number("month", "Month must be 1 to 12", 12)
			if len(errs) > 0 {
				form(w, r, errs)
				return
			}
			exec(db, "INSERT INTO watches (keeper, side, shift, day, month) VALUES (?, ?, ?, ?, ?)", keeper, r.PostFormValue("side"), r.PostFormValue("shift"), day, month)
			http.Redirect(w, r, "/watches", http.StatusSeeOther)
		})
		return mux
	},
}
