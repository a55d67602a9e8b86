package engine_test

import (
	"context"
	"testing"
	"time"

	"oddtick/core/judge"
	"oddtick/core/report"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/engine/manual"
	"oddtick/engine/target"

	"github.com/stretchr/testify/require"
)

// TestAPersonMakesACase: the site is not contacted, what the person says stands beside what the database shows.
func TestAPersonMakesACase(t *testing.T) {
	t.Parallel()
	ctx := context.Background()
	address, dsn := ostlewick(t, "email-case-kept")
	person, cases := opened(t, address, dsn, joinText(t), nil) // whom the person's browser is here
	d := designerOf(t, joinText(t))
	var handable []*testcase.Case
	byID := map[string]*testcase.Case{}
	for _, c := range cases {
		if manual.Handable(c) {
			handable = append(handable, c)
			byID[c.ID] = c
		}
	}
	require.Greater(t, len(handable), 80)
	require.Less(t, len(handable), len(cases), "what needs a second step or a forged request is not for people")
	run, err := target.Open(ctx, target.Config{
		Site: &spec.Site{Address: "http://127.0.0.1:1", Databases: []spec.Database{{ID: "main", DSN: dsn}}}, Designer: d, Cases: handable, Number: time.Now().UnixNano(), Options: target.Options{ByHand: true},
	})
	require.NoError(t, err, "the site need not be reachable")
	defer run.Close()

	make := func(id string, seen manual.Seen, submitted bool) *report.Result {
		h, err := manual.Hand(ctx, run, byID[id], 1)
		require.NoError(t, err)
		require.Empty(t, h.Why)
		require.NotEmpty(t, h.Reason)
		if submitted {
			values := manual.Values{}
			for _, v := range h.Values {
				switch {
				case v.Kind == spec.Checkbox && v.Checked:
					values[v.Field] = []string{"yes"}
				case v.Field == "heard" && v.Value == "From a neighbour":
					values[v.Field] = []string{"nb"}
				case v.Kind != spec.Checkbox:
					values[v.Field] = []string{v.Value}
				}
			}
			_, _, err := manual.Try(ctx, person, values, manual.Way{Driver: submission.HTTP})
			require.NoError(t, err)
		}
		r, err := manual.Observe(ctx, run, byID[id], h, seen)
		require.NoError(t, err)
		require.Equal(t, "hand", r.By)
		return r
	}
	good := make("join/form.usual/http", manual.Seen{Verdict: judge.AsExpected}, true)
	require.Equal(t, judge.AsExpected, good.Verdict, good.Headline)
	require.Equal(t, judge.AsExpected, good.Checks[4], "the row is compared")
	cut := make("join/email.lower.other/http", manual.Seen{Verdict: judge.AsExpected}, true)
	require.Equal(t, judge.Odd, cut.Verdict, "the row tells what the person did not see")
	require.Contains(t, cut.Headline, "stored with other capitals")
	none := make("join/form.usual/http", manual.Seen{Verdict: judge.AsExpected}, false)
	require.Equal(t, judge.Odd, none.Verdict)
	require.Contains(t, none.Headline, "no row")
	odd := make("join/username.pattern.miss.space/http", manual.Seen{Verdict: judge.Odd, Note: "nothing is said", Picture: []byte{0xFF, 0xD8}}, false)
	require.EqualValues(t, "Judged odd by hand: nothing is said", odd.Headline)
	require.Equal(t, []byte{0xFF, 0xD8}, odd.Pictures["1"])
	skipped := make("join/username.pattern.miss.space/http", manual.Seen{Verdict: judge.NotObserved, Note: "the page was down"}, false)
	require.Equal(t, judge.NotObserved, skipped.Verdict)
}
