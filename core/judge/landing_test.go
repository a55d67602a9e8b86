package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

const kiteForm = `form: kite
page: /kite
token: once
fields:
  - {name: name, rules: [{required: {message: A name.}}, {length: {min: 2, max: 9, message: 2 to 9.}}]}
  - {name: next, kind: hidden}
  - {name: wind, kind: single_choice, options: [{label: Four, value: "4"}, {label: Six, value: "6"}]}
rejected: {place: field}
accepted: {status: 303, to: /club}
stored: [{insert: flyers, columns: {name: {from: name}}}]
`

// kiteAnswer judges a submission of the kite form by what came of it.
func kiteAnswer(t *testing.T, sub *submission.Submission, location string, wrote bool, after *observation.Page, body string) (*judge.Judgement, *observation.Step) {
	p := prepared(t, kiteForm)
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP, Language: "en"}, sub)
	name, _ := sub.Value("name")
	next, _ := sub.Value("next")
	form := &observation.Form{Method: "POST", Action: "http://kites.test/kite", Controls: []observation.Control{{Name: "name"}, {Name: "next", Type: "hidden", Value: next}, {Name: "wind", Type: "select", Value: "4", Offered: []string{"4", "6"}}}}
	o := &observation.Step{
		At: time.Now(), Sent: sub, Watched: []string{"flyers"}, Changes: []observation.Change{}, Before: &observation.Page{URL: "http://kites.test/kite", Form: form}, After: after,
		Exchanges: []observation.Exchange{{Method: "POST", URL: "http://kites.test/kite", Status: 200, Body: body}},
	}
	if location != "" {
		o.Exchanges[0].Status, o.Exchanges[0].Location = 303, location
		o.Exchanges = append(o.Exchanges, observation.Exchange{Method: "GET", URL: location, Status: 200})
	}
	if wrote {
		o.Changes = []observation.Change{{Table: "flyers", Kind: observation.Inserted, Key: "1", After: []observation.Cell{{Column: "name", Value: name}}}}
	}
	return worded(p, e, o, nil), o
}

func kite(name string, more ...submission.Pair) *submission.Submission {
	return &submission.Submission{Driver: submission.HTTP, Pairs: append([]submission.Pair{{Name: "name", Value: name}, {Name: "wind", Value: "4"}, {Name: "once", Value: "t"}}, more...)}
}

func page(texts ...observation.Text) *observation.Page {
	return &observation.Page{URL: "http://kites.test/club", Texts: texts}
}

// TestThePageOneLandsOnRefusesNothing: its notices, search boxes and lists are its own, unless one of the form's messages stands there.
func TestThePageOneLandsOnRefusesNothing(t *testing.T) {
	t.Parallel()
	notices := []observation.Text{{Text: "The beach is closed.", Alarm: true}, {Text: "Three letters and more", Field: "name", Alarm: true}}
	s, _ := kiteAnswer(t, kite("Tern"), "http://kites.test/club", true, page(notices...), "")
	require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
	s, _ = kiteAnswer(t, kite("Tern"), "http://kites.test/club", true, page(observation.Text{Text: "2 to 9.", Alarm: true}), "")
	require.Contains(t, string(s.Headline), "Contradictory", "a rule's own message still contradicts")
	s, _ = kiteAnswer(t, kite("Tern"), "http://kites.test/club", false, page(notices...), "")
	require.Equal(t, judge.Odd, s.Verdict, "a redirect without the row is not an acceptance")
	s, _ = kiteAnswer(t, kite("Tern"), "http://elsewhere.test/club", true, page(), "")
	require.Equal(t, "http://elsewhere.test/club", oddPart(s, judge.Response).Observed.Text, "a path that is promised is one of the site's")
	s, _ = kiteAnswer(t, kite("Tern"), "http://kites.test:80/club/", true, page(), "")
	require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
}

// TestARefusalMayBeAPageOfItsOwn: without the form, and in whatever words where the request was not looked at.
func TestARefusalMayBeAPageOfItsOwn(t *testing.T) {
	t.Parallel()
	own := page(observation.Text{Text: "A name."})
	s, _ := kiteAnswer(t, kite(""), "", false, own, "")
	require.Equal(t, judge.AsExpected, s.Checks[0].Verdict, s.Headline)
	require.Equal(t, judge.DoesNotApply, s.Checks[3].Verdict, "nothing is promised of the values")
	without := kite("Tern")
	without.Without = []string{"once"}
	s, _ = kiteAnswer(t, without, "", false, page(observation.Text{Text: "Invalid token!"}), "")
	require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
	s, _ = kiteAnswer(t, without, "", false, page(observation.Text{Text: "A name."}), "")
	require.Equal(t, judge.AsExpected, s.Verdict, "the usual message will do")
	s, _ = kiteAnswer(t, without, "", true, page(observation.Text{Text: "Invalid token!"}), "")
	require.Equal(t, judge.Odd, s.Verdict)
	s, _ = kiteAnswer(t, kite("Te\x00rn"), "", false, page(observation.Text{Text: "Bad request"}), "")
	require.Equal(t, judge.AsExpected, s.Verdict, "a NUL may be refused: %s", s.Headline)
}

// TestARedirectStaysOnTheSite, whatever address a hidden field holds.
func TestARedirectStaysOnTheSite(t *testing.T) {
	t.Parallel()
	altered := kite("Tern", submission.Pair{Name: "next", Value: `/\elsewhere.test`})
	altered.Altered = true
	s, _ := kiteAnswer(t, altered, "http://elsewhere.test/", true, page(), "")
	require.Equal(t, judge.RedirectHost, oddPart(s, judge.Response).Aspect)
	s, _ = kiteAnswer(t, altered, "http://kites.test/club", true, page(), "")
	require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
	s, _ = kiteAnswer(t, kite("Tern", submission.Pair{Name: "next", Value: "/dunes"}), "http://kites.test/dunes", true, page(), "")
	require.Equal(t, judge.AsExpected, s.Checks[1].Verdict, "the page's own hidden field names where it leads: %s", s.Headline)
}

func oddPart(s *judge.Judgement, check judge.CheckName) judge.Part {
	for _, c := range s.Checks {
		for _, p := range c.Parts {
			if c.Check == check && p.Verdict == judge.Odd {
				return p
			}
		}
	}
	return judge.Part{}
}

// TestARefusalOfWhatIsRightIsToldByItsRule: by the message that is shown, and the bound that the value lies nearer to.
func TestARefusalOfWhatIsRightIsToldByItsRule(t *testing.T) {
	t.Parallel()
	cause := func(name, says string) report.Cause {
		form := &observation.Page{URL: "http://kites.test/kite", Form: &observation.Form{Controls: []observation.Control{{Name: "name"}, {Name: "wind"}}}, Texts: []observation.Text{{Text: says, Field: "name", Alarm: true}}}
		s, _ := kiteAnswer(t, kite(name), "", false, form, "")
		reasons := report.ReasonsOf(&testcase.Case{ID: "kite/x/http", Row: "across", Covers: []testcase.Cover{{Kind: testcase.CoversGuess, Of: "name", Point: "emoji"}}, Steps: []testcase.Step{{}}}, []*judge.Judgement{s})
		require.NotEmpty(t, reasons)
		return reasons[0].Cause
	}
	require.Equal(t, report.Cause{
		Row: "name", Rule: "name.length", Variant: "max", Check: judge.Outcome, Subject: judge.Subject{Aspect: judge.OutcomeAspect}, Difference: judge.OtherOutcome,
		Expected: string(oracle.Accepted), Observed: string(oracle.RejectedByServer),
	}, cause("ninechars", "2 to 9."))
	tw := cause("tw", "2 to 9.")
	require.Equal(t, "name.length min", tw.Older().Rule)
	emoji := cause("Tern", "A name.")
	require.Equal(t, "name.required emoji", emoji.Older().Rule, "of a guess, which")
	other := cause("Tern", "Not today.")
	require.Equal(t, report.OlderCause{Row: "name", Check: "Outcome", Part: "outcome", Kind: "expected accepted, rejected by the server"}, other.Older())
}

// TestADetailIsAFindingsOwnName: what differs only in it is one group, and whoever knows of one detail has not known of the other.
func TestADetailIsAFindingsOwnName(t *testing.T) {
	t.Parallel()
	reason := func(detail string) report.Reason {
		return report.Reason{Cause: report.Cause{Check: judge.Messages, Subject: judge.Subject{Aspect: judge.MessagesLanguage}, Difference: judge.OtherLanguage, Detail: detail}, Headline: "x"}
	}
	groups := report.ByCause([]report.Summary{{Case: "a", Row: "name", Reasons: []report.Reason{reason("name"), reason("name too")}}, {Case: "b", Row: "mail", Reasons: []report.Reason{reason("mail")}}})
	require.Len(t, groups, 1)
	require.Equal(t, []string{"a", "b"}, groups[0].Cases)
	require.Empty(t, groups[0].Cause.Detail)
	require.Len(t, groups[0].Merged, 3)
}

// TestWhatWasStoredIsHeldAgainstWhatIsPromisedByContent: rows of one table may come in any order, and a row may hold the values already.
func TestWhatWasStoredIsHeldAgainstWhatIsPromisedByContent(t *testing.T) {
	t.Parallel()
	p := prepared(t, "form: f\npage: /\nfields: [{name: a}, {name: b}]\naccepted: {status: 303}\nstored: [{insert: notes, columns: {text: {from: a}, kind: {is: first}}}, {insert: notes, columns: {text: {from: b}, kind: {is: second}}}]\n")
	sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "a", Value: "moss"}, {Name: "b", Value: "fern"}}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub)
	row := func(text, kind string) observation.Change {
		return observation.Change{Table: "notes", Kind: observation.Inserted, After: []observation.Cell{{Column: "text", Value: text}, {Column: "kind", Value: kind}}}
	}
	verdict := func(rows ...observation.Change) judge.Verdict {
		o := &observation.Step{Sent: sub, At: time.Now(), Watched: []string{"notes"}, Changes: rows, Exchanges: ledOn("http://s/", "http://s/d"), Before: &observation.Page{}, After: &observation.Page{}}
		return worded(p, e, o, nil).Checks[4].Verdict
	}
	require.Equal(t, judge.AsExpected, verdict(row("fern", "second"), row("moss", "first")))
	require.Equal(t, judge.Odd, verdict(row("fern", "first"), row("moss", "second")))
}
