package practice_test

import (
	"encoding/json"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// send posts a body to the endpoint and reads the answer as an object.
func (p *person) send(body string) (status int, answer map[string]any) {
	res, err := p.http.Post(p.address+"/api/bookings", "application/json", strings.NewReader(body))
	require.NoError(p.t, err)
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(p.t, err)
	require.NoError(p.t, json.Unmarshal(text, &answer), "%s", text)
	return res.StatusCode, answer
}

// day is so many days from today.
func day(n int) string { return time.Now().AddDate(0, 0, n).Format(time.DateOnly) }

// book books the fork from and to so many days from today.
func (p *person) book(from, to int) (status int, answer map[string]any) {
	return p.send(`{"tool": "fork", "from": "` + day(from) + `", "to": "` + day(to) + `", "reason": "roots"}`)
}

func TestBookingATool(t *testing.T) {
	t.Parallel()
	p := visit(t)
	status, answer := p.book(3, 5)
	require.Equal(t, http.StatusCreated, status)
	require.Equal(t, map[string]any{"id": 1.0, "tool": "fork", "from": day(3), "to": day(5), "reason": "roots"}, answer)
	require.Equal(t, "fork|"+day(3)+"|"+day(5)+"|roots|", p.rowOf("tool_loans", "tool_code, first_day, last_day, reason, keeper_note"))
	for _, overlapping := range [][2]int{{3, 5}, {4, 4}, {1, 3}, {5, 7}, {2, 6}} {
		status, answer = p.book(overlapping[0], overlapping[1])
		require.Equal(t, http.StatusUnprocessableEntity, status)
		require.Equal(t, map[string]any{"errors": map[string]any{"from": []any{"The tool is lent out in that time."}}}, answer)
	}
	for _, free := range [][2]int{{1, 2}, {6, 19}} {
		status, _ = p.book(free[0], free[1])
		require.Equal(t, http.StatusCreated, status)
	}
}

func TestWhatIsWrongWithABooking(t *testing.T) {
	t.Parallel()
	p := visit(t)
	for body, want := range map[string]string{
		`{}`:                                     `{"from":["from is missing."],"to":["to is missing."],"tool":["tool is missing."]}`,
		`{"tool": null, "from": null, "to": ""}`: `{"from":["from may not be null."],"to":["to is no day; write year-month-day."],"tool":["tool may not be null."]}`,
		`{"tool": "FORK", "from": "` + day(-1) + `", "to": 5}`:                                 `{"from":["from lies in the past."],"to":["to is no day; write year-month-day."],"tool":["There is no such tool."]}`,
		`{"tool": "fork", "from": "` + day(3) + `", "to": "` + day(2) + `"}`:                   `{"to":["to lies before from."]}`,
		`{"tool": "fork", "from": "` + day(3) + `", "to": "` + day(17) + `"}`:                  `{"to":["A tool is lent for at most 14 days."]}`,
		`{"tool": "fork", "from": "2030-02-30", "to": "` + day(17) + `"}`:                      `{"from":["from is no day; write year-month-day."]}`,
		`{"tool": ["fork"], "from": "` + day(3) + `", "to": "` + day(4) + `", "reason": null}`: `{"tool":["There is no such tool."]}`,
	} {
		status, answer := p.send(body)
		require.Equal(t, http.StatusUnprocessableEntity, status, body)
		got, err := json.Marshal(answer["errors"])
		require.NoError(t, err)
		require.Equal(t, want, string(got), body)
	}
	for _, body := range []string{"", "{", "[]", "null", "5"} {
		status, answer := p.send(body)
		require.Equal(t, http.StatusBadRequest, status, body)
		require.Equal(t, map[string]any{"error": "The body is no JSON object."}, answer)
	}
}

// taken tells whether a booking is taken.
func taken(status int, _ map[string]any) bool { return status < 300 }

// bookingFaults are the planted faults of the endpoint: whether each shows.
var bookingFaults = map[string]func(p *person) bool{
	"booking-touching":     func(p *person) bool { p.book(3, 5); return taken(p.book(5, 6)) },
	"booking-fifteen-days": func(p *person) bool { return taken(p.book(3, 17)) },
	"booking-yesterday":    func(p *person) bool { return taken(p.book(-1, 2)) },
	"booking-tool-unknown": func(p *person) bool {
		return taken(p.send(`{"tool": "none", "from": "` + day(3) + `", "to": "` + day(4) + `"}`))
	},
	"booking-malformed": func(p *person) bool { status, _ := p.send("{"); return status == 500 },
	"booking-null-missing": func(p *person) bool {
		_, answer := p.send(`{"tool": null}`)
		return strings.Contains(answer["errors"].(map[string]any)["tool"].([]any)[0].(string), "missing")
	},
	"booking-errors-text": func(p *person) bool {
		_, answer := p.send(`{}`)
		_, isText := answer["errors"].(map[string]any)["tool"].(string)
		return isText
	},
	"booking-id-text":  func(p *person) bool { _, answer := p.book(3, 4); _, isText := answer["id"].(string); return isText },
	"booking-day-off":  func(p *person) bool { _, answer := p.book(3, 4); return answer["to"] == day(5) },
	"booking-internal": func(p *person) bool { _, answer := p.book(3, 4); return answer["keeper_note"] != nil },
	"booking-status":   func(p *person) bool { status, _ := p.book(3, 4); return status == 200 },
}
