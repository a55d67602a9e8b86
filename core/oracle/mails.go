package oracle

import "oddtick/core/spec"

// mails are those that an accepted submission sends.
func (j *judgement) mails() []Mail {
	var out []Mail
	for i := range j.p.Form.Accepted.Mails {
		m := &j.p.Form.Accepted.Mails[i]
		if m.When != "" && !j.p.Applies(m.When, j.variables()) {
			continue
		}
		out = append(out, Mail{Promise: i, To: j.fill(m.To), Subject: j.said(m.Subject), Text: j.said(m.Text), Link: j.fill(m.Link), Within: m.Takes()})
	}
	return out
}

// recipients are those of all mails that the form promises under any condition.
func (j *judgement) recipients() []string {
	var out []string
	for i := range j.p.Form.Accepted.Mails {
		out = append(out, j.fill(j.p.Form.Accepted.Mails[i].To))
	}
	return out
}

// said is a message in the visitor's language, with what was sent in its places.
func (j *judgement) said(m *spec.Message) *spec.Message {
	if m == nil {
		return nil
	}
	out := *m
	text, _ := m.In(j.w.Language)
	out.Text, out.Part, out.Texts = j.fill(text), j.fill(m.Part), nil
	return &out
}
