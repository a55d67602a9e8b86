// Package template is about promised texts with places in them: {username}, {key}, {any}.
package template

import (
	"regexp"
	"strings"
)

// Any is the place that any text may fill.
const Any = "any"

// place is a name in braces: an id, or table.column.
var place = regexp.MustCompile(`\{([A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)?)\}`)

// Names are the names of a text's places, in order; one that stands twice is named twice.
func Names(text string) []string {
	if !strings.Contains(text, "{") {
		return nil
	}
	var out []string
	for _, m := range place.FindAllStringSubmatch(text, -1) {
		out = append(out, m[1])
	}
	return out
}

// Fill puts values into a text's places; one whose name is not known stays as it is. What is filled in is not filled again.
func Fill(text string, value func(name string) (string, bool)) string {
	if !strings.Contains(text, "{") {
		return text
	}
	var b strings.Builder
	b.Grow(len(text) + 24)
	for text != "" {
		open := strings.IndexByte(text, '{')
		if open < 0 {
			break
		}
		end := strings.IndexByte(text[open:], '}')
		if end < 0 {
			break
		}
		b.WriteString(text[:open])
		if v, known := value(text[open+1 : open+end]); known {
			b.WriteString(v)
		} else {
			b.WriteString(text[open : open+end+1])
		}
		text = text[open+end+1:]
	}
	b.WriteString(text)
	return b.String()
}

// Matches tells whether a text is a promised one, where any text may stand in the promised text's places.
func Matches(promised, text string) bool {
	parts := place.Split(promised, -1)
	if len(parts) == 1 {
		return promised == text
	}
	last := len(parts) - 1
	rest, found := strings.CutPrefix(text, parts[0])
	return found && strings.HasSuffix(rest, parts[last]) && inOrder(rest[:len(rest)-len(parts[last])], parts[1:last])
}

// Within tells whether a text contains a promised one, where any text may stand in the promised text's places.
func Within(promised, text string) bool {
	parts := place.Split(promised, -1)
	return inOrder(text, parts)
}

// Literal is the longest part of a text without places.
func Literal(text string) string {
	var longest string
	for _, part := range place.Split(text, -1) {
		if part = strings.TrimSpace(part); len(part) > len(longest) {
			longest = part
		}
	}
	return longest
}

// inOrder tells whether a text contains parts one behind the other.
func inOrder(text string, parts []string) bool {
	for _, part := range parts {
		_, behind, found := strings.Cut(text, part)
		if !found {
			return false
		}
		text = behind
	}
	return true
}
