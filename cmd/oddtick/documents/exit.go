// Package documents reads documents and results from files, and writes results to them.
package documents

// ExitError carries the process's exit code: 1 something odd, 2 could not run or something was not observed.
type ExitError struct {
	Code int
	Text string
}

func (e *ExitError) Error() string { return e.Text }
