package observation_test

import (
	"encoding/json"
	"testing"

	"oddtick/core/observation"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestAttackSecretsInWhatIsKept(t *testing.T) {
	t.Parallel()
	type kept struct {
		Took  int
		Texts []string
	}
	mask := func(secret string, texts ...string) []string {
		text, err := json.Marshal(kept{4242, texts})
		require.NoError(t, err)
		var back kept
		require.NoError(t, json.Unmarshal(observation.Mask(text, []string{"", "abc", secret}), &back), "it is JSON still")
		require.Equal(t, 4242, back.Took, "numbers stay")
		return back.Texts
	}
	require.Equal(t, []string{"pw=••••••••••••&x=1", "••••••••••••", "abc"}, mask("Maple plot&1", "pw=Maple+plot%261&x=1", "Maple plot&1", "abc"))
	require.Equal(t, []string{`<input value="••••••••">`, "••••••••"}, mask(`a"<b>\c&`, `<input value="a&#34;&lt;b&gt;\c&amp;">`, `a"<b>\c&`))
	require.Equal(t, []string{"•••• and 42"}, mask("4242", "4242 and 42"))
	rapid.Check(t, func(t *rapid.T) {
		secret := rapid.StringN(4, 30, -1).Filter(func(s string) bool { return len(s) >= 4 }).Draw(t, "secret")
		texts := rapid.SliceOf(rapid.String()).Draw(t, "texts")
		text, err := json.Marshal(append(texts, "before"+secret+"after"))
		require.NoError(t, err)
		var back []string
		require.NoError(t, json.Unmarshal(observation.Mask(text, []string{secret}), &back))
		require.Len(t, back, len(texts)+1)
		require.NotContains(t, back[len(texts)], secret)
	})
}
