package judge

import (
	"net/url"
	"slices"
	"strings"

	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/template"
)

// mails: those that are promised were sent, once each, and no other that concerns the submission.
func mails(j *judging, c *Check) {
	if len(j.e.Mails) == 0 && !j.e.NoMail || j.observed.outcome == oracle.Failed {
		return
	}
	if !j.o.MailsReceived {
		c.unobserved(of(NoOtherMail), is(NoReceiver))
		return
	}
	rest := slices.Clone(j.o.Mails)
	for i := range j.e.Mails {
		want := &j.e.Mails[i]
		at := bestMail(j, rest, want)
		if at < 0 {
			if j.observed.outcome == j.e.Outcome { // what was not accepted sends none
				c.odd(ofMail(MailSent, want), NotSent, is(AMail), is(None))
			}
			continue
		}
		mail(j, c, want, &rest[at])
		rest = slices.Delete(rest, at, at+1)
	}
	switch {
	case len(rest) == 0:
		c.asExpected(of(NoOtherMail), is(None), is(None))
	case slices.ContainsFunc(j.e.Mails, func(m oracle.Mail) bool { return strings.EqualFold(m.To, rest[0].To) }):
		c.odd(Subject{Aspect: MailSent, Member: rest[0].To}, MailTwice, is(AMail), Value{Is: MailsSent, N: len(j.o.Mails)})
	default:
		c.odd(of(NoOtherMail), MailNotExpected, is(None), Value{Is: Quoted, Text: rest[0].Subject, Of: rest[0].To})
	}
}

func ofMail(a Aspect, m *oracle.Mail) Subject { return Subject{Aspect: a, Member: m.To} }

// bestMail is the place of the mail to a recipient that a promise is about: the one with its subject, or else the first; -1 for none.
func bestMail(j *judging, list []observation.Mail, want *oracle.Mail) int {
	first := -1
	for i := range list {
		if !strings.EqualFold(list[i].To, want.To) {
			continue
		}
		if want.Subject == nil || saysOf(j, want.Subject, list[i].Subject) {
			return i
		}
		if first < 0 {
			first = i
		}
	}
	return first
}

// mail compares a mail with what is promised of it.
func mail(j *judging, c *Check, want *oracle.Mail, got *observation.Mail) {
	c.asExpected(ofMail(MailSent, want), is(AMail), is(AMail))
	if m := want.Subject; m != nil {
		c.compare(saysOf(j, m, got.Subject), ofMail(MailSubject, want), OtherText, promisedText(j, m), asText(got.Subject, None))
	}
	if m := want.Text; m != nil {
		within := *m
		if within.Text != "" {
			within.Part, within.Text = within.Text, ""
		}
		c.compare(saysOf(j, &within, got.Text), ofMail(MailText, want), NotShown, promisedText(j, m), withText(ShortText, got.Text))
	}
	if want.Link != "" {
		to, _ := j.withRows(want.Link)
		leads := slices.ContainsFunc(got.Links, func(l string) bool { return j.leadsTo(l, to) || sameAddress(l, to) })
		c.compare(leads, ofMail(MailLink, want), NoSuchLink, withText(LeadsTo, to), asText(strings.Join(got.Links, ", "), None))
	}
}

// saysOf tells whether a text is what a message promises, with what was stored in its places.
func saysOf(j *judging, m *spec.Message, text string) bool {
	filled := *m
	filled.Text, _ = j.withRows(m.Text)
	filled.Part, _ = j.withRows(m.Part)
	return says(&filled, text)
}

func promisedText(j *judging, m *spec.Message) Value {
	if m.Pattern != "" {
		return withText(MatchesPattern, m.Pattern)
	}
	text, _ := j.withRows(m.Text + m.Part)
	return withText(Quoted, text)
}

// sameAddress tells whether an address is a promised one, with any text in its places.
func sameAddress(to, promised string) bool {
	u, err := url.Parse(to)
	return err == nil && (template.Matches(promised, to) || template.Matches(promised, u.RequestURI()))
}
