package judge

import "slices"

// Verdict is of a part, a check, a step or a case.
type Verdict string

// The verdicts.
const (
	AsExpected   Verdict = "as expected"
	Odd          Verdict = "odd"
	NotObserved  Verdict = "not observed"
	DoesNotApply Verdict = "does not apply"
)

// fold: odd if any is odd, else not observed if any was not, else as expected if any is, else it does not apply.
func fold(list []Verdict) Verdict {
	for _, v := range []Verdict{Odd, NotObserved, AsExpected} {
		if slices.Contains(list, v) {
			return v
		}
	}
	return DoesNotApply
}
