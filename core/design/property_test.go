package design_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

	"oddtick/core/design"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/internal/ecmajudge"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// pattern draws a pattern as forms have them.
func pattern(t *rapid.T, depth int) string {
	atom := func() string {
		return rapid.SampledFrom([]string{"a", "b", "[ab]", "[a-z]", "[0-9]", `[A-Za-z0-9\-]`, `\d`, "[^a]", "x", `\.`, "-", "é", `\p{L}`}).Draw(t, "atom")
	}
	if depth == 0 {
		return atom()
	}
	switch rapid.IntRange(0, 5).Draw(t, "kind") {
	case 0:
		return atom()
	case 1:
		return pattern(t, depth-1) + pattern(t, depth-1)
	case 2:
		return "(?:" + pattern(t, depth-1) + "|" + pattern(t, depth-1) + ")"
	case 3:
		return "(?=" + pattern(t, depth-1) + ".*)" + pattern(t, depth-1)
	}
	return "(?:" + pattern(t, depth-1) + ")" + rapid.SampledFrom([]string{"*", "+", "?", "{2}", "{1,3}", "{2,}"}).Draw(t, "times")
}

// lengthIn counts without our own counting.
func lengthIn(unit, v string) int {
	switch unit {
	case "bytes":
		return len(v)
	case "utf-16_units":
		return len(utf16.Encode([]rune(v)))
	}
	return len([]rune(v))
}

// Whatever the rules of a field, each case sends a value that breaks exactly the rules it says, by a judge of patterns and a count of
// lengths that are not ours.
func TestEveryValueIsInTheSetItClaims(t *testing.T) {
	t.Parallel()
	judge := ecmajudge.New(t)
	rapid.Check(t, func(t *rapid.T) {
		p := pattern(t, 3)
		unit := rapid.SampledFrom([]string{"characters", "bytes", "utf-16_units"}).Draw(t, "unit")
		lo := rapid.IntRange(0, 4).Draw(t, "min")
		hi := lo + rapid.IntRange(0, 12).Draw(t, "more")
		trims := rapid.Bool().Draw(t, "trims")
		sent := ""
		if trims {
			sent = "normalize: [trim], "
		}
		form := fmt.Sprintf("form: f\npage: /\nfields:\n  - {name: a, %srules: [{required: {}}, {length: {min: %d, max: %d, in: %s}}, {pattern: {is: '%s'}}]}\n", sent, lo, hi, unit, p)
		f, err := spec.ReadForm("f.yaml", []byte(form))
		require.NoError(t, err)
		ready, err := f.Prepare()
		if err != nil {
			t.Skip("too large a pattern")
		}
		d, err := design.New(ready, nil)
		if err != nil {
			t.Skip("too large a set")
		}
		set := d.Design(design.Plan{Depth: testcase.Thorough})
		run := rapid.Int64Range(1, 1<<40).Draw(t, "run")
		for _, c := range set.Cases {
			if c.Row != "a" || c.Last().Driver != submission.HTTP {
				continue
			}
			subs, _ := resolve(t, d, c, run, time.Now())
			v, present := subs[0].Value("a")
			if trims {
				v = strings.TrimSpace(v)
			}
			var broken []string
			if !present || v == "" {
				broken = append(broken, "a.required")
			} else {
				if n := lengthIn(unit, v); n < lo || n > hi {
					broken = append(broken, "a.length")
				}
				ok, valid := judge.Matches(p, "u", []string{v})
				if judge.Slow() {
					t.Skip("the judge backtracks too long")
				}
				if valid && !ok[0] {
					broken = append(broken, "a.pattern")
				}
			}
			require.Equal(t, c.Last().Breaks, broken, "%s with %q, pattern %s, %d to %d %s", c.ID, v, p, lo, hi, unit)
			if c.Technique != testcase.Random && !strings.Contains(c.ID, "blank") {
				require.LessOrEqual(t, len(broken), 1, c.ID)
			}
		}
	})
}

// Where no case breaks a rule alone, no value does: all over a small alphabet are tried.
func TestARuleThatIsNotBrokenAloneCannotBe(t *testing.T) {
	t.Parallel()
	var all []string
	for n, level := 0, []string{""}; n <= 6; n++ {
		all = append(all, level...)
		var next []string
		for _, v := range level {
			for _, r := range "ab.7" {
				next = append(next, v+string(r))
			}
		}
		level = next
	}
	rapid.Check(t, func(t *rapid.T) {
		lo := rapid.IntRange(0, 3).Draw(t, "min")
		hi := rapid.IntRange(max(1, lo), 5).Draw(t, "max")
		first, second := smallPattern(t, 2), smallPattern(t, 2)
		p := prepared(t, fmt.Sprintf("form: f\npage: /\nfields:\n  - {name: a, rules: [{length: {min: %d, max: %d}}, {pattern: {is: '%s'}}, {pattern: {id: also, is: '%s'}}]}\n", lo, hi, first, second))
		set := designer(t, p).Design(design.Plan{Depth: testcase.Thorough})
		for _, r := range p.Fields[0].Rules {
			covered := slices.ContainsFunc(set.Cases, func(c *testcase.Case) bool { return slices.Equal(c.Last().Breaks, []string{r.ID}) })
			if covered {
				continue
			}
			require.True(t, slices.ContainsFunc(set.Omitted, func(o testcase.Omission) bool { return strings.Contains(o.About, r.ID) }), "%s is neither broken nor told", r.ID)
			for _, v := range all {
				value := p.Fields[0].ValueOf(v, true)
				alone := v != "" && !r.Passes(&value, testcase.ReferenceDay)
				for _, other := range p.Fields[0].Rules {
					alone = alone && (other == r || other.Passes(&value, testcase.ReferenceDay))
				}
				require.False(t, alone, "%q breaks %s alone; patterns %s and %s, %d to %d", v, r.ID, first, second, lo, hi)
			}
		}
	})
}

// smallPattern draws one over a, b and what is neither.
func smallPattern(t *rapid.T, depth int) string {
	if depth == 0 || rapid.IntRange(0, 3).Draw(t, "kind") == 0 {
		return rapid.SampledFrom([]string{"a", "b", "[ab]", "[^a]", "."}).Draw(t, "atom")
	}
	switch rapid.IntRange(0, 2).Draw(t, "join") {
	case 0:
		return smallPattern(t, depth-1) + smallPattern(t, depth-1)
	case 1:
		return "(?:" + smallPattern(t, depth-1) + "|" + smallPattern(t, depth-1) + ")"
	}
	return "(?:" + smallPattern(t, depth-1) + ")" + rapid.SampledFrom([]string{"*", "+", "{2}", "{0,2}"}).Draw(t, "times")
}

// A value of a mutant tells it apart from the pattern.
func TestSyntaxCasesTellMutantsApart(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		source := pattern(t, 2)
		p := prepared(t, "form: f\npage: /\nfields:\n  - {name: a, rules: [{pattern: {is: '"+source+"'}}]}\n")
		d := designer(t, p)
		mutants, err := values.Mutants(source, values.DialectV)
		require.NoError(t, err)
		byRole := map[string]*values.Automaton{}
		for _, m := range mutants {
			byRole[m.Role] = m.Auto
		}
		original, err := values.Pattern(source, values.DialectV)
		require.NoError(t, err)
		run := rapid.Int64Range(1, 1<<40).Draw(t, "run")
		for _, c := range d.Design(design.Plan{Depth: testcase.Thorough}).Cases {
			role, ok := strings.CutPrefix(c.ID, "f/a.pattern.mutant.")
			if !ok || c.Last().Driver != submission.HTTP {
				continue
			}
			auto := byRole[strings.TrimSuffix(role, "/http")]
			require.NotNil(t, auto, c.ID)
			subs, _ := resolve(t, d, c, run, time.Now())
			v, _ := subs[0].Value("a")
			require.NotEqual(t, original.Matches(v), auto.Matches(v), "%s of %s with %q", c.ID, source, v)
		}
	})
}

func TestGuessesAreStillAboutWhatTheySay(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: f
page: /
fields:
  - {name: free, rules: [{length: {max: 60}}]}
  - {name: nick, rules: [{pattern: {is: '[a-z0-9]+'}}]}
  - {name: born, kind: date, rules: [{range: {max: 2020-01-01}}]}
  - {name: beds, kind: number, rules: [{range: {min: 1, max: 9}}]}
  - {name: lines, rules: [{pattern: {is: '.*[a-z].*'}}]}
`)
	set := designer(t, p).Design(design.Plan{Depth: testcase.Thorough})
	got := map[string]string{}
	for _, c := range set.Cases {
		if c.Technique == testcase.ErrorGuessing && strings.Contains(c.ID, ".guess.") {
			subs, _ := resolve(t, designer(t, p), c, 7, time.Now())
			v, _ := subs[0].Value(c.Row)
			got[strings.TrimSuffix(strings.TrimPrefix(c.ID, "f/"), "/http")] = v + " " + strings.Join(c.Last().Breaks, ",")
		}
	}
	assert.Contains(t, got["free.guess.script"], "<script>")
	assert.Contains(t, got["free.guess.family"], "👩‍🌾")
	assert.NotContains(t, got, "free.guess.nul", "no rule says what is to happen")
	assert.Contains(t, got["nick.guess.nul"], "\x00")
	assert.True(t, strings.HasSuffix(got["nick.guess.nul"], " nick.pattern"))
	assert.Equal(t, "2023-02-29 born.date", got["born.guess.no_leap_year"])
	assert.Equal(t, "1,5 beds.number", got["beds.guess.decimal_comma"])
	assert.Contains(t, got, "nick.guess.line_end")
	assert.NotContains(t, got, "lines.guess.line_end", "whether a dot takes line ends differs")
	for _, g := range design.Catalogue() {
		assert.NotEmpty(t, g.Title, g.ID)
	}
}

func TestBoundariesOfTimesAndDecimalsAndAfterTrimming(t *testing.T) {
	t.Parallel()
	all, d := outcomes(t, `  - {name: at, kind: time, rules: [{range: {min: "08:00", max: "20:00"}}]}
  - {name: due, kind: datetime, rules: [{range: {min: "now + 2 hours", zone: Europe/London}}]}
  - {name: price, kind: number, rules: [{decimals: {max: 2}}]}
  - {name: nick, normalize: [trim], rules: [{length: {min: 3, max: 8}}]}
  - {name: share, kind: number, rules: [{range: {min: 0, max: 1, exclusive: true}}, {decimals: {id: places, max: 1}}]}
`, testcase.Standard)
	require.Equal(t, map[string]string{"min-1": "rejected", "min": "accepted", "min+1": "accepted", "max-1": "accepted", "max": "accepted", "max+1": "rejected"}, pick(all, "at.range."))
	require.Equal(t, map[string]string{"min-1": "rejected", "min+1": "accepted"}, pick(all, "due.range."), "the bound itself moves with the clock")
	require.Equal(t, map[string]string{"max": "accepted", "max+1": "rejected"}, pick(all, "price.decimals."))
	require.Equal(t, "accepted", all["nick.length.max.trimmed"])
	require.Equal(t, "rejected", all["nick.length.min-1.trimmed"])
	require.Equal(t, "rejected", all["share.range.min"], "an exclusive bound is itself outside")
	cases, _ := d.Cases(testcase.Standard)
	now := time.Date(2027, 8, 3, 22, 50, 0, 0, time.UTC)
	subs, _ := resolve(t, d, find(cases, "f/due.range.min-1/http"), 1, now)
	v, _ := subs[0].Value("due")
	require.Equal(t, "2027-08-04T01:45", v, "in the zone, five minutes before the bound")
	subs, _ = resolve(t, d, find(cases, "f/nick.length.max.trimmed/http"), 1, now)
	v, _ = subs[0].Value("nick")
	require.Len(t, strings.TrimSpace(v), 8)
	require.Greater(t, len(v), 8)
}
