package judge

import (
	"fmt"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// headline says a step's result in a few words: how it ended, and the first thing that is odd.
func headline(prepared *spec.Prepared, e *oracle.Expectation, o observedOutcome, s *Step) string {
	ended := map[oracle.Outcome]string{
		oracle.Accepted: "Accepted", oracle.RejectedByServer: "Rejected", oracle.RejectedByBrowser: "Rejected by the browser",
		oracle.Failed: "Failed", oracle.Silent: "Nothing happened", oracle.Contradictory: "Contradictory", oracle.NotAnswered: "Without an answer",
	}[o.outcome]
	if e.Outcome == oracle.NothingFurther && len(e.Failing) == 0 {
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
				odd = append(odd, oddWords(prepared, c.Check, p))
			}
		}
	}
	// the stored value tells most, then whatever is not a consequence of the wrong outcome
	best := odd[0]
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if p.Verdict == Odd && c.Check == StoredData && strings.Contains(p.Name, ".") {
				return ended + ", and " + oddWords(prepared, c.Check, p)
			}
		}
	}
	if o.outcome != e.Outcome && e.Outcome != oracle.NothingFurther {
		return fmt.Sprintf("%s, should be %s", ended, e.Outcome)
	}
	return ended + ", but " + best
}

// oddWords words one odd part.
func oddWords(prepared *spec.Prepared, check string, p Part) string {
	switch check {
	case Messages:
		switch {
		case p.Kind == "not expected":
			return "another message is shown"
		case p.Name == "success reply":
			return "the success reply is " + p.Kind
		case strings.HasPrefix(p.Name, "shown on "):
			return "the saved value is not " + p.Name
		case p.Name == "shown once":
			return "the success reply is shown again"
		case p.Name == "before submitting":
			return "a message is shown before submitting"
		}
		return fmt.Sprintf("the message of %s %s", ruleLabel(prepared, p.Name), messageWords[p.Kind])
	case StoredData:
		switch {
		case p.Name == "other rows" && !strings.HasSuffix(p.Kind, "inserted"):
			words := strings.Fields(p.Kind) // another row changed
			return strings.Join(words[:len(words)-1], " ") + " was " + words[len(words)-1]
		case !strings.Contains(p.Name, "."):
			return p.Kind + " was written"
		case p.Kind == "other value":
			return fmt.Sprintf("%s holds %s for %s", p.Name, brief(p.Observed), brief(p.Expected))
		case p.Kind == "cut short":
			return p.Kind
		}
		return p.Name + " " + storedWords[p.Kind]
	case Secrets:
		switch {
		case strings.HasSuffix(p.Name, ": salt") && strings.HasPrefix(p.Observed, "two"):
			return p.Observed
		case strings.HasSuffix(p.Name, ": salt"):
			return "the same secret is stored the same twice"
		case strings.Contains(p.Name, "."):
			return "the secret is stored " + p.Observed
		}
		return "the secret is " + p.Kind + ", " + p.Observed
	case RefilledValues:
		if f := prepared.Field(p.Name); f != nil {
			return fmt.Sprintf("%s is %s", f.Label, p.Kind)
		}
		return p.Kind
	case Response:
		switch member, isMember := strings.CutPrefix(p.Name, "answer: "); {
		case p.Kind == "does not follow the schema":
			return "the answer does not follow its schema, " + brief(p.Observed)
		case isMember:
			return fmt.Sprintf("the answer's %s is %s", strings.TrimPrefix(strings.TrimPrefix(member, "has "), "lacks "), answerWords[p.Kind])
		case p.Name == "answer" && p.Kind == "no JSON":
			return "the answer is no JSON"
		}
		return fmt.Sprintf("%s: %s", p.Name, p.Kind)
	}
	return p.Kind
}

// messageWords put a message's kind of difference after its name.
var messageWords = map[string]string{
	"other text": "is another text", "missing": "is missing", "missing, as it was accepted": "is missing", "at another place": "stands at another place",
	"hidden": "is hidden", "not tied to its field": "is not tied to its field",
}

// ruleLabel names the field of a part "message field.rule: …".
func ruleLabel(prepared *spec.Prepared, part string) string {
	id, _, _ := strings.Cut(strings.TrimPrefix(part, "message "), ":")
	if words := map[string]string{"unanswered": "a missing answer", "body": "an unreadable body"}[id]; words != "" {
		return words
	}
	for _, r := range prepared.Rules {
		if r.ID == id && r.Field != nil {
			return r.Field.Label
		}
	}
	return id
}

// answerWords put the kind of difference of a member of an answer after its name.
var answerWords = map[string]string{"missing": "missing", "should not be there": "there, and should not be", "not what is stored": "not what is stored"}

// storedWords put a column's kind of difference after its name.
var storedWords = map[string]string{
	"NULL": "is NULL", "not NULL": "is not NULL", "lost": "is empty", "not blank": "is not blank", "spaces kept": "keeps its spaces", "other case": "is in another case",
	"leading zeros lost": "lost its leading zeros", "characters lost": "lost characters", "stored as markup": "is stored as markup", "other time": "holds another time",
	"no time": "holds no time", "no such column": "does not exist",
	"not its default": "does not hold its default", "changed": "is changed", "another key": "holds another key", "no number": "holds no number", "another address": "holds another address",
	"no UUID": "holds no UUID",
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
func (c Cause) generic() bool { return c.Check == Outcome || c.Part == "other rows" }

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
