package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync/atomic"
	"unicode/utf8"
)

var (
	address     = regexp.MustCompile(`^[a-z0-9.]{1,20}@[a-z0-9]{1,20}\.test$`)
	smallLetter = regexp.MustCompile(`^[a-z ]+$`)
)

// mails pins up notices, tells the board by mail, and sends whoever asks for it a copy. Its mails are left in a maildir.
var mails = Family{
	Name: "mails",
	Faults: map[string]string{
		"board-not-told": "messages", "told-twice": "messages", "other-subject": "messages", "link-to-another": "messages", "copy-unasked": "messages", "copy-not-sent": "messages", "text-lost": "messages",
		"told-before-checking": "messages",
	},
	mailing: func(db *sql.DB, fault, folder string) http.Handler {
		for _, part := range []string{"tmp", "new", "cur"} {
			must(os.MkdirAll(filepath.Join(folder, part), 0o700))
		}
		var count atomic.Int64
		send := func(to, subject, text string) {
			name := fmt.Sprintf("%d.notice", count.Add(1))
			must(os.WriteFile(filepath.Join(folder, "tmp", name), []byte("From: notices@oakfield.test\r\nTo: "+to+"\r\nSubject: "+subject+"\r\nContent-Type: text/plain; charset=utf-8\r\n\r\n"+text+"\r\n"), 0o600))
			must(os.Rename(filepath.Join(folder, "tmp", name), filepath.Join(folder, "new", name)))
		}
		mux := http.NewServeMux()
		form := func(w http.ResponseWriter, r *http.Request, status int, errs map[string]string) {
			page(w, status, "Pin up a notice", `<form method="post" action="/notice">`+textField(r, "mail", "E-mail", errs["mail"])+textField(r, "text", "Notice", errs["text"])+`<label><input type="checkbox" name="copy"`+chosen("checked", r.PostFormValue("copy") != "")+`> Send me a copy</label><button>Pin it up</button></form>`)
		}
		mux.HandleFunc("GET /notice", func(w http.ResponseWriter, r *http.Request) { form(w, r, 200, nil) })
		mux.HandleFunc("GET /pinned", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Pinned up", "<p>All can read it.</p>") })
		mux.HandleFunc("POST /notice", func(w http.ResponseWriter, r *http.Request) {
			errs := map[string]string{}
			mail, text, copied := strings.TrimSpace(r.PostFormValue("mail")), strings.TrimSpace(r.PostFormValue("text")), r.PostFormValue("copy") != ""
			if fault == "told-before-checking" {
				send("board@oakfield.test", "Notice", "A notice was sent in.")
			}
			switch {
			case mail == "":
				errs["mail"] = "Say where we reach you."
			case !address.MatchString(mail):
				errs["mail"] = "This is no address."
			}
			switch {
			case text == "":
				errs["text"] = "Write something."
			case !smallLetter.MatchString(text):
				errs["text"] = "Small letters only."
			case utf8.RuneCountInString(text) > 60:
				errs["text"] = "At most 60 characters."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, errs)
				return
			}
			made, err := db.Exec("INSERT INTO notices (mail, text, copy) VALUES (?, ?, ?)", mail, text, copied)
			must(err)
			id, err := made.LastInsertId()
			must(err)
			subject, link, said := fmt.Sprintf("Notice %d", id), id, text
			switch fault {
			case "other-subject":
				subject = "Notice"
			case "link-to-another":
				link++
			case "text-lost":
				said = strings.Fields(text)[0][:1]
			}
			times := 1
			switch fault {
			case "board-not-told":
				times = 0
			case "told-twice":
				times = 2
			}
			for range times {
				send("board@oakfield.test", subject, fmt.Sprintf("%s writes:\r\n%s\r\n\r\nhttp://%s/notices/%d", mail, said, r.Host, link))
			}
			if copied && fault != "copy-not-sent" || fault == "copy-unasked" {
				send(mail, "Your copy", "Thank you for your notice.")
			}
			http.Redirect(w, r, "/pinned", http.StatusSeeOther)
		})
		return mux
	},
}
