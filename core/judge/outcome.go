package judge

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// observedOutcome is how a submission ended, and by which signals.
type observedOutcome struct {
	outcome oracle.Outcome
	signals string
}

// insideTrace are texts that only a failing program writes into a page. Each begins with a literal text, which is looked for first.
var insideTrace = []struct {
	literal string
	whole   *regexp.Regexp // nil: the literal alone tells
}{
	{"SQLSTATE[", nil},
	{"You have an error in your SQL syntax", nil},
	{"Traceback (most recent call last)", nil},
	{"Exception in thread \"", nil},
	{"Fatal error: Uncaught", nil},
	{"Unhandled exception", nil},
	{"duplicate key value violates", nil},
	{"goroutine ", regexp.MustCompile(`goroutine \d+ \[`)},
	{".java:", regexp.MustCompile(`\bat [\w.$]+\([\w.]+\.java:\d+\)`)},
	{"java.lang.", regexp.MustCompile(`java\.lang\.\w+(Exception|Error)`)},
	{"node:internal", regexp.MustCompile(`\bat .*\(node:internal`)},
	{"ORA-", regexp.MustCompile(`ORA-\d{5}:`)},
	{"Duplicate entry '", regexp.MustCompile(`Duplicate entry '.*' for key`)},
	{" on line ", regexp.MustCompile(`(?:Warning|Notice|Fatal error|Parse error)(?:</b>)?: .{1,300} on line (?:<b>)?\d+`)},
}

// trace finds such a text in the answers.
func (j *judging) findTrace() string {
	for i := range j.o.Exchanges {
		body := j.o.Exchanges[i].Body
		for _, t := range insideTrace {
			if !strings.Contains(body, t.literal) {
				continue
			}
			if t.whole == nil {
				return t.literal
			}
			if m := t.whole.FindString(body); m != "" {
				return strings.TrimSpace(m)
			}
		}
	}
	return ""
}

// errorText is the first text that says something is wrong: one of the rules' messages, one at a field of the form that was sent, or one
// marked as an error. sure is set for the first kind.
func (j *judging) errorText() (text string, sure bool) {
	for i := range j.texts {
		t := &j.texts[i]
		switch {
		case t.Hidden || j.isReply(t.Text):
		case j.isRuleMessage(t.Text):
			return t.Text, true
		case text == "" && (t.Field != "" && j.standsAtField(*t) || t.Alarm):
			text = t.Text
		}
	}
	return text, false
}

// standsAtField leaves out texts that merely accompany a control, such as a counter that changes with the value.
func (j *judging) standsAtField(t observation.Text) bool {
	if j.o.After == nil || j.o.After.Form == nil {
		return false
	}
	c := j.o.After.Form.Control(t.Field)
	return c != nil && t.Text != c.Value
}

func (j *judging) isReply(text string) bool {
	if j.replies == nil {
		j.replies = []string{}
		for _, r := range j.p.Replies {
			if r.Text != "" {
				j.replies = append(j.replies, fillBySent(j, r.Text))
			}
		}
	}
	return slices.ContainsFunc(j.replies, func(reply string) bool { return strings.Contains(text, reply) })
}

func (j *judging) isRuleMessage(text string) bool { return IsMessage(j.p, text) }

// IsMessage tells whether a text is what a rule of the form promises to say, in any language.
func IsMessage(p *spec.Prepared, text string) bool {
	text = observation.Squash(text)
	return slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool { return r.Message != nil && saysShown(r.Message, text) })
}

// outcome decides from the signals, the first that matches wins.
func (j *judging) outcome() observedOutcome {
	first, final := j.o.First(), j.o.Final()
	if j.e.Outcome == oracle.NotAnswered {
		return j.withoutAnswer()
	}
	if j.o.Failure != "" {
		return observedOutcome{oracle.Failed, j.o.Failure}
	}
	if first == nil {
		return j.withoutRequest()
	}
	for _, x := range []*observation.Exchange{first, final} {
		if x.Status >= 500 {
			return observedOutcome{oracle.Failed, fmt.Sprintf("status %d", x.Status)}
		}
	}
	if t := j.trace; t != "" {
		return observedOutcome{oracle.Failed, "the page shows the program's inside: " + t}
	}
	text, sure := j.errorText()
	wrote := len(j.o.Changes) > 0
	success := j.successSignal()
	if !sure && success != "" && j.allWritten() {
		return observedOutcome{oracle.Accepted, success} // whatever else stands on the page that it leads to
	}
	switch {
	case len(j.o.Watched) == 0 && text == "" && success != "":
		return observedOutcome{oracle.Accepted, success}
	case wrote && text == "" && j.promisedTables():
		return observedOutcome{oracle.Accepted, "rows were written, " + j.status(first)}
	case wrote && text != "":
		return observedOutcome{oracle.Contradictory, fmt.Sprintf("rows were written, and the page says %q", text)}
	case wrote:
		return observedOutcome{oracle.Contradictory, "other rows were written than acceptance promises: " + changedTables(j.o.Changes)}
	case text != "":
		return observedOutcome{oracle.RejectedByServer, fmt.Sprintf("the page says %q", text)}
	case first.Status >= 400:
		return observedOutcome{oracle.RejectedByServer, fmt.Sprintf("status %d", first.Status)}
	case j.rejectionTarget():
		return observedOutcome{oracle.RejectedByServer, "redirected to " + j.target(first.Location)}
	case success != "" && len(j.o.Watched) > 0 && j.mustWrite():
		return observedOutcome{oracle.Contradictory, success + ", and no row was written"}
	case success != "":
		return observedOutcome{oracle.Accepted, success}
	}
	if says := j.ownPage(); says != "" {
		return observedOutcome{oracle.RejectedByServer, fmt.Sprintf("a page without the form says %q", says)}
	}
	return observedOutcome{oracle.Silent, "nothing was written and nothing new is said"}
}

// ownPage is what a page of its own says in place of the form, where nothing was written; "" where the form is there, or where it was a
// redirect that led away from it.
func (j *judging) ownPage() string {
	if j.o.After == nil || j.o.After.Form != nil || j.o.Before == nil || j.o.Before.Form == nil || j.o.First().Location != "" || len(j.o.Watched) == 0 {
		return ""
	}
	if at := slices.IndexFunc(j.texts, func(t observation.Text) bool { return !t.Hidden }); at >= 0 {
		return j.texts[at].Text
	}
	return ""
}

// mustWrite tells whether acceptance of what was sent writes a row whatever the tables hold: an update may find its values there.
func (j *judging) mustWrite() bool {
	return slices.ContainsFunc(j.promisedRows(), func(r oracle.Row) bool { return !r.Updates && r.Each == "" })
}

// withoutAnswer: what the page makes of an answer that was replaced.
func (j *judging) withoutAnswer() observedOutcome {
	if len(j.o.Changes) > 0 {
		return observedOutcome{oracle.Contradictory, "rows were written: " + changedTables(j.o.Changes)}
	}
	for _, t := range j.texts {
		if !t.Hidden && j.isReply(t.Text) {
			return observedOutcome{oracle.Contradictory, fmt.Sprintf("no answer came, and the page says %q", t.Text)}
		}
	}
	if j.o.First() == nil && j.o.Failure == "" {
		return j.withoutRequest()
	}
	if j.o.After == nil || j.o.After.Form == nil {
		return observedOutcome{oracle.Failed, "the form has gone"}
	}
	return observedOutcome{oracle.NotAnswered, "the form stands as before"}
}

// withoutRequest: nothing left the browser, and why.
func (j *judging) withoutRequest() observedOutcome {
	if len(j.o.Changes) > 0 {
		return observedOutcome{oracle.Contradictory, "no request was seen, and rows were written: " + changedTables(j.o.Changes)}
	}
	if d := j.o.Drawn; d != nil {
		for i := range d.Entered {
			e := &d.Entered[i]
			switch {
			case !j.decides(e):
			case e.Refused != "":
				return observedOutcome{oracle.RejectedByBrowser, e.Name + ": " + e.Refused}
			case e.Changed:
				return observedOutcome{oracle.RejectedByBrowser, fmt.Sprintf("the control %s makes %q of %q", e.Name, e.Stands, e.Typed)}
			}
		}
		if d.Blocked != "" {
			return observedOutcome{oracle.RejectedByBrowser, d.Blocked}
		}
		for _, n := range d.Native {
			if n.Shown {
				return observedOutcome{oracle.RejectedByBrowser, fmt.Sprintf("no request was made; the browser says %q", n.Text)}
			}
		}
	}
	if text, _ := j.errorText(); text != "" {
		return observedOutcome{oracle.RejectedByBrowser, fmt.Sprintf("no request was made; the page says %q", text)}
	}
	return observedOutcome{oracle.RejectedByBrowser, "no request was made"}
}

// decides tells whether what a control made of a value decides the outcome. Where the browser is to refuse another field, it does not: the
// form was sent all the same.
func (j *judging) decides(e *observation.Entered) bool {
	if j.e.Outcome != oracle.RejectedByBrowser {
		return true
	}
	at := slices.IndexFunc(j.p.Fields, func(f *spec.PreparedField) bool { return f.Name == e.Name })
	return at < 0 || j.e.Breaks(j.p, j.p.Fields[at])
}

// remade tells whether the control of a request name made another value of what was entered, or did not take it.
func (j *judging) remade(name string) bool {
	return j.o.Drawn != nil && slices.ContainsFunc(j.o.Drawn.Entered, func(e observation.Entered) bool {
		return e.Name == name && (e.Refused != "" || e.Changed)
	})
}

// kept: the control itself did not let the value in, so that nothing more can be seen.
func (j *judging) kept() bool {
	return j.o.Drawn != nil && j.o.First() == nil && slices.ContainsFunc(j.o.Drawn.Entered, func(e observation.Entered) bool {
		return (e.Refused != "" || e.Changed) && j.decides(&e)
	})
}

// turnedAway: the page's own script refuses what the server is expected to; the server's answer is not seen then.
func (j *judging) turnedAway() bool {
	return j.e.Outcome == oracle.RejectedByServer && j.observed.outcome == oracle.RejectedByBrowser
}

func (j *judging) status(x *observation.Exchange) string {
	if x.Location != "" {
		return fmt.Sprintf("%d to %s", x.Status, j.target(x.Location))
	}
	return fmt.Sprintf("status %d", x.Status)
}

// successSignal names what promises acceptance: the status and target, or the reply.
func (j *judging) successSignal() string {
	a := &j.p.Form.Accepted
	first := j.o.First()
	promised := func(to string) bool { return to != "" && first.Location != "" && j.leadsTo(first.Location, to) }
	if promised(fillBySent(j, a.To)) || j.e.Outcome == oracle.Accepted && promised(j.e.To) {
		return "redirected to " + j.target(first.Location)
	}
	for _, t := range j.texts {
		if !t.Hidden && j.isReply(t.Text) {
			return fmt.Sprintf("the page says %q", t.Text)
		}
	}
	elsewhere := len(j.p.Form.Stored) == 0 && j.p.Form.Rejected.To == "" // to another page than promised: the redirect is judged
	if a.Status != 0 && a.Status != usualStatus && first.Status == a.Status && (a.To == "" || elsewhere) {
		return j.status(first)
	}
	return ""
}

// AnsweredAsAccepted tells whether the answer to a submission alone, whatever rows changed, is that of an accepted one.
func AnsweredAsAccepted(p *spec.Prepared, e *oracle.Expectation, o *observation.Step) bool {
	first := o.First()
	if first == nil || first.Status >= 400 || o.Failure != "" {
		return false
	}
	j := &judging{p: p, e: e, o: o, texts: o.NewTexts()}
	text, sure := j.errorText()
	return !sure && (j.successSignal() != "" || text == "")
}

func (j *judging) rejectionTarget() bool {
	r := &j.p.Form.Rejected
	first := j.o.First()
	return r.Status != 0 && r.Status != 200 && first.Status == r.Status && r.Status != j.p.Form.Accepted.Status || r.To != "" && r.To != j.p.Form.Accepted.To && j.leadsTo(first.Location, r.To)
}

// promisedRows are the rows that acceptance of what was sent would write, without their columns.
func (j *judging) promisedRows() []oracle.Row {
	if j.e.Outcome == oracle.Accepted {
		return j.e.Rows
	}
	if j.o.Sent == nil {
		return nil
	}
	if j.promised == nil {
		j.promised = oracle.RowsIfAccepted(j.p, j.o.Sent)
	}
	return j.promised
}

// promisedTables: rows were inserted and updated in just the tables that acceptance promises.
func (j *judging) promisedTables() bool { return len(j.p.Form.Stored) > 0 && j.written() }

// allWritten: where tables are watched, what acceptance promises was written.
func (j *judging) allWritten() bool {
	return len(j.o.Watched) == 0 || j.written() && (len(j.o.Changes) > 0 || !j.mustWrite())
}

func (j *judging) written() bool {
	type event struct {
		table string
		kind  observation.ChangeKind
	}
	count := map[event]int{}
	for _, r := range j.promisedRows() {
		if !r.Updates && r.Each == "" { // one of several choices that is lost is told with the rows
			count[event{r.Table, observation.Inserted}]++
		}
	}
	for _, c := range j.o.Changes {
		if c.Kind != observation.Deleted {
			count[event{c.Table, c.Kind}]--
		}
	}
	for _, n := range count {
		if n > 0 {
			return false
		}
	}
	return true
}

func changedTables(changes []observation.Change) string {
	var out []string
	for _, c := range changes {
		out = append(out, fmt.Sprintf("%s %s in %s", c.Key, c.Kind, c.Table))
		if len(out) == 5 {
			out = append(out, "…")
			break
		}
	}
	return strings.Join(out, ", ")
}

func (j *judging) outcomeCheck() Check {
	c := &Check{Check: Outcome}
	if j.e.Outcome == oracle.NothingFurther {
		wrote := len(j.o.Changes) > 0
		failed := j.observed.outcome == oracle.Failed
		c.compare(!wrote && !failed, "outcome", "submitted again", "nothing further is written", fmt.Sprintf("%s: %s", j.observed.outcome, j.observed.signals))
		return c.finish()
	}
	if j.e.Outcome == oracle.Answered {
		kind := "expected " + string(j.e.Outcome) + ", " + string(j.observed.outcome)
		c.compare(j.observed.outcome != oracle.Failed, "outcome", kind, string(j.e.Outcome)+". "+j.e.Reason(), fmt.Sprintf("%s: %s", j.observed.outcome, j.observed.signals))
		return c.finish()
	}
	if j.turnedAway() {
		c.irrelevant("outcome", "the page refuses it by itself, so that the server's answer is not seen: "+j.observed.signals)
		return c.finish()
	}
	kind := "expected " + string(j.e.Outcome) + ", " + string(j.observed.outcome)
	c.compare(j.observed.outcome == j.e.Outcome, "outcome", kind, string(j.e.Outcome)+". "+j.e.Reason(), fmt.Sprintf("%s: %s", j.observed.outcome, j.observed.signals))
	return c.finish()
}

// usualStatus is the status of any page, which tells nothing about acceptance (RFC 9110, 200 OK).
const usualStatus = 200
