package practice

import (
	"context"
	"crypto/subtle"
	"fmt"
	"image"
	_ "image/gif"  // pictures of these kinds are taken
	_ "image/jpeg" // as above
	_ "image/png"  // as above
	"io"
	"mime/multipart"
	"net/http"
	"regexp"
	"strings"
	"time"
	"unicode/utf8"
)

var cropOptions = []option{{"bean", "Beans"}, {"leek", "Leeks"}, {"plum", "Plums"}, {"hony", "Honey"}}

var (
	bedForm    = regexp.MustCompile(`^[0-9]{3}$`)
	weightForm = regexp.MustCompile(`^[+-]?([0-9]+(\.[0-9]*)?|\.[0-9]+)$`)
)

// maxPicture is how large a picture may be, in bytes.
const maxPicture = 200_000

// harvest is a submitted form, normalised.
type harvest struct {
	crop, weight, picked, at, bed, note, pictureName string
	pictureSize                                      int64
	pictured                                         bool
}

type harvestView struct {
	formView
	Crops []option
	Entry string
}

// newEntry is the number of an entry that is yet to be logged.
func (s *Site) newEntry(v *session) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	v.entries++
	return fmt.Sprintf("%s-%d", v.token[:8], v.entries)
}

// spend marks an entry as logged; false where it was before.
func (s *Site) spend(v *session, entry string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	if v.logged[entry] && !s.faults["harvest-again"] {
		return false
	}
	if v.logged == nil {
		v.logged = map[string]bool{}
	}
	v.logged[entry] = true
	return true
}

func (s *Site) harvestPage(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	s.render(w, http.StatusOK, "harvest.html", harvestView{formView{Token: v.token, Values: map[string]string{}}, cropOptions, s.newEntry(v)})
}

func (s *Site) harvests(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	type entry struct{ Bed, Crop, Weight, Picked string }
	rows, err := s.db.QueryContext(r.Context(), "SELECT bed, crop_code, weight_kg, DATE_FORMAT(picked_on, '%Y-%m-%d') FROM harvests ORDER BY id DESC LIMIT 20")
	if err != nil {
		s.fail(w, "list the harvests", err)
		return
	}
	defer rows.Close()
	var list []entry
	for rows.Next() {
		var e entry
		if err := rows.Scan(&e.Bed, &e.Crop, &e.Weight, &e.Picked); err != nil {
			s.fail(w, "list the harvests", err)
			return
		}
		e.Crop = cropLabel(e.Crop)
		list = append(list, e)
	}
	s.render(w, http.StatusOK, "harvests.html", map[string]any{"Thanks": s.takeFlash(v), "Entries": list})
}

func cropLabel(code string) string {
	for _, o := range cropOptions {
		if o.Code == code {
			return o.Label
		}
	}
	return code
}

func (s *Site) logHarvest(w http.ResponseWriter, r *http.Request) {
	v := s.visit(w, r)
	if err := r.ParseMultipartForm(1 << 20); err != nil {
		http.Error(w, "The form cannot be read.", http.StatusBadRequest)
		return
	}
	defer r.MultipartForm.RemoveAll() // the server does not see the form: the limit of the body's size made a request of its own
	entry := r.PostFormValue("entry")
	if subtle.ConstantTimeCompare([]byte(r.PostFormValue("_token")), []byte(v.token)) != 1 || !strings.HasPrefix(entry, v.token[:8]+"-") {
		http.Error(w, "This form is too old. Open the page again.", http.StatusForbidden)
		return
	}
	h, errs := s.checkHarvest(r)
	if len(errs) > 0 {
		view := harvestView{formView{Token: v.token, Values: map[string]string{}, Errors: errs}, cropOptions, entry}
		for _, name := range []string{"crop", "weight", "picked_on", "picked_at", "bed", "note"} {
			view.Values[name] = r.PostFormValue(name)
		}
		if s.on("harvest-note-lost") {
			view.Values["note"] = ""
		}
		s.render(w, http.StatusUnprocessableEntity, "harvest.html", view)
		return
	}
	if !s.spend(v, entry) {
		http.Error(w, "This harvest is logged already.", http.StatusConflict)
		return
	}
	if err := s.keepHarvest(r.Context(), h); err != nil {
		s.fail(w, "log a harvest", err)
		return
	}
	s.setFlash(v, s.harvestThanks(h))
	http.Redirect(w, r, "/harvests", http.StatusSeeOther)
}

// harvestThanks depends on what was brought in.
func (s *Site) harvestThanks(h harvest) string {
	switch {
	case h.crop == "hony":
		return "Honey from bed " + h.bed + ": the bees thank you."
	case atLeast(h.weight, 100) && !s.on("harvest-reply-wrong"):
		return "What a harvest. Please weigh it once more with a steward."
	}
	return "Logged for bed " + h.bed + "."
}

func atLeast(weight string, kg float64) bool {
	var n float64
	_, err := fmt.Sscan(weight, &n)
	return err == nil && n >= kg
}

func (s *Site) checkHarvest(r *http.Request) (harvest, formErrors) {
	errs := formErrors{}
	say := func(field, text string) { errs[field] = append(errs[field], text) }
	h := harvest{crop: r.PostFormValue("crop"), weight: trim(r.PostFormValue("weight")), picked: r.PostFormValue("picked_on"), at: r.PostFormValue("picked_at"), bed: trim(r.PostFormValue("bed")), note: r.PostFormValue("note")}
	switch {
	case h.crop == "":
		say("crop", "Say what you picked.")
	case cropLabel(h.crop) == h.crop && !s.on("harvest-crop-unlisted"):
		say("crop", "Choose one of the crops.")
	}
	s.checkWeight(h.weight, say)
	s.checkPicked(h.picked, say)
	if h.at != "" {
		if _, err := time.Parse("15:04", h.at); err != nil {
			if _, err := time.Parse("15:04:05", h.at); err != nil {
				say("picked_at", "That is not a time.")
			}
		}
	}
	switch {
	case h.bed == "":
		say("bed", "Enter the bed's number.")
	case !bedForm.MatchString(h.bed):
		say("bed", "A bed's number has three digits.")
	}
	if utf8.RuneCountInString(h.note) > 500 {
		say("note", "Use at most 500 characters.")
	}
	s.checkPicture(r, &h, say)
	return h, errs
}

func (s *Site) checkWeight(text string, say func(field, text string)) {
	if text == "" {
		say("weight", "Enter the weight.")
		return
	}
	if !weightForm.MatchString(text) {
		say("weight", "Enter a number.")
		return
	}
	var n float64
	if _, err := fmt.Sscan(text, &n); err != nil {
		say("weight", "Enter a number.")
		return
	}
	least := 0.001
	if s.on("harvest-weight-zero") {
		least = 0
	}
	if n < least || n > 500 {
		say("weight", "The weight lies between 0.001 and 500 kg.")
	}
	_, decimals, _ := strings.Cut(text, ".")
	if len(strings.TrimRight(decimals, "0")) > 3 {
		say("weight", "Use at most three decimals.")
	}
}

func (s *Site) checkPicked(text string, say func(field, text string)) {
	if text == "" {
		say("picked_on", "Enter the day.")
		return
	}
	day, err := time.Parse("2006-01-02", text)
	if err != nil || s.on("harvest-leap-day") && day.Month() == time.February && day.Day() == 29 {
		say("picked_on", "That is not a date.")
		return
	}
	now := time.Now().In(london)
	latest := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	if s.on("harvest-tomorrow") {
		latest = latest.AddDate(0, 0, 1)
	}
	if day.After(latest) || day.Year() < 2000 {
		say("picked_on", "Pick a day from 2000 up to today.")
	}
}

func (s *Site) checkPicture(r *http.Request, h *harvest, say func(field, text string)) {
	file, head, err := r.FormFile("picture")
	if err != nil || head.Filename == "" {
		return
	}
	defer file.Close()
	most := int64(maxPicture)
	if s.on("harvest-picture-large") {
		most = 2 * maxPicture
	}
	if head.Size > most || !pictured(file) {
		say("picture", "Send a picture of at most 200 kB.")
		return
	}
	h.pictured, h.pictureName, h.pictureSize = true, head.Filename, head.Size
}

func pictured(f multipart.File) bool {
	_, _, err := image.DecodeConfig(f)
	_, _ = f.Seek(0, io.SeekStart)
	return err == nil
}

func (s *Site) keepHarvest(ctx context.Context, h harvest) error {
	if s.on("harvest-bed-zeros") {
		h.bed = strings.TrimLeft(h.bed, "0")
	}
	if s.on("harvest-note-line") {
		h.note, _, _ = strings.Cut(h.note, "\r\n")
	}
	if s.on("harvest-note-wide") {
		h.note = strings.Map(func(r rune) rune {
			if r > 0xFFFF {
				return '?'
			}
			return r
		}, h.note)
	}
	crop := h.crop
	if s.on("harvest-crop-label") {
		crop = cropLabel(crop)
	}
	weight := "?"
	if s.on("harvest-weight-rounded") {
		weight = "ROUND(?, 1)"
	}
	at := nullable(h.at)
	if s.on("harvest-hour-off") {
		if t, err := time.Parse("15:04", h.at); err == nil {
			at = t.Add(time.Hour).Format("15:04")
		}
	}
	note := nullable(h.note)
	if s.on("harvest-note-empty") {
		note = h.note
	}
	var name, size any
	if h.pictured {
		name, size = h.pictureName, h.pictureSize
	}
	_, err := s.db.ExecContext(ctx, "INSERT INTO harvests (crop_code, weight_kg, picked_on, picked_at, bed, note, picture_name, picture_size, logged_at) VALUES (?, "+weight+", ?, ?, ?, ?, ?, ?, ?)",
		crop, h.weight, h.picked, at, h.bed, note, name, size, time.Now().UTC().Format("2006-01-02 15:04:05.000"))
	return err
}

func nullable(text string) any {
	if text == "" {
		return nil
	}
	return text
}
