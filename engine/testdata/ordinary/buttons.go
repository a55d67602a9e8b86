package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"unicode/utf8"
)

// buttons has a form with two buttons: the first keeps an offer of seeds for its owner alone, the second shows it to all. Its address is made of its kind.
var buttons = Family{
	Name:   "buttons",
	Faults: map[string]string{"first-for-both": "stored_data", "second-unchecked": "outcome", "address-in-capitals": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			field := func(name, label string) string { return textField(r, name, label, errs[name]) }
			page(w, status, "Offer seeds", `<form method="post" action="/seeds">`+field("kind", "Kind")+field("packets", "Packets")+`<button name="do" value="keep">Keep for later</button> <button name="do" value="show">Show to all</button></form>`)
		}
		mux.HandleFunc("GET /seeds/new", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /seeds/shown", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Shown", "<p>All can see your offer.</p>") })
		mux.HandleFunc("GET /seeds/kept", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Kept", "<p>Your offer is kept.</p>") })
		mux.HandleFunc("POST /seeds", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			kind := strings.TrimSpace(r.PostFormValue("kind"))
			if n := utf8.RuneCountInString(kind); n == 0 {
				errs["kind"] = "Say of what."
			} else if n > 40 {
				errs["kind"] = "At most 40 characters."
			}
			packets, ok := whole(strings.TrimSpace(r.PostFormValue("packets")), 1, 20)
			shown := r.PostFormValue("do") == "show"
			if !ok && !(fault == "second-unchecked" && shown) {
				errs["packets"] = "Between 1 and 20."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			address := strings.ReplaceAll(strings.ToLower(kind), " ", "-")
			if fault == "address-in-capitals" {
				address = strings.ReplaceAll(kind, " ", "-")
			}
			exec(db, "INSERT INTO seeds (kind, packets, shown, address) VALUES (?, ?, ?, ?)", kind, packets, shown && fault != "first-for-both", address)
			to := "/seeds/kept"
			if shown {
				to = "/seeds/shown"
			}
			http.Redirect(w, r, to, http.StatusSeeOther)
		})
		return mux
	},
}
