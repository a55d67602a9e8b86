package judge

import (
	"fmt"
	"slices"
	"strings"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// word says a step's result in a few words: how it ended, and what is odd.
func (j *judging) word(s *Step) {
	ended := map[oracle.Outcome]string{
		oracle.Accepted: "Accepted", oracle.RejectedByServer: "Rejected", oracle.RejectedByBrowser: "Rejected by the browser",
		oracle.Failed: "Failed", oracle.Silent: "Nothing happened", oracle.Contradictory: "Contradictory", oracle.NotAnswered: "Without an answer",
	}[j.observed.outcome]
	if j.e.Outcome == oracle.NothingFurther && len(j.e.Failing) == 0 {
		ended = "Reloaded"
	}
	switch s.Verdict {
	case NotObserved:
		s.Headline = ended + ", partly not observed"
	case Odd:
		s.odd = j.oddParts(s, ended)
		s.Headline = j.best(s).says
	default:
		s.Headline = ended + ", as expected"
	}
}

// oddPart is an odd part of a check with its words.
type oddPart struct {
	check   *Check
	part    Part
	says    string
	outcome oracle.Outcome // how the step ended
	refused *refusal       // of an outcome; nil where nothing tells
}

// oddParts are the odd parts of each check, those of the check that tells most first. Where the outcome is another than the expected one,
// only what tells most of it is left, what becomes of secrets, and what was seen before anything was sent: the rest follows from it.
func (j *judging) oddParts(s *Step, ended string) []oddPart {
	var out []oddPart
	other := s.Checks[0].Verdict == Odd
	refused := other && (j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.RejectedByBrowser)
	followed := false
	for _, name := range telling {
		for i := range s.Checks {
			c := &s.Checks[i]
			if c.Check != name || c.Verdict != Odd || refused && lacksRows(c) {
				continue
			}
			told := other && name != Secrets && followed
			followed = followed || name != Secrets
			for n, at := range tellingParts(c) {
				if (told || n > 0 && other && name != Secrets) && !ofMoment(c.Parts[at]) {
					continue
				}
				odd := oddPart{check: c, part: c.Parts[at], says: j.says(ended, c, c.Parts[at]), outcome: j.observed.outcome}
				if name == Outcome {
					odd.refused = j.refusedBy()
				}
				out = append(out, odd)
			}
		}
	}
	return out
}

// lacksRows: all that is odd of what is stored is that there is no row, which follows from a refusal.
func lacksRows(c *Check) bool {
	return c.Check == StoredData && !slices.ContainsFunc(c.Parts, func(p Part) bool { return p.Verdict == Odd && p.Kind != noRow })
}

// tellingParts are the odd parts of a check, by their indexes: a stored value tells more than that there is a row, values that are all
// lost are one thing, so is a secret that two fields hold, and a message too many is told where none of the promised ones is odd.
func tellingParts(c *Check) []int {
	var out, columns, messages []int
	for i, p := range c.Parts {
		switch {
		case p.Verdict != Odd, c.Check == Secrets && !inColumn(p) && toldBefore(c.Parts, out, p):
		case c.Check == StoredData && inColumn(p):
			columns = append(columns, i)
		case c.Check == Messages && p.Name != noOtherMessage:
			messages = append(messages, i)
		default:
			out = append(out, i)
		}
	}
	switch {
	case len(columns) > 0: // and rows beside them, which are another difference
		return append(columns, slices.DeleteFunc(out, func(i int) bool { return c.Parts[i].Name != otherRows })...)
	case len(messages) > 0:
		return messages
	case c.Check == RefilledValues && allLost(c), c.Check == StoredData:
		return out[:1]
	}
	return out
}

// toldBefore: one of the parts at the indexes says the same of another field's secret.
func toldBefore(parts []Part, at []int, p Part) bool {
	return slices.ContainsFunc(at, func(i int) bool { return parts[i].Kind == p.Kind && parts[i].Observed == p.Observed })
}

// noOtherMessage names the part for messages that are not expected.
const noOtherMessage = "no other message"

// inColumn: what is odd is a stored value.
func inColumn(p Part) bool { return p.Verdict == Odd && strings.Contains(p.Name, ".") }

// says words an odd part behind how the step ended.
func (j *judging) says(ended string, c *Check, p Part) string {
	switch {
	case p.Name == byHand:
		return strings.TrimSuffix("Odd, as a person saw it: "+p.Observed, ": ")
	case c.Check == StoredData && strings.Contains(p.Name, "."):
		return ended + ", and " + oddWords(j.p, c.Check, p)
	case c.Check != Secrets && j.observed.outcome != j.e.Outcome && j.e.Outcome != oracle.NothingFurther:
		return fmt.Sprintf("%s, should be %s", ended, j.e.Outcome)
	case c.Check == RefilledValues && allLost(c):
		return ended + ", but no value is filled in again"
	}
	return ended + ", but " + oddWords(j.p, c.Check, p)
}

// best is what a step's headline says: what is stored otherwise tells most, then whatever comes first among the checks.
func (j *judging) best(s *Step) *oddPart {
	best := &s.odd[0]
	for i := range s.odd {
		one := &s.odd[i]
		if one.check.Check == StoredData && slices.ContainsFunc(one.check.Parts, inColumn) {
			return one
		}
		if slices.Index(Checks, one.check.Check) < slices.Index(Checks, best.check.Check) {
			best = one
		}
	}
	return best
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
		words := messageWords[p.Kind]
		if strings.HasPrefix(p.Kind, messageOf) && words == "" {
			words = "is that of another rule"
		}
		return fmt.Sprintf("the message of %s %s", ruleLabel(prepared, p.Name), words)
	case StoredData:
		switch {
		case p.Name == otherRows:
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
		case p.Kind == ofAnotherText:
			return "the hash stored is not that of what was sent, but " + p.Observed
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
		case p.Kind == againstItsSchema:
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
	"hidden": "is hidden", otherLanguage: "is in another language", otherBlank: "is that of another kind of blank", "not tied to its field": "is not tied to its field",
	tooLate: "comes too late", tooEarly: "comes too early", stays: "stays once the value is corrected",
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
	"NULL": "is NULL", "not NULL": "is not NULL", "lost": "is empty", "not blank": "is not blank", "spaces kept": "keeps its spaces", "other line ends": "has other line ends", "other case": "is in another case",
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
