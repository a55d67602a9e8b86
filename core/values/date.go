package values

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// DateLayout is the form in which a date field sends its value.
const DateLayout = "2006-01-02"

// ParseDate reads year-month-day, strictly: the day must exist.
func ParseDate(text string) (time.Time, error) {
	if len(text) == len(DateLayout) && text[4] == '-' && text[7] == '-' {
		y, okY := digits(text[:4])
		m, okM := digits(text[5:7])
		d, okD := digits(text[8:])
		if okY && okM && okD && y > 0 && m >= 1 && m <= 12 && d >= 1 {
			if day := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC); day.Day() == d { // else it does not exist
				return day, nil
			}
		}
	}
	return time.Time{}, fmt.Errorf("%q is not a date, written year-month-day", text)
}

func digits(text string) (n int, ok bool) {
	for i := range len(text) {
		if text[i] < '0' || text[i] > '9' {
			return 0, false
		}
		n = n*10 + int(text[i]-'0')
	}
	return n, true
}

// DateBound is a day that may be relative to today: "2026-04-01", "today", "today - 18 years + 1 day".
type DateBound struct {
	fixed    time.Time
	relative bool
	shifts   []shift
}

type shift struct {
	count int
	unit  string
}

var shiftForm = regexp.MustCompile(`^\s*([+-])\s*(\d{1,5})\s*(day|week|month|year)s?`)

// ParseDateBound reads a bound.
func ParseDateBound(text string) (DateBound, error) {
	rest, relative := strings.CutPrefix(strings.TrimSpace(text), "today")
	if !relative {
		day, err := ParseDate(strings.TrimSpace(text))
		if err != nil {
			return DateBound{}, fmt.Errorf("%q is not a day: write 2026-04-01, today, or today - 18 years", text)
		}
		return DateBound{fixed: day}, nil
	}
	b := DateBound{relative: true}
	for strings.TrimSpace(rest) != "" {
		m := shiftForm.FindStringSubmatch(rest)
		if m == nil {
			return DateBound{}, fmt.Errorf("%q is not a day: write 2026-04-01, today, or today - 18 years", text)
		}
		n, _ := strconv.Atoi(m[2])
		if m[1] == "-" {
			n = -n
		}
		b.shifts = append(b.shifts, shift{n, m[3]})
		rest = rest[len(m[0]):]
	}
	return b, nil
}

// Relative reports whether the day depends on today.
func (b DateBound) Relative() bool { return b.relative }

// Shift moves the bound by days.
func (b DateBound) Shift(days int) DateBound {
	if !b.relative {
		return DateBound{fixed: b.fixed.AddDate(0, 0, days)}
	}
	return DateBound{relative: true, shifts: append(b.shifts[:len(b.shifts):len(b.shifts)], shift{days, "day"})}
}

// On resolves the bound on a given day. A month or year that lacks the day of the month gives its last day: 18 years before
// 29 February 2044 is 28 February 2026.
func (b DateBound) On(today time.Time) time.Time {
	if !b.relative {
		return b.fixed
	}
	day := time.Date(today.Year(), today.Month(), today.Day(), 0, 0, 0, 0, time.UTC)
	for _, s := range b.shifts {
		switch s.unit {
		case "day":
			day = day.AddDate(0, 0, s.count)
		case "week":
			day = day.AddDate(0, 0, 7*s.count)
		case "month":
			day = addMonths(day, s.count)
		case "year":
			day = addMonths(day, 12*s.count)
		}
	}
	return day
}

func addMonths(day time.Time, n int) time.Time {
	first := time.Date(day.Year(), day.Month()+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
	last := first.AddDate(0, 1, -1).Day()
	return first.AddDate(0, 0, min(day.Day(), last)-1)
}
