package report

import "oddtick/core/judge"

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
