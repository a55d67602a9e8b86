package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"time"
)

// Bells lets a visitor ring six times a minute, and no more often. It is not among Families: a run of it takes minutes.
var Bells = Family{
	Name:   "bells",
	Faults: map[string]string{"five": "outcome", "rings-all-the-same": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		var rung []time.Time
		form := func(w http.ResponseWriter, r *http.Request, status int, said string) {
			page(w, status, "Ring", `<form method="post" action="/ring">`+textField(r, "tune", "Tune", said)+`<button>Ring</button></form>`)
		}
		mux.HandleFunc("GET /ring", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, "") })
		mux.HandleFunc("GET /rung", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Rung", "<p>It rang.</p>") })
		mux.HandleFunc("POST /ring", func(w http.ResponseWriter, r *http.Request) {
			mu.Lock()
			defer mu.Unlock()
			tune := strings.TrimSpace(r.PostFormValue("tune"))
			if tune == "" {
				form(w, r, 422, "Which tune?")
				return
			}
			most := 6
			if fault == "five" {
				most = 5
			}
			for len(rung) > 0 && time.Since(rung[0]) > time.Minute {
				rung = rung[1:]
			}
			if len(rung) >= most {
				if fault == "rings-all-the-same" {
					exec(db, "INSERT INTO rings (tune) VALUES (?)", tune)
				}
				page(w, http.StatusTooManyRequests, "Too much", "<p>The neighbours are asleep.</p>")
				return
			}
			rung = append(rung, time.Now())
			exec(db, "INSERT INTO rings (tune) VALUES (?)", tune)
			http.Redirect(w, r, "/rung", http.StatusSeeOther)
		})
		return mux
	},
}
