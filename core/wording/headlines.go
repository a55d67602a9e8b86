package wording

import (
	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
)

// ends are how a step ended.
var ends = map[oracle.Outcome]string{
	oracle.Accepted: "Accepted", oracle.RejectedByServer: "Rejected", oracle.RejectedByBrowser: "Rejected by the browser",
	oracle.Failed: "Failed", oracle.Silent: "Nothing happened", oracle.Contradictory: "Contradictory", oracle.NotAnswered: "Without an answer",
}

func ended(o oracle.Outcome, reloaded bool) string {
	if reloaded {
		return "Reloaded"
	}
	return ends[o]
}

// odd are the words of what is odd. Their places are {label} for the label of the part's field or the field of its rule, {of} for its
// table and column, {member}, {at}, {expected} and {observed}, {first} and {last} for their beginnings, {name} for the part's name and
// {kind} for its kind of difference.
var odd = map[judge.Difference]string{
	judge.NotExpected: "another message is shown", judge.ShownAgain: "the success reply is shown again", judge.ShownBefore: "a message is shown before submitting",
	judge.NotShown: "the saved value is not {name}", judge.MissingNotAccepted: "the success reply is missing, as it was not accepted",
	judge.OtherText: "the message of {label} is another text", judge.Missing: "the message of {label} is missing", judge.MissingAccepted: "the message of {label} is missing",
	judge.OtherPlace: "the message of {label} stands at another place", judge.Hidden: "the message of {label} is hidden", judge.OtherLanguage: "the message of {label} is in another language",
	judge.OtherBlank: "the message of {label} is that of another kind of blank", judge.OtherRule: "the message of {label} is that of another rule",
	judge.NotLinked: "the message of {label} is not tied to its field", judge.TooLate: "the message of {label} comes too late", judge.TooEarly: "the message of {label} comes too early",
	judge.Stays: "the message of {label} stays once the value is corrected",

	judge.RowInserted: "a row was inserted", judge.RowChanged: "a row was changed", judge.RowDeleted: "a row was deleted",
	judge.OtherRowInserted: "another row was inserted", judge.OtherRowChanged: "another row was changed", judge.OtherRowDeleted: "another row was deleted", judge.NoRow: "no row was written",
	judge.OtherValue: "{of} holds {last} for {first}", judge.CutShort: "cut short", judge.IsNull: "{of} is NULL", judge.NotNull: "{of} is not NULL", judge.Emptied: "{of} is empty",
	judge.NotBlank: "{of} is not blank", judge.SpacesKept: "{of} keeps its spaces", judge.OtherLineEnds: "{of} has other line ends", judge.OtherCapitals: "{of} is in another case",
	judge.ZerosLost: "{of} lost its leading zeros", judge.CharactersLost: "{of} lost characters", judge.StoredAsMarkup: "{of} is stored as markup", judge.OtherTime: "{of} holds another time",
	judge.NoTime: "{of} holds no time", judge.NoColumn: "{of} does not exist", judge.NotDefault: "{of} does not hold its default", judge.Changed: "{of} is changed",
	judge.OtherKey: "{of} holds another key", judge.NoNumber: "{of} holds no number", judge.OtherAddress: "{of} holds another address", judge.NoUUID: "{of} holds no UUID",

	judge.SaltReused: "two secrets share one salt", judge.SameHashTwice: "the same secret is stored the same twice", judge.OtherTextHashed: "the hash stored is not that of what was sent, but {observed}",
	judge.StoredOtherwise: "the secret is stored {observed}", judge.SecretShown: "the secret is shown, {observed}", judge.SecretStored: "the secret is stored, {observed}",

	judge.AgainstSchema: "the answer does not follow its schema, {last}", judge.MemberMissing: "the answer's {member} is missing", judge.MemberSurplus: "the answer's {member} is there, and should not be",
	judge.MemberNotStored: "the answer's {member} is not what is stored", judge.NotJSON: "the answer is no JSON",
}

// oddIn are those that are worded otherwise in one check.
var oddIn = map[judge.CheckName]string{judge.Response: "{name}: {kind}", judge.RefilledValues: "{label} is {kind}"}

// ofReply are the words of a success reply.
var ofReply = map[judge.Difference]string{judge.Missing: "the success reply is missing", judge.Hidden: "the success reply is hidden"}

// clause says what is odd about a part.
func (w writer) clause(o *judge.OddPart) string {
	p := &o.Part
	template, own := odd[p.Difference]
	switch {
	case p.Aspect == judge.SuccessReply && ofReply[p.Difference] != "":
		template = ofReply[p.Difference]
	case o.Check == judge.RefilledValues && p.Field != "", o.Check == judge.Response && !own:
		template = oddIn[o.Check]
	case o.Check == judge.RefilledValues, !own:
		template = "{kind}"
	}
	observed := w.value(p, &p.Observed)
	return fill(template, places{
		"label": w.subjectLabel(&p.Subject), "of": p.Table + "." + p.Column, "member": p.Member, "expected": w.value(p, &p.Expected), "observed": observed,
		"first": short(w.value(p, &p.Expected)), "last": short(observed), "name": subject(o.Check, &p.Subject), "kind": w.difference(p),
	})
}

// subjectLabel names what a part is about by the label of its field, or that of its rule.
func (w writer) subjectLabel(s *judge.Subject) string {
	switch {
	case s.Rule == "unanswered":
		return "a missing answer"
	case s.Rule == "body":
		return "an unreadable body"
	case s.Rule == "":
		return w.label(s.Field)
	}
	if r := w.form.Rule(s.Rule); r != nil && r.Field != nil {
		return r.Field.Label
	}
	return s.Rule
}

// headline is one of the sentences that say how a step went.
type headline int

const (
	asExpected headline = iota
	partlyObserved
	notObserved
	doesNotApply
	expectedByHand
	unobservedByHand
	oddByHand
	oddWithNote
	otherOutcome
	allLost
	storedOdd
	oddOtherwise
)

// headlines are their words. Their places are {ended} for how the step ended, {should} for how it should have, {what} for what is odd, {why}
// for a reason and {note} for what a person wrote.
var headlines = map[headline]string{
	asExpected: "{ended}, as expected", partlyObserved: "{ended}, partly not observed", notObserved: "Not observed: {why}", doesNotApply: "Does not apply: {why}",
	expectedByHand: "As expected, by hand", unobservedByHand: "Not observed by hand", oddByHand: "Odd, as a person saw it", oddWithNote: "Odd, as a person saw it: {note}",
	otherOutcome: "{ended}, should be {should}", allLost: "{ended}, but no value is filled in again", storedOdd: "{ended}, and {what}", oddOtherwise: "{ended}, but {what}",
}

// says words an odd part behind how the step ended.
func (w writer) says(o *judge.OddPart) prose.Text {
	with := places{"ended": ended(o.Ended, o.Reloaded), "should": string(o.Should), "what": w.clause(o)}
	switch {
	case o.Part.Aspect == judge.ByHandAspect && o.Part.Observed.Text == "":
		return text(headlines[oddByHand], with)
	case o.Part.Aspect == judge.ByHandAspect:
		return text(headlines[oddWithNote], places{"note": o.Part.Observed.Text})
	case o.Should != "":
		return text(headlines[otherOutcome], with)
	case o.AllLost:
		return text(headlines[allLost], with)
	case o.Check == judge.StoredData && o.Part.Column != "":
		return text(headlines[storedOdd], with)
	}
	return text(headlines[oddOtherwise], with)
}

// headline is a step's result in a few words: how it ended, and what is odd.
func (w writer) headline(s *judge.Step) prose.Text {
	_, best := s.Odd()
	with := places{"ended": ended(s.Ended, s.Reloaded), "why": w.value(&judge.Part{}, &s.Why)}
	switch {
	case best != nil:
		return w.says(best)
	case s.Why.Is != "" && s.Verdict == judge.NotObserved:
		return text(headlines[notObserved], with)
	case s.Why.Is != "":
		return text(headlines[doesNotApply], with)
	case s.ByHand && s.Verdict == judge.AsExpected:
		return text(headlines[expectedByHand], with)
	case s.ByHand && s.Verdict == judge.NotObserved:
		return text(headlines[unobservedByHand], with)
	case s.Verdict == judge.NotObserved:
		return text(headlines[partlyObserved], with)
	}
	return text(headlines[asExpected], with)
}

// Step words a step that was judged, and all its parts. e is what was expected of it, nil where it was not made.
func Step(form *spec.Prepared, e *oracle.Expectation, s *judge.Step) {
	w := writer{form}
	if e != nil {
		Expectation(form, e)
	}
	for i := range s.Checks {
		for k := range s.Checks[i].Parts {
			w.part(s.Checks[i].Check, e, &s.Checks[i].Parts[k])
		}
	}
	s.Headline = w.headline(s)
}

// Result words a result of a case: its steps, and the causes of what is odd.
func Result(form *spec.Prepared, c *testcase.Case, r *report.Result) {
	var steps []*judge.Step
	for i := range r.Steps {
		Step(form, r.Steps[i].Expectation, r.Steps[i].Judgement)
		steps = append(steps, r.Steps[i].Judgement)
	}
	r.Headline = steps[len(steps)-1].Headline
	reasons := Reasons(form, c, steps)
	if len(reasons) > 0 {
		r.Cause, r.Headline, r.Also = &reasons[0].Cause, reasons[0].Headline, reasons[1:]
	}
}

// Reasons are the causes of what is odd in a case, the most telling first, in words.
func Reasons(form *spec.Prepared, c *testcase.Case, steps []*judge.Step) []report.Reason {
	reasons := report.ReasonsOf(c, steps)
	for i := range reasons {
		reasons[i].Headline = Odd(form, reasons[i].Odd)
	}
	return reasons
}

// Odd says what is odd, behind how the step ended.
func Odd(form *spec.Prepared, o *judge.OddPart) prose.Text { return writer{form}.says(o) }
