package wording

import (
	"strconv"
	"strings"

	"oddtick/core/prose"
)

// places are what stands in the named places of a template, such as {label} in "{label} is blank".
type places map[string]string

// fill writes a template with its places filled in. A place that is not given stays as it is, so that a test can find it.
func fill(template string, with places) string {
	var b strings.Builder
	for {
		before, rest, found := strings.Cut(template, "{")
		b.WriteString(before)
		if !found {
			return b.String()
		}
		name, after, closed := strings.Cut(rest, "}")
		text, given := with[name]
		if !closed || !given {
			b.WriteByte('{')
			template = rest
			continue
		}
		b.WriteString(text)
		template = after
	}
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
