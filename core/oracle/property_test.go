package oracle_test

import (
	"fmt"
	"testing"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// TestAnExpectationIsAlwaysOneOrTheOther: on any input either rules fail and nothing is stored, or none fails and what is promised is.
func TestAnExpectationIsAlwaysOneOrTheOther(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("f.yaml", []byte(wishes))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		sub := &submission.Submission{Driver: submission.HTTP}
		for range rapid.IntRange(0, 8).Draw(t, "pairs") {
			sub.Pairs = append(sub.Pairs, submission.Pair{
				Name:  rapid.SampledFrom([]string{"bees", "hive", "area", "extras", "mail", "surplus"}).Draw(t, "name"),
				Value: rapid.SampledFrom([]string{"", " ", "yes", "near", "far", "oil", "gloves", "rope", "12345", "a@b.test", "\x00", "é"}).Draw(t, "value"),
			})
		}
		w := &oracle.World{Now: time.Now(), Driver: submission.HTTP, LookupResults: map[string]bool{}}
		for _, l := range oracle.Needs(p, sub) {
			require.NotEmpty(t, l.Value, "a blank value needs no looking up")
			w.LookupResults[l.Rule] = rapid.Bool().Draw(t, l.Rule)
		}
		e := oracle.Expect(p, w, sub)
		switch e.Outcome {
		case oracle.Accepted:
			require.Empty(t, e.Failing)
			require.Empty(t, e.Messages)
			require.NotEmpty(t, e.Rows)
		case oracle.RejectedByServer:
			require.NotEmpty(t, e.Failing)
			require.Empty(t, e.Rows)
			require.Empty(t, e.Reply)
			require.Len(t, e.Messages, len(e.Failing), "every failing rule speaks")
		default:
			t.Fatalf("%s is neither", e.Outcome)
		}
		require.Equal(t, fmt.Sprint(*e), fmt.Sprint(*oracle.Expect(p, w, sub)), "the same every time")
		if _, ticked := sub.Value("bees"); !ticked {
			for _, r := range e.Failing {
				require.NotContains(t, r.Rule, "hive.", "a field whose condition is false fails no rule")
			}
		}
	})
}
