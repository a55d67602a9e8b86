package promise_test

import (
	"testing"

	"oddtick/core/spec"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/require"
)

func TestEveryKindHasAName(t *testing.T) {
	t.Parallel()
	for _, k := range spec.Kinds {
		require.NotEmpty(t, promise.Kind(k), k)
	}
	for _, k := range spec.RuleKind("").Values() {
		require.NotEmpty(t, promise.RuleKind(spec.RuleKind(k)), k)
	}
}
