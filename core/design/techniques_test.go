package design_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/prose"
	"oddtick/core/scale"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"
	"oddtick/core/values"
	"oddtick/core/wording/promise"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// outcomes maps a form's case ids, without the form's name and the driver, to the outcome expected.
func outcomes(t require.TestingT, fields string, depth testcase.Depth) (map[string]string, *design.Designer) {
	d := designer(t, prepared(t, "form: f\npage: /\nfields:\n"+fields))
	cases, _ := d.Cases(depth)
	out := map[string]string{}
	for _, c := range cases {
		if c.Last().Driver != submission.HTTP {
			continue
		}
		out[strings.TrimSuffix(strings.TrimPrefix(c.ID, "f/"), "/http")] = strings.Fields(string(c.Last().Expect))[0]
	}
	return out, d
}

func pick(all map[string]string, prefix string) map[string]string {
	out := map[string]string{}
	for id, v := range all {
		if rest, ok := strings.CutPrefix(id, prefix); ok {
			out[rest] = v
		}
	}
	return out
}

func TestBoundariesOfLengths(t *testing.T) {
	t.Parallel()
	all, _ := outcomes(t, "  - {name: a, rules: [{length: {min: 2, max: 9}}]}\n", testcase.Standard)
	require.Equal(t, map[string]string{
		"min-1": "rejected", "min": "accepted", "min+1": "accepted", "max-1": "accepted", "max": "accepted", "max+1": "rejected", "max.wide": "accepted", "max+1.wide": "rejected", "max.far": "rejected",
	}, pick(all, "a.length."))
	quick, _ := outcomes(t, "  - {name: a, rules: [{length: {min: 2, max: 9}}]}\n", testcase.Quick)
	require.Equal(t, map[string]string{"min-1": "rejected", "min": "accepted", "max": "accepted", "max+1": "rejected"}, pick(quick, "a.length."), "two values at each end")
	one, _ := outcomes(t, "  - {name: a, rules: [{required: {}}, {length: {min: 1, max: 1}}]}\n", testcase.Standard)
	require.NotContains(t, one, "a.length.min-1", "length 0 is blank, which is another rule's")
}

// TestLengthBoundariesByBruteForce: for any pair of bounds, each end has a value on both sides, of exactly that length.
func TestLengthBoundariesByBruteForce(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		lo := rapid.IntRange(2, 12).Draw(t, "min")
		hi := rapid.IntRange(lo, 40).Draw(t, "max")
		unit := rapid.SampledFrom([]values.Unit{values.Characters, values.Bytes, values.UTF16}).Draw(t, "unit")
		_, d := outcomes(t, fmt.Sprintf("  - {name: a, rules: [{length: {min: %d, max: %d, in: %s}}]}\n", lo, hi, string(unit)), testcase.Standard)
		cases, omitted := d.Cases(testcase.Standard)
		require.Empty(t, omitted)
		lengths := map[int]oracle.Outcome{}
		for _, c := range cases {
			if !strings.HasPrefix(c.ID, "f/a.length.") {
				continue
			}
			subs, expectations := resolve(t, d, c, rapid.Int64Range(1, 1e9).Draw(t, "run"), time.Now())
			v, _ := subs[0].Value("a")
			lengths[unit.Length(v)] = expectations[0].Outcome
		}
		for n, want := range map[int]oracle.Outcome{lo - 1: oracle.RejectedByServer, lo: oracle.Accepted, hi: oracle.Accepted, hi + 1: oracle.RejectedByServer} {
			require.Equal(t, want, lengths[n], "length %d of %d to %d", n, lo, hi)
		}
	})
}

func TestBoundariesOfNumbers(t *testing.T) {
	t.Parallel()
	for fields, want := range map[string]map[string]string{
		"{range: {min: 0.001, max: 500}}":               {"range.min-1": "rejected", "range.min": "accepted", "range.max+1": "rejected", "range.negative": "rejected"},
		"{range: {min: 25, max: 250}}, {step: {by: 5}}": {"range.min-1": "rejected", "range.min+1": "accepted", "range.max": "accepted", "step.half": "rejected", "step.eighth": "rejected"},
		"{range: {min: -3, max: 3, exclusive: true}}":   {"range.min": "rejected", "range.max": "rejected", "range.min+1": "accepted", "range.max-1": "accepted"},
		"{range: {max: 10}}":                            {"range.max": "accepted", "range.max+1": "rejected", "range.max.far": "rejected"},
		"{step: {by: 0.25}}":                            {"step.half": "rejected"},
		"{required: {}}":                                {"blank": "rejected", "number.words": "rejected"},
	} {
		all, _ := outcomes(t, "  - {name: a, kind: number, rules: ["+fields+"]}\n", testcase.Thorough)
		for id, v := range want {
			require.Equal(t, v, all["a."+id], "%s: %s in %v", fields, id, all)
		}
	}
}

func TestBoundariesOfDays(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, "form: f\npage: /\nfields:\n  - {name: a, kind: date, rules: [{range: {min: 'today - 2 weeks', max: 2031-04-30}}]}\n"))
	cases, _ := d.Cases(testcase.Standard)
	now := time.Date(2028, 3, 10, 23, 30, 0, 0, time.UTC)
	got := map[string]string{}
	for _, c := range cases {
		subs, _ := resolve(t, d, c, 1, now)
		got[c.ID], _ = subs[0].Value("a")
	}
	for id, want := range map[string]string{"min-1": "2028-02-24", "min": "2028-02-25", "min+1": "2028-02-26", "max-1": "2031-04-29", "max": "2031-04-30", "max+1": "2031-05-01", "max.far": "2999-12-31"} {
		require.Equal(t, want, got["f/a.range."+id+"/http"], id)
	}
}

func TestChoicesAndTicks(t *testing.T) {
	t.Parallel()
	all, _ := outcomes(t, `  - {name: c, kind: single_choice, options: [{label: Half, value: h}, {label: Whole, value: w}], rules: [{required: {}}]}
  - {name: o, kind: checkbox}
  - {name: m, kind: checkbox, rules: [{must_be_checked: {}}]}
`, testcase.Standard)
	require.Equal(t, map[string]string{"option.h": "accepted", "option.w": "accepted", "blank": "rejected", "listed.not_offered": "rejected", "listed.label": "rejected"}, pick(all, "c."))
	require.Equal(t, map[string]string{"ticked": "accepted", "unticked": "accepted"}, pick(all, "o."))
	require.Equal(t, map[string]string{"ticked": "accepted", "unticked": "rejected"}, pick(all, "m."))
}

func TestWhatSitesStumbleOver(t *testing.T) {
	t.Parallel()
	free, d := outcomes(t, "  - {name: note, rules: [{length: {max: 500}}]}\n", testcase.Standard)
	require.Equal(t, map[string]string{"emoji": "accepted", "accents": "accepted", "quotes": "accepted", "markup": "accepted", "plus_percent": "accepted", "zeros": "accepted"}, pick(free, "note.guess."))
	cases, _ := d.Cases(testcase.Standard)
	i := slices.IndexFunc(cases, func(c *testcase.Case) bool { return strings.Contains(c.ID, "markup") })
	subs, _ := resolve(t, d, cases[i], 1, time.Now())
	v, _ := subs[0].Value("note")
	require.Equal(t, "moss <b>row</b> &amp; bed", v)
	for _, c := range cases {
		if c.ID == "f/note.guess.emoji/http" {
			subs, _ := resolve(t, d, c, 1, time.Now())
			v, _ := subs[0].Value("note")
			require.Equal(t, "moss 🌱 row", v)
		}
	}
	digits, _ := outcomes(t, "  - {name: n, rules: [{pattern: {is: '[0-9]{4}'}}]}\n", testcase.Standard)
	require.Equal(t, map[string]string{"zeros": "accepted"}, pick(digits, "n.guess."), "only what the rules let stand")
}

func TestUniquenessFollowsWhatIsPromised(t *testing.T) {
	t.Parallel()
	plain, _ := outcomes(t, "  - {name: a, rules: [{unique: {column: t.a}}]}\n", testcase.Standard)
	require.Equal(t, map[string]string{"new": "accepted", "same": "rejected"}, pick(plain, "a.unique."), "without a promise about case it is not judged")
	folded, _ := outcomes(t, "  - {name: a, normalize: [trim, lower], rules: [{unique: {column: t.a}}]}\n", testcase.Standard)
	require.Equal(t, map[string]string{"new": "accepted", "same": "rejected", "case": "rejected", "spaces": "rejected"}, pick(folded, "a.unique."))
}

func TestTheWholeForm(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /
token: [csrf, nonce]
fields:
  - {name: a, rules: [{required: {}}]}
  - {name: p, kind: password, rules: [{required: {}}]}
accepted: {to: /done}
stored: [{insert: t, columns: {a: {from: a}, role: {is: user}, paid: {is: 1}, hash: {secret: p}, seen: {now: {within: 5s}}, gone: {"null": true}}}]
`))
	cases, _ := d.Cases(testcase.Standard)
	byID := map[string]*testcase.Case{}
	for _, c := range cases {
		byID[c.ID] = c
	}
	require.Equal(t, []string{"csrf", "nonce"}, byID["f/form.without_token/http"].Last().Without)
	require.Equal(t, []string{"token"}, byID["f/form.without_token/http"].Last().Breaks)
	require.Equal(t, []submission.Pair{{Name: "gone", Value: "2001-01-01 00:00:00"}, {Name: "paid", Value: "0"}, {Name: "role", Value: "admin"}, {Name: "is_admin", Value: "1"}, {Name: "id", Value: "1"}}, byID["f/form.surplus/http"].Last().Extra)
	require.Equal(t, testcase.Reload, byID["f/form.reload/http"].Last().Do)
	require.Equal(t, []string{"a.required", "p.required"}, byID["f/form.all_blank/http"].Last().Breaks)
	require.Len(t, byID["f/form.same_p/http"].Steps, 2)
	stays := designer(t, prepared(t, "form: f\npage: /\nfields: [{name: a}]\naccepted: {status: 200}\n"))
	without, _ := stays.Cases(testcase.Standard)
	for _, c := range without {
		require.NotContains(t, c.ID, "form.reload", "a page that answers itself submits again on reload, as promised")
		require.NotContains(t, c.ID, "form.without_token")
	}
}

func TestPromisesInWords(t *testing.T) {
	t.Parallel()
	p := prepared(t, `form: f
page: /
fields:
  - {name: a, rules: [{required: {}}, {length: {min: 3}}, {length: {id: same, min: 4, max: 4, in: bytes}}, {unique: {column: t.a, ignoring: [case, accents]}}, {characters: {of: a-z}}]}
  - {name: n, kind: number, rules: [{range: {max: 4}}, {step: {by: 0.5}}]}
  - {name: b, rules: [{same_as: {field: a}}, {different_from: {field: a}}, {email: {}}]}
across: [{must_hold: a != b}]
`)
	require.Equal(t, []prose.Text{"required", "at least 3 characters", "exactly 4 bytes", "unique, ignoring capitals and accents", "only the characters a-z"}, promise.Rules(p.Fields[0]))
	require.Equal(t, []prose.Text{"optional", "at most 4", "in steps of 0.5", "a number"}, promise.Rules(p.Fields[1]))
	require.Equal(t, []prose.Text{"same as a", "different from a", "an e-mail address"}, promise.Rules(p.Fields[2]))
	require.Equal(t, prose.Text("a != b"), promise.Rule(p.Across[0]))
}

func TestEveryRuleBelongsToARow(t *testing.T) {
	t.Parallel()
	p := join(t)
	cases, _ := designer(t, p).Cases(testcase.Thorough)
	rows := scale.Rows(p, cases)
	ids := []string{}
	for _, r := range rows {
		ids = append(ids, r.ID)
		require.NotZero(t, r.Cases)
		for i, s := range r.Scales {
			require.NotEmpty(t, s.Ticks)
			require.True(t, s.Measured == (i == 0) || !s.Measured, "the measured scale leads")
			open := false
			for _, tick := range s.Ticks {
				if tick.Opens {
					require.False(t, open)
					open = true
				}
				require.Equal(t, open, tick.Accepted, "%s %s", r.ID, tick.Label)
				if tick.Closes {
					open = false
				}
			}
			require.False(t, open, "every band is closed")
		}
	}
	require.Equal(t, []string{"username", "email", "password", "again", "membership", "born", "plots", "heard", "terms", "across", "uniqueness", "form"}, ids)
}

func TestTheServersPromiseCountsOverHTTP(t *testing.T) {
	t.Parallel()
	all, d := outcomes(t, "  - {name: a, rules: [{length: {max: 20}}, {length: {id: shorter, layers: [browser], max: 10}}, {length: {id: column, layers: [database], max: 15}}]}\n", testcase.Standard)
	require.Equal(t, "accepted", all["a.length.max"], "though the browser would not let it be typed")
	require.Equal(t, "rejected", all["a.length.max+1"])
	require.NotContains(t, all, "a.shorter.max+1")
	cases, omitted := d.Cases(testcase.Standard)
	require.Empty(t, omitted)
	for _, c := range cases {
		subs, _ := resolve(t, d, c, 1, time.Now())
		if v, _ := subs[0].Value("a"); c.ID == "f/a.valid/http" {
			require.LessOrEqual(t, len(v), 10, "a typical value keeps the rules of all layers")
		}
	}
}

func TestExpressionsAreTriedWithWhatTheyCompare(t *testing.T) {
	t.Parallel()
	for expression, fields := range map[string]string{
		`heard != "od" || plots <= 2`: "  - {name: plots, kind: number}\n  - {name: heard, kind: single_choice, options: [{value: nb}, {value: od}]}\n",
		`nick != 'admin'`:             "  - {name: nick, rules: [{required: {}}]}\n",
		`!terms || weight > 0.5`:      "  - {name: terms, kind: checkbox}\n  - {name: weight, kind: number, rules: [{range: {min: 0, max: 9}}]}\n",
	} {
		d := designer(t, prepared(t, "form: f\npage: /\nfields:\n"+fields+"across: [{id: x, must_hold: '"+strings.ReplaceAll(expression, "'", "''")+"'}]\n"))
		cases, omitted := d.Cases(testcase.Quick)
		require.Empty(t, omitted, expression)
		got := map[bool]int{} // by whether the rule fails
		for _, c := range cases {
			if c.Row == testcase.RowAcross {
				got[slices.Contains(c.Last().Breaks, "across.x")]++
			}
		}
		require.Equal(t, map[bool]int{true: 1, false: 1}, got, expression)
	}
}

// TestOtherLanguages: a message that is promised in several languages is asked for in each but the site's usual one.
func TestOtherLanguages(t *testing.T) {
	t.Parallel()
	p := prepared(t, "form: f\npage: /\nfields:\n  - {name: a, rules: [{required: {message: {en: Write., cy: Ysgrifennwch., de: Schreiben.}}}, {length: {max: 9, message: Short.}}]}\n")
	asked := func(site *spec.Site) []string {
		d, err := design.New(p, site)
		require.NoError(t, err)
		cases, _ := d.Cases(testcase.Standard)
		var out []string
		for _, c := range cases {
			if c.Language != "" {
				require.Contains(t, c.ID, "@"+c.Language+"/http")
				require.Equal(t, []string{"a.required"}, c.Last().Breaks)
				out = append(out, c.Language)
			}
		}
		return out
	}
	require.Equal(t, []string{"cy", "de"}, asked(nil))
	require.Equal(t, []string{"de", "en"}, asked(&spec.Site{Language: "cy"}))
}
