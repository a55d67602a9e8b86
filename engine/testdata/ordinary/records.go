package ordinary

import (
	"database/sql"
	"fmt"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"
)

var letters = regexp.MustCompile(`^[A-Za-z ]+$`)

// records lets a keeper edit a hive: only the own one, only while it is open, and only from the page's own version of it. It tells of a name
// that is taken on a page of its own, and what it says of frames depends on the hive's kind.
var records = Family{
	Name: "records",
	Faults: map[string]string{
		"anyone-may-save": "outcome", "gone-is-saved": "outcome", "closed-is-saved": "outcome", "old-version-saved": "outcome", "deleted-by-parameter": "stored_data", "any-size": "outcome", "any-bytes": "outcome",
		"one-message-for-all": "messages", "no-way-back": "messages", "form-under-sorry": "messages",
	},
	open: func(db *sql.DB, fault string) http.Handler {
		mux := http.NewServeMux()
		mux.HandleFunc("GET /in", func(w http.ResponseWriter, _ *http.Request) {
			page(w, 200, "Sign in", `<form method="post" action="/in"><label>Login <input name="login"></label><label>Word <input type="password" name="word"></label><button>Sign in</button></form>`)
		})
		mux.HandleFunc("POST /in", func(w http.ResponseWriter, r *http.Request) {
			if r.PostFormValue("word") == "smoke and wax" {
				http.SetCookie(w, &http.Cookie{Name: "keeper", Value: r.PostFormValue("login"), Path: "/"})
			}
			http.Redirect(w, r, "/hives", http.StatusSeeOther)
		})
		mux.HandleFunc("GET /hives", func(w http.ResponseWriter, _ *http.Request) { page(w, 200, "Hives", `<p>Bees are busy.</p>`) })
		keeper := func(r *http.Request) (id int) {
			if c, err := r.Cookie("keeper"); err == nil {
				_ = db.QueryRow("SELECT id FROM keepers WHERE login = ?", c.Value).Scan(&id)
			}
			return id
		}
		form := func(w http.ResponseWriter, r *http.Request, status int, hive, version string, v func(string) string, errs map[string]string) {
			field := func(name, label, control string) string {
				if errs[name] != "" {
					control += `<span class="error" id="` + name + `-error">` + errs[name] + `</span>`
				}
				return `<p><label>` + label + ` ` + control + `</label></p>`
			}
			page(w, status, "Edit the hive", `<form method="post" action="/hives/`+hive+`"><input type="hidden" name="version" value="`+esc(version)+`">`+field("name", "Name", `<input name="name" value="`+esc(v("name"))+`">`)+
				field("kind", "Kind", `<select name="kind"><option></option>`+options(v("kind"), "wood=Wood", "straw=Straw")+`</select>`)+field("frames", "Frames", `<input name="frames" value="`+esc(v("frames"))+`">`)+`<button>Save</button></form>`)
		}
		mux.HandleFunc("GET /hives/{id}/edit", func(w http.ResponseWriter, r *http.Request) {
			var name, kind, frames, version string
			var owner int
			err := db.QueryRow("SELECT keeper, name, kind, frames, version FROM hives WHERE id = ?", r.PathValue("id")).Scan(&owner, &name, &kind, &frames, &version)
			if err != nil || owner != keeper(r) {
				page(w, http.StatusForbidden, "No", "<p>This hive is not yours.</p>")
				return
			}
			form(w, r, 200, r.PathValue("id"), version, func(n string) string { return map[string]string{"name": name, "kind": kind, "frames": frames}[n] }, nil)
		})
		mux.HandleFunc("POST /hives/{id}", func(w http.ResponseWriter, r *http.Request) {
			id := r.PathValue("id")
			if fault != "any-size" {
				r.Body = http.MaxBytesReader(w, r.Body, 20000)
			}
			if err := r.ParseForm(); err != nil {
				page(w, http.StatusRequestEntityTooLarge, "Too large", "<p>That is too much.</p>")
				return
			}
			for _, v := range r.PostForm {
				if !utf8.ValidString(v[0]) && fault != "any-bytes" {
					page(w, http.StatusBadRequest, "Bad request", "<p>That cannot be read.</p>")
					return
				}
			}
			if r.PostFormValue("_method") == "DELETE" && fault == "deleted-by-parameter" {
				exec(db, "DELETE FROM hives WHERE id = ?", id)
				page(w, 200, "Gone", "<p>The hive is gone.</p>")
				return
			}
			var owner, version int
			var closed bool
			err := db.QueryRow("SELECT keeper, closed, version FROM hives WHERE id = ?", id).Scan(&owner, &closed, &version)
			switch {
			case keeper(r) == 0:
				page(w, http.StatusUnauthorized, "No", "<p>Sign in first.</p>")
				return
			case err != nil && fault == "gone-is-saved":
				exec(db, "INSERT INTO hives (keeper, name, kind, frames, closed, version) VALUES (?, 'new', 'wood', 1, 0, 1)", keeper(r))
				http.Redirect(w, r, "/hives", http.StatusSeeOther)
				return
			case err != nil:
				page(w, http.StatusNotFound, "None", "<p>There is no such hive.</p>")
				return
			case owner != keeper(r) && fault != "anyone-may-save":
				page(w, http.StatusForbidden, "No", "<p>This hive is not yours.</p>")
				return
			case closed && fault != "closed-is-saved":
				page(w, http.StatusConflict, "Closed", "<p>The hive is closed.</p>")
				return
			case r.PostFormValue("version") != strconv.Itoa(version) && id == "1" && fault != "old-version-saved":
				page(w, http.StatusConflict, "Changed", "<p>The hive was changed in the meantime.</p>")
				return
			}
			name, kind, frames := strings.TrimSpace(r.PostFormValue("name")), r.PostFormValue("kind"), strings.TrimSpace(r.PostFormValue("frames"))
			errs := map[string]string{}
			switch {
			case name == "":
				errs["name"] = "A hive has a name."
			case fault == "any-bytes" && !utf8.ValidString(name):
				name = "Odd"
			case !letters.MatchString(name):
				errs["name"] = "Letters only."
			case len(name) > 20:
				errs["name"] = "At most 20 letters."
			}
			if kind != "wood" && kind != "straw" {
				errs["kind"] = "Say of what it is made."
			}
			n, ok := whole(frames, -1e9, 1e9)
			switch {
			case !ok:
				errs["frames"] = "How many frames?"
			case (n < 1 || n > 12) && kind == "straw" && fault != "one-message-for-all":
				errs["frames"] = "Straw hives have 1 to 12 frames too."
			case n < 1 || n > 12:
				errs["frames"] = "Between 1 and 12 frames."
			}
			if len(errs) > 0 {
				form(w, r, http.StatusUnprocessableEntity, id, r.PostFormValue("version"), r.PostFormValue, errs)
				return
			}
			if has(db, "hives WHERE name = ? AND id <> ?", name, id) {
				body := `<p>That name is taken.</p><p><a href="/hives">All hives</a></p>`
				switch fault {
				case "no-way-back":
					body = `<p>That name is taken.</p>`
				case "form-under-sorry":
					form(w, r, http.StatusConflict, id, r.PostFormValue("version"), r.PostFormValue, map[string]string{"name": "That name is taken."})
					return
				}
				page(w, http.StatusConflict, "Sorry", body)
				return
			}
			exec(db, fmt.Sprintf("UPDATE hives SET name = ?, kind = ?, frames = %d, version = version + 1 WHERE id = ?", n), name, kind, id)
			http.Redirect(w, r, "/hives", http.StatusSeeOther)
		})
		return mux
	},
}
