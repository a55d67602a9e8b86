// Package scale lays cases out as rows of scales: ticks in order, with the stretches that are accepted and rejected between them.
package scale

import (
	"cmp"
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
	"oddtick/core/wording/promise"
)

// Row is one row of the Cases screen: a field, or a row below the fields, with its scales.
type Row struct {
	ID     string       `json:"id"`
	Label  string       `json:"label"`
	Rules  []prose.Text `json:"rules"` // in words
	Cases  int          `json:"cases"`
	Scales []Scale      `json:"scales"`
}

// Scale is one line: ticks in order, with the stretches that are accepted and rejected between them.
type Scale struct {
	Name string `json:"name"`
	// Given: the name is that of a field or a rule, and not the code of a word.
	Given bool `json:"given,omitempty"`
	// Measured tells that places are lengths, numbers or days; otherwise the ticks merely stand side by side.
	Measured bool   `json:"measured"`
	Ticks    []Tick `json:"ticks"`
}

// Tick is one or more cases at one place of a scale.
type Tick struct {
	Label   string   `json:"label"`
	Given   bool     `json:"given,omitempty" doc:"the label stands in the document, and is not the code of a word"`
	Variant string   `json:"variant,omitempty" enum:"wide,trimmed"`
	Cases   []string `json:"cases"`
	// Accepted: the input at this place is expected to be accepted.
	Accepted bool `json:"accepted"`
	// Next tells that the following tick is the next possible value: the stretch between them has no inside.
	Next bool `json:"next,omitempty"`
	// Opens and Closes tell that an accepted stretch begins or ends at this tick.
	Opens  bool `json:"opens,omitempty"`
	Closes bool `json:"closes,omitempty"`
}

// Rows lays cases out as rows of scales.
func Rows(p *spec.Prepared, cases []*testcase.Case) []Row {
	var rows []Row
	for _, f := range p.Fields {
		if f.Kind.Untouched() {
			continue
		}
		rows = append(rows, Row{ID: f.ID, Label: f.Label, Rules: promise.Rules(f)})
	}
	rows = append(rows, Row{ID: testcase.RowAcross, Label: phrases.AcrossFields.Template(), Rules: promise.Across(p)}, Row{ID: testcase.RowUniqueness, Label: phrases.UniquenessOfAll.Template(), Rules: promise.Unique(p)}, Row{ID: testcase.RowForm, Label: phrases.WholeForm.Template(), Rules: []prose.Text{phrases.OneRequestAnswer.Text()}}, Row{ID: testcase.RowOwn, Label: phrases.CasesByHand.Template(), Rules: []prose.Text{phrases.WrittenOrSheet.Text()}})
	byRow := map[string][]*testcase.Case{}
	for _, c := range cases {
		byRow[c.Row] = append(byRow[c.Row], c)
	}
	for i := range rows {
		rows[i].Cases = len(byRow[rows[i].ID])
		rows[i].Scales = scales(byRow[rows[i].ID])
	}
	return slices.DeleteFunc(rows, func(r Row) bool { return r.Cases == 0 })
}

func scales(cases []*testcase.Case) []Scale {
	var out []Scale
	index := map[string]int{}
	byScale := map[string][]*testcase.Case{}
	for _, c := range cases {
		if _, ok := index[c.Mark.Scale]; !ok {
			index[c.Mark.Scale] = len(out)
			out = append(out, Scale{Name: scaleName(c), Given: c.Mark.Name != "", Measured: c.Mark.Measured()})
		}
		byScale[c.Mark.Scale] = append(byScale[c.Mark.Scale], c)
	}
	for name, i := range index {
		out[i].Ticks = ticks(byScale[name], out[i].Measured)
	}
	// the measured scale leads
	slices.SortStableFunc(out, func(a, b Scale) int {
		rank := map[bool]int{true: 0, false: 1}
		return cmp.Compare(rank[a.Measured], rank[b.Measured])
	})
	return out
}

func scaleName(c *testcase.Case) string {
	return cmp.Or(c.Mark.Name, c.Mark.Scale)
}

func ticks(cases []*testcase.Case, measured bool) []Tick {
	slices.SortStableFunc(cases, func(a, b *testcase.Case) int { return cmp.Compare(a.Mark.At, b.Mark.At) })
	var out []Tick
	var places []float64
	for _, c := range cases {
		accepted := c.Last().Expect != oracle.RejectedByServer && c.Last().Expect != oracle.RejectedByBrowser
		if n := len(out); n > 0 && out[n-1].Label == c.Mark.Label && out[n-1].Variant == c.Mark.Variant && out[n-1].Accepted == accepted {
			out[n-1].Cases = append(out[n-1].Cases, c.ID)
			continue
		}
		out = append(out, Tick{Label: c.Mark.Label, Given: c.Mark.Given, Variant: c.Mark.Variant, Cases: []string{c.ID}, Accepted: accepted})
		places = append(places, c.Mark.At)
	}
	for i := range out {
		if i+1 < len(out) {
			out[i].Next = !measured || places[i+1]-places[i] <= 1
		}
		before := i > 0 && out[i-1].Accepted
		after := i+1 < len(out) && out[i+1].Accepted
		out[i].Opens = out[i].Accepted && !before
		out[i].Closes = out[i].Accepted && !after
	}
	return out
}
