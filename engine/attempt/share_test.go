package attempt

import (
	"testing"

	"oddtick/core/observation"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// TestRowsAreSharedOut to the submissions that wrote them: by the values that not all of them sent, and a row of another table by the key
// it holds.
func TestRowsAreSharedOut(t *testing.T) {
	t.Parallel()
	sent := func(name string) *released {
		return &released{sent: &submission.Submission{Pairs: []submission.Pair{{Name: "name", Value: name}, {Name: "mail", Value: "same@bed.test"}, {Name: "services[]", Value: "water"}}}, step: &observation.Step{}}
	}
	row := func(table, key string, values ...string) observation.Change {
		c := observation.Change{Table: table, Key: key, Kind: observation.Inserted}
		for i, v := range values {
			c.After = append(c.After, observation.Cell{Column: string(rune('a' + i)), Value: v})
		}
		return c
	}
	keys := func(r *released) (out []string) {
		for _, c := range r.step.Changes {
			out = append(out, c.Table+" "+c.Key)
		}
		return out
	}
	first, second := sent("heron"), sent("moss")
	share([]observation.Change{row("services", "31", "8", "water"), row("moorings", "8", "moss", "same@bed.test"), row("moorings", "7", "heron", "same@bed.test"), row("services", "30", "7", "water")}, []*released{first, second}, func(*released) bool { return false })
	require.Equal(t, []string{"moorings 7", "services 30"}, keys(first))
	require.Equal(t, []string{"moorings 8", "services 31"}, keys(second))

	first, second = sent("same"), sent("same")
	share([]observation.Change{row("moorings", "7", "same", "same@bed.test"), row("moorings", "8", "same", "same@bed.test"), row("log", "1", "none")}, []*released{first, second}, func(*released) bool { return false })
	require.Equal(t, []string{"moorings 7", "log 1"}, keys(first), "what belongs to none stands at the first")
	require.Equal(t, []string{"moorings 8"}, keys(second), "one each, where nothing tells them apart")

	first, second = sent("same"), sent("same")
	share([]observation.Change{row("moorings", "7", "same", "same@bed.test")}, []*released{first, second}, func(one *released) bool { return one == second })
	require.Empty(t, keys(first))
	require.Equal(t, []string{"moorings 7"}, keys(second), "the one row is of the one that was accepted")
}
