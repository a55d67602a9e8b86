package practice

import (
	"context"
	"errors"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/go-sql-driver/mysql"
)

var reachOptions = []option{{"mail", "By e-mail"}, {"phone", "By telephone"}, {"post", "By post"}}

type detailsView struct {
	formView
	Frame frame
	Reach []option
	Said  string
	Own   string // the holder's key
}

// Reached tells whether a way is chosen.
func (v detailsView) Reached(code string) bool {
	for _, c := range strings.Split(v.Values["reach"], ",") {
		if c == code {
			return true
		}
	}
	return false
}

func (s *Site) detailsPage(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.pageFor(w, r)
	if !ok {
		return
	}
	values := map[string]string{"display_name": h.shown, "e_mail": h.mail, "reach": h.reach}
	s.render(w, http.StatusOK, "me.html", detailsView{formView: formView{Token: v.token, Values: values}, Frame: s.frame(v, h), Reach: reachOptions, Said: s.takeFlash(v), Own: strconv.FormatInt(h.id, 10)})
}

// details are the submitted form, normalised.
type details struct {
	shown, mail, reach, present, next, again, membership string
}

func (s *Site) saveDetails(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.pageFor(w, r)
	if !ok {
		return
	}
	form, ok := s.formOf(w, r, v)
	if !ok {
		return
	}
	id := h.id
	if form.Get("holder") != strconv.FormatInt(h.id, 10) {
		if !s.on("hidden-trusted") {
			http.Error(w, "This form is another holder's.", http.StatusForbidden)
			return
		}
		id, _ = strconv.ParseInt(form.Get("holder"), 10, 64)
	}
	d, errs, err := s.checkDetails(r.Context(), form, h)
	if err == nil && len(errs) == 0 {
		err = s.storeDetails(r.Context(), id, d, errs)
	}
	if err != nil {
		s.fail(w, "save details", err)
		return
	}
	if len(errs) > 0 {
		values := map[string]string{"display_name": form.Get("display_name"), "e_mail": form.Get("e_mail"), "reach": strings.Join(form["reach"], ",")}
		s.render(w, http.StatusUnprocessableEntity, "me.html", detailsView{formView: formView{Token: v.token, Values: values, Errors: errs}, Frame: s.frame(v, h), Reach: reachOptions, Own: strconv.FormatInt(h.id, 10)})
		return
	}
	s.setFlash(v, "Saved, "+d.shown+".")
	http.Redirect(w, r, "/me", http.StatusSeeOther)
}

func (s *Site) checkDetails(ctx context.Context, form url.Values, h *holder) (details, formErrors, error) {
	errs := formErrors{}
	say := func(field, text string) { errs[field] = append(errs[field], text) }
	d := details{shown: trim(form.Get("display_name")), mail: strings.ToLower(trim(form.Get("e_mail"))), present: form.Get("present"), next: form.Get("new_pass"), again: form.Get("new_again"), membership: form.Get("member_no")}
	ways, foreign := chosen(reachOptions, form["reach"])
	d.reach = strings.Join(ways, ",")
	if foreign {
		say("reach", "Choose from the ways offered.")
	}
	switch n := utf8.RuneCountInString(d.shown); {
	case n == 0:
		say("display_name", "Tell us what to call you.")
	case n > 40:
		say("display_name", "Use at most 40 characters.")
	}
	a := application{mail: d.mail}
	s.checkMail(&a, say)
	if d.next != "" || s.on("blank-overwrites") {
		if d.next != "" {
			checkNew(d.next, "new_pass", say)
		}
		if d.next != "" && d.present == "" {
			say("present", "Enter your present password.")
		}
	}
	if len(errs) == 0 && d.next != d.again {
		say("new_again", "The two passwords differ.")
	}
	if len(errs) > 0 {
		return d, errs, nil
	}
	if d.next != "" && !s.on("present-unchecked") {
		same, err := argon2id.ComparePasswordAndHash(d.present, h.hash)
		if err != nil {
			return d, errs, err
		}
		if !same {
			say("present", "That is not your present password.")
		}
	}
	var n int
	query := "SELECT COUNT(*) FROM plot_holders WHERE mail = ? AND id <> ?"
	if s.on("me-own-refused") {
		query = "SELECT COUNT(*) FROM plot_holders WHERE mail = ? AND id <> ? + 1000000"
	}
	if err := s.db.QueryRowContext(ctx, query, d.mail, h.id).Scan(&n); err != nil {
		return d, errs, err
	}
	if n > 0 && !s.on("me-unique-unchecked") {
		say("e_mail", "Somebody else has that address.")
	}
	return d, errs, nil
}

// checkNew judges a new password by the rules of joining.
func checkNew(password, field string, say func(field, text string)) {
	if n := len(password); n < 10 || n > 72 {
		say(field, "Use 10 to 72 bytes.")
	}
	if !strings.ContainsFunc(password, func(r rune) bool { return r >= 'A' && r <= 'Z' || r >= 'a' && r <= 'z' }) || !strings.ContainsAny(password, "0123456789") {
		say(field, "Use at least a letter and a digit.")
	}
}

func (s *Site) storeDetails(ctx context.Context, id int64, d details, errs formErrors) error {
	set, args := "display_name = ?, mail = ?, reach_by = ?", []any{d.shown, d.mail, d.reach}
	if d.next != "" || s.on("blank-overwrites") {
		hash, err := s.hash(d.next)
		if err != nil {
			return err
		}
		set, args = set+", pass_hash = ?", append(args, hash)
	}
	if s.on("me-readonly") {
		set, args = set+", membership = NULLIF(?, '')", append(args, d.membership[:min(10, len(d.membership))])
	}
	if s.on("me-touches") {
		set += ", referral = 'me'"
	}
	_, err := s.db.ExecContext(ctx, "UPDATE plot_holders SET "+set+" WHERE id = ?", append(args, id)...)
	var taken *mysql.MySQLError
	if errors.As(err, &taken) && taken.Number == 1062 {
		errs["e_mail"] = append(errs["e_mail"], "Somebody else has that address.")
		return nil
	}
	if err == nil && s.on("me-second-row") {
		_, err = s.db.ExecContext(ctx, "UPDATE plot_holders SET display_name = ? WHERE id > ? ORDER BY id LIMIT 1", d.shown, id)
	}
	return err
}

func (s *Site) passwordPage(w http.ResponseWriter, r *http.Request) {
	if v, h, ok := s.pageFor(w, r); ok {
		s.render(w, http.StatusOK, "password.html", detailsView{formView: formView{Token: v.token}, Frame: s.frame(v, h), Said: s.takeFlash(v)})
	}
}

func (s *Site) changePassword(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.pageFor(w, r)
	if !ok {
		return
	}
	form, ok := s.formOf(w, r, v)
	if !ok {
		return
	}
	errs := formErrors{}
	say := func(field, text string) { errs[field] = append(errs[field], text) }
	present, next := form.Get("present"), form.Get("new_pass")
	if present == "" {
		say("present", "Enter your present password.")
	}
	if next == "" {
		say("new_pass", "Choose a new password.")
	} else {
		checkNew(next, "new_pass", say)
	}
	if len(errs) == 0 && form.Get("new_again") != next {
		say("new_again", "The two passwords differ.")
	}
	if len(errs) == 0 && !s.on("password-present-unchecked") {
		same, err := argon2id.ComparePasswordAndHash(present, h.hash)
		if err != nil {
			s.fail(w, "compare a password", err)
			return
		}
		if !same {
			say("present", "That is not your present password.")
		}
	}
	if len(errs) > 0 {
		s.render(w, http.StatusUnprocessableEntity, "password.html", detailsView{formView: formView{Token: v.token, Errors: errs}, Frame: s.frame(v, h)})
		return
	}
	hash, err := s.hash(next)
	if err == nil && !s.on("password-hash-kept") {
		_, err = s.db.ExecContext(r.Context(), "UPDATE plot_holders SET pass_hash = ? WHERE id = ?", hash, h.id)
	}
	if err != nil {
		s.fail(w, "change a password", err)
		return
	}
	if !s.on("sessions-stay") {
		s.endOthers(h.id, v)
	}
	s.setFlash(v, "Your password is changed.")
	http.Redirect(w, r, "/me/password", http.StatusSeeOther)
}

var shareOptions = []option{{"whole", "A whole plot"}, {"half", "Half a plot"}}

var neighbourOptions = []option{{"kids", "Children"}, {"dogs", "Dogs"}, {"music", "Music"}}

type wishesView struct {
	formView
	Frame             frame
	Areas             []option
	Share, Neighbours []option
	Said              string
}

// Chosen tells whether a value is among those of a name.
func (v wishesView) Chosen(name, code string) bool {
	for _, c := range strings.Split(v.Values[name], ",") {
		if c == code {
			return true
		}
	}
	return false
}

func (s *Site) areas(ctx context.Context) ([]option, error) {
	rows, err := s.db.QueryContext(ctx, "SELECT code, name FROM allotment_areas ORDER BY name")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []option
	for rows.Next() {
		var o option
		if err := rows.Scan(&o.Code, &o.Label); err != nil {
			return nil, err
		}
		out = append(out, o)
	}
	return out, rows.Err()
}

// mayWish is who may open the wishes: those whose address is confirmed.
func (s *Site) mayWish(w http.ResponseWriter, r *http.Request) (*session, *holder, bool) {
	v, h, ok := s.pageFor(w, r)
	if ok && !h.confirmed {
		http.Redirect(w, r, "/awaiting", http.StatusSeeOther)
		return nil, nil, false
	}
	return v, h, ok
}

func (s *Site) wishesPage(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.mayWish(w, r)
	if !ok {
		return
	}
	values := map[string]string{}
	if h.wishes {
		var size, area, share, hive, neighbours, note string
		var bees bool
		if err := s.db.QueryRowContext(r.Context(), "SELECT size_m2, area_code, share, bees, IFNULL(hive_no, ''), neighbours, IFNULL(note, '') FROM plot_wishes WHERE holder_id = ?", h.id).Scan(&size, &area, &share, &bees, &hive, &neighbours, &note); err != nil {
			s.fail(w, "read wishes", err)
			return
		}
		values = map[string]string{"size": size, "area": area, "share": share, "hive": hive, "neighbours": neighbours, "note": note}
		if bees {
			values["bees"] = "yes"
		}
	}
	s.showWishes(w, r, http.StatusOK, wishesView{formView: formView{Token: v.token, Values: values}, Frame: s.frame(v, h), Said: s.takeFlash(v)})
}

func (s *Site) showWishes(w http.ResponseWriter, r *http.Request, status int, view wishesView) {
	var err error
	if view.Areas, err = s.areas(r.Context()); err != nil {
		s.fail(w, "read the areas", err)
		return
	}
	view.Share, view.Neighbours = shareOptions, neighbourOptions
	s.render(w, status, "wishes.html", view)
}

func (s *Site) saveWishes(w http.ResponseWriter, r *http.Request) {
	v, h, ok := s.mayWish(w, r)
	if !ok {
		return
	}
	form, ok := s.formOf(w, r, v)
	if !ok {
		return
	}
	errs := formErrors{}
	say := func(field, text string) { errs[field] = append(errs[field], text) }
	size, err := strconv.ParseFloat(form.Get("size"), 64)
	switch {
	case form.Get("size") == "":
		say("size", "Say how large a plot you wish for.")
	case err != nil || !numberForm.MatchString(form.Get("size")):
		say("size", "Enter a number.")
	default:
		if size < 25 || size > 250 {
			say("size", "A plot has 25 to 250 m².")
		}
		if math.Mod(size, 5) != 0 && !s.on("wishes-step") {
			say("size", "Plots are cut in steps of 5 m².")
		}
	}
	areas, err := s.areas(r.Context())
	if err != nil {
		s.fail(w, "read the areas", err)
		return
	}
	if form.Get("area") == "" {
		say("area", "Choose an area.")
	} else if !offered(areas, form.Get("area")) {
		say("area", "We have no such area.")
	}
	if form.Get("share") == "" {
		say("share", "Choose a whole plot or half of one.")
	} else if !offered(shareOptions, form.Get("share")) {
		say("share", "Choose one of the two.")
	}
	bees, hive := form.Get("bees") != "", any(nil)
	if bees {
		n, err := strconv.Atoi(form.Get("hive"))
		switch {
		case form.Get("hive") == "":
			say("hive", "Say how many hives.")
		case err != nil || n < 1 || n > 9:
			say("hive", "1 to 9 hives find room.")
		}
		hive = n
	}
	neighbours, foreign := chosen(neighbourOptions, form["neighbours"])
	if foreign {
		say("neighbours", "Choose from what is offered.")
	}
	note := any(nil)
	if text := trim(form.Get("note")); text != "" {
		if utf8.RuneCountInString(text) > 500 {
			say("note", "Use at most 500 characters.")
		}
		note = text
	}
	if len(errs) > 0 {
		values := map[string]string{"neighbours": strings.Join(form["neighbours"], ",")}
		for _, name := range []string{"size", "area", "share", "bees", "hive", "note"} {
			values[name] = form.Get(name)
		}
		s.showWishes(w, r, http.StatusUnprocessableEntity, wishesView{formView: formView{Token: v.token, Values: values, Errors: errs}, Frame: s.frame(v, h)})
		return
	}
	kept := strings.Join(neighbours, ",")
	if s.on("wishes-first-neighbour") && len(neighbours) > 0 {
		kept = neighbours[0]
	}
	now := time.Now().UTC().Format("2006-01-02 15:04:05.000")
	insert := "INSERT INTO plot_wishes (holder_id, size_m2, area_code, share, bees, hive_no, neighbours, note, changed_at) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON DUPLICATE KEY UPDATE size_m2 = VALUES(size_m2), area_code = VALUES(area_code), share = VALUES(share), bees = VALUES(bees), hive_no = VALUES(hive_no), neighbours = VALUES(neighbours), note = VALUES(note), changed_at = VALUES(changed_at)"
	if _, err := s.db.ExecContext(r.Context(), insert, h.id, size, form.Get("area"), form.Get("share"), bees, hive, kept, note, now); err != nil {
		s.fail(w, "save wishes", err)
		return
	}
	s.setFlash(v, "Your wishes are noted.")
	http.Redirect(w, r, "/wishes", http.StatusSeeOther)
}

// chosen are the options that were given, in their own order; foreign tells of one that is not offered.
func chosen(options []option, given []string) (codes []string, foreign bool) {
	for _, o := range options {
		if slices.Contains(given, o.Code) {
			codes = append(codes, o.Code)
		}
	}
	return codes, slices.ContainsFunc(given, func(code string) bool { return !offered(options, code) })
}

func offered(list []option, code string) bool {
	for _, o := range list {
		if o.Code == code {
			return true
		}
	}
	return false
}
