package attempt

import (
	"strings"

	"oddtick/core/spec"
)

// address is that of the form's page, in the language that the case asks for by it.
func (a *Attempt) address() string {
	page, choice := a.Target.Form.Form.Page, a.Target.Config.Site.LanguageChoice
	switch a.Case.ChosenBy {
	case spec.ByQuery:
		sign := "?"
		if strings.Contains(page, "?") {
			sign = "&"
		}
		return page + sign + choice.Query + "=" + a.Case.Language
	case spec.ByPath:
		return strings.ReplaceAll(choice.Path, "{language}", a.Case.Language) + page
	}
	return page
}

// language is what the visitor asks for.
func (a *Attempt) language() string {
	if a.Case.Language != "" {
		return a.Case.Language
	}
	return a.Target.Config.Site.BrowserLanguage()
}
