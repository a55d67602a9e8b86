package judge

import (
	"encoding/json"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/values"
)

// sameValue compares by meaning: numbers as numbers, days as days, moments as moments, JSON as JSON, UUIDs in each of their forms;
// all else character by character.
func sameValue(want *oracle.Column, got string) bool {
	if got == want.Value {
		return true
	}
	a, errA := values.ParseDecimal(want.Value)
	b, errB := values.ParseDecimal(got)
	if want.Kind == spec.MultipleChoice {
		return slices.Equal(chosenIn(want.Value), chosenIn(got))
	}
	numeric := want.Kind == spec.Number || want.Kind == "" && want.Field == ""
	if numeric && errA == nil && errB == nil {
		return a.Cmp(b) == 0
	}
	if want.Kind == spec.Date {
		rest, ok := strings.CutPrefix(got, want.Value)
		return ok && strings.Trim(rest, " T0:.Z") == ""
	}
	if want.Kind == spec.Time {
		a, errA := values.ParseTime(want.Value)
		b, errB := values.ParseTime(got)
		return errA == nil && errB == nil && a.Equal(b)
	}
	if want.Kind == spec.DateTime {
		a, errA := values.ParseDateTime(want.Value)
		b, errB := values.ParseDateTime(strings.TrimRight(strings.TrimSuffix(got, "Z"), "0."))
		if errB != nil {
			b, errB = values.ParseDateTime(got)
		}
		return errA == nil && errB == nil && a.Equal(b)
	}
	if a := uuidOf(want.Value); a != "" {
		return a == uuidOf(got)
	}
	return sameJSON(want.Value, got)
}

var uuidForm = regexp.MustCompile(`^(?:0x[0-9a-fA-F]{32}|[0-9a-fA-F]{8}(-?[0-9a-fA-F]{4}){3}-?[0-9a-fA-F]{12})$`)

// uuidOf is a UUID's 32 hexadecimal digits, whether it is written with hyphens, without, or held as 16 bytes (RFC 9562); "" for any
// other text.
func uuidOf(text string) string {
	if !uuidForm.MatchString(text) {
		return ""
	}
	return strings.ToLower(strings.ReplaceAll(strings.TrimPrefix(text, "0x"), "-", ""))
}

// sameJSON tells whether two texts hold the same JSON object or list: the order of members and white space do not matter.
// chosenIn are the values of several choices in one column, in alphabetical order: a JSON list, or parted by commas, semicolons,
// bars or line ends.
func chosenIn(text string) []string {
	var list []string
	if json.Unmarshal([]byte(text), &list) != nil {
		for _, one := range strings.FieldsFunc(text, func(r rune) bool { return strings.ContainsRune(",;|\n", r) }) {
			list = append(list, strings.TrimSpace(one))
		}
	}
	slices.Sort(list)
	return list
}

func sameJSON(a, b string) bool {
	if !strings.HasPrefix(a, "{") && !strings.HasPrefix(a, "[") {
		return false
	}
	var x, y any
	return json.Unmarshal([]byte(a), &x) == nil && json.Unmarshal([]byte(b), &y) == nil && reflect.DeepEqual(x, y)
}

// sameMoment tells whether two texts name the same moment; one without a zone is in UTC.
func sameMoment(a, b string) bool {
	x, okA := momentOf(a)
	y, okB := momentOf(b)
	return okA && okB && x.Equal(y)
}

func momentOf(text string) (time.Time, bool) {
	for _, layout := range append(timeLayouts, "2006-01-02 15:04:05.999999999Z07:00", "2006-01-02 15:04:05.999999999Z07", "2006-01-02T15:04Z07:00") {
		if t, err := time.Parse(layout, text); err == nil {
			return t, true
		}
	}
	return time.Time{}, false
}
