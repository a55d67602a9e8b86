package wording

import (
	"strconv"

	"oddtick/core/prose"
	"oddtick/core/wording/phrases"
)

// places are what stands in the named places of a template, such as {label} in "{label} is blank".
type places map[string]string

// fill writes a template with its places filled in. A place that is not given stays as it is, so that a test can find it.
func fill(template string, with places) string {
	return phrases.Fill(template, func(place string) (string, bool) {
		text, given := with[place]
		return text, given
	})
}

func text(template string, with places) prose.Text { return prose.Text(fill(template, with)) }

// short is the beginning of a text that is too long for its place.
func short(s string) string {
	if r := []rune(s); len(r) > 24 {
		return string(r[:22]) + "…"
	}
	return s
}

func number(n int) string { return strconv.Itoa(n) }
