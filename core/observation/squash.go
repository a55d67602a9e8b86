package observation

import "strings"

// Squash gives a text its white space as a page shows it: one space in place of each run, none at the ends.
func Squash(s string) string {
	before := byte(' ')
	for i := range len(s) {
		c := s[i]
		if c < ' ' || c > '~' || c == ' ' && before == ' ' {
			return strings.Join(strings.Fields(s), " ")
		}
		before = c
	}
	if before == ' ' { // nothing, or a space at the end
		return strings.TrimSpace(s)
	}
	return s
}
