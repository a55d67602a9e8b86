package spec

import (
	"fmt"
	"strings"
	"time"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// step is one of the server's normalising steps.
type step func(string) string

var plainSteps = map[string]step{
	"trim":       func(s string) string { return strings.TrimFunc(s, unicode.IsSpace) },
	"collapse":   func(s string) string { return strings.Join(strings.Fields(s), " ") },
	"line feeds": strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace,
	"lower":      strings.ToLower,
	"upper":      strings.ToUpper,
	"nfc":        norm.NFC.String,
}

// parseStep reads a step as it is written in sent.
func parseStep(text string) (step, error) {
	if fn, ok := plainSteps[text]; ok {
		return fn, nil
	}
	name, detail, _ := strings.Cut(text, " ")
	switch {
	case name == "strip" && detail != "":
		return func(s string) string {
			return strings.Map(func(r rune) rune {
				if strings.ContainsRune(detail, r) {
					return -1
				}
				return r
			}, s)
		}, nil
	case name == "date" && detail != "":
		return dateStep(detail)
	case name == "number" && detail != "":
		return numberStep(detail)
	}
	return nil, fmt.Errorf("the step %q is not known", text)
}

// dateStep reads days in a format of DD, MM and YYYY; what does not fit is left as it is.
func dateStep(format string) (step, error) {
	rest := format
	for _, part := range []string{"YYYY", "MM", "DD"} {
		if strings.Count(rest, part) != 1 {
			return nil, fmt.Errorf("the format %q does not name DD, MM and YYYY once each; write it like DD.MM.YYYY", format)
		}
		rest = strings.Replace(rest, part, "", 1)
	}
	if strings.Trim(rest, "./- ") != "" {
		return nil, fmt.Errorf("the format %q holds more than DD, MM and YYYY with points, slashes, hyphens or spaces between them", format)
	}
	layout := strings.NewReplacer("YYYY", "2006", "MM", "01", "DD", "02").Replace(format)
	return func(s string) string {
		day, err := time.Parse(layout, s)
		if err != nil {
			return s
		}
		return day.Format("2006-01-02")
	}, nil
}

// numberStep reads numbers written like the example: the last sign in it is the decimal's, the one before groups thousands.
func numberStep(example string) (step, error) {
	signs := strings.Map(func(r rune) rune {
		if r >= '0' && r <= '9' {
			return -1
		}
		return r
	}, example)
	runes := []rune(signs)
	if len(runes) == 0 || len(runes) > 2 {
		return nil, fmt.Errorf("the format %q does not show its decimal sign; write it like 1.234,5", example)
	}
	decimal, group := string(runes[len(runes)-1]), ""
	if len(runes) == 2 {
		group = string(runes[0])
	}
	return func(s string) string {
		if group != "" {
			s = strings.ReplaceAll(s, group, "")
		}
		return strings.Replace(s, decimal, ".", 1)
	}, nil
}
