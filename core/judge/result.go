package judge

import (
	"time"

	"oddtick/core/design"
	"oddtick/core/observation"
	"oddtick/core/oracle"
)

// Result is one attempt at a case.
type Result struct {
	Case     string        `json:"case"`
	Attempt  int           `json:"attempt"`
	Verdict  Verdict       `json:"verdict"`
	Checks   []Verdict     `json:"checks"` // in the order of Checks
	Headline string        `json:"headline"`
	Cause    *Cause        `json:"cause,omitempty"`
	Started  time.Time     `json:"started"`
	Took     time.Duration `json:"took"` // nanoseconds
	Steps    []StepResult  `json:"steps"`
}

// StepResult is what was expected, observed and judged of one step.
type StepResult struct {
	Do          design.Action       `json:"do"`
	Expectation *oracle.Expectation `json:"expectation,omitempty"`
	Observation *observation.Step   `json:"observation,omitempty"`
	Judgement   *Step               `json:"judgement"`
}

// Report is a whole run of one form: its cases and the latest result of each, in the cases' order.
type Report struct {
	Form     string             `json:"form"`
	Title    string             `json:"title"`
	Site     string             `json:"site"`
	Depth    design.Depth       `json:"depth"`
	Run      int64              `json:"run"`
	Started  time.Time          `json:"started"`
	Took     time.Duration      `json:"took"` // nanoseconds
	Cases    []*design.Case     `json:"cases"`
	Results  map[string]*Result `json:"results"`
	Omitted  []design.Omission  `json:"omitted,omitempty"`
	Foreign  int                `json:"foreign_changes"`
	Complete bool               `json:"complete"`
}

// Count counts cases by verdict; those without a result are not observed.
func (r *Report) Count() map[Verdict]int {
	out := map[Verdict]int{}
	for _, c := range r.Cases {
		out[r.VerdictOf(c)]++
	}
	return out
}

// VerdictOf is a case's verdict; not observed when it has no result.
func (r *Report) VerdictOf(c *design.Case) Verdict {
	if result := r.Results[c.ID]; result != nil {
		return result.Verdict
	}
	return NotObserved
}

// CauseGroup is cases of one row that are odd in the same way.
type CauseGroup struct {
	Row      string   `json:"row"`
	Cause    Cause    `json:"cause"`
	Headline string   `json:"headline"`
	Cases    []string `json:"cases"`
}

// ByCause groups odd results by row and cause, in the order they come.
func ByCause(cases []*design.Case, resultOf func(id string) *Result) []CauseGroup {
	type key struct {
		row   string
		cause Cause
	}
	index := map[key]int{}
	out := []CauseGroup{}
	for _, c := range cases {
		r := resultOf(c.ID)
		if r == nil || r.Cause == nil {
			continue
		}
		k := key{c.Row, *r.Cause}
		i, known := index[k]
		if !known {
			i = len(out)
			index[k] = i
			out = append(out, CauseGroup{Row: c.Row, Cause: *r.Cause, Headline: r.Headline})
		}
		out[i].Cases = append(out[i].Cases, c.ID)
	}
	return out
}
