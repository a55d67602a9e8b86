package ordinary

import (
	"database/sql"
	"encoding/json"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"
)

// How long somebody stays signed in at the gauges without a request, and how long a keeper's token is good.
const (
	gaugeIdle  = 2 * time.Second
	gaugeToken = 3 * time.Second
)

// Gauges forgets who does not ask for anything, and gives its keepers tokens that end and can be renewed. It is not among Families: nothing
// is submitted, and a look at it takes seconds of waiting.
var Gauges = Family{
	Name:   "gauges",
	Faults: map[string]string{"never-idle": "idle", "idle-from-the-start": "idle", "token-for-good": "old_session", "token-cut": "old_session", "any-refresh": "renewed_token", "renewed-is-old": "renewed_token"},
	open: func(_ *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		used, ends, refreshes := map[string]time.Time{}, map[string]time.Time{}, map[string]bool{}
		signInForm := func(w http.ResponseWriter) {
			page(w, 200, "In", `<form method="post" action="/in"><label>Nick <input name="nick"></label><label>Pass <input type="password" name="pass"></label><button>In</button></form>`)
		}
		mux.HandleFunc("GET /in", func(w http.ResponseWriter, _ *http.Request) { signInForm(w) })
		mux.HandleFunc("POST /in", func(w http.ResponseWriter, r *http.Request) {
			if r.PostFormValue("nick") != "mara" || r.PostFormValue("pass") != "over the bar" {
				signInForm(w)
				return
			}
			id := uuid.NewString()
			mu.Lock()
			used[id] = time.Now()
			mu.Unlock()
			http.SetCookie(w, &http.Cookie{Name: "gauge", Value: id, Path: "/", HttpOnly: true})
			http.Redirect(w, r, "/gauge", http.StatusSeeOther)
		})
		mux.HandleFunc("GET /gauge", func(w http.ResponseWriter, r *http.Request) {
			c, err := r.Cookie("gauge")
			mu.Lock()
			defer mu.Unlock()
			if err != nil || used[c.Value].IsZero() || fault != "never-idle" && time.Since(used[c.Value]) > gaugeIdle {
				http.Redirect(w, r, "/in", http.StatusSeeOther)
				return
			}
			if fault != "idle-from-the-start" {
				used[c.Value] = time.Now()
			}
			page(w, 200, "Gauge", "<p>2.4 m</p>")
		})
		give := func(w http.ResponseWriter, lasts time.Duration, refresh string) {
			token := uuid.NewString()
			mu.Lock()
			ends[token] = time.Now().Add(lasts)
			refreshes[refresh] = true
			mu.Unlock()
			_ = json.NewEncoder(w).Encode(map[string]string{"token": token, "again": refresh})
		}
		mux.HandleFunc("POST /keepers/token", func(w http.ResponseWriter, r *http.Request) {
			var who map[string]string
			if json.NewDecoder(r.Body).Decode(&who) != nil || who["keeper"] != "jory" || who["pin"] != "fathom 9" {
				w.WriteHeader(http.StatusUnauthorized)
				return
			}
			lasts := gaugeToken
			switch fault {
			case "token-for-good":
				lasts = time.Hour
			case "token-cut":
				lasts = time.Second
			}
			give(w, lasts, uuid.NewString())
		})
		mux.HandleFunc("POST /keepers/token/again", func(w http.ResponseWriter, r *http.Request) {
			text, _ := jsonMember(r, "again")
			mu.Lock()
			known := refreshes[text]
			mu.Unlock()
			switch {
			case !known && fault != "any-refresh":
				w.WriteHeader(http.StatusUnauthorized)
			case fault == "renewed-is-old":
				give(w, -time.Second, text)
			default:
				give(w, gaugeToken, text)
			}
		})
		mux.HandleFunc("GET /keepers/log", func(w http.ResponseWriter, r *http.Request) {
			mu.Lock()
			defer mu.Unlock()
			if time.Now().After(ends[strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")]) {
				w.WriteHeader(http.StatusUnauthorized)
				return
			}
			page(w, 200, "Log", "<p>Read at six.</p>")
		})
		return mux
	},
}
