package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"unicode/utf8"

	"golang.org/x/crypto/bcrypt"
)

var (
	mailShape  = regexp.MustCompile("^[a-zA-Z0-9.!#$%&'*+/=?^_`{|}~-]+@[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?(?:\\.[a-zA-Z0-9](?:[a-zA-Z0-9-]{0,61}[a-zA-Z0-9])?)*$")
	phoneShape = regexp.MustCompile(`^0[0-9]{8,10}$`)
)

// help has a line of help at each field, in whose place the error stands; the next answer has the help again. Its script does the same
// while the form is filled in.
var help = Family{
	Name:   "help",
	Faults: map[string]string{"phone-any": "outcome", "walk-misplaced": "messages", "word-plain": "secrets"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, said string, r *http.Request, errs map[string]string) {
			line := func(name, help string) string {
				if errs[name] != "" {
					return fmt.Sprintf(`<p id="%s-help" class="hint has-error">%s</p>`, name, errs[name])
				}
				return fmt.Sprintf(`<p id="%s-help" class="hint field-error-help">%s</p>`, name, help)
			}
			v := func(name string) string { return esc(r.PostFormValue(name)) }
			if said != "" {
				r.PostForm = nil
				v = func(string) string { return "" }
			}
			walk := r.PostFormValue("walk")
			if said != "" {
				walk = ""
			}
			page(w, 200, "The lantern walk", said+`<form method="post" action="/walk">
<div><label for="walker">Walker</label><input id="walker" name="walker" aria-describedby="walker-help" value="`+v("walker")+`">`+line("walker", "As it should stand on the lantern")+`</div>
<div><label for="phone">Telephone</label><input id="phone" name="phone" aria-describedby="phone-help" value="`+v("phone")+`">`+line("phone", "We call when the tide is early")+`</div>
<div><label for="walk">Which walk</label><select id="walk" name="walk" aria-describedby="walk-help" onchange="check(this)">`+options(walk, "=-", "d=dunes", "p=pier")+`</select>`+line("walk", "The dunes are steep")+`</div>
<div><label for="word">Password</label><input type="password" id="word" name="word" aria-describedby="word-help">`+line("word", "To look your lantern up")+`</div>
<button>Walk with us</button></form>
<script>const help = document.getElementById("walk-help"), was = help.textContent
function check(c) { help.textContent = c.value ? was : "Choose a walk."; help.className = c.value ? "hint" : "hint has-error" }</script>`)
		}
		mux.HandleFunc("GET /walk", func(w http.ResponseWriter, r *http.Request) { form(w, "", r, nil) })
		mux.HandleFunc("POST /walk", func(w http.ResponseWriter, r *http.Request) {
			walker, phone, walk, word := strings.TrimSpace(r.PostFormValue("walker")), strings.TrimSpace(r.PostFormValue("phone")), r.PostFormValue("walk"), r.PostFormValue("word")
			errs := map[string]string{}
			switch n := utf8.RuneCountInString(walker); {
			case n == 0:
				errs["walker"] = "A lantern needs a name."
			case n < 2 || n > 24:
				errs["walker"] = "Use 2 to 24 characters."
			}
			switch {
			case phone == "":
				errs["phone"] = "We need a number."
			case !phoneShape.MatchString(phone) && (fault != "phone-any" || len(phone) > 11):
				errs["phone"] = "Begin with 0, and give 9 to 11 digits."
			}
			if walk != "d" && walk != "p" {
				at := "walk"
				if fault == "walk-misplaced" {
					at = "word"
				}
				errs[at] = "Choose a walk."
			}
			switch {
			case word == "":
				errs["word"] = "Choose a password."
			case len(word) < 8 || len(word) > 60:
				errs["word"] = "Use 8 to 60 bytes."
			}
			if len(errs) > 0 {
				form(w, "", r, errs)
				return
			}
			hash, err := bcrypt.GenerateFromPassword([]byte(word), bcrypt.MinCost)
			must(err)
			if fault == "word-plain" {
				hash = []byte(word)
			}
			exec(db, "INSERT INTO walkers (walker, phone, walk, word) VALUES (?, ?, ?, ?)", walker, phone, walk, string(hash))
			form(w, `<p class="thanks">See you at dusk, `+esc(walker)+`.</p>`, r, nil)
		})
		return mux
	},
}
