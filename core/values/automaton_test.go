package values_test

import (
	"strings"
	"testing"

	"oddtick/core/values"
	"oddtick/internal/ecmajudge"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// patterns draws patterns over a small alphabet, deep enough to meet every construct.
func patterns(depth int) *rapid.Generator[string] {
	leaf := rapid.SampledFrom([]string{"a", "b", "é", "7", `\d`, `\w`, `\s`, ".", "[ab]", "[^a]", `[\w--a]`, `[\p{L}&&[a-z]]`, `[a-c7]`, `\p{Lu}`, `\.`, `\-`, "^", "$", `\b`, `\B`, "🌱", `\u{61}`, `[\q{ab|c}]`})
	if depth == 0 {
		return leaf
	}
	sub := rapid.Deferred(func() *rapid.Generator[string] { return patterns(depth - 1) })
	group := rapid.Custom(func(t *rapid.T) string {
		return rapid.SampledFrom([]string{"(", "(?:", "(?<n>"}).Draw(t, "open") + sub.Draw(t, "in") + ")"
	})
	return rapid.OneOf(leaf,
		rapid.Custom(func(t *rapid.T) string { return sub.Draw(t, "x") + sub.Draw(t, "y") }),
		rapid.Custom(func(t *rapid.T) string { return "(?:" + sub.Draw(t, "x") + "|" + sub.Draw(t, "y") + ")" }),
		rapid.Custom(func(t *rapid.T) string {
			return "(?:" + sub.Draw(t, "x") + ")" + rapid.SampledFrom([]string{"*", "+", "?", "{2}", "{1,3}", "{2,}", "*?"}).Draw(t, "q")
		}),
		rapid.Custom(func(t *rapid.T) string {
			return rapid.SampledFrom([]string{"(?=", "(?!"}).Draw(t, "look") + sub.Draw(t, "x") + ")" + sub.Draw(t, "y")
		}),
		group,
	)
}

func texts() *rapid.Generator[string] {
	return rapid.StringOfN(rapid.SampledFrom([]rune("abcé7 .-AX🌱_\n")), 0, 7, -1)
}

func TestAutomatonAgreesWithIndependentMatcher(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	rapid.Check(t, func(t *rapid.T) {
		pattern := patterns(3).Draw(t, "pattern")
		list := rapid.SliceOfN(texts(), 12, 12).Draw(t, "values")
		want, valid := j.Matches(pattern, "v", list)
		auto, err := values.Pattern(pattern, values.DialectV)
		if !valid {
			require.Error(t, err)
			return
		}
		require.NoError(t, err)
		for i, v := range list {
			require.Equal(t, want[i], auto.Matches(v), "%q against %q", pattern, v)
			require.Equal(t, !want[i], auto.Not().Matches(v))
		}
	})
}

// TestWhatIsTheSameHasAsManyStates: the least automaton of a set is one, however the set is said. It has as many states as there are
// sets of endings, which some patterns' sets are known for; one of them is empty where something can be wrong, be it half of a character.
func TestWhatIsTheSameHasAsManyStates(t *testing.T) {
	t.Parallel()
	auto := func(t require.TestingT, pattern string) *values.Automaton {
		a, err := values.Pattern(pattern, values.DialectV)
		require.NoError(t, err, pattern)
		return a
	}
	for pattern, states := range map[string]int{"[^]*": 2, "[]": 1, "a": 3, "a{3}": 5, "a{0,40}": 42, "(?:ab)*": 3, "(?:a|b)*a(?:a|b){3}": 17, "(?=[^]*a)(?=[^]*b)[^]*": 5} {
		require.Equal(t, states, auto(t, pattern).States(), pattern)
	}
	rapid.Check(t, func(t *rapid.T) {
		unnamed := strings.NewReplacer("(?<n>", "(?:")
		p, q := unnamed.Replace(patterns(2).Draw(t, "p")), unnamed.Replace(patterns(2).Draw(t, "q"))
		a, err := values.Pattern(p, values.DialectV)
		b, other := values.Pattern(q, values.DialectV)
		if err != nil || other != nil {
			return
		}
		both, err := a.And(b)
		require.NoError(t, err)
		for _, same := range []string{"(?:" + p + "){1}", "(?:" + p + "|" + p + ")", "(?:" + p + ")(?:)"} {
			require.Equal(t, a.States(), auto(t, same).States(), same)
		}
		again, err := b.And(a)
		require.NoError(t, err)
		require.Equal(t, both.States(), again.States())
		again, err = both.And(a)
		require.NoError(t, err)
		require.Equal(t, both.States(), again.States())
	})
}

// The engine's own error must not become ours.
func TestTheIndependentMatcherIsRightAboutNegatedClasses(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	for pattern, want := range map[string][]bool{
		`(?:a[\w--a]|(?:a[^a])+)`: {false, true, true},
		`(?:a[^a])+`:              {false, true, true},
		`(?:[^\]\[])+`:            {true, true, true},
		`(?:[^[ab]])+`:            {false, false, false},
		`(?:\[^a)+`:               {false, false, false},
	} {
		got, valid := j.Matches(pattern, "v", []string{"aa", "ab", "abac"})
		require.True(t, valid)
		require.Equal(t, want, got, pattern)
	}
}

func TestSyntaxIsJudgedAsJavaScriptDoes(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	for _, c := range []struct{ pattern, flag string }{
		{`[A-Za-z0-9-]+`, "v"},
		{`[A-Za-z0-9-]+`, "u"},
		{`[A-Za-z0-9\-]+`, "v"},
		{`[(]`, "v"},
		{`[(]`, "u"},
		{`a{2,1}`, "v"},
		{`a{`, "v"},
		{`]`, "v"},
		{`(`, "v"},
		{`)`, "v"},
		{`\q`, "v"},
		{`\-`, "v"},
		{`[\-]`, "v"},
		{`[\&]`, "u"},
		{`[a&&&b]`, "v"},
		{`[a&&b--c]`, "v"},
		{`[ab&&b]`, "v"},
		{`[[ab]&&b]`, "v"},
		{`[a--b]`, "v"},
		{`[z-a]`, "v"},
		{`[\d-x]`, "v"},
		{`\u{110000}`, "v"},
		{`\ud83c\udf31`, "v"},
		{`\p{Nonsense}`, "v"},
		{`\p{Script=Greek}+`, "v"},
		{`\p{Lowercase_Letter}`, "v"},
		{`^*`, "v"},
		{`(?=a)*`, "v"},
		{`a**`, "v"},
		{`|a`, "v"},
		{`[]`, "v"},
		{`[^]`, "v"},
		{`\cA`, "v"},
		{`\x41`, "v"},
		{`[^\q{ab}]`, "v"},
		{`\01`, "v"},
		{`{`, "v"},
		{`[!!]`, "v"},
		{`[/]`, "v"},
		{`/`, "v"},
	} {
		probe := []string{"", "a", "b", "-", "A", "(", "&", "x", "ab", "🌱", "αβ", "/", "\x01"}
		want, valid := j.Matches(c.pattern, c.flag, probe)
		auto, err := values.Pattern(c.pattern, values.Dialect(c.flag))
		require.Equal(t, valid, err == nil, "%s with %s: %v", c.pattern, c.flag, err)
		for i, v := range probe {
			if valid {
				require.Equal(t, want[i], auto.Matches(v), "%s with %s on %q", c.pattern, c.flag, v)
			}
		}
	}
}

func TestRefusalsNamePlaceAndRemedy(t *testing.T) {
	t.Parallel()
	for pattern, says := range map[string]string{
		`[A-Za-z0-9-]+`: `pattern "[A-Za-z0-9-]+", character 11: a hyphen in a class must be escaped`,
		`(a)\1`:         "character 4: a back-reference cannot be computed; say that two parts agree as a rule across fields",
		`(?<=a)b`:       "look-behind cannot be computed",
		`(?<!a)b`:       "look-behind cannot be computed",
		`a{20000}`:      "a repetition over 10000 is too large",
		`[ab`:           "character 1: this [ is never closed",
	} {
		_, err := values.Pattern(pattern, values.DialectV)
		require.ErrorContains(t, err, says, pattern)
	}
}

func TestTooManyStatesIsSaid(t *testing.T) {
	t.Parallel()
	auto, err := values.Pattern(`(a|b)*a(a|b){12}`, values.DialectV)
	require.NoError(t, err)
	require.Equal(t, 8193, auto.States())
	_, err = values.Pattern(`(a|b)*a(a|b){18}`, values.DialectV)
	var large *values.TooLargeError
	require.ErrorAs(t, err, &large)
	require.ErrorContains(t, err, "more than 20000 states")
}

func TestNotUTF8IsNeverAMember(t *testing.T) {
	t.Parallel()
	require.False(t, values.AnyString().Matches("a\xffb"))
	require.True(t, values.AnyString().Matches("a\uFFFDb"))
}

func FuzzPattern(f *testing.F) {
	for _, s := range []string{`(?=.*[A-Za-z])(?=.*[0-9]).*`, `[\p{L}--[a-z]]{2,4}`, `\b(?!x)y?$`, `[^\-]|\u{1F331}`} {
		f.Add(s, "a1")
	}
	f.Fuzz(func(t *testing.T, pattern, value string) {
		if len(pattern) > 40 {
			return
		}
		auto, err := values.Pattern(pattern, values.DialectV)
		if err == nil && auto.Matches(value) == auto.Not().Matches(value) && auto.Matches(value) {
			t.Fatal("a value is both a member and not")
		}
	})
}
