package practice

import (
	"fmt"
	"strings"
)

type fieldErrors struct {
	Name   string
	List   []string
	Hidden bool
}

// At returns a control's messages.
func (v joinView) At(name string) fieldErrors {
	return fieldErrors{Name: name, List: v.Errors[name], Hidden: v.Hidden[name]}
}

// Tie returns the ids of a control's messages, to which it refers.
func (v joinView) Tie(name string) string {
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
