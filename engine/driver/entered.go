package driver

import (
	"fmt"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/spec"
)

// Remade: the control holds another value than was typed, and not only as its mask or HTML itself writes it.
func Remade(f *spec.PreparedField, e *observation.Entered) bool {
	return e.Changed && !(f.Mask != nil && f.Mask.Made(e.Typed, e.Stands)) && !harmless(f, e)
}

func MadeOf(e *observation.Entered) string {
	return fmt.Sprintf("the control turned %[2]q into %[1]q", e.Stands, e.Typed)
}

// harmless: HTML itself makes this of the value (value sanitisation: e-mail addresses and URLs lose the spaces around them).
func harmless(f *spec.PreparedField, e *observation.Entered) bool {
	return (f.Kind == spec.Email || f.Kind == spec.URL) && e.Stands == strings.TrimSpace(e.Typed)
}

func FieldNamed(p *spec.Prepared, name string) *spec.PreparedField {
	for _, f := range p.Fields {
		if f.ControlName() == name {
			return f
		}
	}
	return nil
}
