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

// TestAMessageMayBePromisedAsAPartOrAPattern of its text.
func TestAMessageMayBePromisedAsAPartOrAPattern(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		say, shown string
		want       judge.Verdict
	}{
		{"{part: 3 to}", "Choose 3  to 20 letters.", judge.AsExpected},
		{"{part: 3 to}", "Choose 4 to 20 letters.", judge.Odd},
		{`{pattern: 'Choose \d+'}`, "Choose 12 letters.", judge.AsExpected},
		{`{pattern: 'Choose \d+'}`, "Choose twelve letters.", judge.Odd},
		{`{pattern: '^Choose .* letters\.$'}`, "Choose\n12 letters.", judge.AsExpected},
		{`{pattern: '^Choose .* letters\.$'}`, "Please! Choose 12 letters.", judge.Odd},
	} {
		p := prepared(t, "form: barge\npage: /\nfields: [{name: name, rules: [{required: {message: "+c.say+"}}]}]\nrejected: {status: 422}\n")
		sub := &submission.Submission{Driver: submission.HTTP, Pairs: []submission.Pair{{Name: "name"}}}
		form := &observation.Form{Controls: []observation.Control{{Name: "name", Type: "text"}}}
		o := &observation.Step{
			Sent: sub, At: time.Now().UTC(), Before: &observation.Page{Form: form},
			After:     &observation.Page{Form: form, Texts: []observation.Text{{Text: observation.Squash(c.shown), Field: "name", Alarm: true}}},
			Exchanges: []observation.Exchange{{Method: "POST", URL: "http://s/", Status: 422, Body: "<p>" + c.shown}},
		}
		step := worded(p, oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, sub), o, nil)
		at := 0
		for step.Checks[at].Check != judge.Messages {
			at++
		}
		require.Equal(t, c.want, step.Checks[at].Verdict, "%s of %q: %+v", c.say, c.shown, step.Checks[at].Parts)
	}
}

// TestAPatternIsFoundWhereverItComesFrom: in a message of a document, and in one that is made otherwise.
func TestAPatternIsFoundWhereverItComesFrom(t *testing.T) {
	t.Parallel()
	read := prepared(t, "form: barge\npage: /\nfields: [{name: name, rules: [{required: {message: {pattern: 'Choose [0-9]+'}}}]}]\n").Rules[0].Message
	for _, m := range []*spec.Message{read, {Pattern: "Choose [0-9]+"}} {
		require.True(t, m.FoundIn("Please! Choose 12."))
		require.False(t, m.FoundIn("Please! Choose."))
	}
	require.False(t, (&spec.Message{Pattern: "a (name"}).FoundIn("a (name"))
}
