package values

import (
	"fmt"
	"strconv"
	"strings"
	"time"
)

// Moments are times of day (on day 1 of year 1) or local days with a time, as HTML's time and datetime-local controls send them.

// ParseTime reads a valid time string (HTML Standard, 2.3.5.2): hours, minutes, and seconds with up to three decimals if wished.
func ParseTime(text string) (time.Time, error) {
	for _, layout := range []string{"15:04", "15:04:05", "15:04:05.0", "15:04:05.00", "15:04:05.000"} {
		if t, err := time.Parse(layout, text); err == nil && len(text) == len(layout) {
			return time.Date(1, 1, 1, t.Hour(), t.Minute(), t.Second(), t.Nanosecond(), time.UTC), nil
		}
	}
	return time.Time{}, fmt.Errorf("%q is not a time; write hours and minutes like 09:30", text)
}

// ParseDateTime reads a valid local date and time string (HTML Standard, 2.3.5.3).
func ParseDateTime(text string) (time.Time, error) {
	day, clock, ok := strings.Cut(text, "T")
	if !ok {
		day, clock, ok = strings.Cut(text, " ")
	}
	d, errDay := ParseDate(day)
	t, errClock := ParseTime(clock)
	if !ok || errDay != nil || errClock != nil {
		return time.Time{}, fmt.Errorf("%q is not a day and time; write them like 2026-04-01T09:30", text)
	}
	return d.Add(time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute + time.Duration(t.Second())*time.Second + time.Duration(t.Nanosecond())), nil
}

// MomentBound is one end of a range of moments: absolute, or so long from now.
type MomentBound struct {
	at       time.Time
	relative bool
	shift    time.Duration
}

// ParseMomentBound reads a time of day, a day and time, or one relative to now: "now", "now - 2 hours", "now + 30 minutes".
func ParseMomentBound(text string) (MomentBound, error) {
	if t, err := ParseTime(text); err == nil {
		return MomentBound{at: t}, nil
	}
	if t, err := ParseDateTime(text); err == nil {
		return MomentBound{at: t}, nil
	}
	words := strings.Fields(text)
	if len(words) == 0 || words[0] != "now" {
		return MomentBound{}, fmt.Errorf("%q is not a time; write 09:30, 2026-04-01T09:30 or now - 2 hours", text)
	}
	b := MomentBound{relative: true}
	for rest := words[1:]; len(rest) > 0; rest = rest[3:] {
		n, err := 0, error(nil)
		unit := time.Duration(0)
		if len(rest) >= 3 {
			n, err = strconv.Atoi(rest[1])
			unit = map[string]time.Duration{"second": time.Second, "minute": time.Minute, "hour": time.Hour, "day": 24 * time.Hour}[strings.TrimSuffix(rest[2], "s")]
		}
		if len(rest) < 3 || err != nil || n < 0 || n > 1_000_000 || unit == 0 || rest[0] != "+" && rest[0] != "-" {
			return MomentBound{}, fmt.Errorf("%q cannot be read; write it like now - 2 hours", text)
		}
		if rest[0] == "-" {
			n = -n
		}
		b.shift += time.Duration(n) * unit
	}
	return b, nil
}

// On is the bound's moment, where it is now at the given local time.
func (b MomentBound) On(now time.Time) time.Time {
	if !b.relative {
		return b.at
	}
	return time.Date(now.Year(), now.Month(), now.Day(), now.Hour(), now.Minute(), now.Second(), 0, time.UTC).Add(b.shift)
}

// Relative tells whether the bound moves with the clock.
func (b MomentBound) Relative() bool { return b.relative }
