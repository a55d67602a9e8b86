package array

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
)

// maxFactors bounds what a text may ask for.
const maxFactors = 10_000

// ParseLevels reads levels as papers write them: "4^15 3^17 2^29" is 15 factors of 4 levels, 17 of 3 and 29 of 2. Groups are
// separated by spaces, commas, dots, × or *.
func ParseLevels(text string) ([]int, error) {
	var out []int
	groups := strings.FieldsFunc(text, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(",.·×*", r) })
	if len(groups) == 0 {
		return nil, fmt.Errorf("no factors are given; write, for example, 4^15 3^17 2^29")
	}
	for _, g := range groups {
		base, times, powered := strings.Cut(g, "^")
		n, err := strconv.Atoi(base)
		count := 1
		if powered && err == nil {
			count, err = strconv.Atoi(times)
		}
		if err != nil || n < 1 || count < 1 {
			return nil, fmt.Errorf("%q is not a group of factors; write levels^factors, such as 3^4, or the levels of one factor, such as 3", g)
		}
		if count > maxFactors-len(out) {
			return nil, fmt.Errorf("%q makes more than %d factors", g, maxFactors)
		}
		for range count {
			out = append(out, n)
		}
	}
	return out, nil
}
