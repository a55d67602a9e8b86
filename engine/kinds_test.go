package engine_test

import (
	"database/sql"
	"fmt"
	"html"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"oddtick/core/testcase"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

const ferry = `
form: pass
page: /pass
submit: {method: POST, to: /pass}
fields:
  - {name: "pass[holder]", id: holder, label: Holder, normalize: [trim, collapse], rules: [{required: {message: Who?}}, {length: {max: 30, message: At most 30.}}]}
  - {name: "pass[page]", id: page_of, label: Page, kind: url, normalize: [trim], rules: [{url: {message: No address.}}, {length: {max: 80, message: At most 80.}}]}
  - {name: "pass[at]", id: at, label: First ferry, kind: time, rules: [{required: {message: When?}}, {time: {message: No time.}}, {range: {min: "06:00", max: "22:00", message: No ferry then.}}]}
  - {name: "pass[days][]", id: days, label: Days, kind: multiple_choice, options: [{label: Monday, value: mo}, {label: Friday, value: fr}], rules: [{one_of_options: {message: No such day.}}]}
  - {name: "pass[bike]", id: bike, label: With a bicycle, kind: checkbox, value: "1"}
  - {name: "pass[frame]", id: frame, label: Frame number, when: bike, rules: [{required: {message: Which frame?}}, {characters: {of: A-Z0-9, message: Capitals and digits.}}, {length: {max: 8, message: At most 8.}}]}
  - {name: "pass[price]", id: price, label: Price, kind: number, normalize: [trim], rules: [{required: {message: How much?}}, {number: {message: No number.}}, {range: {min: 0.5, max: 99.95, message: From 0.50 to 99.95.}}, {decimals: {max: 2, message: Two decimals.}}]}
across:
  - {id: bike_price, must_hold: '!bike || price * 2 >= 5', message: A bicycle costs at least 2.50.}
rejected: {status: 400, place: field}
accepted: {status: 302, to: /passes, reply: "Thanks, {holder}"}
stored:
  - insert: passes
    columns: {holder: {from: holder}, page: {from: page_of, blank: null}, first_at: {from: at}, bike: {from: bike}, frame: {from: frame, blank: null}, price: {from: price}, made: {now: {within: 5s}}}
`

var (
	frameForm = regexp.MustCompile(`^[A-Z0-9]*$`)
	clockForm = regexp.MustCompile(`^([01][0-9]|2[0-3]):[0-5][0-9](:[0-5][0-9])?$`)
	moneyForm = regexp.MustCompile(`^-?[0-9]+(\.[0-9]+)?([eE][-+]?[0-9]+)?$`)
)

// ferrySite keeps the promises of the ferry's form.
func ferrySite(t testing.TB) (address, dsn string) {
	dsn = dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE passes (id INT AUTO_INCREMENT PRIMARY KEY, holder VARCHAR(30) NOT NULL, page VARCHAR(80), first_at TIME NOT NULL, bike BOOLEAN NOT NULL, frame VARCHAR(8), price DECIMAL(6,2) NOT NULL, made DATETIME NOT NULL) CHARACTER SET utf8mb4")
	db, err := sql.Open("mysql", dsn+"?time_zone=%27%2B00%3A00%27")
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	order := []string{"holder", "page", "at", "days", "bike", "frame", "price"}
	check := func(v url.Values) map[string]string {
		wrong := map[string]string{}
		get := func(n string) string { return v.Get("pass[" + n + "]") }
		holder, page, frame, price := strings.Join(strings.Fields(get("holder")), " "), strings.TrimSpace(get("page")), get("frame"), strings.TrimSpace(get("price"))
		say := func(n, text string) {
			if wrong[n] == "" {
				wrong[n] = text
			} else {
				wrong[n] += "|" + text
			}
		}
		if holder == "" {
			say("holder", "Who?")
		} else if len([]rune(holder)) > 30 {
			say("holder", "At most 30.")
		}
		if page != "" {
			u, err := url.Parse(page)
			if err != nil || u.Scheme == "" || (u.Host == "" && u.Opaque == "") || strings.ContainsAny(page, " \t") || strings.HasPrefix(u.Scheme, "http") && !regexp.MustCompile(`^[a-zA-Z0-9.\-]+(:[0-9]+)?$`).MatchString(u.Host) {
				say("page", "No address.")
			}
			if len([]rune(page)) > 80 {
				say("page", "At most 80.")
			}
		}
		switch at := get("at"); {
		case at == "":
			say("at", "When?")
		case !clockForm.MatchString(at):
			say("at", "No time.")
		case at < "06:00" || at > "22:00" && at != "22:00:00":
			say("at", "No ferry then.")
		}
		for _, d := range v["pass[days][]"] {
			if d != "mo" && d != "fr" {
				wrong["days"] = "No such day."
			}
		}
		bike := get("bike") != ""
		if bike {
			if frame == "" {
				say("frame", "Which frame?")
			}
			if !frameForm.MatchString(frame) {
				say("frame", "Capitals and digits.")
			}
			if len([]rune(frame)) > 8 {
				say("frame", "At most 8.")
			}
		}
		var amount float64
		switch {
		case price == "":
			say("price", "How much?")
		case !moneyForm.MatchString(price):
			say("price", "No number.")
		default:
			_, _ = fmt.Sscan(price, &amount)
			if amount < 0.5 || amount > 99.95 {
				say("price", "From 0.50 to 99.95.")
			}
			if _, after, ok := strings.Cut(price, "."); ok && len(strings.TrimRight(after, "0")) > 2 {
				say("price", "Two decimals.")
			}
		}
		if len(wrong) == 0 && bike && amount < 2.5 {
			wrong["form"] = "A bicycle costs at least 2.50."
		}
		return wrong
	}
	mux := http.NewServeMux()
	said := make(chan string, 1000)
	draw := func(w http.ResponseWriter, v url.Values, wrong map[string]string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		if len(wrong) > 0 {
			w.WriteHeader(http.StatusBadRequest)
		}
		var b strings.Builder
		b.WriteString("<form method=post action=/pass>")
		if wrong["form"] != "" {
			b.WriteString("<p role=alert>" + wrong["form"] + "</p>")
		}
		for _, n := range order {
			name := "pass[" + n + "]"
			if n == "days" {
				name += "[]"
			}
			b.WriteString("<div>" + n + " ")
			switch n {
			case "days":
				for _, d := range []string{"mo", "fr"} {
					on := ""
					if slices.Contains(v[name], d) {
						on = " checked"
					}
					fmt.Fprintf(&b, `<input type=checkbox name="%s" value=%s%s>`, name, d, on)
				}
			case "bike":
				on := ""
				if v.Get(name) != "" {
					on = " checked"
				}
				fmt.Fprintf(&b, `<input type=checkbox name="%s" value=1%s>`, name, on)
			default:
				fmt.Fprintf(&b, `<input name="%s" value="%s">`, name, html.EscapeString(v.Get(name)))
			}
			for _, text := range strings.Split(wrong[n], "|") {
				if text != "" {
					b.WriteString("<p class=error>" + text + "</p>")
				}
			}
			b.WriteString("</div>")
		}
		b.WriteString("<button>Buy</button></form>")
		_, _ = w.Write([]byte(b.String()))
	}
	mux.HandleFunc("GET /pass", func(w http.ResponseWriter, _ *http.Request) { draw(w, url.Values{}, nil) })
	mux.HandleFunc("GET /passes", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		select {
		case name := <-said:
			fmt.Fprintf(w, "<p>Thanks, %s</p>", html.EscapeString(name))
		default:
			fmt.Fprint(w, "<p>All passes</p>")
		}
	})
	mux.HandleFunc("POST /pass", func(w http.ResponseWriter, r *http.Request) {
		_ = r.ParseForm()
		v := r.PostForm
		if wrong := check(v); len(wrong) > 0 {
			draw(w, v, wrong)
			return
		}
		get := func(n string) string { return v.Get("pass[" + n + "]") }
		holder := strings.Join(strings.Fields(get("holder")), " ")
		null := func(s string) any {
			if s == "" {
				return nil
			}
			return s
		}
		bike := get("bike") != ""
		frame := get("frame")
		if !bike {
			frame = ""
		}
		if _, err := db.Exec("INSERT INTO passes (holder, page, first_at, bike, frame, price, made) VALUES (?, ?, ?, ?, ?, ?, NOW())", holder, null(strings.TrimSpace(get("page"))), get("at"), bike, null(frame), strings.TrimSpace(get("price"))); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		said <- holder
		http.Redirect(w, r, "/passes", http.StatusFound)
	})
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	return server.URL, dsn
}

// TestFurtherKindsGiveNoFalseAlarm: URLs, times, several choices, conditional fields, decimals and a rule across fields, on a site
// that keeps them all.
func TestFurtherKindsGiveNoFalseAlarm(t *testing.T) {
	t.Parallel()
	address, dsn := ferrySite(t)
	require.Empty(t, strings.Join(oddOnes(runAll(t, ferry, address, dsn, testcase.Thorough)), "\n"))
}
