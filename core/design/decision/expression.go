package decision

import (
	"fmt"
	"math/bits"
	"strings"
)

// Expression writes a table's columns as an expression over its conditions, which holds where a column's outcome is yes. Of the two
// forms, columns with the outcome joined by || or those without ruled out by &&, the shorter one is taken.
func Expression(conditions []string, columns []Column, yes string) (string, error) {
	n := len(conditions)
	if n > maxConditions {
		return "", fmt.Errorf("a table of %d conditions is not drawn, so it cannot be edited as one; edit the expression", n)
	}
	outcome := make([]string, 1<<n)
	for _, c := range columns {
		if len(c.Entries) != n {
			return "", fmt.Errorf("a column has %d entries for %d conditions", len(c.Entries), n)
		}
		for mask := range outcome {
			if c.holds(uint32(mask)) {
				outcome[mask] = "no"
				if c.Outcome == yes {
					outcome[mask] = "yes"
				}
			}
		}
	}
	for _, one := range outcome {
		if one == "" {
			return "", fmt.Errorf("the columns do not say what happens in every combination of the conditions")
		}
	}
	var in, out []cube
	for _, c := range merge(n, func(mask uint32) string { return outcome[mask] }) {
		if outcome[c.mask] == "yes" {
			in = append(in, c)
		} else {
			out = append(out, c)
		}
	}
	switch {
	case len(out) == 0:
		return "true", nil
	case len(in) == 0:
		return "false", nil
	case literals(in) < literals(out):
		return joined(conditions, in, " && ", " || ", true), nil
	}
	return joined(conditions, out, " || ", " && ", false), nil
}

func (c *Column) holds(mask uint32) bool {
	for i, e := range c.Entries {
		if e == Yes && mask>>i&1 == 0 || e == No && mask>>i&1 == 1 {
			return false
		}
	}
	return true
}

func literals(list []cube) (n int) {
	for _, c := range list {
		n += bits.OnesCount32(c.care)
	}
	return n
}

// joined writes cubes with their conditions as they are, or each negated.
func joined(conditions []string, list []cube, within, between string, as bool) string {
	groups := make([]string, len(list))
	for k, c := range list {
		var parts []string
		for i, condition := range conditions {
			if c.care>>i&1 == 0 {
				continue
			}
			if (c.mask>>i&1 == 1) == as {
				parts = append(parts, condition)
			} else {
				parts = append(parts, negated(condition))
			}
		}
		groups[k] = strings.Join(parts, within)
		if len(list) > 1 && len(parts) > 1 {
			groups[k] = "(" + groups[k] + ")"
		}
	}
	return strings.Join(groups, between)
}

// negated writes the opposite of a condition: that of a plain comparison by its sign.
func negated(condition string) string {
	for _, sign := range [][2]string{{" == ", " != "}, {" <= ", " > "}, {" >= ", " < "}, {" < ", " >= "}, {" > ", " <= "}} {
		if strings.Count(condition, sign[0]) == 1 && !strings.ContainsAny(condition, "()?&|") {
			return strings.Replace(condition, sign[0], sign[1], 1)
		}
	}
	if strings.ContainsAny(condition, " ") {
		return "!(" + condition + ")"
	}
	return "!" + condition
}
