package universal

import (
	"cmp"
	"slices"
)

// Unusual is something that breaks a promise which holds on every form.
type Unusual struct {
	Promise ID `json:"promise"`
	// Field is the id of the field that it is about, "" for the whole form.
	Field string `json:"field,omitempty"`
	// Column is table.column, where it is about what is stored.
	Column string `json:"column,omitempty"`
	// Rule is the page's own rule that was not kept.
	Rule string `json:"rule,omitempty"`
	// Sent is the value that showed it, "" for that of a secret, and Seen what was seen instead: a stored value, a text, an address, a code.
	Sent string `json:"sent,omitempty"`
	Seen string `json:"seen,omitempty"`
}

// Same tells whether two are about the same thing, whatever values showed it.
func (u Unusual) Same(o Unusual) bool {
	return u.Promise == o.Promise && u.Field == o.Field && u.Column == o.Column && u.Rule == o.Rule
}

// Add appends what is not in a list yet.
func Add(list []Unusual, more ...Unusual) []Unusual {
	for _, u := range more {
		if !slices.ContainsFunc(list, u.Same) {
			list = append(list, u)
		}
	}
	return list
}

// IndexOf is the place of one that is about the same, -1 where there is none.
func IndexOf(list []Unusual, u Unusual) int { return slices.IndexFunc(list, u.Same) }

// Order are the places of a list, the gravest first.
func Order(list []Unusual) []int {
	out := make([]int, len(list))
	for i := range list {
		out[i] = i
	}
	slices.SortStableFunc(out, func(a, b int) int { return cmp.Compare(gravity(list[a].Promise), gravity(list[b].Promise)) })
	return out
}

// gravity is the place of a promise among all, the gravest first.
func gravity(id ID) int {
	return slices.IndexFunc(Promises, func(p Promise) bool { return p.ID == id })
}

// Sort puts the gravest first.
func Sort(list []Unusual) {
	slices.SortStableFunc(list, func(a, b Unusual) int { return cmp.Compare(gravity(a.Promise), gravity(b.Promise)) })
}
