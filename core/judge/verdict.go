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

// The seven checks, in order.
const (
	Outcome        = "Outcome"
	Response       = "Response"
	Messages       = "Messages"
	RefilledValues = "Refilled values"
	StoredData     = "Stored data"
	Secrets        = "Secrets"
	Session        = "Session"
)

// Checks lists the seven checks in order.
var Checks = []string{Outcome, Response, Messages, RefilledValues, StoredData, Secrets, Session}

// Part is one thing judged within a check.
type Part struct {
	// Name says what it is about: "status", "message username.length: text", "accounts.mail".
	Name    string  `json:"name"`
	Verdict Verdict `json:"verdict"`
	// Kind of difference, the same for the same kind of fault: "cut short", "missing". Empty unless odd.
	Kind     string `json:"kind,omitempty"`
	Expected string `json:"expected,omitempty"`
	Observed string `json:"observed,omitempty"`
	// At is where within it the difference is, such as a place in a JSON answer.
	At string `json:"at,omitempty"`
	// Why is the reason of a verdict that needs one.
	Why string `json:"why,omitempty"`
}

// Check is one of the seven with its parts.
type Check struct {
	Check   string  `json:"check"`
	Verdict Verdict `json:"verdict"`
	Parts   []Part  `json:"parts"`
}

// Step is the verdicts of one step.
type Step struct {
	Verdict  Verdict `json:"verdict"`
	Headline string  `json:"headline"`
	Checks   []Check `json:"checks"`
	// odd is what is odd of it, each with its words, and is no consequence of something else.
	odd []oddPart
}

// fold: odd if any is odd, else not observed if any was not, else as expected if any is, else it does not apply.
func fold(list []Verdict) Verdict {
	for _, v := range []Verdict{Odd, NotObserved, AsExpected} {
		if slices.Contains(list, v) {
			return v
		}
	}
	return DoesNotApply
}

func (c *Check) add(p Part) { c.Parts = append(c.Parts, p) }

func (c *Check) asExpected(name, expected, observed string) {
	c.add(Part{Name: name, Verdict: AsExpected, Expected: expected, Observed: observed})
}

func (c *Check) odd(name, kind, expected, observed string) {
	c.add(Part{Name: name, Verdict: Odd, Kind: kind, Expected: expected, Observed: observed})
}

// compare adds a part that is as expected when same.
func (c *Check) compare(same bool, name, kind, expected, observed string) {
	if same {
		c.asExpected(name, expected, observed)
		return
	}
	c.odd(name, kind, expected, observed)
}

func (c *Check) unobserved(name, why string) {
	c.add(Part{Name: name, Verdict: NotObserved, Why: why})
}

func (c *Check) irrelevant(name, why string) {
	c.add(Part{Name: name, Verdict: DoesNotApply, Why: why})
}

func (c *Check) finish() Check {
	list := make([]Verdict, len(c.Parts))
	for i, p := range c.Parts {
		list[i] = p.Verdict
	}
	c.Verdict = fold(list)
	if c.Parts == nil {
		c.Parts = []Part{}
	}
	return *c
}
