package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/google/uuid"
)

// buoyWords are what the site says, by language.
var buoyWords = map[string]struct{ blank, long string }{
	"en": {"A buoy needs a name.", "At most 12 characters."},
	"fy": {"In boei moat in namme hawwe.", "Op syn heechst 12 tekens."},
}

// tokens gives each page a token of its own that is good once; what it refuses for that has no words of the form's. It speaks two
// languages.
var tokens = Family{
	Name:   "tokens",
	Faults: map[string]string{"any-session": "outcome", "none-needed": "outcome", "good-twice": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		good := map[string]string{} // by token, whose
		visitor := func(w http.ResponseWriter, r *http.Request) string {
			if c, err := r.Cookie("visitor"); err == nil {
				return c.Value
			}
			id := uuid.NewString()
			http.SetCookie(w, &http.Cookie{Name: "visitor", Value: id, Path: "/buoys", HttpOnly: true, SameSite: http.SameSiteLaxMode})
			return id
		}
		form := func(w http.ResponseWriter, r *http.Request, status int, said string) {
			who, token := visitor(w, r), uuid.NewString()
			mu.Lock()
			good[token] = who
			mu.Unlock()
			if said != "" {
				said = `<p class="error">` + said + `</p>`
			}
			page(w, status, "Name a buoy", `<form method="post" action="/buoys/new"><input type="hidden" name="once" value="`+token+`"><div><label>Buoy <input name="buoy" value="`+esc(r.PostFormValue("buoy"))+`"></label>`+said+`</div><button>Name it</button></form>`)
		}
		mux.HandleFunc("GET /buoys/new", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, "") })
		mux.HandleFunc("GET /buoys", func(w http.ResponseWriter, _ *http.Request) {
			page(w, 200, "Buoys", `<p class="alert">Two are adrift.</p>`)
		})
		mux.HandleFunc("POST /buoys/new", func(w http.ResponseWriter, r *http.Request) {
			token := r.PostFormValue("once")
			c, err := r.Cookie("visitor")
			mu.Lock()
			owner, known := good[token]
			if fault != "good-twice" {
				delete(good, token)
			}
			mu.Unlock()
			valid := err == nil && known && (owner == c.Value || fault == "any-session") || fault == "none-needed" && token == ""
			if !valid {
				w.Header().Set("Content-Type", "text/html")
				w.WriteHeader(map[bool]int{true: 419, false: 403}[known])
				_, _ = w.Write([]byte("<html><body><center><h2>Page expired</h2></center></body></html>"))
				return
			}
			words := buoyWords["en"]
			if strings.HasPrefix(r.Header.Get("Accept-Language"), "fy") {
				words = buoyWords["fy"]
			}
			buoy := strings.TrimSpace(r.PostFormValue("buoy"))
			switch n := utf8.RuneCountInString(buoy); {
			case n == 0:
				form(w, r, 422, words.blank)
			case n > 12:
				form(w, r, 422, words.long)
			default:
				exec(db, "INSERT INTO buoys (buoy) VALUES (?)", buoy)
				http.Redirect(w, r, "/buoys", http.StatusSeeOther)
			}
		})
		return mux
	},
}
