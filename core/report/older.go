package report

import (
	"encoding/json"
	"strings"

	"oddtick/core/judge"
	"oddtick/core/prose"
)

// OlderCause is a cause as it was written before.
type OlderCause struct {
	Row    string `json:"row,omitempty"`
	Rule   string `json:"rule,omitempty"`
	Check  string `json:"check"`
	Part   string `json:"part"`
	Kind   string `json:"kind"`
	Detail string `json:"detail,omitempty"`
}

// Older is the cause as it was written before, from which its older name was made.
func (c *Cause) Older() OlderCause {
	older := OlderCause{Row: c.Row, Rule: c.Rule, Check: judge.OlderCheck(c.Check), Part: c.Subject.Older(), Kind: c.olderKind(), Detail: c.Detail}
	if c.Variant != "" {
		older.Rule += " " + c.Variant
	}
	if c.Check == judge.Messages && c.Detail != "" {
		aspect := map[judge.Aspect]judge.Aspect{judge.MessagesCome: judge.MessageComes, judge.MessagesGo: judge.MessageGoes, judge.PlaceOfField: judge.MessagePlace, judge.VisibleOfField: judge.MessageVisible, judge.LinkedOfField: judge.MessageLinked}[c.Subject.Aspect]
		if aspect == "" {
			aspect = judge.MessageText
		}
		older.Detail = (&judge.Subject{Aspect: aspect, Rule: c.Detail}).Older() + ", " + older.Kind
	}
	return older
}

func (c *Cause) olderKind() string {
	switch c.Difference {
	case judge.OtherOutcome:
		return "expected " + c.Expected + ", " + c.Observed
	case judge.OtherRule:
		return "message of " + c.Observed
	case judge.FlagMissing:
		return "not " + judge.OlderFlag(c.Subject.Attribute)
	case judge.StoredOtherwise:
		return "stored " + c.olderStored()
	}
	return judge.OlderDifference(c.Difference)
}

// olderStored is how a secret is stored.
func (c *Cause) olderStored() string {
	switch judge.Term(c.Observed) {
	case judge.PlainText:
		return "plain"
	case judge.PlainWithin:
		return "plain, with more around it"
	case judge.Reversible:
		return "reversible (" + c.Of + ")"
	case judge.FastHash:
		return "a fast hash without salt (" + c.Of + ")"
	case judge.FastHashSalted:
		return "a fast hash (" + c.Of + ") with the salt in " + c.Beside
	case judge.FastOrUnknown:
		return "a fast hash or an unknown one (" + c.Of + " bytes)"
	case judge.HashKind:
		return c.Of
	}
	return "of an unknown form"
}

// Newer is the cause as it is now.
func (o *OlderCause) Newer() Cause {
	check, _ := judge.NewerCheck(o.Check)
	part := (&judge.OlderPart{Name: o.Part, Kind: o.Kind}).Newer(check)
	c := Cause{Row: o.Row, Check: check, Subject: part.Subject, Difference: part.Difference, Detail: o.Detail}
	c.Rule, c.Variant, _ = strings.Cut(o.Rule, " ")
	switch part.Difference {
	case judge.OtherOutcome:
		c.Expected, c.Observed = part.Expected.Of, part.Observed.Of
	case judge.OtherRule:
		c.Observed = part.Observed.Of
	case judge.StoredOtherwise:
		c.Observed, c.Of, c.Beside = string(part.Observed.Is), part.Observed.Of, part.Observed.Text
	}
	if check == judge.Secrets && c.Subject.Column != "" {
		c.Subject.Field = ""
	}
	if check != judge.Messages {
		return c
	}
	c.Subject.Field = ""
	if field, isField := strings.CutPrefix(o.Part, "messages of "); isField {
		c.Subject = olderOfMessages(field)
	}
	if c.Subject.Rule != "" {
		c.Subject.Field, _, _ = strings.Cut(c.Subject.Rule, ".")
		if !strings.Contains(c.Subject.Rule, ".") {
			c.Subject.Field = ""
		}
	}
	if o.Detail != "" {
		c.Detail, _, _ = strings.Cut(strings.TrimPrefix(o.Detail, "message "), ": ")
	}
	return c
}

// olderOfMessages reads what was said of several messages: of a field, or of all.
func olderOfMessages(of string) judge.Subject {
	if of == "what is blank, absent or null" {
		return judge.Subject{Aspect: judge.MessagesOfBlank}
	}
	field, aspect, _ := strings.Cut(of, ": ")
	if a, known := judge.OlderOfField(aspect); known {
		return judge.Subject{Aspect: a, Field: field}
	}
	return judge.Subject{Aspect: judge.MessagesOfField, Field: field}
}

// UnmarshalJSON reads a cause, also of format 1.
func (c *Cause) UnmarshalJSON(text []byte) error {
	type plain Cause
	var older OlderCause
	if err := json.Unmarshal(text, &older); err != nil {
		return err
	}
	if _, is := judge.NewerCheck(older.Check); is {
		*c = older.Newer()
		return nil
	}
	return json.Unmarshal(text, (*plain)(c))
}

// UnmarshalJSON reads a reason: its cause, and its words.
func (r *Reason) UnmarshalJSON(text []byte) error {
	var words struct {
		Headline prose.Text      `json:"headline"`
		Sentence *prose.Sentence `json:"sentence"`
	}
	if err := json.Unmarshal(text, &words); err != nil {
		return err
	}
	r.Headline, r.Sentence = words.Headline, words.Sentence
	return json.Unmarshal(text, &r.Cause)
}
