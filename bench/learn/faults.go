package main

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"

	"oddtick/bench/planted"
	"oddtick/core/universal"
	"oddtick/practice"
)

// plant plants the faults that show without rules, each alone, learns the form from its address, and prints whether the promise is named that it
// breaks; then it learns each form without a fault, so often, and prints what is called unusual of it. It returns how many were missed or wrong.
func plant(ctx context.Context, prefix string, rounds int) (bad int) {
	type task struct {
		form  string
		fault []practice.Fault
	}
	var list []task
	var forms []string
	for _, f := range planted.Faults() {
		if practice.WithoutRules[f.Name] == "" {
			continue
		}
		if !slices.Contains(forms, f.Form) {
			forms = append(forms, f.Form)
		}
		if prefix == "all" || strings.HasPrefix(f.Name, prefix) {
			list = append(list, task{f.Form, []practice.Fault{f}})
		}
	}
	planned := len(list)
	for range rounds {
		for _, form := range forms {
			list = append(list, task{form: form})
		}
	}
	var mu sync.Mutex
	found, alarms := 0, 0
	err := planted.Each(ctx, len(list), 2, func(i int, dsn string) {
		t := list[i]
		l := form(ctx, dsn, t.form, t.fault)
		mu.Lock()
		defer mu.Unlock()
		if len(t.fault) == 0 {
			alarms += len(l.Unusual)
			fmt.Printf("%-28s %-10s %4d submissions  %d unusual %v %s\n", "none", t.form, l.Submissions, len(l.Unusual), l.Unusual, l.Failure)
			if l.Failure != "" {
				bad++
			}
			return
		}
		promise := universal.ID(practice.WithoutRules[t.fault[0].Name])
		word := "missed"
		if slices.ContainsFunc(l.Unusual, func(u universal.Unusual) bool { return u.Promise == promise }) {
			word = "found"
			found++
		}
		fmt.Printf("%-28s %-10s %-6s %-24s %4d submissions  %d unusual %.150v %s\n", t.fault[0].Name, t.form, word, promise, l.Submissions, len(l.Unusual), fmt.Sprint(l.Unusual), l.Failure)
	})
	if err != nil {
		fmt.Println(err)
		bad++
	}
	fmt.Printf("found %d of %d, %d unusual without a fault\n", found, planned, alarms)
	return bad + planned - found + alarms
}
