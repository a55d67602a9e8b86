package engine_test

import (
	"database/sql"
	"fmt"
	"html"
	"image"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"oddtick/core/testcase"

	_ "image/gif"

	_ "image/jpeg"

	_ "image/png"
	"oddtick/core/judge"
	"oddtick/internal/localdb/dbtest"

	"github.com/stretchr/testify/require"
)

const scarecrow = `
form: scarecrow
page: /scarecrow
submit: {method: POST, to: /scarecrow, encoding: multipart}
fields:
  - {name: name, label: Name, normalize: [trim], rules: [{required: {message: Name it.}}, {length: {max: 20, message: At most 20.}}]}
  - {name: photo, label: Photo, kind: file, rules: [{required: {message: Show it.}}, {file: {max: 5000, types: [image/*], message: "A picture of at most 5000 bytes."}}]}
rejected: {status: 422, place: field}
accepted: {status: 303, to: /thanks}
stored: [{insert: scarecrows, columns: {name: {from: name}, file_name: {from: photo, file: name}, bytes: {from: photo, file: size}}}]
`

// scarecrowSite takes pictures that it can read, up to most bytes.
func scarecrowSite(t testing.TB, most int64) (address, dsn string) {
	dsn = dbtest.DSN(t)
	dbtest.Exec(t, dsn, "CREATE TABLE scarecrows (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(20) NOT NULL, file_name VARCHAR(100) NOT NULL, bytes INT NOT NULL) CHARACTER SET utf8mb4")
	db, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	t.Cleanup(func() { db.Close() })
	mux := http.NewServeMux()
	page := func(w http.ResponseWriter, status int, name, nameSays, photoSays string) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.WriteHeader(status)
		fmt.Fprintf(w, `<!doctype html><title>Scarecrows</title><form method="post" action="/scarecrow" enctype="multipart/form-data">
<div><label for="n">Name</label><input id="n" name="name" value="%s"><p class="error">%s</p></div>
<div><label for="p">Photo</label><input id="p" type="file" name="photo"><p class="error">%s</p></div><button>Send</button></form>`, html.EscapeString(name), nameSays, photoSays)
	}
	mux.HandleFunc("GET /scarecrow", func(w http.ResponseWriter, r *http.Request) { page(w, 200, "", "", "") })
	mux.HandleFunc("GET /thanks", func(w http.ResponseWriter, r *http.Request) { fmt.Fprint(w, "<!doctype html><p>Thanks.</p>") })
	mux.HandleFunc("POST /scarecrow", func(w http.ResponseWriter, r *http.Request) {
		name, nameSays, photoSays := strings.TrimSpace(r.FormValue("name")), "", ""
		switch {
		case name == "":
			nameSays = "Name it."
		case len([]rune(name)) > 20:
			nameSays = "At most 20."
		}
		file, head, err := r.FormFile("photo")
		switch {
		case err != nil:
			photoSays = "Show it."
		case head.Size > most || !readable(file):
			photoSays = "A picture of at most 5000 bytes."
		}
		if nameSays+photoSays != "" {
			page(w, 422, r.FormValue("name"), nameSays, photoSays)
			return
		}
		if _, err := db.Exec("INSERT INTO scarecrows (name, file_name, bytes) VALUES (?, ?, ?)", name, head.Filename, head.Size); err != nil {
			http.Error(w, "sorry", 500)
			return
		}
		http.Redirect(w, r, "/thanks", http.StatusSeeOther)
	})
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	return server.URL, dsn
}

func readable(f multipart.File) bool {
	_, _ = f.Seek(0, io.SeekStart)
	_, _, err := image.DecodeConfig(f)
	return err == nil
}

func TestFilesAreSentByTypeAndSize(t *testing.T) {
	t.Parallel()
	address, dsn := scarecrowSite(t, 5000)
	results := runAll(t, scarecrow, address, dsn, testcase.Thorough)
	require.Empty(t, oddOnes(results))
	for _, id := range []string{"scarecrow/photo.file.max+1/http", "scarecrow/photo.file.max/http", "scarecrow/photo.file.other_type/http", "scarecrow/photo.blank/http", "scarecrow/photo.guess.name/http"} {
		require.NotNil(t, results[id], id)
		require.Equal(t, judge.AsExpected, results[id].Verdict, id)
	}
	sent := results["scarecrow/photo.valid/http"].Steps[0].Observation.Exchanges[0].RequestBody
	require.Contains(t, sent, "leaf.png, image/png, 2048 bytes", "the record holds the file in words")

	address, dsn = scarecrowSite(t, 6000)
	results = runAll(t, scarecrow, address, dsn, testcase.Quick)
	for id, r := range results {
		require.Equal(t, id == "scarecrow/photo.file.max+1/http", r.Verdict == judge.Odd, "%s: %s", id, r.Headline)
	}
}
