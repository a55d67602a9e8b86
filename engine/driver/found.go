package driver

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"oddtick/core/observation"
	"oddtick/core/spec"
)

// asSent gives controls that were found by role and label the values that are sent for what they show: an option's value for its label, and a
// day as HTML writes it.
func asSent(v *InBrowser, form *observation.Form) {
	if form == nil {
		return
	}
	for i := range form.Controls {
		c := &form.Controls[i]
		f := FieldNamed(v.Form, c.Name)
		if f == nil || c.Value == "" {
			continue
		}
		options := v.options(f)
		for _, o := range options {
			if o.Label == c.Value && !slices.ContainsFunc(options, func(other spec.Option) bool { return other.Value == c.Value }) {
				c.Value = o.Value
				break
			}
		}
		if c.Type != "button" {
			continue
		}
		c.Type = "text"
		switch {
		case f.Kind == spec.Date:
			c.Value = dayIn(c.Value)
		case len(options) > 0 && !slices.ContainsFunc(options, func(o spec.Option) bool { return o.Value == c.Value }):
			c.Value = "" // it only says what one could do
		}
	}
}

// monthNames are the first letters of months, in English, German and Welsh, from January on.
var monthNames = []string{"jan|ion", "feb|chwe", "mar|mär|maw", "apr|ebr", "may|mai", "jun|meh", "jul|gor", "aug|aws", "sep|med", "oct|okt|hyd", "nov|tach", "dec|dez|rhag"}

var (
	isoDay    = regexp.MustCompile(`\b(\d{4})-(\d{2})-(\d{2})\b`)
	yearIn    = regexp.MustCompile(`\b(\d{4})\b`)
	dayNumber = regexp.MustCompile(`\b(\d{1,2})(?:st|nd|rd|th|\.)?(?:\b|\s|,|$)`)
	wordsIn   = regexp.MustCompile(`\pL+`)
)

// dayIn is the day that a text shows, as HTML writes it; "" where none is found for certain.
func dayIn(text string) string {
	if found := isoDay.FindString(text); found != "" {
		return found
	}
	year := yearIn.FindStringSubmatch(text)
	if year == nil {
		return ""
	}
	rest := strings.Replace(text, year[1], " ", 1)
	day := dayNumber.FindStringSubmatch(rest)
	month := 0
	for _, word := range wordsIn.FindAllString(strings.ToLower(rest), -1) {
		for i, names := range monthNames {
			for _, name := range strings.Split(names, "|") {
				if strings.HasPrefix(word, name) {
					month = i + 1
				}
			}
		}
	}
	if day == nil || month == 0 {
		return ""
	}
	y, _ := strconv.Atoi(year[1])
	d, _ := strconv.Atoi(day[1])
	t := time.Date(y, time.Month(month), d, 0, 0, 0, 0, time.UTC)
	if t.Day() != d {
		return ""
	}
	return t.Format(time.DateOnly)
}
