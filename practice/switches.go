package practice

import (
	"context"
	"html/template"
	"net/http"
)

// SwitchPage serves, at /switches, the page on which a site's faults are switched. on tells whether one is, set switches those that are
// chosen and all others off.
func SwitchPage(title string, faults []Fault, on func(fault string) bool, set func(ctx context.Context, on Switches) error) http.Handler {
	pages := template.Must(template.ParseFS(pageFiles, "pages/switches.html"))
	mux := http.NewServeMux()
	mux.HandleFunc("GET /switches/style.css", func(w http.ResponseWriter, _ *http.Request) { serveFile(w, "style.css", "text/css") })
	mux.HandleFunc("GET /switches", func(w http.ResponseWriter, _ *http.Request) {
		type row struct {
			Fault
			On bool
		}
		var rows []row
		for _, f := range faults {
			rows = append(rows, row{f, on(f.Name)})
		}
		h := w.Header()
		h.Set("Content-Type", "text/html; charset=utf-8")
		h.Set("Cache-Control", "no-store")
		h.Set("Content-Security-Policy", "default-src 'self'")
		_ = pages.ExecuteTemplate(w, "switches.html", map[string]any{"Title": title, "Rows": rows}) // whoever went away is not told
	})
	mux.HandleFunc("POST /switches", func(w http.ResponseWriter, r *http.Request) {
		if err := r.ParseForm(); err != nil {
			http.Error(w, "The form cannot be read.", http.StatusBadRequest)
			return
		}
		chosen, err := ReadSwitches(faults, r.PostForm["fault"])
		if err != nil {
			http.Error(w, err.Error(), http.StatusBadRequest)
			return
		}
		if err := set(r.Context(), chosen); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
			return
		}
		http.Redirect(w, r, "/switches", http.StatusSeeOther)
	})
	return mux
}

// serveFile serves a file of the pages.
func serveFile(w http.ResponseWriter, name, kind string) {
	text, _ := pageFiles.ReadFile("pages/" + name) // it is embedded
	w.Header().Set("Content-Type", kind+"; charset=utf-8")
	_, _ = w.Write(text)
}
