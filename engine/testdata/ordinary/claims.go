package ordinary

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"net/http"
	"regexp"
	"strings"
	"time"
)

var bedLabel = map[string]*regexp.Regexp{
	"":                       regexp.MustCompile(`^[a-z]{2,10}(-[a-z]{2,4})?$`),
	"five-behind-the-hyphen": regexp.MustCompile(`^[a-z]{2,10}(-[a-z]{2,5})?$`),
	"one-letter-will-do":     regexp.MustCompile(`^[a-z]{1,10}(-[a-z]{2,4})?$`),
}

// claims gives out beds: a label that neither a bed nor one of former years has, hives only where there are bees, for fourteen days.
var claims = Family{
	Name: "claims",
	Faults: map[string]string{
		"former-labels-free": "outcome", "hives-without-bees": "stored_data", "thirteen-days": "stored_data", "mark-of-capitals": "stored_data", "mind-five": "messages", "five-behind-the-hyphen": "outcome", "one-letter-will-do": "outcome",
	},
	open: func(db *sql.DB, fault string) http.Handler {
		pattern := bedLabel[fault]
		if pattern == nil {
			pattern = bedLabel[""]
		}
		mux := http.NewServeMux()
		mux.HandleFunc("POST /reset", func(w http.ResponseWriter, _ *http.Request) {
			exec(db, "DELETE FROM beds")
			page(w, 200, "Empty", "<p>All beds are free.</p>")
		})
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			page(w, status, "Claim a bed", `<form method="post" action="/claim">`+textField(r, "label", "Label", errs["label"])+`<p><label><input type="checkbox" name="bees"`+chosen("checked", r.PostFormValue("bees") != "")+`> Bees</label></p>`+textField(r, "hives", "Hives", errs["hives"])+`<button>Claim</button></form>`)
		}
		mux.HandleFunc("GET /claim", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /claimed", func(w http.ResponseWriter, r *http.Request) {
			said := "The bed is yours."
			if r.URL.Query().Get("mind") != "" {
				said = "Mind the bees."
			}
			page(w, 200, "Yours", "<p>"+said+"</p>")
		})
		mux.HandleFunc("POST /claim", func(w http.ResponseWriter, r *http.Request) {
			label, bees, errs := strings.TrimSpace(r.PostFormValue("label")), r.PostFormValue("bees") != "", map[string]string{}
			switch {
			case label == "":
				errs["label"] = "A bed has a label."
			case !pattern.MatchString(label):
				errs["label"] = "That is no label."
			}
			hives, ok := whole(strings.TrimSpace(r.PostFormValue("hives")), -1e9, 1e9)
			switch {
			case !bees:
			case !ok:
				errs["hives"] = "How many hives?"
			case hives < 1 || hives > 9:
				errs["hives"] = "One to nine hives."
			}
			if len(errs) == 0 && (has(db, "beds WHERE label = ?", label) || fault != "former-labels-free" && has(db, "old_beds WHERE label = ?", label)) {
				errs["label"] = "This label is taken."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			days, most, marked := 14, 4, label
			switch fault {
			case "thirteen-days":
				days = 13
			case "mind-five":
				most = 5
			case "mark-of-capitals":
				marked = strings.ToUpper(label)
			}
			sum := sha256.Sum256([]byte(marked))
			kept := any(nil)
			if bees || fault == "hives-without-bees" && ok {
				kept = hives
			}
			_, err := db.Exec("INSERT INTO beds (label, mark, until, hives) VALUES (?, ?, ?, ?)", label, hex.EncodeToString(sum[:]), time.Now().AddDate(0, 0, days).Format("2006-01-02"), kept)
			if err != nil {
				form(w, r, http.StatusUnprocessableEntity, map[string]string{"label": "This label is taken."})
				return
			}
			to := "/claimed"
			if bees && hives > most {
				to = "/claimed?mind=bees"
			}
			http.Redirect(w, r, to, http.StatusSeeOther)
		})
		return mux
	},
}
