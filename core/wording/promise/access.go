package promise

import (
	"oddtick/core/access"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/wording/phrases"
)

// Access says what becomes of a page that a visitor opens.
func Access(e access.Expected) prose.Text {
	switch {
	case e.Opens:
		return phrases.PageOpens.Text()
	case e.To == "":
		return phrases.PageDoesNotOpen.Text()
	case e.To == spec.Forbidden:
		return phrases.PageForbidden.Text()
	}
	return phrases.PageLeadsTo.With("path", e.To)
}
