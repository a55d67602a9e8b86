package judge

import (
	"slices"

	"oddtick/core/oracle"
	"oddtick/core/spec"
)

// Refusal is what a site refused a submission by that keeps every rule: a rule, whose message it shows, and which of its bounds the value
// lies nearer to; or only the field at which something is said.
type Refusal struct{ Field, Rule, Bound string }

// refusedBy finds the refusal among the texts that came with the answer; nil where the submission was rightly refused, or where nothing
// tells.
func refusedBy(j *judging) *Refusal {
	rejected := j.observed.outcome == oracle.RejectedByServer || j.observed.outcome == oracle.RejectedByBrowser
	if j.e.Outcome != oracle.Accepted || !rejected || j.o.Sent == nil {
		return nil
	}
	var at *Refusal
	for i := range j.texts {
		t := &j.texts[i]
		if t.Hidden || j.isReply(t.Text) {
			continue
		}
		if r := ruleSaid(j, t.Text, t.At); r != nil {
			out := &Refusal{Rule: r.ID}
			if r.Field != nil {
				out.Field = r.Field.ID
				sent, present := j.o.Sent.Of(r.Field)
				v := r.Field.ValueOf(sent, present)
				out.Bound = r.NearerBound(&v, j.o.At)
			}
			return out
		}
		if f := fieldOf(j, t.Field); at == nil && f != nil && j.standsAtField(*t) {
			at = &Refusal{Field: f.ID}
		}
	}
	return at
}

// ruleSaid is the rule whose message a text is: of several that share it one of the field where the text stands, and of those one with
// a bound that the value lies on, or else the first.
func ruleSaid(j *judging, text string, at func(name string) bool) *spec.PreparedRule {
	var best *spec.PreparedRule
	score := -1
	for _, r := range j.p.Rules {
		if !slices.ContainsFunc(r.AllMessages(), func(m *spec.Message) bool { return says(m, text) }) {
			continue
		}
		n := 0
		if r.Field != nil {
			if at(r.Field.Name) {
				n += 2
			}
			sent, present := j.o.Sent.Of(r.Field)
			if v := r.Field.ValueOf(sent, present); r.Kind == spec.RuleLength {
				if l := r.Limit.Unit.Length(v.Normal); l == r.Limit.Min || l == r.Limit.Max {
					n++
				}
			}
		}
		if n > score {
			best, score = r, n
		}
	}
	return best
}

func fieldOf(j *judging, name string) *spec.PreparedField {
	for _, f := range j.p.Fields {
		if f.Name == name {
			return f
		}
	}
	return nil
}
