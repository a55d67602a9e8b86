package spec_test

import (
	"slices"
	"testing"
	"time"

	"oddtick/core/spec"
	"oddtick/core/values"

	"github.com/stretchr/testify/require"
)

func prepare(t testing.TB, fields string) *spec.Prepared {
	f, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields:\n"+fields))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func TestNormalising(t *testing.T) {
	t.Parallel()
	for steps, cases := range map[string]map[string]string{
		"[trim]":           {" \u00a0a b\u2003": "a b", "\t": ""},
		"[collapse]":       {" a \n b ": "a b"},
		"[trim, lower]":    {" ÄÖ ": "äö"},
		"[upper]":          {"straße": "STRASSE"},
		"[nfc]":            {"e\u0301": "é"},
		"[trim, collapse]": {"  ": ""},
		"[]":               {" a ": " a "},
	} {
		f := prepare(t, "  - {name: a, normalize: "+steps+"}\n").Fields[0]
		for sent, want := range cases {
			v := f.ValueOf(sent, true)
			if steps == "[upper]" {
				require.NotEqual(t, sent, v.Normal)
				continue
			}
			require.Equal(t, want, v.Normal, "%s of %q", steps, sent)
			require.Equal(t, want == "", v.Blank)
		}
	}
	_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nfields:\n  - {name: a, normalize: [shout]}\n"))
	require.ErrorContains(t, err, `the step "shout" is not known; write one of: trim`)
}

func TestWhatCountsAsTheSame(t *testing.T) {
	t.Parallel()
	for ignoring, c := range map[string]struct{ same, other [2]string }{
		"[case]":                  {[2]string{"Straße", "STRASSE"}, [2]string{"a", "á"}},
		"[accents]":               {[2]string{"Zoë", "Zoe"}, [2]string{"a", "A"}},
		"[spaces]":                {[2]string{" a ", "a"}, [2]string{"a b", "ab"}},
		"[case, accents, spaces]": {[2]string{" ZOË", "zoe"}, [2]string{"a", "b"}},
		"[]":                      {[2]string{"a", "a"}, [2]string{"a", "A"}},
	} {
		r := prepare(t, "  - {name: a, rules: [{unique: {column: t.c, ignoring: "+ignoring+"}}]}\n").Rules[0]
		require.Equal(t, r.Fold(c.same[0]), r.Fold(c.same[1]), ignoring)
		require.NotEqual(t, r.Fold(c.other[0]), r.Fold(c.other[1]), ignoring)
	}
}

func TestEachRuleOnItsOwn(t *testing.T) {
	t.Parallel()
	now := time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)
	for rule, c := range map[string]struct {
		kind      string
		pass, not []string
	}{
		"required: {}":                              {"text", []string{"a"}, []string{""}},
		"length: {min: 2, max: 3}":                  {"text", []string{"", "ab", "🌱🌱🌱"}, []string{"a", "abcd"}},
		"length: {max: 4, in: bytes}":               {"text", []string{"abcd", "🌱"}, []string{"🌱a"}},
		"length: {max: 2, in: utf-16_units}":        {"text", []string{"ab", "🌱"}, []string{"🌱a"}},
		"length: {max: 1, in: graphemes}":           {"text", []string{"🇬🇧"}, []string{"ab"}},
		"pattern: {is: '[a-c]+'}":                   {"text", []string{"", "abc"}, []string{"abd", "ab "}},
		"pattern: {is: '[a-]+', dialect: u}":        {"text", []string{"a-a"}, []string{"b"}},
		"characters: {of: 'a-z '}":                  {"text", []string{"a b"}, []string{"aB"}},
		"email: {}":                                 {"email", []string{"a@b", "a.b+c@d-e.fg"}, []string{"a", "@b", "a@", "a b@c", "a@b_c", "a@-b", "a@b@c"}},
		"range: {min: 1.5, max: 2}":                 {"number", []string{"1.5", "1.50", "2", "2e0"}, []string{"1.49999", "2.001", "-2"}},
		"range: {max: 2, exclusive: true, min: 0}":  {"number", []string{"1.999"}, []string{"2", "0"}},
		"step: {by: 0.5, from: 1}":                  {"number", []string{"1", "0.5", "2.5"}, []string{"1.2"}},
		"range: {min: today, max: today + 2 weeks}": {"date", []string{"2026-11-25", "2026-12-09"}, []string{"2026-11-24", "2026-12-10"}},
		"range: {max: 2026-01-01}":                  {"date", []string{"2026-01-01", "no date"}, []string{"2026-01-02"}},
	} {
		p := prepare(t, "  - {name: a, kind: "+c.kind+", rules: [{"+rule+"}]}\n")
		f := p.Fields[0]
		for _, v := range c.pass {
			value := f.ValueOf(v, true)
			require.True(t, f.Rules[0].Passes(&value, now), "%s lets %q pass", rule, v)
		}
		for _, v := range c.not {
			value := f.ValueOf(v, true)
			require.False(t, f.Rules[0].Passes(&value, now), "%s refuses %q", rule, v)
		}
	}
}

func TestKindsImplyRules(t *testing.T) {
	t.Parallel()
	p := prepare(t, `  - {name: n, kind: number}
  - {name: d, kind: date, rules: [{date: {message: No date.}}]}
  - {name: c, kind: single_choice, options: [{value: x}]}
  - {name: p, kind: password}
  - {name: q, kind: password, secret: false}
  - {name: t, kind: checkbox}
  - {name: "a[b][]"}
`)
	require.Equal(t, []string{"n.number", "d.date", "c.listed"}, ids(p.Rules))
	require.True(t, p.Field("p").Secret)
	require.False(t, p.Field("q").Secret)
	require.Equal(t, "on", p.Field("t").Value)
	require.NotNil(t, p.Field("a_b"), "an id is made from the request name")
	require.Nil(t, p.Field("none"))
	require.Equal(t, 3, len(p.Phase(spec.PhaseFormat)))
}

func TestOrderOfPhases(t *testing.T) {
	t.Parallel()
	p := prepare(t, `  - {name: a, rules: [{unique: {column: t.a}}, {length: {max: 3}}, {length: {max: 2, layers: [browser]}}]}
  - {name: b, rules: [{same_as: {field: a}}, {different_from: {field: a}}]}
`)
	var phases []string
	for _, r := range p.Rules {
		phases = append(phases, r.ID+" "+r.Phase.String())
	}
	require.Equal(t, []string{"a.unique lookup", "a.length format", "a.length_2 browser", "b.same_as across", "b.different_from across"}, phases)
	a, b := p.Field("a").ValueOf("x", true), p.Field("b").ValueOf("y", true)
	require.False(t, p.Rules[3].AgreesWith(&b, &a))
	require.True(t, p.Rules[4].AgreesWith(&b, &a))
}

func TestExpressionsSeeNumbersTruthAndText(t *testing.T) {
	t.Parallel()
	p := prepare(t, "  - {name: n, kind: number}\n  - {name: c, kind: checkbox}\n  - {name: d, kind: date}\n  - {name: s, normalize: [upper]}\n")
	variable := func(id, sent string, present bool) any {
		f := p.Field(id)
		v := f.ValueOf(sent, present)
		return f.Var(&v)
	}
	require.EqualValues(t, 3, variable("n", "3.0", true))
	require.EqualValues(t, 2.5, variable("n", "2.5", true))
	require.Nil(t, variable("n", "", true))
	require.Equal(t, true, variable("c", "on", true))
	require.Equal(t, false, variable("c", "", false))
	require.Equal(t, "2026-01-01", variable("d", "2026-01-01", true))
	require.Equal(t, "AB", variable("s", "ab", true))
}

func TestTheEmailRuleIsHTMLs(t *testing.T) {
	t.Parallel()
	r := prepare(t, "  - {name: a, kind: email, rules: [{email: {}}]}\n").Rules[0]
	set := values.NewSet(r.Auto)
	lo, hi, ok := set.Bounds(values.Characters)
	require.True(t, ok)
	require.Equal(t, []int{3, -1}, []int{lo, hi})
	label := "a" + string(slices.Repeat([]byte("b"), 62))
	require.True(t, r.Auto.Matches("x@"+label))
	require.False(t, r.Auto.Matches("x@"+label+"b"), "a label has at most 63 characters")
}
