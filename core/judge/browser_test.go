package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/wording"

	"github.com/stretchr/testify/require"
)

const bench = `
form: bench
page: /bench
fields:
  - {name: place, label: Place, rules: [{required: {message: Name a place.}}, {required: {id: first, layers: [browser], message: Name a place.}}, {length: {id: cut, layers: [browser], max: 5}}]}
  - {name: phone, label: Phone, mask: {typed: "123456", shown: "123 456"}, rules: [{length: {max: 7, message: Too long.}}]}
  - {name: quiet, label: Quiet, kind: checkbox, value: "yes"}
  - {name: word, label: Word, kind: password}
rejected: {focus: first_wrong_field, values_kept: all_but_secrets}
accepted: {status: 201, reply: "Kept."}
`

// drawn is a submission in a browser, as a page without faults shows it; a test changes what it is about.
type drawn struct {
	p *spec.Prepared
	e *oracle.Expectation
	o *observation.Step
}

func submitted(t *testing.T, unchecked bool, values map[string]string) *drawn {
	p := prepared(t, bench)
	sub := &submission.Submission{Driver: submission.Browser, Encoding: "urlencoded"}
	for _, name := range []string{"place", "phone", "quiet", "word"} {
		if v, ok := values[name]; ok {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: name, Value: v})
		}
	}
	d := &drawn{p: p, e: oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.Browser, Unchecked: unchecked}, sub)}
	form := &observation.Form{}
	for _, name := range []string{"place", "phone", "quiet", "word"} {
		c := observation.Control{Name: name, Type: "text", Value: values[name]}
		if name == "quiet" {
			c.Type, c.Value, c.Checked = "checkbox", "yes", values[name] != ""
		}
		form.Controls = append(form.Controls, c)
	}
	d.o = &observation.Step{
		Sent: sub, At: time.Now().UTC(), Drawn: &observation.Drawn{}, Exchanges: []observation.Exchange{}, Changes: []observation.Change{},
		Before: &observation.Page{URL: "http://site/bench", Form: form}, After: &observation.Page{URL: "http://site/bench", Form: form},
	}
	return d
}

// said puts a text at a field of the page after.
func (d *drawn) said(t observation.Text) *drawn {
	after := *d.o.After
	after.Texts = append(append([]observation.Text{}, after.Texts...), t)
	d.o.After = &after
	return d
}

// answered: the request left, with these pairs, and got a status.
func (d *drawn) answered(status int, left ...submission.Pair) *drawn {
	d.o.Exchanges = []observation.Exchange{{Method: "POST", URL: "http://site/bench", Status: status, Body: "{}"}}
	d.o.Left = &submission.Submission{Encoding: "json", Pairs: left}
	return d
}

// odd are the odd parts of a judgement, with what was observed.
func (d *drawn) odd() map[string]string {
	out := map[string]string{}
	for _, c := range worded(d.p, d.e, d.o, nil).Checks {
		for _, part := range c.Parts {
			if part.Verdict == judge.Odd {
				out[string(wording.Check(c.Check))+", "+part.Subject.Older()] = string(part.Words.Observed)
			}
		}
	}
	return out
}

func TestWhatTheBrowserRefusesIsSeen(t *testing.T) {
	t.Parallel()
	blank := map[string]string{"place": "", "phone": "", "word": ""}
	message := observation.Text{Text: "Name a place.", Field: "place", Alarm: true}
	good := submitted(t, false, blank).said(message)
	good.o.Drawn.Focus = "place"
	require.Equal(t, oracle.RejectedByBrowser, good.e.Outcome)
	require.Empty(t, good.odd())

	require.Equal(t, map[string]string{"Messages, message place.first: text": "none", "Response, focus": "none"}, submitted(t, false, blank).odd(), "nothing is said, and the focus goes nowhere")

	hidden := submitted(t, false, blank).said(observation.Text{Text: "Name a place.", Field: "place", Hidden: true, Unseen: "covered"})
	hidden.o.Drawn.Focus = "place"
	require.Equal(t, map[string]string{"Messages, message place.first: visible": "in the page, but covered"}, hidden.odd())

	gone := submitted(t, false, blank).said(observation.Text{Text: "Name a place.", Field: "place", Alarm: true, Gone: 400})
	gone.o.Drawn.Focus = "place"
	require.Empty(t, gone.odd(), "it was seen for a while")

	native := submitted(t, false, blank).said(observation.Text{Text: "Please fill in this field.", Field: "place", Native: true, Alarm: true})
	native.o.Drawn.Focus, native.o.Drawn.Native = "place", []observation.Native{{Field: "place", Text: "Please fill in this field.", Shown: true}}
	require.Equal(t, map[string]string{"Messages, message place.first: text": "“Please fill in this field.”"}, native.odd(), "the browser's own words are not those promised")

	for i := range native.e.Messages {
		native.e.Messages[i].OrBrowsers = true
	}
	require.Empty(t, native.odd(), "what the server says need not be what the browser says")
	for i := range native.e.Messages {
		native.e.Messages[i].Place = spec.InSummary
	}
	require.Empty(t, native.odd(), "nor does it stand where the page's own messages stand")
	for i := range native.e.Messages {
		native.e.Messages[i].Place = spec.AtField
	}
	native.o.After.Texts[len(native.o.After.Texts)-1].Worded = true
	require.Equal(t, map[string]string{"Messages, message place.first: text": "“Please fill in this field.”"}, native.odd(), "but what the page has the browser say is the page's")

	left := submitted(t, false, blank).said(message).answered(422)
	left.o.Drawn.Focus = "place"
	require.Contains(t, left.odd(), "Outcome, outcome", "the browser let it go")

	wrote := submitted(t, false, blank).said(message)
	wrote.o.Watched, wrote.o.Changes = []string{"t"}, []observation.Change{{Table: "t", Kind: observation.Inserted, Key: "1"}}
	wrote.o.Drawn.Focus = "place"
	require.Contains(t, wrote.odd()["Outcome, outcome"], "no request was seen, and rows were written")
}

// TestAControlThatKeepsAValueOutHoldsTheRule: there is nothing to be said, and nothing was sent.
func TestAControlThatKeepsAValueOutHoldsTheRule(t *testing.T) {
	t.Parallel()
	d := submitted(t, false, map[string]string{"place": "harbour", "phone": "", "word": ""})
	require.Equal(t, oracle.RejectedByBrowser, d.e.Outcome)
	d.o.Drawn.Entered = []observation.Entered{{Name: "place", Typed: "harbour", Stands: "harbo", Changed: true}}
	s := worded(d.p, d.e, d.o, nil)
	require.Equal(t, judge.AsExpected, s.Verdict)
	require.Contains(t, s.Checks[0].Parts[0].Words.Observed, `the control place turned "harbour" into "harbo"`)
	require.Equal(t, judge.DoesNotApply, s.Checks[3].Verdict)
	d.o.Drawn.Entered, d.o.Drawn.Blocked = nil, "the button Go is disabled"
	s = worded(d.p, d.e, d.o, nil)
	require.Contains(t, s.Checks[0].Parts[0].Words.Observed, "the button Go is disabled")
	require.Equal(t, judge.Odd, s.Verdict, "nothing says why")
}

// TestAControlOfAnotherFieldProvesNothing: what it makes of a right value is no refusal of the wrong one.
func TestAControlOfAnotherFieldProvesNothing(t *testing.T) {
	t.Parallel()
	d := submitted(t, false, map[string]string{"place": "harbour", "phone": "01632960123", "word": ""})
	require.Equal(t, oracle.RejectedByBrowser, d.e.Outcome)
	d.o.Drawn.Entered = []observation.Entered{{Name: "phone", Typed: "01632960123", Stands: "0163296012", Changed: true}}
	require.Contains(t, d.said(observation.Text{Text: "Ten digits.", Field: "phone", Alarm: true}).odd(), "Messages, message place.cut: place", "nothing is said at the place")
	both := d.said(observation.Text{Text: "At most five.", Field: "place", Alarm: true})
	both.o.Drawn.Focus = "place"
	require.Empty(t, both.odd(), "what is said of the value that the control made is not a message too many")
}

// TestAPageThatRefusesByItselfIsNoFault, where the server was to be asked: the message is judged, the outcome is left to HTTP.
func TestAPageThatRefusesByItselfIsNoFault(t *testing.T) {
	t.Parallel()
	d := submitted(t, true, map[string]string{"place": "", "phone": "", "word": ""}).said(observation.Text{Text: "Name a place.", Field: "place", Alarm: true})
	d.o.Drawn.Focus = "place"
	require.Equal(t, oracle.RejectedByServer, d.e.Outcome)
	s := worded(d.p, d.e, d.o, nil)
	require.Equal(t, judge.AsExpected, s.Verdict, s.Headline)
	require.Equal(t, judge.DoesNotApply, s.Checks[0].Verdict)
	accepted := submitted(t, false, map[string]string{"place": "pier", "phone": "", "word": ""}).said(observation.Text{Text: "Not today.", Field: "place", Alarm: true})
	require.Contains(t, accepted.odd(), "Outcome, outcome", "what should be accepted is refused by the page")
}

func TestWhatLeavesTheBrowserIsWhatWasEntered(t *testing.T) {
	t.Parallel()
	values := map[string]string{"place": "pier", "phone": "123 456", "quiet": "yes", "word": "long enough"}
	as := func(left ...submission.Pair) map[string]string {
		d := submitted(t, false, values).answered(201, left...)
		d.o.After = &observation.Page{URL: "http://site/bench", Texts: []observation.Text{{Text: "Kept."}}}
		return d.odd()
	}
	pair := func(name, value string) submission.Pair { return submission.Pair{Name: name, Value: value} }
	require.Empty(t, as(pair("place", "pier"), pair("phone", "123 456"), pair("quiet", "true"), pair("word", "long enough")))
	require.Empty(t, as(), "members under other names are not looked for")
	require.Equal(t, map[string]string{"Response, sent place": "PIER", "Response, sent quiet": "false", "Response, sent word": "changed"},
		as(pair("place", "PIER"), pair("quiet", "false"), pair("word", "short")), "a secret is not shown")
}

func TestScriptErrorsAreOddUnlessPartsOfThePageAreNotAllowed(t *testing.T) {
	t.Parallel()
	d := submitted(t, false, map[string]string{"place": "pier", "phone": "", "word": ""}).answered(201)
	d.o.After = &observation.Page{URL: "http://site/bench", Texts: []observation.Text{{Text: "Kept."}}}
	require.Empty(t, d.odd())
	d.o.Drawn.Errors, d.o.Drawn.Lost = []string{"the tide is out"}, []observation.Lost{{URL: "http://site/tides.js", Why: "status 404"}}
	require.Equal(t, map[string]string{"Response, script errors": "the tide is out", "Response, failed requests": "/tides.js: status 404"}, d.odd())
	d.o.Drawn.NotAsked = []string{"elsewhere.test"}
	require.Empty(t, d.odd())
}

func TestValuesStandInThePageThatWasNotLeft(t *testing.T) {
	t.Parallel()
	d := submitted(t, false, map[string]string{"place": "", "phone": "123456", "quiet": "yes", "word": "long enough"}).said(observation.Text{Text: "Name a place.", Field: "place", Alarm: true})
	d.o.Drawn.Focus = "place"
	for i := range d.o.After.Form.Controls {
		if c := &d.o.After.Form.Controls[i]; c.Name == "phone" {
			c.Value = "123 456" // as its mask shows it
		}
	}
	require.Empty(t, d.odd(), "a password that still stands where it was typed was not filled in again")
	for i := range d.o.After.Form.Controls {
		if c := &d.o.After.Form.Controls[i]; c.Name == "phone" {
			c.Value = ""
		}
	}
	require.Equal(t, map[string]string{"Values kept, phone": "blank"}, d.odd())
}

func TestWhatAPersonSawStandsBesideTheRows(t *testing.T) {
	t.Parallel()
	s := &scene{p: join(t), sent: map[string]string{"_token": "t", "username": "fern", "e_mail": "a@b.test", "pass": password, "pass_again": password, "born_on": "1990-01-01", "plots": "2", "heard": "nb", "terms": "yes", "ref": "web"}}
	s.submit(t)
	require.Equal(t, oracle.Accepted, s.e.Outcome)
	none := byHand(s, judge.AsExpected, "")
	require.Equal(t, judge.Odd, none.Verdict, "no row was written")
	require.Equal(t, judge.Odd, none.Checks[4].Verdict)
	s.o.Watched = nil
	unwatched := byHand(s, judge.AsExpected, "")
	require.Equal(t, judge.NotObserved, unwatched.Verdict, "rows that nobody looked at never count as passed")
	seen := byHand(s, judge.Odd, "the button is gone")
	require.Equal(t, "Judged odd by hand: the button is gone", string(seen.Headline))
	require.Len(t, seen.Checks, len(judge.Checks))
	for i, c := range seen.Checks {
		require.Equal(t, judge.Checks[i], c.Check)
	}
}
