package practice

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"time"
	"unicode/utf8"
)

// maxDays is how many days a tool is lent for, the first and the last included.
const maxDays = 14

// booking is what is sent, member by member, as absent, null and anything else are answered differently.
type booking map[string]json.RawMessage

// text is a member's text; other kinds of values are none.
func (b booking) text(name string) string {
	var out string
	if json.Unmarshal(b[name], &out) != nil {
		return ""
	}
	return out
}

// missing says what is said of a member that has to be there, "" where it is.
func (s *Site) missing(b booking, name string) string {
	raw, sent := b[name]
	switch {
	case !sent, string(raw) == "null" && s.on("booking-null-missing"):
		return name + " is missing."
	case string(raw) == "null":
		return name + " may not be null."
	}
	return ""
}

func (s *Site) book(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(r.Body)
	var b booking
	if err != nil || json.Unmarshal(body, &b) != nil || b == nil {
		if s.on("booking-malformed") {
			writeJSON(w, http.StatusInternalServerError, map[string]string{"error": "Something went wrong."})
			return
		}
		writeJSON(w, http.StatusBadRequest, map[string]string{"error": "The body is no JSON object."})
		return
	}
	errs, from, to := s.checkBooking(b)
	if len(errs) == 0 {
		free, err := s.free(r, b.text("tool"), from, to)
		if err != nil {
			s.fail(w, "look up bookings", err)
			return
		}
		if !free {
			errs = formErrors{"from": {"The tool is lent out in that time."}}
		}
	}
	if len(errs) > 0 {
		s.refuseBooking(w, errs)
		return
	}
	s.keepBooking(w, r, b, from, to)
}

func (s *Site) refuseBooking(w http.ResponseWriter, errs formErrors) {
	if s.on("booking-errors-text") {
		flat := map[string]string{}
		for name, list := range errs {
			flat[name] = list[0]
		}
		writeJSON(w, http.StatusUnprocessableEntity, map[string]any{"errors": flat})
		return
	}
	writeJSON(w, http.StatusUnprocessableEntity, map[string]any{"errors": errs})
}

func (s *Site) checkBooking(b booking) (errs formErrors, from, to time.Time) {
	errs = formErrors{}
	say := func(name, text string) { errs[name] = append(errs[name], text) }
	day := func(name string) time.Time {
		if text := s.missing(b, name); text != "" {
			say(name, text)
			return time.Time{}
		}
		t, err := time.Parse(time.DateOnly, b.text(name))
		if err != nil {
			say(name, name+" is no day; write year-month-day.")
		}
		return t
	}
	switch text := s.missing(b, "tool"); {
	case text != "":
		say("tool", text)
	case !s.isTool(b.text("tool")) && !s.on("booking-tool-unknown"):
		say("tool", "There is no such tool.")
	}
	from, to = day("from"), day("to")
	earliest := today()
	if s.on("booking-yesterday") {
		earliest = earliest.AddDate(0, 0, -1)
	}
	if !from.IsZero() && from.Before(earliest) {
		say("from", "from lies in the past.")
	}
	if utf8.RuneCountInString(b.text("reason")) > 120 {
		say("reason", "Use at most 120 characters.")
	}
	if len(errs) > 0 {
		return errs, from, to
	}
	most := maxDays
	if s.on("booking-fifteen-days") {
		most++
	}
	switch {
	case to.Before(from):
		say("to", "to lies before from.")
	case !to.Before(from.AddDate(0, 0, most)):
		say("to", "A tool is lent for at most 14 days.")
	}
	return errs, from, to
}

// today is the day in London, as a day in UTC.
func today() time.Time {
	now := time.Now().In(london)
	return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
}

func (s *Site) isTool(code string) bool {
	var found int
	return s.db.QueryRow("SELECT COUNT(*) FROM tools WHERE BINARY code = ?", code).Scan(&found) == nil && found == 1
}

// free tells whether no booking of the tool shares a day with these.
func (s *Site) free(r *http.Request, tool string, from, to time.Time) (bool, error) {
	condition := "first_day <= ? AND last_day >= ?"
	if s.on("booking-touching") {
		condition = "first_day <= ? AND last_day > ?"
	}
	var found int
	err := s.db.QueryRowContext(r.Context(), "SELECT COUNT(*) FROM tool_loans WHERE tool_code = ? AND "+condition, tool, to.Format(time.DateOnly), from.Format(time.DateOnly)).Scan(&found)
	return found == 0, err
}

// booked is the answer to a booking.
type booked struct {
	ID     any     `json:"id"`
	Tool   string  `json:"tool"`
	From   string  `json:"from"`
	To     string  `json:"to"`
	Reason *string `json:"reason"`
	Note   *string `json:"keeper_note,omitempty"`
}

func (s *Site) keepBooking(w http.ResponseWriter, r *http.Request, b booking, from, to time.Time) {
	out := booked{Tool: b.text("tool"), From: from.Format(time.DateOnly), To: to.Format(time.DateOnly)}
	if reason := b.text("reason"); reason != "" {
		out.Reason = &reason
	}
	result, err := s.db.ExecContext(r.Context(), "INSERT INTO tool_loans (tool_code, first_day, last_day, reason, booked_at) VALUES (?, ?, ?, ?, ?)",
		out.Tool, out.From, out.To, out.Reason, time.Now().UTC().Format("2006-01-02 15:04:05.000"))
	if err != nil {
		s.fail(w, "keep a booking", err)
		return
	}
	id, _ := result.LastInsertId()
	out.ID = id
	if s.on("booking-id-text") {
		out.ID = "B-" + out.Tool
	}
	if s.on("booking-day-off") {
		out.To = to.AddDate(0, 0, 1).Format(time.DateOnly)
	}
	if s.on("booking-internal") {
		note := "none"
		out.Note = &note
	}
	status := http.StatusCreated
	if s.on("booking-status") {
		status = http.StatusOK
	}
	writeJSON(w, status, out)
}

func writeJSON(w http.ResponseWriter, status int, value any) {
	var b bytes.Buffer
	_ = json.NewEncoder(&b).Encode(value) // plain data
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(status)
	_, _ = w.Write(b.Bytes())
}
