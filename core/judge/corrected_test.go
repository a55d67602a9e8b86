package judge_test

import (
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

// TestWhenAMessageComes is judged by what was seen at each moment of a mistake and its correction.
func TestWhenAMessageComes(t *testing.T) {
	t.Parallel()
	p := prepared(t, bedForm)
	said := []observation.Text{{Text: "Too long.", Field: "name"}}
	above := []observation.Text{{Text: "Too long.", Alarm: true}}
	hidden := []observation.Text{{Text: "Too long.", Field: "name", Hidden: true}}
	hint := []observation.Text{{Text: "At most nine.", Field: "name"}}
	for name, c := range map[string]struct {
		comes   spec.MessageEvent
		place   spec.Place
		seen    *observation.Correction
		part    string
		verdict judge.Verdict
		says    string
	}{
		"in time":              {spec.OnBlur, spec.AtField, &observation.Correction{Left: said}, "comes", judge.AsExpected, "on leaving the field"},
		"and gone":             {spec.OnBlur, spec.AtField, &observation.Correction{Left: said}, "goes", judge.AsExpected, "gone"},
		"too early":            {spec.OnBlur, spec.AtField, &observation.Correction{Typed: said, Left: said}, "comes", judge.Odd, "while typing"},
		"too late":             {spec.OnInput, spec.AtField, &observation.Correction{Typed: hint, Left: said}, "comes", judge.Odd, "on leaving the field"},
		"never":                {spec.OnInput, spec.AtField, &observation.Correction{}, "comes", judge.Odd, "only on submitting"},
		"hidden":               {spec.OnInput, spec.AtField, &observation.Correction{Typed: hidden, Left: hidden}, "comes", judge.Odd, "only on submitting"},
		"stays":                {spec.OnBlur, spec.AtField, &observation.Correction{Left: said, LeftAgain: said}, "goes", judge.Odd, "it stays"},
		"a hint may stay":      {spec.OnBlur, spec.AtField, &observation.Correction{Typed: hint, Left: append(hint, said...), LeftAgain: hint}, "goes", judge.AsExpected, "gone"},
		"only on submitting":   {spec.OnSubmit, spec.AtField, &observation.Correction{}, "comes", judge.AsExpected, "only on submitting"},
		"in the summary":       {spec.OnBlur, spec.InSummary, &observation.Correction{Left: above}, "comes", judge.AsExpected, "on leaving the field"},
		"not at its field":     {spec.OnBlur, spec.AtField, &observation.Correction{Left: above}, "comes", judge.Odd, "only on submitting"},
		"a mistake not made":   {spec.OnBlur, spec.AtField, &observation.Correction{Refused: "it takes digits only"}, "comes", judge.DoesNotApply, ""},
		"a browser not driven": {spec.OnBlur, spec.AtField, nil, "comes", judge.NotObserved, ""},
	} {
		sub := &submission.Submission{Driver: submission.Browser, Pairs: []submission.Pair{{Name: "name", Value: "fern"}, {Name: "row", Value: "1"}}, Mistake: &submission.Mistake{
			Name: "name", Value: "far too long", MessageOn: c.comes, Message: submission.Message{Rule: "name.length", Field: "name", Place: c.place, Text: "Too long."},
		}}
		e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.Browser}, sub)
		s := worded(p, e, &observation.Step{At: time.Now(), Sent: sub, Drawn: &observation.Drawn{Correction: c.seen}, After: &observation.Page{URL: "http://site/done"}, Exchanges: []observation.Exchange{{Method: "POST", URL: "http://site/", Status: 303, Location: "http://site/done"}}}, nil)
		found := false
		for _, check := range s.Checks {
			for _, part := range check.Parts {
				if part.Subject.Older() == "message name.length: "+c.part {
					found = true
					require.Equal(t, c.verdict, part.Verdict, name)
					require.Contains(t, string(part.Words.Observed), c.says, name)
				}
			}
		}
		require.True(t, found, name)
	}
}

// TestWhatWasSaidBeforeIsJudged, though a control of another field then keeps the form from being sent.
func TestWhatWasSaidBeforeIsJudged(t *testing.T) {
	t.Parallel()
	p := prepared(t, bedForm)
	sub := &submission.Submission{Driver: submission.Browser, Pairs: []submission.Pair{{Name: "name", Value: "fern"}, {Name: "row", Value: "1"}}, Mistake: &submission.Mistake{
		Name: "name", Value: "far too long", MessageOn: spec.OnInput, Message: submission.Message{Rule: "name.length", Field: "name", Text: "Too long."},
	}}
	e := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.Browser}, sub)
	late := &observation.Correction{Left: []observation.Text{{Text: "Too long.", Field: "name"}}}
	s := worded(p, e, &observation.Step{At: time.Now(), Sent: sub, After: &observation.Page{URL: "http://site/"}, Drawn: &observation.Drawn{Correction: late, Entered: []observation.Entered{{Name: "row", Typed: "1", Stands: "", Changed: true}}}}, nil)
	require.Contains(t, odd(s), "Messages: message name.length: comes: too late")
	var kinds []string
	for _, r := range report.ReasonsOf(&testcase.Case{Row: "name"}, []*judge.Judgement{s}) {
		kinds = append(kinds, r.Older().Kind)
	}
	require.Equal(t, []string{"expected accepted, rejected by the browser", "too late"}, kinds, "a reason of its own")
}
