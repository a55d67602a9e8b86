package values_test

import (
	"testing"
	"unicode"

	"oddtick/core/values"
	"oddtick/internal/ecmajudge"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func runeSets() *rapid.Generator[values.Runes] {
	return rapid.Custom(func(t *rapid.T) values.Runes {
		list := rapid.SliceOfN(rapid.RuneFrom([]rune("abcdefgàé\u0000\uFFFD🌱\U0010FFFF\uD7FF\uE000")), 0, 8).Draw(t, "members")
		set := values.RunesOf(list...)
		if rapid.Bool().Draw(t, "negate") {
			return set.Not()
		}
		return set
	})
}

func TestSetOperationsAgreeWithMembership(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		a, b := runeSets().Draw(t, "a"), runeSets().Draw(t, "b")
		for _, r := range "abcdefghàéí\u0000\uFFFD🌱🌲\U0010FFFF\uD7FF\uE000" {
			require.Equal(t, a.Has(r) || b.Has(r), a.Or(b).Has(r))
			require.Equal(t, a.Has(r) && b.Has(r), a.And(b).Has(r))
			require.Equal(t, !a.Has(r), a.Not().Has(r))
		}
		require.ElementsMatch(t, a, a.Not().Not())
		require.Empty(t, a.And(a.Not()))
		require.Equal(t, values.AnyRune(), a.Or(a.Not()))
	})
}

func TestSurrogatesAreNoMembers(t *testing.T) {
	t.Parallel()
	require.False(t, values.AnyRune().Has(0xD800))
	require.False(t, values.RunesOf('a').Not().Has(0xDFFF))
	set, err := values.ClassRunes(`[\u{D000}-\u{E010}]`)
	require.NoError(t, err)
	require.False(t, set.Has(0xDABC))
	require.True(t, set.Has(0xE000))
}

func TestClassRunes(t *testing.T) {
	t.Parallel()
	for class, table := range map[string]*unicode.RangeTable{`\p{Lu}`: unicode.Lu, `\p{Letter}`: unicode.L, `\p{Script=Greek}`: unicode.Greek, `\p{sc=Han}`: unicode.Han, `\p{gc=Nd}`: unicode.Nd, `\p{White_Space}`: unicode.White_Space, `\p{P}`: unicode.P} {
		set, err := values.ClassRunes(class)
		require.NoError(t, err, class)
		for r := rune(0); r < 0x3100; r++ {
			require.Equal(t, unicode.Is(table, r), set.Has(r), "%s on %U", class, r)
		}
	}
	for _, bad := range []string{"ab", "a|b", "a*", "", `\p{None}`, "("} {
		_, err := values.ClassRunes(bad)
		require.Error(t, err, bad)
	}
}

func TestIntersectionsAndComplements(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	rapid.Check(t, func(t *rapid.T) {
		p, q := patterns(2).Draw(t, "p"), patterns(2).Draw(t, "q")
		a, errA := values.Pattern(p, values.DialectV)
		b, errB := values.Pattern(q, values.DialectV)
		if errA != nil || errB != nil {
			t.Skip("not patterns")
		}
		both, err := a.And(b)
		require.NoError(t, err)
		neither, err := a.Not().And(b.Not())
		require.NoError(t, err)
		list := rapid.SliceOfN(texts(), 10, 10).Draw(t, "values")
		inA, _ := j.Matches(p, "v", list)
		inB, _ := j.Matches(q, "v", list)
		for i, v := range list {
			require.Equal(t, inA[i] && inB[i], both.Matches(v))
			require.Equal(t, !inA[i] && !inB[i], neither.Matches(v))
		}
		if both.Empty() {
			for i := range list {
				require.False(t, inA[i] && inB[i], "said to be empty")
			}
		} else {
			v, ok := values.NewSet(both).Member(values.Want{Length: -1})
			require.True(t, ok, "not empty, but no member was found")
			got, _ := j.Matches(p, "v", []string{v})
			require.True(t, got[0])
		}
	})
}

func TestNearestMissesAreOneEditFromAnyMember(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		auto, err := values.Pattern(patterns(2).Draw(t, "pattern"), values.DialectV)
		if err != nil {
			t.Skip("not a pattern")
		}
		member, ok := values.NewSet(auto).Member(values.Want{Length: -1, Hint: "moss"})
		if !ok {
			t.Skip("nothing matches")
		}
		roles := map[string]bool{}
		for m := range values.NearestMisses(member, func(v string) bool { return !auto.Matches(v) }) {
			require.False(t, auto.Matches(m.Value))
			require.Equal(t, 1, editDistance(member, m.Value))
			require.False(t, roles[m.Role], "%s comes twice", m.Role)
			require.NotEmpty(t, m.Edit)
			roles[m.Role] = true
		}
	})
}

func TestTokensAndSeeds(t *testing.T) {
	t.Parallel()
	seen := map[string]bool{}
	for i := range uint64(2000) {
		token := values.Token(values.Seed(i, "a", "b"), 7)
		require.Regexp(t, `^[b-z][b-z2-9]{6}$`, token)
		require.False(t, seen[token])
		seen[token] = true
	}
	require.NotEqual(t, values.Seed(1, "ab", "c"), values.Seed(1, "a", "bc"), "the parts are told apart")
	require.Equal(t, values.Seed(7, "x"), values.Seed(7, "x"))
}

func TestUnitsOfLength(t *testing.T) {
	t.Parallel()
	const flag = "a🌱é🇬🇧"
	for unit, want := range map[values.Unit]int{values.Characters: 5, values.UTF16: 8, values.Bytes: 15, values.Graphemes: 4} {
		require.Equal(t, want, unit.Length(flag), unit)
	}
	limit := values.Limit{Unit: values.Bytes, Min: 2, Max: 4}
	for v, want := range map[string]bool{"a": false, "ab": true, "éé": true, "ééa": false} {
		require.Equal(t, want, limit.Admits(v), v)
	}
	require.True(t, values.Limit{Unit: values.Characters, Max: -1}.Admits("any length"))
	v, ok := values.NewSet(values.AnyString(), values.Limit{Unit: values.Graphemes, Min: 3, Max: 3}).Member(values.Want{Length: -1})
	require.True(t, ok)
	require.Equal(t, 3, values.Graphemes.Length(v))
}

func TestMemberOfSeveralLimits(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		chars := rapid.IntRange(0, 12).Draw(t, "characters")
		bytes := rapid.IntRange(0, 30).Draw(t, "bytes")
		set := values.NewSet(values.AnyString(), values.Limit{Unit: values.Characters, Min: chars, Max: chars}, values.Limit{Unit: values.Bytes, Min: bytes, Max: bytes})
		v, ok := set.Member(values.Want{Length: -1, Seed: rapid.Uint64().Draw(t, "seed")})
		require.Equal(t, bytes >= chars && bytes <= 4*chars, ok, "%d characters of %d bytes", chars, bytes)
		if ok {
			require.True(t, set.Has(v))
		}
	})
}
