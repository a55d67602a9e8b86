package universal

import "oddtick/core/observation"

// Page finds what is unusual of a form before anything is submitted. language is what the page's root element says, "" for nothing.
func Page(form *observation.FormOnPage, language string) (out []Unusual) {
	if language == "" {
		out = append(out, Unusual{Promise: LanguageMissing})
	}
	for i := range form.Fields {
		f := &form.Fields[i]
		switch {
		case f.Name == "", f.Honeypot, f.Type == "hidden", f.Disabled:
		case f.Label == "", f.LabelFrom == "placeholder":
			out = append(out, Unusual{Promise: LabelMissing, Field: f.Name})
		}
	}
	return out
}
