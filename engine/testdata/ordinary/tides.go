package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"
)

// tides is a page that never comes to rest: a clock, a request every fifth of a second, one that waits for news, and a stream. Its scripts send
// the form.
var tides = Family{
	Name:   "tides",
	Faults: map[string]string{"boat-cut": "stored_data", "any-length": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		mux.HandleFunc("GET /berth", func(w http.ResponseWriter, _ *http.Request) {
			page(w, 200, "Book a berth", `<p id="clock"></p><p id="level"></p>
<form id="f" method="post" action="/berth"><p><label>Boat <input name="boat" aria-describedby="boat-error"></label><span id="boat-error" class="error" role="alert"></span></p><button>Book</button></form><p id="done" role="status"></p>
<script>
setInterval(() => { clock.textContent = new Date().toISOString() }, 50)
setInterval(async () => { level.textContent = (await (await fetch("/tide?at=" + Date.now())).text()) }, 200)
const news = async () => { for (;;) { try { await (await fetch("/news")).text() } catch { return } } }
news()
new EventSource("/events").onmessage = (e) => { level.dataset.events = e.data }
f.onsubmit = async (e) => {
  e.preventDefault()
  document.getElementById("boat-error").textContent = ""
  const answer = await fetch("/berth", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ boat: f.boat.value }) })
  const text = await answer.text()
  if (answer.ok) { done.textContent = text; f.reset() } else document.getElementById("boat-error").textContent = text
}
</script>`)
		})
		mux.HandleFunc("GET /tide", func(w http.ResponseWriter, _ *http.Request) {
			time.Sleep(150 * time.Millisecond)
			fmt.Fprint(w, time.Now().UnixMilli()%1000)
		})
		mux.HandleFunc("GET /news", func(w http.ResponseWriter, r *http.Request) {
			select {
			case <-r.Context().Done():
			case <-time.After(25 * time.Second):
			}
			w.WriteHeader(http.StatusNoContent)
		})
		mux.HandleFunc("GET /events", func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Content-Type", "text/event-stream")
			for i := 0; r.Context().Err() == nil; i++ {
				fmt.Fprintf(w, "data: %d\n\n", i)
				w.(http.Flusher).Flush()
				time.Sleep(100 * time.Millisecond)
			}
		})
		mux.HandleFunc("POST /berth", func(w http.ResponseWriter, r *http.Request) {
			text, ok := jsonMember(r, "boat")
			text = strings.TrimSpace(text)
			time.Sleep(120 * time.Millisecond)
			if n := utf8.RuneCountInString(text); !ok || n < 2 || n > 12 && fault != "any-length" || n > 40 {
				w.WriteHeader(http.StatusUnprocessableEntity)
				fmt.Fprint(w, "A boat's name has 2 to 12 characters.")
				return
			}
			if fault == "boat-cut" {
				text = string([]rune(text)[:max(2, utf8.RuneCountInString(text)-1)])
			}
			exec(db, "INSERT INTO berths (boat) VALUES (?)", text)
			fmt.Fprint(w, "The berth is booked.")
		})
		return mux
	},
}
