package judge

import (
	"fmt"
	"strings"

	"oddtick/core/oracle"
)

// headline says a step's result in a few words: how it ended, and the first thing that is odd.
func headline(e *oracle.Expectation, o observedOutcome, s *Step) string {
	ended := map[oracle.Outcome]string{
		oracle.Accepted: "Accepted", oracle.RejectedByServer: "Rejected", oracle.RejectedByBrowser: "Rejected by the browser",
		oracle.Failed: "Failed", oracle.Silent: "Nothing happened", oracle.Contradictory: "Contradictory",
	}[o.outcome]
	if e.Outcome == oracle.NothingFurther {
		ended = "Reloaded"
	}
	if s.Verdict != Odd {
		if s.Verdict == NotObserved {
			return ended + ", partly not observed"
		}
		return ended + ", as expected"
	}
	var odd []string
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if p.Verdict == Odd {
				odd = append(odd, oddWords(c.Check, p))
			}
		}
	}
	// the stored value tells most, then whatever is not a consequence of the wrong outcome
	best := odd[0]
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if p.Verdict == Odd && c.Check == StoredData && strings.Contains(p.Name, ".") {
				return ended + ", and " + oddWords(c.Check, p)
			}
		}
	}
	if o.outcome != e.Outcome && e.Outcome != oracle.NothingFurther {
		return fmt.Sprintf("%s, should be %s", ended, e.Outcome)
	}
	return ended + ", but " + best
}

// oddWords words one odd part.
func oddWords(check string, p Part) string {
	switch check {
	case Messages:
		name := strings.TrimPrefix(p.Name, "message ")
		name, _, _ = strings.Cut(name, ":")
		if p.Kind == "not expected" {
			return "another message is shown"
		}
		if p.Name == "success reply" {
			return "the success reply is " + p.Kind
		}
		if p.Name == "before submitting" {
			return "a message is shown before submitting"
		}
		return fmt.Sprintf("the message of %s is %s", name, map[string]string{"other text": "another text", "missing": "missing", "missing, as it was accepted": "missing"}[p.Kind]+otherKind(p.Kind))
	case StoredData:
		switch {
		case !strings.Contains(p.Name, "."):
			return p.Kind + " was written"
		case p.Kind == "other value":
			return fmt.Sprintf("%s holds %s for %s", p.Name, brief(p.Observed), brief(p.Expected))
		case p.Kind == "cut short":
			return p.Kind
		}
		return p.Name + " is " + p.Kind
	case Secrets:
		switch {
		case strings.HasSuffix(p.Name, ": salt"):
			return "the same secret is stored the same twice"
		case strings.Contains(p.Name, "."):
			return "the secret is stored " + p.Observed
		}
		return "the secret is " + p.Kind + ", " + p.Observed
	case RefilledValues:
		return fmt.Sprintf("%s is %s", p.Name, p.Kind)
	case Response:
		return fmt.Sprintf("%s: %s", p.Name, p.Kind)
	}
	return p.Kind
}

func otherKind(kind string) string {
	switch kind {
	case "other text", "missing", "missing, as it was accepted":
		return ""
	}
	return kind
}

func brief(s string) string {
	if r := []rune(s); len(r) > 24 {
		return string(r[:22]) + "…"
	}
	return s
}

// Cause names what a case's odd parts have in common with those of other cases: the check, the part and the kind of difference
// of the most telling odd part. Two cases with the same cause are likely to show the same fault.
type Cause struct {
	// Row is set where the part alone does not tell what it is about: of an outcome, of a row that should not be there.
	Row   string `json:"row,omitempty"`
	Check string `json:"check"`
	Part  string `json:"part"`
	Kind  string `json:"kind"`
}

// generic are the parts that every row has.
func (c Cause) generic() bool { return c.Check == Outcome || c.Part == "nothing else" }

// CauseOf finds the first odd part of a case, most telling check first; ok is false when nothing is odd.
func CauseOf(row string, steps []*Step) (cause Cause, headline string, ok bool) {
	for _, check := range []string{Secrets, StoredData, Outcome, RefilledValues, Messages, Response, Session} {
		for _, s := range steps {
			for _, c := range s.Checks {
				if c.Check != check || c.Verdict != Odd {
					continue
				}
				for _, p := range c.Parts {
					if p.Verdict == Odd {
						cause := Cause{Check: check, Part: p.Name, Kind: p.Kind}
						if cause.generic() || check == StoredData && p.Kind == "cut short" {
							cause.Row = row
						}
						return cause, s.Headline, true
					}
				}
			}
		}
	}
	return Cause{}, "", false
}
