package ordinary

import (
	"database/sql"
	"net/http"
	"slices"
	"strings"
	"unicode/utf8"
)

// tables writes rows in several tables: one only where power is asked for, one only where there is a note, and one for each of the goods,
// the last ticked first.
var tables = Family{
	Name:   "tables",
	Faults: map[string]string{"no-power": "stored_data", "goods-lost": "stored_data", "note-cut": "stored_data"},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		goods := []string{"fish=Fish", "rope=Rope", "jam=Jam"}
		form := func(w http.ResponseWriter, r *http.Request, errs map[string]string) {
			said := func(name string) string {
				if errs[name] == "" {
					return ""
				}
				return ` <em class="err">` + errs[name] + `</em>`
			}
			boxes := ""
			for _, g := range goods {
				value, label, _ := strings.Cut(g, "=")
				boxes += `<label><input type="checkbox" name="goods" value="` + value + `"` + chosen("checked", slices.Contains(r.PostForm["goods"], value)) + `> ` + label + `</label>`
			}
			page(w, 200, "A stall at the harbour market", `<form method="post" action="/stall"><p><label>Trader <input name="trader" value="`+esc(r.PostFormValue("trader"))+`"></label>`+said("trader")+`</p><fieldset><legend>Goods</legend>`+boxes+said("goods")+
				`</fieldset><p><label><input type="checkbox" name="power" value="1"`+chosen("checked", r.PostFormValue("power") != "")+`> Power</label></p><p><label>Watts <input name="watts" value="`+esc(r.PostFormValue("watts"))+`"></label>`+said("watts")+
				`</p><p><label>Note <textarea name="note">`+"\n"+esc(r.PostFormValue("note"))+`</textarea></label>`+said("note")+`</p><button>Ask for a stall</button></form>`)
		}
		mux.HandleFunc("GET /stall", func(w http.ResponseWriter, r *http.Request) { form(w, r, nil) })
		mux.HandleFunc("GET /stalls", func(w http.ResponseWriter, _ *http.Request) {
			page(w, 200, "The harbour market", "<p>Twelve stalls.</p>")
		})
		mux.HandleFunc("POST /stall", func(w http.ResponseWriter, r *http.Request) {
			trader, note, watts := strings.TrimSpace(r.PostFormValue("trader")), strings.TrimSpace(r.PostFormValue("note")), 0
			errs := map[string]string{}
			if n := utf8.RuneCountInString(trader); n == 0 {
				errs["trader"] = "Who trades?"
			} else if n > 30 {
				errs["trader"] = "Use at most 30 characters."
			}
			var chosen []string
			for _, g := range r.PostForm["goods"] {
				if !slices.ContainsFunc(goods, func(o string) bool { return strings.HasPrefix(o, g+"=") }) {
					errs["goods"] = "Choose from the list."
				} else if !slices.Contains(chosen, g) {
					chosen = append(chosen, g)
				}
			}
			if len(r.PostForm["goods"]) == 0 {
				errs["goods"] = "What do you sell?"
			}
			if r.PostFormValue("power") != "" {
				n, ok := whole(strings.TrimSpace(r.PostFormValue("watts")), 10, 2000)
				if watts = n; !ok {
					errs["watts"] = "10 to 2000 watts."
				}
			}
			if utf8.RuneCountInString(note) > 80 {
				errs["note"] = "Use at most 80 characters."
			}
			if len(errs) > 0 {
				form(w, r, errs)
				return
			}
			tx, err := db.Begin()
			must(err)
			res, err := tx.Exec("INSERT INTO stalls (trader) VALUES (?)", trader)
			must(err)
			id, err := res.LastInsertId()
			must(err)
			if note != "" {
				if fault == "note-cut" {
					note, _, _ = strings.Cut(note, "\n")
					note = note[:min(len(note), 40)]
				}
				_, err = tx.Exec("INSERT INTO notes (stall, note) VALUES (?, ?)", id, strings.ToValidUTF8(note, ""))
				must(err)
			}
			if watts > 0 && (fault != "no-power" || watts < 100) {
				_, err = tx.Exec("INSERT INTO powers (stall, watts) VALUES (?, ?)", id, watts)
				must(err)
			}
			if fault == "goods-lost" {
				chosen = chosen[:1]
			}
			for _, g := range slices.Backward(chosen) {
				_, err = tx.Exec("INSERT INTO stall_goods (stall, good) VALUES (?, ?)", id, g)
				must(err)
			}
			must(tx.Commit())
			http.Redirect(w, r, "/stalls", http.StatusFound)
		})
		return mux
	},
}
