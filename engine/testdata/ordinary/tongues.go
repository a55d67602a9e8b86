package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/language"
)

// tongues speaks English and German. Its visitors choose by the path, the query, a cookie or what their browser asks for, the first that says so.
var tongues = Family{
	Name: "tongues",
	Faults: map[string]string{
		"german-reply-in-english": "messages", "cookie-not-read": "messages", "weights-not-read": "messages", "lang-always-en": "messages", "label-in-english": "messages",
		"header-missing": "messages", "unknown-in-german": "messages", "more-in-the-reply": "messages", "error-in-english": "messages",
	},
	open: func(db *sql.DB, fault string) http.Handler {
		spoken := []language.Tag{language.English, language.German}
		matcher := language.NewMatcher(spoken)
		in := func(r *http.Request) string {
			asked := r.Header.Get("Accept-Language")
			if fault == "weights-not-read" {
				asked, _, _ = strings.Cut(strings.TrimPrefix(asked, "qaa, "), ";")
			}
			cookie, _ := r.Cookie("lang")
			switch {
			case strings.HasPrefix(r.URL.Path, "/de/"):
				return "de"
			case r.FormValue("lang") != "":
				return r.FormValue("lang")
			case cookie != nil && fault != "cookie-not-read":
				return cookie.Value
			}
			list, _, _ := language.ParseAcceptLanguage(asked)
			_, i, sure := matcher.Match(list...)
			if sure == language.No && fault == "unknown-in-german" {
				return "de"
			}
			return []string{"en", "de"}[i]
		}
		say := func(w http.ResponseWriter, r *http.Request, status int, english, german, body string) {
			tongue, title := in(r), english
			named := tongue
			if tongue == "de" {
				title = german
			}
			if fault == "lang-always-en" {
				named = "en"
			}
			if fault != "header-missing" {
				w.Header().Set("Content-Language", tongue)
			}
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			w.WriteHeader(status)
			fmt.Fprintf(w, `<!doctype html><html lang="%s"><head><title>%s</title></head><body>%s</body></html>`, named, title, body)
		}
		one := func(r *http.Request, english, german string) string {
			if in(r) == "de" {
				return german
			}
			return english
		}
		form := func(w http.ResponseWriter, r *http.Request, status int, said string) {
			label := one(r, "Your name", "Ihr Name")
			if fault == "label-in-english" {
				label = "Your name"
			}
			path := ""
			if strings.HasPrefix(r.URL.Path, "/de/") {
				path = "/de"
			}
			say(w, r, status, "Borrow a barrow", "Schubkarre leihen", `<form method="post" action="`+path+`/barrow">`+textField(r, "name", label, said)+`<button>OK</button></form>`)
		}
		mux := http.NewServeMux()
		handle := func(path string) {
			mux.HandleFunc("GET "+path+"/barrow", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, "") })
			mux.HandleFunc("POST "+path+"/barrow", func(w http.ResponseWriter, r *http.Request) {
				name := strings.TrimSpace(r.PostFormValue("name"))
				switch n := utf8.RuneCountInString(name); {
				case n == 0 && fault == "error-in-english":
					form(w, r, 422, "Say who you are.")
					return
				case n == 0:
					form(w, r, 422, one(r, "Say who you are.", "Sagen Sie, wer Sie sind."))
					return
				case n > 30:
					form(w, r, 422, one(r, "At most 30 characters.", "Höchstens 30 Zeichen."))
					return
				}
				exec(db, "INSERT INTO barrows (name) VALUES (?)", name)
				reply := one(r, "The barrow is yours, ", "Die Schubkarre gehört Ihnen, ") + esc(name) + "."
				switch fault {
				case "german-reply-in-english":
					reply = "The barrow is yours, " + esc(name) + "."
				case "more-in-the-reply":
					reply += " Row 7 of table barrows."
				}
				say(w, r, 200, "Yours", "Ihre", `<p>`+reply+`</p>`)
			})
		}
		handle("")
		handle("/de")
		return mux
	},
}
