package ordinary

import (
	"database/sql"
	"net/http"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/google/uuid"
)

// ownPage says what is wrong on a page of its own, without the form; NUL is a bad request; a token that is missing is refused in two
// words, and the same address opened by GET gets the usual message.
var ownPage = Family{
	Name:   "ownpage",
	Faults: map[string]string{"many": "outcome", "other-words": "messages", "token-unchecked": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex
		known := map[string]bool{}
		sorry := func(w http.ResponseWriter, status int, text string) {
			page(w, status, "Seal watch", `<p>`+text+`</p><p><a href="/seals">Go back</a></p>`)
		}
		mux.HandleFunc("GET /seals", func(w http.ResponseWriter, _ *http.Request) {
			id := uuid.NewString()
			mu.Lock()
			known[id] = true
			mu.Unlock()
			http.SetCookie(w, &http.Cookie{Name: "watch", Value: id, Path: "/seals", HttpOnly: true, SameSite: http.SameSiteStrictMode})
			page(w, 200, "Report seals", `<form method="post" action="/seals/save"><input type="hidden" name="token" value="`+id+`"><p>Beach <input name="beach" title="Beach"></p><p>Seals <input name="seals" title="Seals"></p><input type="submit" value="Report"></form>`)
		})
		mux.HandleFunc("/seals/save", func(w http.ResponseWriter, r *http.Request) {
			if r.Method != http.MethodPost {
				sorry(w, 200, "Please name the beach.")
				return
			}
			c, err := r.Cookie("watch")
			mu.Lock()
			valid := err == nil && known[c.Value] && c.Value == r.PostFormValue("token")
			mu.Unlock()
			if !valid && fault != "token-unchecked" {
				_, _ = w.Write([]byte("Invalid token!"))
				return
			}
			beach, seals := strings.TrimSpace(r.PostFormValue("beach")), strings.TrimSpace(r.PostFormValue("seals"))
			most := 40.0
			if fault == "many" {
				most = 41
			}
			count, ok := whole(seals, 1, most)
			switch {
			case strings.ContainsRune(beach+seals, 0):
				sorry(w, 400, "Bad request")
				return
			case beach == "" && fault == "other-words":
				sorry(w, 200, "Something is missing.")
				return
			case beach == "":
				sorry(w, 200, "Please name the beach.")
				return
			case utf8.RuneCountInString(beach) > 40:
				sorry(w, 200, "The name of the beach is too long.")
				return
			case seals == "":
				sorry(w, 200, "Please give the number of seals.")
				return
			case !ok:
				sorry(w, 200, "The number of seals must be 1 to 40.")
				return
			}
			exec(db, "INSERT INTO sightings (beach, seals) VALUES (?, ?)", beach, count)
			sorry(w, 200, "Thank you for your report.")
		})
		return mux
	},
}
