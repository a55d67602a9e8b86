package judge_test

import (
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// TestAFormThatStaysFilledIn: a masked value is written as its mask writes it, and of radio buttons the one that was sent is chosen.
func TestAFormThatStaysFilledIn(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: me
page: /me
fields:
  - {name: phone, kind: tel, mask: {typed: "01632960123", shown: "01632 960 123", sent: "01632960123"}}
  - {name: by, kind: single_choice, options: [{value: mail}, {value: phone}]}
accepted: {status: 200, form: filled, reply: Kept.}
`)
	for held, want := range map[[2]string][]string{
		{"01632 960 456", "phone"}: {},
		{"01632 960 457", "phone"}: {"control not_filled"},
		{"01632 960 456", "mail"}:  {"control not_filled"},
	} {
		sent := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "phone", Value: "01632960456"}, {Name: "by", Value: "phone"}}}
		form := &observation.Form{Controls: []observation.Control{{Name: "phone", Type: "tel", Value: held[0]}, {Name: "by", Type: "radio", Value: "mail", Checked: held[1] == "mail"}, {Name: "by", Type: "radio", Value: "phone", Checked: held[1] == "phone"}}}
		o := &observation.Step{
			Sent: sent, Changes: []observation.Change{}, Before: &observation.Page{URL: "http://s/me", Form: form}, After: &observation.Page{URL: "http://s/me", Form: form, Texts: []observation.Text{{Text: "Kept."}}},
			Exchanges: []observation.Exchange{{Method: "POST", URL: "http://s/me", Status: 200}},
		}
		w := &oracle.World{Driver: submission.HTTP}
		require.Equal(t, want, oddAspects(judge.Judge(p, oracle.Expect(p, w, sent), o, nil)), "%v", held)
	}
}
