package sheds

import (
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// What a shed can be like.
var (
	sizes = []string{"small", "middle", "large"}
	uses  = []string{"tools", "bikes", "seeds", "bees"}
)

const maxDrawing = 200_000 // bytes

func (s *Site) nameTaken(r *http.Request, name string) (bool, error) {
	if s.on("build-name-case") {
		return s.exists(r.Context(), "SELECT COUNT(*) FROM sheds WHERE BINARY shed_name = ?", name)
	}
	return s.exists(r.Context(), "SELECT COUNT(*) FROM sheds WHERE LOWER(shed_name) = LOWER(?)", name)
}

// nameFree answers the page's question while somebody types.
func (s *Site) nameFree(w http.ResponseWriter, r *http.Request) {
	taken, err := s.nameTaken(r, strings.TrimSpace(r.URL.Query().Get("name")))
	if err != nil {
		fail(w, "look up a shed's name", err)
		return
	}
	answer(w, http.StatusOK, "application/json", map[string]bool{"free": !taken})
}

// apply keeps an application for a shed, which comes as multipart form data with a drawing.
func (s *Site) apply(w http.ResponseWriter, r *http.Request) {
	tenant := s.tenantOf(r)
	if tenant == 0 && s.on("build-open") {
		tenant = 31
	}
	if tenant == 0 {
		s.signedIn(w, r)
		return
	}
	if err := r.ParseMultipartForm(1 << 20); err != nil {
		status := http.StatusBadRequest
		if errors.Is(err, http.ErrNotMultipart) {
			status = http.StatusUnsupportedMediaType
		}
		refuse(w, status, "The body is not multipart form data.", nil)
		return
	}
	defer func() { _ = r.MultipartForm.RemoveAll() }()
	name, note := strings.TrimSpace(r.FormValue("shedName")), strings.TrimSpace(strings.ReplaceAll(r.FormValue("note"), "\r\n", "\n"))
	plot, err := s.plotNamed(r.Context(), r.FormValue("plot"))
	if err != nil {
		fail(w, "look up a plot", err)
		return
	}
	var errs wrong
	shortest := 3
	if s.on("build-name-two") {
		shortest = 2
	}
	switch n := utf8.RuneCountInString(name); {
	case n == 0:
		errs.say("shedName", "Give your shed a name.")
	case n < shortest || n > 30:
		errs.say("shedName", "Use 3 to 30 characters.")
	default:
		taken, err := s.nameTaken(r, name)
		if err != nil {
			fail(w, "look up a shed's name", err)
			return
		}
		if taken {
			errs.say("shedName", "There is a shed of this name.")
		}
	}
	if plot == "" {
		errs.say("plot", "Choose a plot from the list.")
	}
	size := r.FormValue("size")
	if !slices.Contains(sizes, size) && !(s.on("build-size-unknown") && size != "") {
		errs.say("size", "Choose a size.")
	}
	tallest := 250
	if s.on("build-height-over") {
		tallest = 255
	}
	height, err := strconv.Atoi(r.FormValue("height"))
	if err != nil || height < 180 || height > tallest || height%5 != 0 && !s.on("build-height-between") {
		errs.say("height", "A shed is 180 to 250 cm high, in steps of 5.")
	}
	chosen := r.MultipartForm.Value["uses"]
	switch {
	case len(chosen) == 0:
		if !s.on("build-uses-none") {
			errs.say("uses", "Say what the shed is for.")
		}
	case slices.ContainsFunc(chosen, func(u string) bool { return !slices.Contains(uses, u) }):
		errs.say("uses", "Choose from the list.")
	}
	starts, isDay := day(r.FormValue("startsOn"))
	switch {
	case !isDay:
		errs.say("startsOn", "Choose the first day of work.")
	case starts.Before(today()) && !s.on("build-start-past"), starts.After(today().AddDate(0, 0, 365)):
		errs.say("startsOn", "Work starts today at the earliest, and within 365 days.")
	}
	if utf8.RuneCountInString(note) > 200 {
		errs.say("note", "Use at most 200 characters.")
	}
	var drawingName, drawingSize any
	if list := r.MultipartForm.File["drawing"]; len(list) > 0 && (list[0].Size > 0 || list[0].Filename != "") {
		kind := list[0].Header.Get("Content-Type")
		switch {
		case kind != "image/png" && kind != "application/pdf" && !s.on("build-drawing-any"):
			errs.say("drawing", "A drawing is a PNG or PDF file.")
		case list[0].Size > maxDrawing && !s.on("build-drawing-large"):
			errs.say("drawing", "A drawing has at most 200,000 bytes.")
		}
		drawingName, drawingSize = list[0].Filename, list[0].Size
	}
	if len(errs) > 0 {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", errs)
		return
	}
	if s.on("build-drawing-lost") {
		drawingName = nil
	}
	power := r.FormValue("power") == "on"
	approved := s.on("build-surplus") && r.FormValue("approved") != ""
	var kept any
	if note != "" {
		kept = note
	}
	tx, err := s.db.BeginTx(r.Context(), nil)
	if err != nil {
		fail(w, "keep an application", err)
		return
	}
	defer func() { _ = tx.Rollback() }()
	res, err := tx.Exec("INSERT INTO sheds (tenant, shed_name, plot, size_code, height_cm, power, starts_on, note, drawing_name, drawing_size, approved, applied_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
		tenant, name, r.FormValue("plot"), size, height, power != s.on("build-power-reversed"), starts.Format(time.DateOnly), kept, drawingName, drawingSize, approved, now())
	if isTaken(err) {
		refuse(w, http.StatusUnprocessableEntity, "Please check what you have entered.", wrong{{"shedName", "There is a shed of this name."}})
		return
	}
	if err != nil {
		fail(w, "keep an application", err)
		return
	}
	id, _ := res.LastInsertId()
	for i, u := range chosen {
		if i > 0 && s.on("build-uses-first") {
			break
		}
		if _, err := tx.Exec("INSERT IGNORE INTO shed_uses (shed, use_code) VALUES (?, ?)", id, u); err != nil {
			fail(w, "keep what a shed is for", err)
			return
		}
	}
	if err := tx.Commit(); err != nil {
		fail(w, "keep an application", err)
		return
	}
	answer(w, http.StatusCreated, "application/json", map[string]any{"id": id, "shedName": name})
}
