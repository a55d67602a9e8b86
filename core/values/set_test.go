package values_test

import (
	"math/big"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"oddtick/core/values"
	"oddtick/internal/ecmajudge"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func pattern(t require.TestingT, source string) *values.Automaton {
	auto, err := values.Pattern(source, values.DialectV)
	require.NoError(t, err)
	return auto
}

func TestMembersBelongAndHaveTheLengthAskedFor(t *testing.T) {
	t.Parallel()
	j := ecmajudge.New(t)
	rapid.Check(t, func(t *rapid.T) {
		source := patterns(2).Draw(t, "pattern")
		auto, err := values.Pattern(source, values.DialectV)
		if err != nil {
			t.Skip("not a pattern")
		}
		unit := rapid.SampledFrom([]values.Unit{values.Characters, values.Bytes, values.UTF16}).Draw(t, "unit")
		n := rapid.IntRange(0, 9).Draw(t, "length")
		set := values.NewSet(auto, values.Limit{Unit: values.Characters, Min: 0, Max: 6})
		v, ok := set.Member(values.Want{Unit: unit, Length: n, Hint: "moss", Seed: rapid.Uint64().Draw(t, "seed")})
		if !ok {
			// brute force over the alphabet of the patterns' generator may not contradict
			for _, probe := range rapid.SliceOfN(texts(), 20, 20).Draw(t, "probes") {
				if unit.Length(probe) == n && set.Has(probe) {
					t.Fatalf("said that no member of length %d exists, but %q is one", n, probe)
				}
			}
			return
		}
		require.Equal(t, n, unit.Length(v))
		require.True(t, set.Has(v))
		require.LessOrEqual(t, utf8.RuneCountInString(v), 6)
		want, _ := j.Matches(source, "v", []string{v})
		require.True(t, want[0], "the independent matcher refuses %q for %q", v, source)
	})
}

func TestMembersLookAsHinted(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		pattern string
		want    values.Want
		is      string
	}{
		{`[A-Za-z0-9\-]+`, values.Want{Length: -1, Hint: "maple-row"}, "maple-row"},
		{`[A-Za-z0-9\-]+`, values.Want{Unit: values.Characters, Length: 3, Hint: "maple-row"}, "map"},
		{`OS-[0-9]{4}`, values.Want{Length: -1, Hint: "4821"}, "OS-4821"},
		{`(?=.*[A-Z])(?=.*[0-9]).{4}`, values.Want{Length: -1, Hint: "ab"}, ""},
	} {
		set := values.NewSet(pattern(t, c.pattern))
		v, ok := set.Member(c.want)
		require.True(t, ok, c.pattern)
		require.True(t, set.Has(v))
		if c.is != "" {
			require.Equal(t, c.is, v)
		}
	}
}

func TestNewMembersDiffer(t *testing.T) {
	t.Parallel()
	set := values.NewSet(pattern(t, `OS-[0-9]{4}`))
	seen := map[string]bool{}
	for k := range 200 {
		v, ok := set.Member(values.Want{Length: -1, Seed: values.Seed(7, "k", strings.Repeat("x", k))})
		require.True(t, ok)
		seen[v] = true
	}
	require.Greater(t, len(seen), 180)
}

func TestNumbersBeginWithZeroOnlyWhenAskedFor(t *testing.T) {
	t.Parallel()
	set := values.NewSet(pattern(t, `OS-[0-9]{4}`))
	zeros := map[bool]int{}
	for seed := range uint64(300) {
		for _, may := range []bool{false, true} {
			v, ok := set.Member(values.Want{Length: -1, Seed: seed, LeadingZeros: may})
			require.True(t, ok)
			if v[3] == '0' {
				zeros[may]++
			}
		}
	}
	require.Zero(t, zeros[false])
	require.Greater(t, zeros[true], 10)
	v, ok := values.NewSet(pattern(t, `0[0-9]`)).Member(values.Want{Length: -1})
	require.True(t, ok, "where nothing else can stand, zero does: %q", v)
}

func TestLongAndTwoUnitMembers(t *testing.T) {
	t.Parallel()
	mail := pattern(t, `[a-z]+@([a-z]{1,60}\.)+test`)
	for _, n := range []int{8, 189, 190, 191, 5000} {
		v, ok := values.NewSet(mail).Member(values.Want{Unit: values.Characters, Length: n, Hint: "moss@bed.test"})
		require.True(t, ok)
		require.Len(t, v, n)
	}
	both := values.NewSet(values.AnyString(), values.Limit{Unit: values.Characters, Min: 0, Max: 72})
	v, ok := both.Member(values.Want{Unit: values.Bytes, Length: 73, Wide: true})
	require.True(t, ok)
	require.Equal(t, 73, len(v))
	require.LessOrEqual(t, utf8.RuneCountInString(v), 72)
	_, ok = values.NewSet(pattern(t, "[a-z]{3}")).Member(values.Want{Unit: values.Characters, Length: 4})
	require.False(t, ok)
}

func TestBoundsAgreeWithMembers(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		pattern string
		lo, hi  int
	}{{`[a-z]{3,20}`, 3, 20}, {`a*`, 0, -1}, {`(ab)+`, 2, -1}, {`OS-\d{4}`, 7, 7}, {`a|bcd`, 1, 3}, {`(?=.{2,4}$).*`, 2, 4}} {
		lo, hi, ok := values.NewSet(pattern(t, c.pattern)).Bounds(values.Characters)
		require.True(t, ok)
		require.Equal(t, [2]int{c.lo, c.hi}, [2]int{lo, hi}, c.pattern)
	}
	_, _, ok := values.NewSet(pattern(t, `[a-z]{3}`), values.Limit{Unit: values.Characters, Min: 5, Max: 9}).Bounds(values.Characters)
	require.False(t, ok)
}

func TestNearestMissesAreOneEditAway(t *testing.T) {
	t.Parallel()
	auto := pattern(t, `OS-[0-9]{4}`)
	misses := values.NearestMisses("OS-4821", func(v string) bool { return !auto.Matches(v) })
	var got []string
	for m := range misses {
		require.LessOrEqual(t, editDistance("OS-4821", m.Value), 1)
		require.False(t, auto.Matches(m.Value))
		got = append(got, m.Value)
	}
	require.Contains(t, got, "OS-482")
	require.Contains(t, got, "oS-4821")
	require.Contains(t, got, "OS4821")
	require.Contains(t, got, "OS- 821")
	for m := range misses {
		require.Equal(t, got[0], m.Value, "no further one is made than is asked for")
		break
	}
}

func editDistance(a, b string) int {
	x, y := []rune(a), []rune(b)
	row := make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		previous := row[0]
		row[0] = i + 1
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			previous, row[j+1] = row[j+1], min(row[j+1]+1, row[j]+1, previous+cost)
		}
	}
	return row[len(y)]
}

func TestDecimalsAreExact(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) (values.Decimal, *big.Rat) {
			text := rapid.StringMatching(`-?[0-9]{1,6}(\.[0-9]{1,5})?(e-?[0-3])?`).Draw(t, name)
			d, err := values.ParseDecimal(text)
			require.NoError(t, err)
			r, ok := new(big.Rat).SetString(text)
			require.True(t, ok)
			return d, r
		}
		a, x := draw("a")
		b, y := draw("b")
		require.Equal(t, x.Cmp(y), a.Cmp(b))
		sum, _ := new(big.Rat).SetString(a.Add(b).String())
		require.Zero(t, sum.Cmp(new(big.Rat).Add(x, y)))
		if y.Sign() != 0 {
			require.Equal(t, new(big.Rat).Quo(x, y).IsInt(), a.Fits(values.Whole(0), b))
		}
		back, err := values.ParseDecimal(a.String())
		require.NoError(t, err)
		require.Zero(t, a.Cmp(back))
		require.Equal(t, back.Scale(), a.Scale())
	})
	for _, bad := range []string{"", " 1", "1,5", "0x10", "Infinity", "--1", "."} {
		_, err := values.ParseDecimal(bad)
		require.Error(t, err, bad)
	}
}

func TestDateBounds(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ bound, today, want string }{
		{"today - 18 years", "2026-11-25", "2008-11-25"},
		{"today - 18 years", "2044-02-29", "2026-02-28"},
		{"today - 18 years + 1 day", "2026-11-25", "2008-11-26"},
		{"today", "2026-11-25", "2026-11-25"},
		{"today + 1 month", "2026-01-31", "2026-02-28"},
		{"today - 2 weeks", "2026-01-10", "2025-12-27"},
		{"2026-04-01", "2030-01-01", "2026-04-01"},
	} {
		b, err := values.ParseDateBound(c.bound)
		require.NoError(t, err)
		today, err := values.ParseDate(c.today)
		require.NoError(t, err)
		require.Equal(t, c.want, b.On(today).Format(values.DateLayout))
		require.Equal(t, 24*time.Hour, b.Shift(1).On(today).Sub(b.On(today)))
	}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[0-9]{3,4}-[0-9]{1,2}-[0-9]{2}`).Draw(t, "day")
		want, err := time.Parse("2006-01-02", text)
		got, errGot := values.ParseDate(text)
		require.Equal(t, err == nil && want.Year() > 0, errGot == nil, text)
		if errGot == nil {
			require.Equal(t, want, got)
		}
	})
	for _, bad := range []string{"yesterday", "2026-02-30", "today - years", "today 18"} {
		_, err := values.ParseDateBound(bad)
		require.ErrorContains(t, err, "write 2026-04-01, today, or today - 18 years", bad)
	}
}
