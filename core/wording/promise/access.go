package promise

import (
	"oddtick/core/access"
	"oddtick/core/spec"
)

// Access say it.
func Access(e access.Expected) string {
	switch {
	case e.Opens:
		return "opens"
	case e.To == "":
		return "does not open"
	case e.To == spec.Forbidden:
		return "is forbidden"
	}
	return "leads to " + e.To
}
