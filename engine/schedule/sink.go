package schedule

import (
	"oddtick/core/observation"
	"oddtick/core/report"
)

// Sink takes what a run produces. Its methods may be called from several goroutines at once.
type Sink interface {
	// Begin is called before an attempt is submitted; when it returns, the intent must be kept.
	Begin(caseID string, attempt int) error
	// Done is called with the attempt's result.
	Done(*report.Result) error
	// Interference is called when rows changed between two cases.
	Interference([]observation.Change)
}
