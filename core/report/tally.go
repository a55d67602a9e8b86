package report

import (
	"fmt"

	"oddtick/core/judge"
)

// Tally counts a run's cases by what became of them. Every case is counted once.
type Tally struct {
	Total        int `json:"total"`
	AsExpected   int `json:"as_expected"`
	Odd          int `json:"odd"`
	NotObserved  int `json:"not_observed"`
	DoesNotApply int `json:"does_not_apply"`
	NotRun       int `json:"not_run"`
}

// Tally counts the report's cases.
func (r *Report) Tally() Tally {
	t := Tally{Total: len(r.Cases)}
	for _, c := range r.Cases {
		result := r.Results[c.ID]
		if result == nil {
			t.NotRun++
			continue
		}
		t.Add(result.Verdict)
	}
	return t
}

// Add counts one case that was run.
func (t *Tally) Add(v judge.Verdict) {
	switch v {
	case judge.AsExpected:
		t.AsExpected++
	case judge.Odd:
		t.Odd++
	case judge.NotObserved:
		t.NotObserved++
	default:
		t.DoesNotApply++
	}
}

// Run is how many cases were run.
func (t Tally) Run() int { return t.Total - t.NotRun }

// Clear tells whether all of it was run and observed, and nothing is odd.
func (t Tally) Clear() bool { return t.Odd+t.NotObserved+t.NotRun == 0 && t.AsExpected > 0 }

// Words are the counts in a line that adds up.
func (t Tally) Words() string {
	out := fmt.Sprintf("%d cases, %d as expected, %d odd, %d not observed", t.Total, t.AsExpected, t.Odd, t.NotObserved)
	if t.Total == 1 {
		out = fmt.Sprintf("1 case, %d as expected, %d odd, %d not observed", t.AsExpected, t.Odd, t.NotObserved)
	}
	if t.DoesNotApply > 0 {
		out += fmt.Sprintf(", %d not applicable", t.DoesNotApply)
	}
	if t.NotRun > 0 {
		out += fmt.Sprintf(", %d not run", t.NotRun)
	}
	return out
}

// Verdict says in a few words whether anything is odd, and of how much that is known.
func (t Tally) Verdict() string {
	switch {
	case t.Run() == 0:
		return fmt.Sprintf("nothing was run, 0 of %d cases", t.Total)
	case t.Odd > 0 && t.NotRun > 0:
		return fmt.Sprintf("%d odd, %d of %d cases run", t.Odd, t.Run(), t.Total)
	case t.Odd > 0:
		return fmt.Sprintf("%d odd of %d cases", t.Odd, t.Total)
	case t.NotRun > 0:
		return fmt.Sprintf("nothing odd so far, %d of %d cases run", t.Run(), t.Total)
	case t.NotObserved > 0:
		return fmt.Sprintf("nothing odd in %d cases, %d not observed", t.Total, t.NotObserved)
	}
	return fmt.Sprintf("nothing odd in %d cases", t.Total)
}
