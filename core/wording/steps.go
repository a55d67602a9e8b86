package wording

import (
	"cmp"

	"oddtick/core/judge"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"
	"oddtick/core/wording/phrases"
)

// ends are how a step ended.
var ends = phrases.Registered("ended.", map[oracle.Outcome]string{
	oracle.Accepted: "Accepted", oracle.RejectedByServer: "Rejected", oracle.RejectedByBrowser: "Rejected by the browser",
	oracle.Failed: "Failed", oracle.Silent: "Nothing happened", oracle.Contradictory: "Contradictory", oracle.NotAnswered: "Without an answer",
})

// outcomeNames are the outcomes as they stand within a sentence.
var outcomeNames = phrases.Registered("outcome.", map[oracle.Outcome]string{
	oracle.Accepted: "accepted", oracle.RejectedByServer: "rejected by the server", oracle.RejectedByBrowser: "rejected by the browser", oracle.Failed: "failed", oracle.Silent: "silent",
	oracle.Contradictory: "contradictory", oracle.NotAnswered: "not answered", oracle.NothingFurther: "nothing further", oracle.Answered: "answered",
})

// outcomeName is an outcome's name; of what is none the text itself.
func outcomeName(o oracle.Outcome) string { return cmp.Or(outcomeNames[o].Template(), string(o)) }

func ended(o oracle.Outcome, reloaded bool) string {
	if reloaded {
		return phrases.Reloaded.Template()
	}
	return ends[o].Template()
}

// subjectLabel names what a part is about by the label of its field, or that of its rule.
func (w writer) subjectLabel(s *judge.Subject) string {
	if s.Rule == "" {
		return w.label(s.Field)
	}
	if w.form != nil {
		if r := w.form.Rule(s.Rule); r != nil && r.Field != nil {
			return r.Field.Label
		}
	}
	return w.ruleOfField(s)
}

// headline is a step's result in a few words: how it ended, and what is odd.
func (w writer) headline(s *judge.Judgement) prose.Text {
	_, best := s.Odd()
	with := places{"ended": ended(s.Ended, s.Reloaded), "why": w.value(&judge.Part{}, &s.Why)}
	switch {
	case best != nil:
		return Say(w.odd(best, &occasion{}))
	case s.Why.Is != "" && s.Verdict == judge.NotObserved:
		return text(phrases.StepNotObserved.Template(), with)
	case s.Why.Is != "":
		return text(phrases.StepDoesNotApply.Template(), with)
	case s.ByHand && s.Verdict == judge.AsExpected:
		return text(phrases.StepExpectedByHand.Template(), with)
	case s.ByHand && s.Verdict == judge.NotObserved:
		return text(phrases.StepUnobservedByHand.Template(), with)
	case s.Verdict == judge.NotObserved:
		return text(phrases.StepPartlyObserved.Template(), with)
	}
	return text(phrases.StepAsExpected.Template(), with)
}

// Step words a step that was judged, and all its parts. e is what was expected of it, nil where it was not made.
func Step(form *spec.Prepared, e *oracle.Expectation, s *judge.Judgement) {
	w := writer{form: form}
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
	for i := range r.Steps {
		Step(form, r.Steps[i].Expectation, r.Steps[i].Judgement)
	}
	r.Headline = r.Steps[len(r.Steps)-1].Judgement.Headline
	if reasons := Reasons(form, c, r); len(reasons) > 0 {
		r.Cause, r.Headline, r.Sentence, r.Others = &reasons[0].Cause, reasons[0].Headline, reasons[0].Sentence, reasons[1:]
	}
}
