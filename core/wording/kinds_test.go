package wording

import (
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestEachKindOfRuleHasWordsOfItsOwn, but files, of which only the label says which.
func TestEachKindOfRuleHasWordsOfItsOwn(t *testing.T) {
	t.Parallel()
	for _, kind := range spec.RuleKind("").Values() {
		switch k := spec.RuleKind(kind); k {
		case spec.RuleLength:
			require.NotEmpty(t, broken[tooShort])
			require.NotEmpty(t, broken[tooLong])
		case spec.RuleFile, spec.RuleMatchesSecret:
		default:
			require.NotEmpty(t, broken[k], kind)
		}
	}
}
