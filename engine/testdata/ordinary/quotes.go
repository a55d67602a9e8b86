package ordinary

import (
	"database/sql"
	"math"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"sync"
)

// pounds is how an amount is written: £1,234.50, the commas may not be left out. calls is a telephone number as it is kept.
var (
	pounds = regexp.MustCompile(`^£(\d{1,3}(,\d{3})*)(\.\d\d)?$`)
	calls  = regexp.MustCompile(`^\+44[1-9][0-9]{8,9}$`)
)

// quotes takes amounts in pounds, which it keeps in pence, and telephone numbers, which it keeps with their calling code, each once.
var quotes = Family{
	Name:   "quotes",
	Faults: map[string]string{"pence-lost": "stored_data", "thousand-is-one": "stored_data", "as-dialled": "stored_data", "zero-stays": "outcome", "twice-by-spaces": "outcome", "old-work": "outcome"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		var mu sync.Mutex // a number is looked up and written in one
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			field := func(name, label string) string { return textField(r, name, label, errs[name]) }
			page(w, status, "Ask for a quote", `<form method="post" action="/quote">`+field("most", "At most")+field("ring", "Ring me at")+`<p><label>Work <select name="work" aria-describedby="work-error">`+options(r.PostFormValue("work"), "hedge=A hedge", "gate=A gate")+`</select></label><span id="work-error" class="error">`+errs["work"]+`</span></p><button>Ask</button></form>`)
		}
		mux.HandleFunc("GET /quote", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /quote/asked", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Asked", "<p>We shall ring you.</p>") })
		mux.HandleFunc("POST /quote", func(w http.ResponseWriter, r *http.Request) {
			mu.Lock()
			defer mu.Unlock()
			errs := map[string]string{}
			text := strings.TrimSpace(r.PostFormValue("most"))
			amount, err := strconv.ParseFloat(strings.NewReplacer("£", "", ",", "").Replace(text), 64)
			if err != nil || !pounds.MatchString(text) || amount < 5 || amount > 2500 {
				errs["most"] = "Between £5.00 and £2,500.00."
			}
			pence := int(math.Round(amount * 100))
			switch {
			case fault == "pence-lost":
				pence = int(amount) * 100
			case fault == "thousand-is-one" && strings.Contains(text, ","):
				pence = int(amount/1000) * 100
			}
			dialled := r.PostFormValue("ring")
			plain := strings.NewReplacer(" ", "", "-", "", ".", "", "/", "", "(", "", ")", "").Replace(dialled)
			kept := plain
			switch {
			case strings.HasPrefix(plain, "+"):
			case strings.HasPrefix(plain, "00"):
				kept = "+" + plain[2:]
			case fault == "zero-stays":
				kept = "+44" + plain
			default:
				kept = "+44" + strings.TrimPrefix(plain, "0")
			}
			switch {
			case !calls.MatchString(kept):
				errs["ring"] = "We cannot ring this number."
			case has(db, "quotes WHERE ring = ?", kept) || fault == "twice-by-spaces" && has(db, "quotes WHERE ring = ?", dialled):
				if fault != "twice-by-spaces" || kept == dialled {
					errs["ring"] = "We shall ring this number already."
				}
			}
			work := r.PostFormValue("work")
			if work != "hedge" && work != "gate" && !(fault == "old-work" && has(db, "works WHERE code = ?", work)) {
				errs["work"] = "We do not do this work."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			if fault == "as-dialled" {
				kept = dialled
			}
			exec(db, "INSERT INTO quotes (pence, ring, work) VALUES (?, ?, ?)", pence, kept, work)
			http.Redirect(w, r, "/quote/asked", http.StatusSeeOther)
		})
		return mux
	},
}
