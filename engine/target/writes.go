package target

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// TableWrites is how many rows of a table cases are expected to insert and to change at most.
type TableWrites struct {
	Table    string `json:"table"`
	Inserted int    `json:"inserted"`
	Changed  int    `json:"changed"`
}

// ExpectedWrites are the rows that cases are expected to write at most, by table in the order of the form's document: what is written only
// under a condition is counted always, and of a row for each choice as many as there are choices.
func ExpectedWrites(form *spec.Form, cases []*testcase.Case) []TableWrites {
	accepted := 0
	for _, c := range cases {
		for _, s := range c.Steps {
			if s.Expect == oracle.Accepted {
				accepted++
			}
		}
	}
	out := []TableWrites{}
	for i := range form.Stored {
		st := &form.Stored[i]
		k := slices.IndexFunc(out, func(t TableWrites) bool { return t.Table == st.Table() })
		if k < 0 {
			k, out = len(out), append(out, TableWrites{Table: st.Table()})
		}
		switch {
		case st.Update != "":
			out[k].Changed += accepted
		case st.Each != "":
			out[k].Inserted += accepted * choices(form, st.Each)
		default:
			out[k].Inserted += accepted
		}
	}
	return out
}

// choices is how many options a field has, at least one.
func choices(form *spec.Form, field string) int {
	for i := range form.Fields {
		if form.Fields[i].ID == field {
			return max(1, len(form.Fields[i].Options))
		}
	}
	return 1
}

// Permitted are the cases that may be made where a site is protected: all of them, or those that should write nothing.
func Permitted(site *spec.Site, cases []*testcase.Case) []*testcase.Case {
	if site.Protected() != spec.NoWrites {
		return cases
	}
	return slices.DeleteFunc(slices.Clone(cases), (*testcase.Case).Writes)
}
