package ordinary

import (
	"bytes"
	"database/sql"
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// inPieces sends each answer in ten pieces, some milliseconds apart.
func inPieces(h http.Handler, pause time.Duration) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		rec := httptest.NewRecorder()
		rec.Body = new(bytes.Buffer)
		h.ServeHTTP(rec, r)
		for name, list := range rec.Header() {
			w.Header()[name] = list
		}
		w.WriteHeader(rec.Code)
		body := rec.Body.Bytes()
		for i := range 10 {
			_, _ = w.Write(body[len(body)*i/10 : len(body)*(i+1)/10])
			w.(http.Flusher).Flush()
			time.Sleep(pause)
		}
	})
}

// chunked sends every page in ten pieces, so that a browser shows its beginning before its end is there.
var chunked = Family{
	Name:   "chunked",
	Faults: map[string]string{"height-high": "outcome", "harbour-upper": "stored_data", "reply-gone": "messages"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, errs map[string]string) {
			said := func(name string) string {
				if errs[name] == "" {
					return ""
				}
				return `<p class="error">` + errs[name] + `</p>`
			}
			page(w, 200, "Log a tide", strings.Repeat("<p>High water and low water.</p>", 20)+`<form method="post" action="/tides"><div><label>Harbour <input name="harbour" value="`+esc(r.PostFormValue("harbour"))+`"></label>`+said("harbour")+`</div>`+strings.Repeat("<p>Read the gauge at the mole.</p>", 20)+
				`<div><label>Height in cm <input type="number" name="height" value="`+esc(r.PostFormValue("height"))+`"></label>`+said("height")+`</div>`+strings.Repeat("<p>Thank the tide.</p>", 20)+`<button>Log it</button></form>`)
		}
		mux.HandleFunc("GET /tides", func(w http.ResponseWriter, r *http.Request) { form(w, r, nil) })
		mux.HandleFunc("GET /tides/logged", func(w http.ResponseWriter, r *http.Request) {
			text := "<p>Your tide is logged.</p>"
			if fault == "reply-gone" {
				text = ""
			}
			page(w, 200, "Tides", strings.Repeat("<p>High water and low water.</p>", 20)+text)
		})
		mux.HandleFunc("POST /tides", func(w http.ResponseWriter, r *http.Request) {
			harbour, height := strings.TrimSpace(r.PostFormValue("harbour")), strings.TrimSpace(r.PostFormValue("height"))
			errs := map[string]string{}
			if n := utf8.RuneCountInString(harbour); n == 0 {
				errs["harbour"] = "Which harbour?"
			} else if n > 20 {
				errs["harbour"] = "At most 20 characters."
			}
			most := 900.0
			if fault == "height-high" {
				most = 901
			}
			n, err := strconv.ParseFloat(height, 64)
			switch {
			case height == "":
				errs["height"] = "How high?"
			case err != nil || strings.ContainsAny(height, "xXpP_iInN"):
				errs["height"] = "Give the height as a number."
			case n < 0 || n > most:
				errs["height"] = "0 to 900 cm."
			case n != float64(int(n)):
				errs["height"] = "Whole centimetres."
			}
			if len(errs) > 0 {
				form(w, r, errs)
				return
			}
			if fault == "harbour-upper" {
				harbour = strings.ToUpper(harbour)
			}
			exec(db, "INSERT INTO tides (harbour, height) VALUES (?, ?)", harbour, int(n))
			http.Redirect(w, r, "/tides/logged", http.StatusSeeOther)
		})
		return inPieces(mux, time.Millisecond)
	},
}
