// Command marina serves a made-up site of its own: the sign-up form of a boat club, with six faults. A tester who knows nothing of
// them learns the form from its page and its database.
package main

import (
	"context"
	"database/sql"
	"flag"
	"fmt"
	"html"
	"log"
	"net"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-sql-driver/mysql"
)

// The table refuses nothing that is too long: it cuts it.
const table = `CREATE TABLE crew (
	id INT PRIMARY KEY AUTO_INCREMENT,
	nickname VARCHAR(20) NOT NULL,
	email VARCHAR(120) NOT NULL UNIQUE,
	passphrase VARCHAR(255) NOT NULL,
	born INT NOT NULL,
	berth VARCHAR(10) NOT NULL,
	joined DATETIME NOT NULL
) DEFAULT CHARSET utf8mb4`

var (
	nicknames = regexp.MustCompile(`^[A-Za-z0-9.]+$`)
	addresses = regexp.MustCompile(`^[^\s@]+@[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)*$`)
	berths    = [][2]string{{"north", "North quay"}, {"south", "South quay"}, {"buoy", "On a buoy"}}
)

func main() {
	dsn := flag.String("dsn", "", "the DSN of a `server` that the database marina is made on")
	flag.Parse()
	at, err := mysql.ParseDSN(*dsn)
	if err != nil {
		log.Fatal(err)
	}
	db, err := open(at)
	if err != nil {
		log.Fatal(err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		log.Fatal(err)
	}
	fmt.Printf("Its database is %s@tcp(%s)/marina\n", at.User, at.Addr)
	fmt.Printf("The marina is at http://%s\n", l.Addr())
	server := http.Server{Handler: site(db), ReadHeaderTimeout: 10 * time.Second}
	log.Fatal(server.Serve(l))
}

// open makes the database anew, with its table.
func open(at *mysql.Config) (*sql.DB, error) {
	at.Params = map[string]string{"sql_mode": "''"}
	at.DBName = ""
	for _, statement := range []string{"DROP DATABASE IF EXISTS marina", "CREATE DATABASE marina", table} {
		db, err := sql.Open("mysql", at.FormatDSN())
		if err == nil {
			_, err = db.ExecContext(context.Background(), statement)
		}
		if err != nil {
			return nil, err
		}
		if err := db.Close(); err != nil {
			return nil, err
		}
		if strings.HasPrefix(statement, "CREATE DATABASE") {
			at.DBName = "marina"
		}
	}
	return sql.Open("mysql", at.FormatDSN())
}

func site(db *sql.DB) http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /crew/new", func(w http.ResponseWriter, _ *http.Request) { show(w, http.StatusOK, nil, nil) })
	mux.HandleFunc("GET /crew/welcome", func(w http.ResponseWriter, _ *http.Request) {
		page(w, http.StatusOK, `<p class="notice">Welcome aboard. We have kept a hook for your oilskins.</p>`)
	})
	mux.HandleFunc("POST /crew", func(w http.ResponseWriter, r *http.Request) {
		r.Body = http.MaxBytesReader(w, r.Body, 1<<20)
		if err := r.ParseForm(); err != nil {
			http.Error(w, "That cannot be read.", http.StatusBadRequest)
			return
		}
		f := func(name string) string { return strings.TrimSpace(r.PostForm.Get(name)) }
		wrong := map[string]string{}
		switch n := utf8.RuneCountInString(f("nickname")); {
		case n == 0:
			wrong["nickname"] = "Tell us your nickname."
		case n > 24: // and nobody looks whether it has three: the first fault; the column cuts it at 20: the second
			wrong["nickname"] = "Nicknames have 3 to 24 characters."
		case !nicknames.MatchString(f("nickname")):
			wrong["nickname"] = "Use letters, digits and dots only."
		}
		switch {
		case f("email") == "":
			wrong["email"] = "Tell us your e-mail address."
		case utf8.RuneCountInString(f("email")) > 120:
			wrong["email"] = "E-mail addresses have at most 120 characters."
		case !addresses.MatchString(f("email")):
			wrong["email"] = "That is not an e-mail address."
		}
		secret := r.PostForm.Get("passphrase")
		switch {
		case secret == "":
			wrong["passphrase"] = "Choose a passphrase."
		case utf8.RuneCountInString(secret) < 12, utf8.RuneCountInString(secret) > 60:
			wrong["passphrase"] = "Passphrases have 12 to 60 characters."
		}
		// nobody compares the two passphrases: the third
		born, err := strconv.Atoi(f("born"))
		switch {
		case f("born") == "":
			wrong["born"] = "Tell us your year of birth."
		case err != nil:
			wrong["born"] = "Write the year in digits."
		case born < 1920 || born > 2011: // one too many: the fourth
			wrong["born"] = "Crew are born from 1920 to 2010."
		}
		if known := map[string]bool{"north": true, "south": true, "buoy": true}; !known[f("berth")] {
			wrong["berth"] = "Choose a berth."
		}
		if f("rules") == "" {
			wrong["rules"] = "Please accept the harbour's rules."
		}
		if len(wrong) == 0 {
			// the passphrase itself is stored: the fifth
			_, err := db.ExecContext(r.Context(), `INSERT INTO crew (nickname, email, passphrase, born, berth, joined) VALUES (?, ?, ?, ?, ?, UTC_TIMESTAMP())`,
				f("nickname"), strings.ToLower(f("email")), secret, born, f("berth"))
			if err == nil {
				http.Redirect(w, r, "/crew/welcome", http.StatusSeeOther)
				return
			}
			if !strings.Contains(err.Error(), "Duplicate") {
				http.Error(w, "The harbour office is closed.", http.StatusInternalServerError)
				return
			}
			wrong["email"] = "That address is aboard already."
		}
		show(w, http.StatusUnprocessableEntity, f, wrong)
	})
	return mux
}

func page(w http.ResponseWriter, status int, body string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(status)
	fmt.Fprint(w, `<!doctype html><html lang="en"><title>Marram Sands Boat Club</title><h1>Marram Sands Boat Club</h1>`+body)
}

// show writes the form, with what was typed and what is wrong with it.
func show(w http.ResponseWriter, status int, typed func(string) string, wrong map[string]string) {
	if typed == nil {
		typed = func(string) string { return "" }
	}
	said := func(name string) string {
		if wrong[name] == "" {
			return ""
		}
		return `<span class="error" id="` + name + `-error">` + html.EscapeString(wrong[name]) + `</span>`
	}
	input := func(name, label, rest, value string) string {
		tied := ""
		if wrong[name] != "" {
			tied = ` aria-invalid="true" aria-describedby="` + name + `-error"`
		}
		return `<p><label for="` + name + `">` + label + `</label> <input id="` + name + `" name="` + name + `" ` + rest + tied + ` value="` + html.EscapeString(value) + `">` + said(name) + `</p>`
	}
	var choices strings.Builder
	for _, b := range berths {
		chosen := ""
		if typed("berth") == b[0] {
			chosen = " selected"
		}
		fmt.Fprintf(&choices, `<option value=%q%s>%s</option>`, b[0], chosen, b[1])
	}
	ticked := ""
	if typed("rules") != "" {
		ticked = " checked"
	}
	page(w, status, `<h2>Join the crew</h2><form method="post" action="/crew">`+
		input("nickname", "Nickname", `required minlength="3" maxlength="24" pattern="[A-Za-z0-9.]+" title="Letters, digits and dots"`, typed("nickname"))+
		input("email", "E-mail", `type="email" required maxlength="120"`, "")+ // what was typed is lost: the sixth
		input("passphrase", "Passphrase", `type="password" required minlength="12" maxlength="60" autocomplete="new-password"`, "")+
		input("passphrase_again", "Passphrase again", `type="password" required autocomplete="new-password"`, "")+
		input("born", "Year of birth", `type="number" required min="1920" max="2010"`, typed("born"))+
		`<p><label for="berth">Berth</label> <select id="berth" name="berth" required><option value="">Choose …</option>`+choices.String()+`</select>`+said("berth")+`</p>`+
		`<p><label><input type="checkbox" name="rules" value="yes" required`+ticked+`> I accept the harbour's rules</label>`+said("rules")+`</p>`+
		`<button>Come aboard</button></form>`)
}
