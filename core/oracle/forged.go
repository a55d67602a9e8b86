package oracle

import (
	"oddtick/core/spec"
	"oddtick/core/submission"
)

// forged is what comes of a request that no page sends; false for one that a page sends, or that is to be treated like one.
func forged(s *submission.Submission, requests *spec.Requests, w *World, e *Expectation) bool {
	fails := func(outcome Outcome, rule string, cause FailureCause, r *spec.Refusal) {
		e.Outcome = outcome
		e.Failing = []Failure{{Rule: rule, Phase: spec.PhaseFormat.String(), Cause: cause}}
		refused(e, w, r)
	}
	switch s.Forged {
	case "", submission.OverridesMethod:
		return false
	case submission.ForeignToken:
		fails(RejectedByServer, "token", TokenForeign, requests.ForeignToken)
	case submission.OtherMethod:
		fails(NothingFurther, "method", WrongMethod, requests.OtherMethod)
	case submission.SignedOut:
		fails(NothingFurther, "signed_in", NotSignedIn, requests.SignedOut)
	case submission.TooLarge:
		fails(NothingFurther, "size", TooLarge, requests.TooLarge)
	case submission.Undecodable:
		fails(NothingFurther, "encoding", Undecodable, requests.Undecodable)
	case submission.OtherRecord:
		if record := requests.Record(s.Record); record != nil {
			fails(NothingFurther, "record", OtherRecord, &record.Refused)
		}
	case submission.OtherType:
		e.Outcome = Answered
		if requests.OtherType != nil {
			fails(Answered, "content_type", WrongType, requests.OtherType)
		}
	default:
		e.Outcome = Answered
	}
	return true
}

// refused adds to an expectation what is promised of a request's refusal; its failure stands there already.
func refused(e *Expectation, w *World, r *spec.Refusal) {
	if r == nil {
		return
	}
	e.Status, e.Headers = r.Status, r.Headers
	if r.Status == 0 || r.Status >= 400 || r.Message != nil { // a redirect may lead anywhere
		e.Outcome = RejectedByServer
	}
	if r.Message != nil {
		m := submission.Message{Rule: e.Failing[0].Rule, Place: spec.OnNextPage, Says: r.Message}
		m.Text, _ = r.Message.In(w.Language)
		e.Messages = []submission.Message{m}
	}
}
