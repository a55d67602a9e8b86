package oracle

import "oddtick/core/spec"

// pageIn is what the page of a form holds in the language that is asked for; nil where it is not looked at.
func pageIn(p *spec.Prepared, w *World) *Page {
	if !w.Page {
		return nil
	}
	out := &Page{Title: p.Form.PageTitles[w.Language], Labels: map[string]string{}}
	for _, f := range p.Fields {
		if label := f.Labels[w.Language]; label != "" && f.When == "" {
			out.Labels[f.ID] = label
		}
	}
	if w.Choice != nil && w.Choice.HTMLLang {
		out.HTMLLang = w.Language
	}
	if w.Choice != nil && w.Choice.ContentLanguage {
		out.ContentLanguage = w.Language
	}
	return out
}
