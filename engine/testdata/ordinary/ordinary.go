// Package ordinary is small sites, each with habits that many sites have and the practice site has not: notices on the page one lands on,
// help where errors stand, errors on pages of their own, cookies with paths, keys that change. Without a fault each is right in every
// respect; each has faults of its own.
package ordinary

import (
	"database/sql"
	"embed"
	"encoding/json"
	"fmt"
	"html"
	"io"
	"math"
	"net/http"
	"strconv"
	"strings"
)

//go:embed *.yaml *.sql
var files embed.FS

// Family is a site of some habits.
type Family struct {
	Name string
	// Faults are its own, by the name of the check that each shows in.
	Faults map[string]string
	// InBrowser: they are seen in a browser alone.
	InBrowser bool
	// open serves the site with one fault, or none where it is "".
	open func(db *sql.DB, fault string) http.Handler
	// mailing serves a site that leaves its mails in a folder, in place of open.
	mailing func(db *sql.DB, fault, folder string) http.Handler
}

// Families are all of them.
var Families = []Family{landing, help, ownPage, behind, tables, keys, latin, chunked, tokens, summary, places, facts, among, refusals, buttons, formats, tongues, mails, records, stays, claims, crews, quotes, tides, decks, knots}

// Open serves the site with one fault, or none where it is "". A site that sends mails leaves them in the folder.
func (f *Family) Open(db *sql.DB, fault, folder string) http.Handler {
	if f.mailing != nil {
		return f.mailing(db, fault, folder)
	}
	return f.open(db, fault)
}

// Document is the family's project: the site document, and the form's.
func (f *Family) Document() []byte { return f.file("yaml") }

// Tables are the statements that make its tables.
func (f *Family) Tables() string { return string(f.file("sql")) }

func (f *Family) file(ending string) []byte {
	text, err := files.ReadFile(f.Name + "." + ending)
	if err != nil {
		panic(err)
	}
	return text
}

// page begins an HTML page.
func page(w http.ResponseWriter, status int, title, body string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	fmt.Fprintf(w, "<!doctype html><html lang=en><head><title>%[1]s</title></head><body><h1>%[1]s</h1>%[2]s</body></html>", title, body)
}

// esc escapes a text for HTML.
func esc(text string) string { return html.EscapeString(text) }

// textField is a text control with what was sent for it, and what is said at it, "" for nothing.
func textField(r *http.Request, name, label, said string) string {
	refers, message := "", ""
	if said != "" {
		refers, message = ` aria-describedby="`+name+`-error"`, `<span id="`+name+`-error" class="error">`+said+`</span>`
	}
	return `<p><label>` + label + ` <input name="` + name + `" value="` + esc(r.PostFormValue(name)) + `"` + refers + `></label>` + message + `</p>`
}

// chosen is the attribute of an option or button that is chosen.
func chosen(attribute string, is bool) string {
	if is {
		return " " + attribute
	}
	return ""
}

// options are a choice's, with the one that is chosen.
func options(held string, list ...string) string {
	var out strings.Builder
	for _, o := range list {
		value, label, _ := strings.Cut(o, "=")
		fmt.Fprintf(&out, `<option value="%s"%s>%s</option>`, value, chosen("selected", held == value), label)
	}
	return out.String()
}

// whole reads a whole number as HTML has it, with an exponent too; ok is false for anything else and outside the bounds.
func whole(text string, least, most float64) (n int, ok bool) {
	x, err := strconv.ParseFloat(text, 64)
	ok = err == nil && !strings.ContainsAny(text, "xXpP_iInN+") && x >= least && x <= most && x == math.Trunc(x)
	return int(x), ok
}

// jsonMember is a text that is a member of a request's JSON object.
func jsonMember(r *http.Request, name string) (text string, ok bool) {
	var body map[string]any
	if json.NewDecoder(io.LimitReader(r.Body, 1<<20)).Decode(&body) != nil {
		return "", false
	}
	text, ok = body[name].(string)
	return text, ok
}

// must is for what a site's own database refuses though it should not: the end of the connection.
func must(err error) {
	if err != nil {
		panic(err)
	}
}

// has tells whether a query finds a row.
func has(db *sql.DB, query string, args ...any) bool {
	var n int
	must(db.QueryRow("SELECT COUNT(*) FROM "+query, args...).Scan(&n))
	return n > 0
}

func exec(db *sql.DB, statement string, args ...any) {
	_, err := db.Exec(statement, args...)
	must(err)
}
