package judge

import (
	"encoding/json"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/theory/jsonpath"
)

// answer compares a JSON answer with what is promised of it.
func answer(j *judging, c *Check) {
	want := j.p.Rejected
	if j.e.Outcome == oracle.Accepted {
		want = j.p.Accepted
	}
	if want == nil || j.o.Sent == nil || j.o.Sent.Body != nil || j.o.Sent.Forged != "" {
		return
	}
	if j.observed.outcome != j.e.Outcome {
		c.notApplicable(of(AnswerFormat), is(OutcomeDiffers))
		return
	}
	first := j.o.First()
	if first.Truncated {
		c.unobserved(of(AnswerFormat), is(AnswerTooLong))
		return
	}
	value, err := jsonschema.UnmarshalJSON(strings.NewReader(first.Body))
	if err != nil {
		c.odd(of(AnswerFormat), NotJSON, is(JSON), withText(ShortText, first.Body))
		return
	}
	c.asExpected(of(AnswerFormat), is(JSON), is(JSON))
	if want.Schema != nil {
		if err := want.Schema.Validate(value); err == nil {
			c.asExpected(of(AnswerSchema), is(FollowsIt), is(FollowsIt))
		} else {
			at, words := againstSchema(err)
			c.add(Part{Subject: of(AnswerSchema), Verdict: Odd, Difference: AgainstSchema, At: at, Expected: is(FollowsIt), Observed: Value{Is: Violation, Of: at, Text: words}})
		}
	}
	for _, p := range want.Has {
		got := p.Select(value)
		c.compare(len(got) > 0, ofMember(AnswerHas, p.Text), MemberMissing, is(AMember), briefly(got))
	}
	for _, p := range want.Lacks {
		got := p.Select(value)
		c.compare(len(got) == 0, ofMember(AnswerLacks, p.Text), MemberSurplus, is(None), briefly(got))
	}
	for _, m := range want.Equal {
		member(j, c, &m, m.Select(value))
	}
}

// member compares one member of an answer with the column of the row written.
func member(j *judging, c *Check, m *spec.Member, got jsonpath.NodeList) {
	member := ofMember(AnswerMember, m.Text)
	if len(got) != 1 {
		c.odd(member, MemberMissing, Value{Is: WhatColumnHolds, Of: m.Table + "." + m.Column}, Value{Is: Members, N: len(got)})
		return
	}
	for i := range j.o.Changes {
		ch := &j.o.Changes[i]
		cell, ok := observation.CellOf(ch.After, m.Column)
		if ch.Table != m.Table || ch.Kind == observation.Deleted || !ok {
			continue
		}
		c.compare(sameMember(got[0], cell), member, MemberNotStored, cellValue(cell), withText(AsText, texts(got)))
		return
	}
	c.unobserved(member, Value{Is: NoRowSeen, Of: m.Table})
}

// sameMember compares by meaning: numbers as numbers, days as days, moments as moments.
func sameMember(value any, cell observation.Cell) bool {
	switch v := value.(type) {
	case nil:
		return cell.Null
	case bool:
		return !cell.Null && truthy(cell) == v
	case json.Number:
		return !cell.Null && sameValue(&oracle.Column{Value: v.String(), Kind: spec.Number}, cell.Value)
	case string:
		if cell.Null {
			return false
		}
		for _, kind := range []spec.Kind{spec.Text, spec.Date, spec.Time, spec.DateTime} {
			if sameValue(&oracle.Column{Value: v, Kind: kind, Field: "answer"}, cell.Value) {
				return true
			}
		}
		return sameMoment(v, cell.Value)
	}
	text, err := json.Marshal(value)
	return err == nil && !cell.Null && sameJSON(string(text), cell.Value)
}

// briefly are members as a value.
func briefly(list jsonpath.NodeList) Value {
	if len(list) == 0 {
		return is(None)
	}
	return withText(ShortText, texts(list))
}

func texts(list jsonpath.NodeList) string {
	out := make([]string, len(list))
	for i, v := range list {
		if s, ok := v.(string); ok {
			out[i] = s
			continue
		}
		text, _ := json.Marshal(v) // it was read from JSON
		out[i] = string(text)
	}
	return strings.Join(out, ", ")
}

// againstSchema tells where an answer first departs from its schema, as a JSON Pointer (RFC 6901), and how.
func againstSchema(err error) (at, words string) {
	wrong, ok := err.(*jsonschema.ValidationError)
	if !ok {
		return "", err.Error()
	}
	for len(wrong.Causes) > 0 {
		wrong = wrong.Causes[0]
	}
	_, text, found := strings.Cut(wrong.Error(), "\n- ")
	if !found {
		text = wrong.Error()
	}
	if _, words, ok := strings.Cut(text, ": "); ok {
		text = words
	}
	return "/" + strings.Join(wrong.InstanceLocation, "/"), text
}
