package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// oddAspects are the aspects of a judgement's odd parts with their differences.
func oddAspects(s *judge.Judgement) []string {
	out := []string{}
	for _, check := range s.Checks {
		for _, part := range check.Parts {
			if part.Verdict == judge.Odd {
				out = append(out, string(part.Aspect)+" "+string(part.Difference))
			}
		}
	}
	return out
}

const benchForm = `form: bench
page: /bench
page_titles: {en: Reserve a bench, de: Bank reservieren}
fields:
  - {name: mail, labels: {de: E-Mail-Adresse}, rules: [{length: {max: 20, message: Too long., rejected: {page: {title: Sorry, text: Too long., link: /help}}}}]}
  - {name: copy, kind: checkbox, value: "yes"}
accepted:
  status: 200
  reply: [{when: copy, pattern: "^Sent to .+@"}, {texts: {en: "Yours, {mail}.", de: "Ihre, {mail}."}, exact: true}]
  mails:
    - {to: desk@s.test, subject: {en: "Bench for {mail}", de: "Bank für {mail}"}, text: "by {mail}", link: "/benches/{any}"}
    - {to: "{mail}", when: copy, subject: {part: copy}}
  session: {cookies: [{name: stay, when: copy, lasts: 24h}, {name: stay, when: "!copy", lasts: not_set}, {name: sid, lasts: session}]}
`

// scene of somebody who reserves a bench in German, all as it should be.
func benchScene(t testing.TB, copied bool) (*spec.Prepared, *oracle.Expectation, *observation.Step) {
	p := prepared(t, benchForm)
	sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "mail", Value: "ro@s.test"}}}
	reply, mails := "Ihre, ro@s.test.", []observation.Mail{{To: "Desk@s.test", Subject: "Bank für  ro@s.test", Text: "A bench\nby ro@s.test, see below", Links: []string{"http://s/benches/7?from=mail"}}}
	cookies := []observation.Header{{Name: "Set-Cookie", Value: "sid=…; HttpOnly"}}
	if copied {
		sent.Pairs = append(sent.Pairs, submission.Pair{Name: "copy", Value: "yes"})
		reply = "Sent to ro@s.test"
		mails = append(mails, observation.Mail{To: "ro@s.test", Subject: "Your copy"})
		cookies = append(cookies, observation.Header{Name: "Set-Cookie", Value: "stay=…; Max-Age=86400"})
	}
	w := &oracle.World{Driver: submission.HTTP, Language: "de", Page: true, Choice: &spec.LanguageChoice{HTMLLang: true, ContentLanguage: true}}
	o := &observation.Step{
		At: time.Date(2026, 12, 1, 9, 0, 0, 0, time.UTC), Sent: sent, Changes: []observation.Change{}, MailsReceived: true, Mails: mails,
		Before:    &observation.Page{URL: "http://s/bench", Title: "Bank reservieren", Language: "de-AT", ContentLanguage: "de", Texts: []observation.Text{{Text: "E-Mail-Adresse *"}}, Form: &observation.Form{Controls: []observation.Control{{Name: "mail"}, {Name: "copy", Type: "checkbox"}}}},
		After:     &observation.Page{URL: "http://s/bench", Texts: []observation.Text{{Text: reply}}},
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://s/bench", Status: 200, ResponseHeader: cookies}},
	}
	return p, oracle.Expect(p, w, sent), o
}

func TestLanguagesMailsAndCookiesAreJudged(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		copied bool
		change func(*observation.Step)
		odd    []string
	}{
		"well":                    {false, func(*observation.Step) {}, []string{}},
		"well, with a copy":       {true, func(*observation.Step) {}, []string{}},
		"the title in English":    {false, func(o *observation.Step) { o.Before.Title = "Reserve a bench" }, []string{"page_title other_text"}},
		"the label in English":    {false, func(o *observation.Step) { o.Before.Texts[0].Text = "E-mail" }, []string{"label not_shown"}},
		"another language named":  {false, func(o *observation.Step) { o.Before.Language, o.Before.ContentLanguage = "den", "" }, []string{"page_language other_language", "page_language other_language"}},
		"the reply in English":    {false, func(o *observation.Step) { o.After.Texts[0].Text = "Yours, ro@s.test." }, []string{"success_reply missing"}},
		"more than the reply":     {false, func(o *observation.Step) { o.After.Texts[0].Text = "Ihre, ro@s.test. Bank 7." }, []string{"success_reply missing"}},
		"no reply of the pattern": {true, func(o *observation.Step) { o.After.Texts[0].Text = "Sent." }, []string{"outcome other_outcome", "success_reply missing_not_accepted"}},
		"no mail":                 {false, func(o *observation.Step) { o.Mails = nil }, []string{"mail not_sent"}},
		"two mails":               {false, func(o *observation.Step) { o.Mails = append(o.Mails, o.Mails[0]) }, []string{"mail mail_twice"}},
		"a copy nobody asked for": {false, func(o *observation.Step) { o.Mails = append(o.Mails, observation.Mail{To: "ro@s.test"}) }, []string{"no_other_mail mail_not_expected"}},
		"another subject":         {false, func(o *observation.Step) { o.Mails[0].Subject = "Bench for ro@s.test" }, []string{"mail_subject other_text"}},
		"another text":            {false, func(o *observation.Step) { o.Mails[0].Text = "A bench" }, []string{"mail_text not_shown"}},
		"a link elsewhere":        {false, func(o *observation.Step) { o.Mails[0].Links = []string{"http://s/bench"} }, []string{"mail_link no_such_link"}},
		"the copy's subject":      {true, func(o *observation.Step) { o.Mails[1].Subject = "Bench" }, []string{"mail_subject other_text"}},
		"stays unasked": {false, func(o *observation.Step) {
			o.Exchanges[0].ResponseHeader = append(o.Exchanges[0].ResponseHeader, observation.Header{Name: "Set-Cookie", Value: "stay=…; Max-Age=60"})
		}, []string{"cookie cookie_set"}},
		"taken back": {false, func(o *observation.Step) {
			o.Exchanges[0].ResponseHeader = append(o.Exchanges[0].ResponseHeader, observation.Header{Name: "Set-Cookie", Value: "stay=; Max-Age=0"})
		}, []string{}},
		"an hour only": {true, func(o *observation.Step) {
			o.Exchanges[0].ResponseHeader[1].Value = "stay=…; Expires=Tue, 01 Dec 2026 10:00:00 GMT"
		}, []string{"cookie_life other_life"}},
		"a day by its date": {true, func(o *observation.Step) {
			o.Exchanges[0].ResponseHeader[1].Value = "stay=…; Expires=Wed, 02 Dec 2026 09:00:20 GMT"
		}, []string{}},
		"not set though asked": {true, func(o *observation.Step) { o.Exchanges[0].ResponseHeader = o.Exchanges[0].ResponseHeader[:1] }, []string{"cookie cookie_missing"}},
		"beyond the browser":   {false, func(o *observation.Step) { o.Exchanges[0].ResponseHeader[0].Value = "sid=…; Max-Age=3600" }, []string{"cookie_life other_life"}},
	} {
		p, e, o := benchScene(t, c.copied)
		c.change(o)
		require.Equal(t, c.odd, oddAspects(worded(p, e, o, nil)), name)
	}
	p, e, o := benchScene(t, false)
	o.MailsReceived, o.Mails = false, nil
	require.Equal(t, judge.NotObserved, worded(p, e, o, nil).Verdict, "a mail that nobody receives is not called missing")
}

// TestRefusalsOnAPageOfTheirOwn tell what is promised, hold no form, and lead on.
func TestRefusalsOnAPageOfTheirOwn(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		change func(*observation.Step)
		odd    []string
	}{
		"well":           {func(*observation.Step) {}, []string{}},
		"another title":  {func(o *observation.Step) { o.After.Title = "Bench" }, []string{"page_title other_text"}},
		"no way on":      {func(o *observation.Step) { o.Links = []string{"http://s/"} }, []string{"page_link no_such_link"}},
		"the form again": {func(o *observation.Step) { o.After.Form = o.Before.Form }, []string{"own_page form_there"}},
		"a mail":         {func(o *observation.Step) { o.Mails = []observation.Mail{{To: "desk@s.test"}} }, []string{"no_other_mail mail_not_expected"}},
	} {
		p, _, o := benchScene(t, false)
		o.Sent.Pairs[0].Value, o.Mails = "far.too.long.an.address@s.test", nil
		o.After = &observation.Page{URL: "http://s/bench", Title: "Sorry", Texts: []observation.Text{{Text: "Too long."}}}
		o.Links = []string{"http://s/", "http://s/help"}
		e := oracle.Expect(p, &oracle.World{Driver: submission.HTTP, Language: "de"}, o.Sent)
		require.True(t, e.NoMail)
		c.change(o)
		require.Equal(t, c.odd, oddAspects(worded(p, e, o, nil)), name)
	}
}
