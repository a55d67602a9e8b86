package learning

import (
	"cmp"
	"context"
	"net/http"
	"slices"

	"oddtick/core/draft"
	"oddtick/core/learn"
)

// ask makes the submissions that a learner asks for.
func (s *session) ask(column string) learn.Ask {
	return func(ctx context.Context, q learn.Question) (learn.Answer, error) {
		var p *draft.Probe
		for again := 0; p == nil || s.unclear(p, q.Field, again); again++ {
			values := s.vary()
			values[q.Field] = []string{q.Value}
			if q.Absent {
				values[q.Field] = nil
			}
			if !q.Apart {
				s.repeat(values)
			}
			var err error
			if p, err = s.submit(ctx, values, q.Field); err != nil {
				return learn.Answer{}, err
			}
		}
		out := learn.Answer{Accepted: p.Accepted()}
		if first := p.Step.First(); first != nil {
			out.Status = first.Status
		}
		out.Unclear = failed(p)
		if out.Accepted {
			out.Stored = stored(p.Step, column)
			return out, nil
		}
		said := p.SeenMessages(s.form)
		for _, m := range said {
			out.AnyMessage = cmp.Or(out.AnyMessage, m.Text)
			if m.Field == q.Field {
				out.Message = cmp.Or(out.Message, m.Text)
			}
		}
		if out.Message == "" && len(said) > 0 {
			if said[0].Field != "" || s.noise[said[0].Text] {
				out.Unclear = true // it is another field that is refused, or nothing is said of any
			} else {
				out.Message, out.AtNoField = said[0].Text, true
			}
		}
		return out, nil
	}
}

// How often a submission is made again: because a value of another field was taken, because the site failed, because what is said names no field,
// and because it is said of values that are accepted at other times.
const (
	maxAgain  = 3
	maxFailed = 2
	maxNoise  = 6
)

// unclear tells whether an answer says nothing of the field that is asked about, and the submission is made again; n is how often it was. What is
// said at no field is in doubt until it is said twice: where the same is accepted then, it is noise.
func (s *session) unclear(p *draft.Probe, about string, n int) bool {
	doubted := s.inDoubt
	s.inDoubt = ""
	if p.Accepted() {
		if doubted != "" {
			s.noise[doubted] = true
		}
		return false
	}
	said := p.SeenMessages(s.form)
	switch {
	case failed(p):
		return n < maxFailed
	case len(said) == 0:
		return false
	case said[0].Field == "" && s.noise[said[0].Text]:
		return n < maxNoise
	case said[0].Field == "":
		if doubted == "" {
			s.inDoubt = said[0].Text
		}
		return doubted == ""
	}
	return n < maxAgain && slices.ContainsFunc(said, func(m draft.SeenMessage) bool {
		return m.Field != "" && m.Field != about && taken.MatchString(m.Text)
	})
}

// failed tells whether no answer came, or the site failed.
func failed(p *draft.Probe) bool {
	first := p.Step.First()
	return first == nil || first.Status >= http.StatusInternalServerError || p.Step.Failure != ""
}

// steady tells whether values are still accepted that were before: a site may have locked the account or the address meanwhile, or may not
// always answer alike.
func (s *session) steady(ctx context.Context) (bool, error) {
	for range maxAgain {
		p, err := s.submit(ctx, s.vary(), "")
		if err != nil || p.Accepted() {
			return err == nil, err
		}
		for _, m := range p.SeenMessages(s.form) {
			if m.Field == "" {
				s.noise[m.Text] = true
			}
		}
	}
	return false, nil
}

// withoutNoise drops the rules of which only such is known as is said of any values.
func (s *session) withoutNoise(fields []*learn.Learned) {
	for _, l := range fields {
		before := len(l.Rules)
		l.Rules = slices.DeleteFunc(l.Rules, func(r learn.Rule) bool {
			return slices.ContainsFunc(r.Proofs, func(p learn.Proof) bool { return s.noise[p.Message] })
		})
		l.Unsteady += before - len(l.Rules)
	}
}
