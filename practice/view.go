package practice

import (
	"fmt"
	"strings"
)

// formView is what the page of a form shows of it.
type formView struct {
	Token  string
	Values map[string]string
	Errors formErrors
	// Hidden and Untied are fields whose messages are hidden or not referred to.
	Hidden, Untied map[string]bool
}

// formErrors are the messages by control name.
type formErrors map[string][]string

type fieldErrors struct {
	Name   string
	List   []string
	Hidden bool
}

// At returns a control's messages.
func (v formView) At(name string) fieldErrors {
	return fieldErrors{Name: name, List: v.Errors[name], Hidden: v.Hidden[name]}
}

// Tie returns the ids of a control's messages, to which it refers.
func (v formView) Tie(name string) string {
	if v.Untied[name] {
		return ""
	}
	var ids []string
	for i, text := range v.Errors[name] {
		if text != "" {
			ids = append(ids, fmt.Sprintf("%s-error-%d", name, i))
		}
	}
	return strings.Join(ids, " ")
}
