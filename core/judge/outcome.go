package judge

import (
	"regexp"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/template"
)

// observedOutcome is how a submission ended, and by which signals.
type observedOutcome struct {
	outcome oracle.Outcome
	signals []Value
}

func ended(outcome oracle.Outcome, signals ...Value) observedOutcome {
	return observedOutcome{outcome, signals}
}

// withText is a term with a text as it stood.
func withText(t Term, text string) Value { return Value{Is: t, Text: text} }

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

// InternalsIn finds a text in the answers of a step that shows the site's inside, such as a stack trace; "" where there is none.
func InternalsIn(o *observation.Step) string {
	for i := range o.Exchanges {
		body := o.Exchanges[i].Body
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
			for _, words := range r.Words() {
				if words != "" && r.Pattern == "" {
					j.replies = append(j.replies, fillBySent(j, words))
				}
			}
		}
	}
	return slices.ContainsFunc(j.replies, func(reply string) bool { return template.Within(reply, text) }) ||
		slices.ContainsFunc(j.p.Replies, func(r spec.PreparedReply) bool { return r.Pattern != "" && saysReply("", r.Pattern, false, text) })
}

// isWholeReply tells whether a text is a success reply and nothing else.
func (j *judging) isWholeReply(text string) bool {
	return j.isReply(text) && slices.ContainsFunc(j.replies, func(reply string) bool { return template.Matches(reply, text) })
}

func (j *judging) isRuleMessage(text string) bool { return IsMessage(j.p, text) }

// IsMessage tells whether a text is what a rule of the form promises to say, in any language.
func IsMessage(p *spec.Prepared, text string) bool {
	text = observation.Squash(text)
	return slices.ContainsFunc(p.Rules, func(r *spec.PreparedRule) bool {
		return slices.ContainsFunc(r.AllMessages(), func(m *spec.Message) bool { return saysShown(m, text) })
	})
}

// outcome decides from the signals, the first that matches wins.
func (j *judging) outcome() observedOutcome {
	first, final := j.o.First(), j.o.Final()
	if j.e.Outcome == oracle.NotAnswered {
		return j.withoutAnswer()
	}
	if j.o.Failure != "" {
		return ended(oracle.Failed, withText(FailedWith, j.o.Failure))
	}
	if first == nil {
		return j.withoutRequest()
	}
	for _, x := range []*observation.Exchange{first, final} {
		if x.Status >= 500 {
			return ended(oracle.Failed, Value{Is: StatusIs, N: x.Status})
		}
	}
	if t := j.trace; t != "" {
		return ended(oracle.Failed, withText(ShowsInternals, t))
	}
	text, sure := j.errorText()
	wrote := len(j.o.Changes) > 0
	success := j.successSignal()
	if !sure && success != nil && j.allWritten() {
		return ended(oracle.Accepted, *success) // whatever else stands on the page that it leads to
	}
	switch {
	case len(j.o.Watched) == 0 && text == "" && success != nil:
		return ended(oracle.Accepted, *success)
	case wrote && text == "" && j.promisedTables():
		return ended(oracle.Accepted, is(RowsWritten), j.status(first))
	case wrote && text != "":
		return ended(oracle.Contradictory, is(RowsWritten), withText(PageSays, text))
	case wrote:
		return ended(oracle.Contradictory, withRows(OtherRowsWritten, j.o.Changes))
	case text != "":
		return ended(oracle.RejectedByServer, withText(PageSays, text))
	case first.Status >= 400:
		return ended(oracle.RejectedByServer, Value{Is: StatusIs, N: first.Status})
	case j.rejectionTarget():
		return ended(oracle.RejectedByServer, withText(RedirectedTo, j.target(first.Location)))
	case success != nil && len(j.o.Watched) > 0 && j.mustWrite():
		return ended(oracle.Contradictory, *success, is(NoRowIsWritten))
	case success != nil:
		return ended(oracle.Accepted, *success)
	}
	if text := j.ownPage(); text != "" {
		return ended(oracle.RejectedByServer, withText(OtherPageSays, text))
	}
	return ended(oracle.Silent, is(NothingNew))
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
		return ended(oracle.Contradictory, withRows(RowsWritten, j.o.Changes))
	}
	for _, t := range j.texts {
		if !t.Hidden && j.isReply(t.Text) {
			return ended(oracle.Contradictory, is(NoAnswerCame), withText(PageSays, t.Text))
		}
	}
	if j.o.First() == nil && j.o.Failure == "" {
		return j.withoutRequest()
	}
	if j.o.After == nil || j.o.After.Form == nil {
		return ended(oracle.Failed, is(FormHasGone))
	}
	return ended(oracle.NotAnswered, is(FormAsBefore))
}

// withoutRequest: nothing left the browser, and why.
func (j *judging) withoutRequest() observedOutcome {
	if len(j.o.Changes) > 0 {
		return ended(oracle.Contradictory, is(NoRequestSeen), withRows(RowsWritten, j.o.Changes))
	}
	if d := j.o.Drawn; d != nil {
		for i := range d.Entered {
			e := &d.Entered[i]
			switch {
			case !j.decides(e):
			case e.Refused != "":
				return ended(oracle.RejectedByBrowser, Value{Is: ControlRefused, Of: e.Name, Text: e.Refused})
			case e.Changed:
				return ended(oracle.RejectedByBrowser, Value{Is: ControlMakes, Of: e.Name, Text: e.Stands, Was: e.Typed})
			}
		}
		if d.Blocked != "" {
			return ended(oracle.RejectedByBrowser, withText(FailedWith, d.Blocked))
		}
		for _, n := range d.Native {
			if n.Shown {
				return ended(oracle.RejectedByBrowser, is(NoRequestMade), withText(BrowserSays, n.Text))
			}
		}
	}
	if text, _ := j.errorText(); text != "" {
		return ended(oracle.RejectedByBrowser, is(NoRequestMade), withText(PageSays, text))
	}
	return ended(oracle.RejectedByBrowser, is(NoRequestMade))
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

// blocked: the page's button cannot be pressed as the form stands.
func (j *judging) blocked() bool {
	return j.o.Drawn != nil && j.o.Drawn.Blocked != "" && j.o.First() == nil
}

func (j *judging) status(x *observation.Exchange) Value {
	if x.Location != "" {
		return Value{Is: StatusTo, N: x.Status, Text: j.target(x.Location)}
	}
	return Value{Is: StatusIs, N: x.Status}
}

// successSignal is what promises acceptance: the status and target, or the reply; nil where nothing does.
func (j *judging) successSignal() *Value {
	a := &j.p.Form.Accepted
	first := j.o.First()
	promised := func(to string) bool {
		to, _ = j.withRows(to)
		return to != "" && first.Location != "" && j.leadsTo(first.Location, to)
	}
	if promised(fillBySent(j, a.To)) || j.e.Outcome == oracle.Accepted && promised(j.e.To) {
		return &Value{Is: RedirectedTo, Text: j.target(first.Location)}
	}
	for _, t := range j.texts {
		if !t.Hidden && j.isReply(t.Text) {
			return &Value{Is: PageSays, Text: t.Text}
		}
	}
	if first.IsJSON() && a.Status != 0 && first.Status == a.Status && first.Status < 300 && j.p.Form.Rejected.Status >= 400 {
		status := j.status(first)
		return &status // a script tells by the status alone
	}
	elsewhere := len(j.p.Form.Stored) == 0 && j.p.Form.Rejected.To == "" // to another page than promised: the redirect is judged
	if a.Status != 0 && a.Status != usualStatus && first.Status == a.Status && (a.To == "" || elsewhere) {
		status := j.status(first)
		return &status
	}
	return nil
}

// AnsweredAsAccepted tells whether the answer to a submission alone, whatever rows changed, is that of an accepted one.
func AnsweredAsAccepted(p *spec.Prepared, e *oracle.Expectation, o *observation.Step) bool {
	first := o.First()
	if first == nil || first.Status >= 400 || o.Failure != "" {
		return false
	}
	j := &judging{p: p, e: e, o: o, texts: o.NewTexts()}
	text, sure := j.errorText()
	return !sure && (j.successSignal() != nil || text == "")
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

// maxRows is how many changed rows are named.
const maxRows = 5

func changedRows(changes []observation.Change) Value { return withRows(RowsChanged, changes) }

// withRows is a value with some of the rows that changed, and N how many did.
func withRows(t Term, changes []observation.Change) Value {
	v := Value{Is: t, N: len(changes)}
	for _, c := range changes[:min(len(changes), maxRows)] {
		v.Rows = append(v.Rows, ChangedRow{c.Table, c.Key, c.Kind})
	}
	return v
}

func (j *judging) outcomeCheck() Check {
	c := &Check{Check: Outcome}
	switch {
	case j.e.Outcome == oracle.NothingFurther:
		ok := len(j.o.Changes) == 0 && j.observed.outcome != oracle.Failed
		c.compare(ok, of(OutcomeAspect), SubmittedAgain, is(NothingFurtherWritten), outcomeValue(j.observed.outcome))
	case j.turnedAway():
		c.notApplicable(of(OutcomeAspect), is(RefusedByThePage))
	default:
		ok := j.observed.outcome == j.e.Outcome || j.e.Outcome == oracle.Answered && j.observed.outcome != oracle.Failed
		c.compare(ok, of(OutcomeAspect), OtherOutcome, outcomeValue(j.e.Outcome), outcomeValue(j.observed.outcome))
	}
	if j.o.Sent != nil && j.o.Sent.Replaced == spec.Slow && j.o.Drawn != nil && j.o.Drawn.Times > 0 {
		n := j.o.Drawn.Times
		c.compare(n == 1, of(Button), SentTwice, Value{Is: SentTimes, N: 1}, Value{Is: SentTimes, N: n})
	}
	c.Parts[0].Signals = j.observed.signals
	return c.finish()
}

func outcomeValue(o oracle.Outcome) Value { return Value{Is: OutcomeIs, Of: string(o)} }

// usualStatus is the status of any page, which tells nothing about acceptance (RFC 9110, 200 OK).
const usualStatus = 200
