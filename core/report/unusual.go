package report

import (
	"oddtick/core/spec"
	"oddtick/core/universal"
)

// Unusual is what breaks a promise that holds on every form, with the cases that show it.
type Unusual struct {
	universal.Unusual
	// Decision is what a tester made of it, "" for nothing yet.
	Decision spec.Decision `json:"decision,omitempty" enum:"wrong,usual"`
	Cases    []string      `json:"cases"`
}

// Unusual lists what is unusual of a run, the gravest first, but for what testers called usual.
func (r *Report) Unusual() []Unusual {
	var list []universal.Unusual
	cases := map[int][]string{}
	for _, c := range r.Cases {
		result := r.Results[c.ID]
		if result == nil {
			continue
		}
		for i := range result.Steps {
			for _, u := range result.Steps[i].Unusual {
				at := universal.IndexOf(list, u)
				if at < 0 {
					at, list = len(list), append(list, u)
				}
				if own := cases[at]; len(own) == 0 || own[len(own)-1] != c.ID {
					cases[at] = append(own, c.ID)
				}
			}
		}
	}
	var out []Unusual
	for _, at := range universal.Order(list) {
		if decided := spec.Decided(r.Decided, list[at].Promise, list[at].Field); decided != spec.Usual {
			out = append(out, Unusual{list[at], decided, cases[at]})
		}
	}
	return out
}
