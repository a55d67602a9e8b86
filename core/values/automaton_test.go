package values_test

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"os/exec"
	"sync"
	"testing"

	"oddtick/core/values"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// judge is the independent matcher: the RegExp of a JavaScript engine, with the v or u flag, on whole values.
type judge struct {
	mu  sync.Mutex
	in  io.Writer
	out *bufio.Reader
}

const judgeScript = `
const lines = require('readline').createInterface({input: process.stdin});
lines.on('line', line => {
  const {pattern, flag, values} = JSON.parse(line);
  let answer;
  try { const re = new RegExp('^(?:' + pattern + ')$', flag); answer = {ok: true, matches: values.map(v => re.test(v))}; }
  catch (e) { answer = {ok: false}; }
  process.stdout.write(JSON.stringify(answer) + '\n');
});`

func newJudge(t *testing.T) *judge {
	cmd := exec.Command("node", "-e", judgeScript)
	in, err := cmd.StdinPipe()
	require.NoError(t, err)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start(), "the independent matcher needs node")
	t.Cleanup(func() {
		in.Close()
		_ = cmd.Wait()
	})
	return &judge{in: in, out: bufio.NewReaderSize(out, 1<<20)}
}

func (j *judge) matches(pattern, flag string, list []string) (matches []bool, valid bool) {
	j.mu.Lock()
	defer j.mu.Unlock()
	line, err := json.Marshal(map[string]any{"pattern": pattern, "flag": flag, "values": list})
	if err != nil {
		panic(err)
	}
	if _, err := fmt.Fprintf(j.in, "%s\n", line); err != nil {
		panic(err)
	}
	answer, err := j.out.ReadBytes('\n')
	if err != nil {
		panic(err)
	}
	var a struct {
		OK      bool
		Matches []bool
	}
	if err := json.Unmarshal(answer, &a); err != nil {
		panic(err)
	}
	return a.Matches, a.OK
}

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
	j := newJudge(t)
	rapid.Check(t, func(t *rapid.T) {
		pattern := patterns(3).Draw(t, "pattern")
		list := rapid.SliceOfN(texts(), 12, 12).Draw(t, "values")
		want, valid := j.matches(pattern, "v", list)
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

func TestSyntaxIsJudgedAsJavaScriptDoes(t *testing.T) {
	t.Parallel()
	j := newJudge(t)
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
		want, valid := j.matches(c.pattern, c.flag, probe)
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
