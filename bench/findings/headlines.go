package main

import (
	"fmt"
	"strings"

	"oddtick/bench/planted"
)

// headlinesOf writes what is said of each fault of the practice sites, form by form.
func headlinesOf(r *Report) []byte {
	said := map[string][]string{}
	for _, one := range r.Ones {
		if one != nil {
			said[one.Fault] = one.Headlines
		}
	}
	var b strings.Builder
	b.WriteString("# Headlines\n\nWhat Odd Tick says of each planted fault of the practice sites, when it is the only one. Made by `make headlines`; values that must be new differ from run to run.\n")
	form := ""
	for _, f := range planted.Faults() {
		if said[f.Name] == nil {
			continue
		}
		if f.Form != form {
			form = f.Form
			fmt.Fprintf(&b, "\n## %s\n\n| Fault | What is wrong | Headline |\n|---|---|---|\n", form)
		}
		fmt.Fprintf(&b, "| %s | %s | %s |\n", f.Name, inTable(f.Wrong), inTable(strings.Join(said[f.Name], "<br>")))
	}
	return []byte(b.String())
}

func inTable(s string) string {
	return strings.NewReplacer("|", "\\|", "\n", " ", "\r", " ").Replace(s)
}
