package investigate_test

import (
	"context"
	"slices"
	"testing"
	"unicode/utf8"

	"oddtick/core/design"
	"oddtick/core/investigate"
	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

func shed(t *testing.T) *design.Designer {
	form, err := spec.ReadForm("shed.yaml", []byte(`form: shed
page: /shed
fields:
  - {name: name, rules: [{required: {}}, {length: {min: 3, max: 20}}]}
  - {name: note, rules: [{length: {max: 40}}]}
accepted: {status: 303}
rejected: {status: 422}
`))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	d, err := design.New(p, nil)
	require.NoError(t, err)
	return d
}

// site answers cases without one: it takes names of so many characters, and stores the first of them.
type site struct {
	t              *testing.T
	d              *design.Designer
	takes, stores  int
	asked          int
	oddNow         func(asked int) bool
	oddAbout       report.Cause
	longerThanNote int
}

func (s *site) submit(_ context.Context, c *testcase.Case, attempt int) (*report.Result, error) {
	s.asked++
	sent, err := s.d.Reader().Values(c, len(c.Steps)-1)
	require.NoError(s.t, err)
	n := utf8.RuneCountInString(sent.Values[0].Normal)
	step := &judge.Judgement{Verdict: judge.AsExpected, Ended: oracle.RejectedByServer, Checks: []judge.Check{{Check: judge.Outcome, Parts: []judge.Part{{Subject: judge.Subject{Aspect: judge.OutcomeAspect}}}}}}
	if n >= 3 && n <= s.takes {
		step.Ended = oracle.Accepted
		if n > s.stores {
			step.Checks = append(step.Checks, judge.Check{Check: judge.StoredData, Parts: []judge.Part{{Subject: judge.Subject{Aspect: judge.ColumnValue, Column: "name"}, Difference: judge.CutShort}}})
		}
	}
	out := &report.Result{Case: c.ID, Attempt: attempt, Verdict: judge.AsExpected, Steps: []report.StepResult{{Observation: &observation.Step{}, Judgement: step}}}
	if s.oddNow != nil && s.oddNow(s.asked) && utf8.RuneCountInString(sent.Values[1].Normal) > s.longerThanNote {
		out.Verdict, out.Cause = judge.Odd, &s.oddAbout
	}
	return out, nil
}

// TestTheLimitOfASiteIsFound: 20 promised, 190 taken, 20 stored whole; by few submissions.
func TestTheLimitOfASiteIsFound(t *testing.T) {
	t.Parallel()
	d := shed(t)
	s := &site{t: t, d: d, takes: 190, stores: 20}
	l, err := investigate.FindLimit(t.Context(), d.Maker, s.submit, "name.length", testcase.Upper)
	require.NoError(t, err)
	require.Equal(t, "190 characters", l.Found)
	require.Equal(t, "20 characters", l.Whole)
	require.False(t, l.AsPromised)
	require.Less(t, s.asked, 40)

	kept := &site{t: t, d: d, takes: 20, stores: 20}
	l, err = investigate.FindLimit(t.Context(), d.Maker, kept.submit, "name.length", testcase.Upper)
	require.NoError(t, err)
	require.True(t, l.AsPromised)

	_, err = investigate.FindLimit(t.Context(), d.Maker, s.submit, "name.required", testcase.Upper)
	require.ErrorAs(t, err, new(*investigate.CannotError))
}

// TestAnOddCaseIsRepeatedAndReduced to what it takes; one that shows only now and then is repeated for its rate instead.
func TestAnOddCaseIsRepeatedAndReduced(t *testing.T) {
	t.Parallel()
	d := shed(t)
	cases, _ := d.Cases(testcase.Standard)
	at := slices.IndexFunc(cases, func(c *testcase.Case) bool { return c.ID == "shed/note.length.max/http" })
	require.GreaterOrEqual(t, at, 0)
	cause := report.Cause{Check: judge.Outcome, Subject: judge.Subject{Aspect: judge.OutcomeAspect}, Difference: judge.OtherOutcome}

	always := &site{t: t, d: d, takes: 20, stores: 20, oddAbout: cause, oddNow: func(int) bool { return true }, longerThanNote: 0}
	var told int
	found, err := investigate.Investigate(t.Context(), d.Maker, always.submit, cases[at], cause, func(made int) { told = made })
	require.NoError(t, err)
	require.Equal(t, found.Times, found.Odd)
	require.NotNil(t, found.Simplest)
	require.Positive(t, told)
	require.LessOrEqual(t, found.Submissions, investigate.MaxSubmissions+40)

	seldom := &site{t: t, d: d, takes: 20, stores: 20, oddAbout: cause, oddNow: func(asked int) bool { return asked%3 == 1 }}
	found, err = investigate.Investigate(t.Context(), d.Maker, seldom.submit, cases[at], cause, nil)
	require.NoError(t, err)
	require.Equal(t, 25, found.Times)
	require.Equal(t, 9, found.Odd)

	ctx, stop := context.WithCancel(t.Context())
	stopping := &site{t: t, d: d, takes: 20, stores: 20, oddAbout: cause, oddNow: func(asked int) bool {
		if asked == 3 {
			stop()
		}
		return true
	}}
	found, err = investigate.Investigate(ctx, d.Maker, stopping.submit, cases[at], cause, nil)
	require.NoError(t, err)
	require.True(t, found.Stopped, "what is known by then is told")
	require.Equal(t, 2, found.Times)
}
