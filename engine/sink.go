package engine

import (
	"time"

	"oddtick/core/design"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
)

// Result is one attempt at a case.
type Result struct {
	Case     string          `json:"case"`
	Attempt  int             `json:"attempt"`
	Verdict  judge.Verdict   `json:"verdict"`
	Checks   []judge.Verdict `json:"checks"` // in the order of judge.Checks
	Headline string          `json:"headline"`
	Cause    *judge.Cause    `json:"cause,omitempty"`
	Started  time.Time       `json:"started"`
	Took     time.Duration   `json:"took"` // nanoseconds
	Steps    []StepResult    `json:"steps"`
}

// StepResult is what was expected, observed and judged of one step.
type StepResult struct {
	Do          design.Action       `json:"do"`
	Expectation *oracle.Expectation `json:"expectation,omitempty"`
	Observation *observation.Step   `json:"observation,omitempty"`
	Judgement   *judge.Step         `json:"judgement"`
}

// Sink takes what a run produces. Its methods may be called from several goroutines at once.
type Sink interface {
	// Begin is called before an attempt is submitted; when it returns, the intent must be kept.
	Begin(caseID string, attempt int) error
	// Done is called with the attempt's result.
	Done(*Result) error
	// Interference is called when rows changed between two cases.
	Interference([]observation.Change)
}
