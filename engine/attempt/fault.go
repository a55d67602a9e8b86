package attempt

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"log/slog"
	"runtime/debug"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/wording"
)

// FaultError is a fault of the program's own that ended a case. What it was stands in the log, under the reference.
type FaultError struct{ Reference string }

func (e *FaultError) Error() string {
	return fmt.Sprintf("a fault in Odd Tick itself ended the case; details are in its log under the reference %s", e.Reference)
}

// caught logs what a case panicked with, and notes it as the case's end; nil for nothing. It is called with what recover gives.
func (a *Attempt) caught(wrong any) error {
	if wrong == nil {
		return nil
	}
	stack := debug.Stack()
	sum := sha256.Sum256(append([]byte(fmt.Sprint(wrong)), stack...))
	err := &FaultError{hex.EncodeToString(sum[:4])}
	slog.Error("a case panicked", "reference", err.Reference, "case", a.Case.ID, "panic", fmt.Sprint(wrong), "stack", string(stack))
	a.faultMu.Lock()
	defer a.faultMu.Unlock()
	if a.fault == nil {
		a.fault = err
	}
	return err
}

// faulty is what ended the case, nil for nothing.
func (a *Attempt) faulty() error {
	a.faultMu.Lock()
	defer a.faultMu.Unlock()
	return a.fault
}

// faultResult is the result of a case that a fault ended.
func (a *Attempt) faultResult(err error) *report.Result {
	step := judge.Unobserved(err.Error())
	a.Result.Steps = []report.StepResult{{Do: a.Case.Steps[0].Do, Judgement: step}}
	a.Result.Verdict, a.Result.Cause, a.Result.Others = judge.NotObserved, nil, nil
	a.Result.Checks = judge.CaseChecks([]*judge.Judgement{step})
	wording.Result(a.Target.Form, a.Case, a.Result)
	return a.Result
}
