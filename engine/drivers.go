package engine

import (
	"oddtick/core/design"
	"oddtick/core/oracle"
)

// Drivable parts cases into those a run makes, and those that need a driver it does not have.
func Drivable(cases []*design.Case) (made, left []*design.Case) {
	for _, c := range cases {
		drivable := true
		for _, step := range c.Steps {
			drivable = drivable && step.Driver == oracle.HTTP
		}
		if drivable {
			made = append(made, c)
		} else {
			left = append(left, c)
		}
	}
	return made, left
}
