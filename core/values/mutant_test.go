package values_test

import (
	"testing"

	"oddtick/core/values"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestMutantsOfAMembershipNumber(t *testing.T) {
	list, err := values.Mutants(`OS-[0-9]{4}`, values.DialectV)
	require.NoError(t, err)
	accepts := map[string]values.Mistake{}
	for _, m := range list {
		accepts[m.Role] = m.Mistake
	}
	for role, value := range map[string]string{
		"line_end_after": "OS-1234\n", "more_before": "xOS-1234", "more_after": "OS-12345", "ignoring_case": "os-1234", "fewer": "OS-123", "more": "OS-12345", "optional": "S-1234",
	} {
		assert.Contains(t, accepts, role)
		for _, m := range list {
			if m.Role == role {
				assert.True(t, m.Auto.Matches(value), "%s accepts %q", role, value)
			}
		}
	}
}

// Each mutant tells itself apart from the pattern by some value, and each role is used once.
func TestMutantsDiffer(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		source := patterns(2).Draw(t, "pattern")
		original, err := values.Pattern(source, values.DialectV)
		if err != nil {
			t.Skip("not a pattern to compute with")
		}
		list, err := values.Mutants(source, values.DialectV)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, m := range list {
			require.False(t, seen[m.Role], m.Role)
			seen[m.Role] = true
			more, err := m.Auto.And(original.Not())
			require.NoError(t, err)
			less, err := original.And(m.Auto.Not())
			require.NoError(t, err)
			v, ok := values.NewSet(more).Member(values.Want{Length: -1})
			if !ok {
				v, ok = values.NewSet(less).Member(values.Want{Length: -1})
			}
			require.True(t, ok)
			require.NotEqual(t, original.Matches(v), m.Auto.Matches(v), "%s of %s with %q", m.Role, source, v)
		}
	})
}
