package target

import "oddtick/core/testcase"

// Drivable parts cases into those that a run makes, and those it leaves because they are switched off.
func Drivable(cases []*testcase.Case) (made, left []*testcase.Case) {
	for _, c := range cases {
		if Left(c) == "" {
			made = append(made, c)
		} else {
			left = append(left, c)
		}
	}
	return made, left
}

// Left says why a run leaves a case out; "" for one that it makes.
func Left(c *testcase.Case) string {
	if c.Off() {
		return "it is skipped: " + c.Edit.Skip
	}
	return ""
}
