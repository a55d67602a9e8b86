package driver

import (
	"oddtick/core/observation"
)

// Successful: the control is part of what a form sends (HTML Standard, constructing the entry list).
func Successful(c *observation.Control) bool {
	switch c.Type {
	case "checkbox", "radio":
		return c.Checked && !c.Disabled
	case "file", "image":
		return false
	}
	return !c.Disabled
}
