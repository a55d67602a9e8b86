package engine_test

import (
	"os"
	"strconv"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
)

func together(c *testcase.Case) bool { return strings.HasSuffix(c.ID, ".together/http") }

// TestARaceIsFound, as often as it is looked for, and never where the table has its unique index. ODDTICK_RACES says how often each
// is tried.
func TestARaceIsFound(t *testing.T) {
	t.Parallel()
	times := 3
	if n, err := strconv.Atoi(os.Getenv("ODDTICK_RACES")); err == nil {
		times = n
	}
	racing, racingDSN := ostlewick(t, "username-race")
	sound, soundDSN := ostlewick(t)
	for range times {
		r := runSome(t, exampleText(t, "join"), racing, racingDSN, testcase.Standard, together)["join/username.unique.together/http"]
		require.Equal(t, judge.Odd, r.Verdict)
		require.Contains(t, r.Headline, "accepted more than once when submitted at the same moment")
		rows := 0
		for _, s := range r.Steps {
			rows += len(s.Observation.Changes)
		}
		require.GreaterOrEqual(t, rows, 2, "each row stands at the submission that wrote it")
	}
	for range 4 * times {
		results := runSome(t, exampleText(t, "join"), sound, soundDSN, testcase.Standard, together)
		require.Len(t, results, 3)
		for id, r := range results {
			require.Equal(t, judge.AsExpected, r.Verdict, "%s: %v", id, oddOnes(results))
			require.Equal(t, 6, r.Race.Submissions)
			require.GreaterOrEqual(t, r.Race.Rounds, 3)
			require.Positive(t, r.Race.Narrowest)
		}
	}
}
