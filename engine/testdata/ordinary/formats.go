package ordinary

import (
	"database/sql"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// litresForm is how litres are written: 1.234,50, the points may be left out.
var litresForm = regexp.MustCompile(`^(\d{1,3}(\.\d{3})+|\d+)(,\d{1,2})?$`)

// formats takes days as 7.3.2026, times as 4:05 PM and litres as 1.234,50.
var formats = Family{
	Name:   "formats",
	Faults: map[string]string{"month-first": "stored_data", "noon-midnight": "stored_data", "points-kept": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			field := func(name, label string) string { return textField(r, name, label, errs[name]) }
			page(w, status, "Order soil", `<form method="post" action="/soil">`+field("comes", "Comes on")+field("at", "At")+field("litres", "Litres")+`<button>Order</button></form>`)
		}
		mux.HandleFunc("GET /soil", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /soil/ordered", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Ordered", "<p>The soil is ordered.</p>") })
		mux.HandleFunc("POST /soil", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			day, err := time.Parse("2.1.2006", strings.TrimSpace(r.PostFormValue("comes")))
			if swapped, wrong := time.Parse("1.2.2006", strings.TrimSpace(r.PostFormValue("comes"))); fault == "month-first" && wrong == nil {
				day = swapped
			}
			if err != nil {
				errs["comes"] = "Write a day like 7.3.2026."
			}
			at, err := time.Parse("3:04 PM", strings.TrimSpace(r.PostFormValue("at")))
			if err != nil {
				errs["at"] = "Write a time like 4:05 PM."
			}
			if fault == "noon-midnight" && at.Hour() >= 12 {
				at = at.Add(-12 * time.Hour)
			}
			text := strings.TrimSpace(r.PostFormValue("litres"))
			plain := strings.Replace(strings.ReplaceAll(text, ".", ""), ",", ".", 1)
			if fault == "points-kept" {
				plain = strings.Replace(text, ",", ".", 1)
				if whole, _, grouped := strings.Cut(text, "."); grouped {
					plain = whole
				}
			}
			litres, err := strconv.ParseFloat(plain, 64)
			if err != nil || !litresForm.MatchString(text) || fault != "points-kept" && (litres < 50 || litres > 20000) {
				errs["litres"] = "Between 50 and 20.000 litres."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			exec(db, "INSERT INTO soil (comes_on, comes_at, litres) VALUES (?, ?, ?)", day.Format(time.DateOnly), at.Format("15:04:05"), plain)
			http.Redirect(w, r, "/soil/ordered", http.StatusSeeOther)
		})
		return mux
	},
}
