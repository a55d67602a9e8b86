package ordinary

import (
	"crypto/rand"
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"
)

// among has signs that are unique on each pier only.
var among = Family{
	Name:   "among",
	Faults: map[string]string{"everywhere": "outcome", "never": "outcome", "id-of-before": "response"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var one sync.Mutex
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			at := func(name string) (refers, said string) {
				if errs[name] == "" {
					return "", ""
				}
				return ` aria-describedby="` + name + `-error"`, `<span id="` + name + `-error" class="error">` + esc(errs[name]) + `</span>`
			}
			pier, pierSaid := at("pier")
			sign, signSaid := at("sign")
			page(w, status, "A new berth", `<form method="post" action="/berths/new"><p><label>Pier <select name="pier"`+pier+`>`+options(r.PostFormValue("pier"), "=Choose", "e=East pier", "w=West pier")+`</select></label>`+pierSaid+`</p>
<p><label>Sign <input name="sign" value="`+esc(r.PostFormValue("sign"))+`"`+sign+`></label>`+signSaid+`</p><button>Enter</button></form>`)
		}
		mux.HandleFunc("GET /berths/new", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /berths/{visit}/map", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Berths", "<p>All berths.</p>") })
		mux.HandleFunc("POST /berths/new", func(w http.ResponseWriter, r *http.Request) {
			one.Lock()
			defer one.Unlock()
			errs := map[string]string{}
			pier, sign := r.PostFormValue("pier"), strings.ToUpper(strings.TrimSpace(r.PostFormValue("sign")))
			if pier != "e" && pier != "w" {
				errs["pier"] = "Choose a pier."
			}
			taken := func() bool {
				switch fault {
				case "never":
					return false
				case "everywhere":
					return has(db, "berths WHERE sign = ?", sign)
				}
				return has(db, "berths WHERE pier = ? AND sign = ?", pier, sign)
			}
			switch n := utf8.RuneCountInString(sign); {
			case n == 0:
				errs["sign"] = "The berth needs a sign."
			case n < 2 || n > 30:
				errs["sign"] = "A sign has 2 to 30 characters."
			case len(errs) == 0 && taken():
				errs["sign"] = fmt.Sprintf("The pier has a berth “%s” already.", r.PostFormValue("sign"))
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			result, err := db.Exec("INSERT INTO berths (pier, sign) VALUES (?, ?)", pier, sign)
			must(err)
			id, err := result.LastInsertId()
			must(err)
			if fault == "id-of-before" {
				id--
			}
			http.Redirect(w, r, fmt.Sprintf("/berths/%s/map?sign=%d", rand.Text()[:6], id), http.StatusSeeOther)
		})
		return mux
	},
}
