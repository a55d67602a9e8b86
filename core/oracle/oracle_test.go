package oracle_test

import (
	"os"
	"strings"
	"testing"
	"time"

	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

func prepare(t testing.TB, text string) *spec.Prepared {
	f, err := spec.ReadForm("form.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func join(t testing.TB) *spec.Prepared {
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	return prepare(t, string(text))
}

// sent is the Join form filled in well, with changes; a change to "-" leaves the parameter out.
func sent(changes map[string]string) *submission.Submission {
	s := &submission.Submission{Driver: submission.HTTP}
	for _, p := range []submission.Pair{
		{Name: "_token", Value: "t"},
		{Name: "username", Value: "maple-row"},
		{Name: "e_mail", Value: "Moss@bed.test"},
		{Name: "pass", Value: "Maple-row-42"},
		{Name: "pass_again", Value: "Maple-row-42"},
		{Name: "member_no"},
		{Name: "born_on", Value: "1974-03-07"},
		{Name: "plots", Value: "2"},
		{Name: "heard", Value: "nb"},
		{Name: "terms", Value: "yes"},
		{Name: "ref", Value: "web"},
		{Name: "website"},
	} {
		v, changed := changes[p.Name]
		if changed && v == "-" {
			continue
		}
		if changed {
			p.Value = v
		}
		s.Pairs = append(s.Pairs, p)
	}
	return s
}

func world(taken ...string) *oracle.World {
	w := &oracle.World{Now: time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC), Driver: submission.HTTP, LookupResults: map[string]bool{}}
	for _, rule := range taken {
		w.LookupResults[rule] = true
	}
	return w
}

func failing(e *oracle.Expectation) string {
	var out []string
	for _, f := range e.Failing {
		out = append(out, f.Rule)
	}
	return strings.Join(out, " ")
}

func TestWhatFails(t *testing.T) {
	t.Parallel()
	p := join(t)
	for name, c := range map[string]struct {
		changes map[string]string
		taken   []string
		fails   string
	}{
		"everything kept":                       {nil, nil, ""},
		"blank":                                 {map[string]string{"username": ""}, nil, "username.required"},
		"blank after trimming":                  {map[string]string{"username": " \t "}, nil, "username.required"},
		"two rules of one field":                {map[string]string{"username": "a!"}, nil, "username.length username.pattern"},
		"two fields, in page order":             {map[string]string{"plots": "5", "username": "ab"}, nil, "username.length plots.range"},
		"trimmed before its rules":              {map[string]string{"username": "  maple-row-1234567890 "}, nil, ""},
		"too long by one":                       {map[string]string{"username": "maple-row-12345678901"}, nil, "username.length"},
		"bytes, not characters":                 {map[string]string{"pass": "a1" + strings.Repeat("é", 36), "pass_again": "a1" + strings.Repeat("é", 36)}, nil, "password.length"},
		"no digit":                              {map[string]string{"pass": "maple-row-bed", "pass_again": "maple-row-bed"}, nil, "password.pattern"},
		"differs, in a later phase":             {map[string]string{"pass_again": "other"}, nil, "again.same_as"},
		"a later phase waits":                   {map[string]string{"pass_again": "other", "plots": "9"}, nil, "plots.range"},
		"taken":                                 {nil, []string{"username.unique"}, "username.unique"},
		"looked up last":                        {map[string]string{"pass_again": "x"}, []string{"username.unique"}, "again.same_as"},
		"a blank value is never taken":          {nil, nil, ""},
		"18 on the day":                         {map[string]string{"born_on": "2008-11-25"}, nil, ""},
		"a day too young":                       {map[string]string{"born_on": "2008-11-26"}, nil, "born.range"},
		"no such day":                           {map[string]string{"born_on": "2001-02-29"}, nil, "born.date"},
		"between two steps":                     {map[string]string{"plots": "2.5"}, nil, "plots.step"},
		"step and range":                        {map[string]string{"plots": "4.5"}, nil, "plots.range plots.step"},
		"a number in another form":              {map[string]string{"plots": "2.0"}, nil, ""},
		"no number":                             {map[string]string{"plots": "two"}, nil, "plots.number"},
		"not offered":                           {map[string]string{"heard": "zz"}, nil, "heard.listed"},
		"a choice may be blank":                 {map[string]string{"heard": ""}, nil, ""},
		"absent is blank":                       {map[string]string{"username": "-"}, nil, "username.required"},
		"not ticked":                            {map[string]string{"terms": "-"}, nil, "terms.must_be_checked"},
		"no token":                              {map[string]string{"_token": "-", "username": ""}, nil, "token"},
		"a pattern passes on blank":             {map[string]string{"member_no": "  "}, nil, ""},
		"an address":                            {map[string]string{"e_mail": "moss@bed"}, nil, ""},
		"no address":                            {map[string]string{"e_mail": "moss.bed"}, nil, "email.email"},
		"not UTF-8 is not a member of anything": {map[string]string{"username": "maple\xff"}, nil, "username.pattern"},
	} {
		sent := sent(c.changes)
		if c.changes["_token"] == "-" {
			sent.Without = []string{"_token"}
		}
		e := oracle.Expect(p, world(c.taken...), sent)
		require.Equal(t, c.fails, failing(e), name)
		want := oracle.RejectedByServer
		if c.fails == "" {
			want = oracle.Accepted
		}
		require.Equal(t, want, e.Outcome, name)
		for _, f := range e.Failing {
			require.NotEmpty(t, f.Cause, name)
		}
	}
}

func TestTodayIsMeantInTheRulesZone(t *testing.T) {
	t.Parallel()
	p := prepare(t, "form: f\npage: /\nfields: [{name: d, kind: date, rules: [{range: {max: today, zone: Pacific/Auckland}}]}]\n")
	w := &oracle.World{Now: time.Date(2026, 6, 1, 13, 0, 0, 0, time.UTC), Driver: submission.HTTP} // already 2 June in Auckland
	s := &submission.Submission{Pairs: []submission.Pair{{Name: "d", Value: "2026-06-02"}}}
	require.Equal(t, oracle.Accepted, oracle.Expect(p, w, s).Outcome)
	s.Pairs[0].Value = "2026-06-03"
	require.Equal(t, oracle.RejectedByServer, oracle.Expect(p, w, s).Outcome)
}

func TestWhatIsLookedUp(t *testing.T) {
	t.Parallel()
	needs := oracle.Needs(join(t), sent(map[string]string{"username": " Maple "}))
	require.Equal(t, []submission.Lookup{
		{Rule: "username.unique", Table: "plot_holders", Column: "login_name", Value: "Maple", Ignoring: []string{"case"}},
		{Rule: "email.unique", Table: "plot_holders", Column: "mail", Value: "moss@bed.test"},
	}, needs)
}

func TestWhatIsStored(t *testing.T) {
	t.Parallel()
	e := oracle.Expect(join(t), world(), sent(map[string]string{"heard": ""}))
	require.Len(t, e.Rows, 1)
	got := map[string]oracle.Column{}
	for _, c := range e.Rows[0].Columns {
		got[c.Name] = c
	}
	require.Equal(t, "moss@bed.test", got["mail"].Value, "as normalised")
	require.Equal(t, oracle.HoldsNull, got["heard_code"].Source)
	require.Equal(t, oracle.HoldsNull, got["membership"].Source)
	require.Equal(t, oracle.HoldsHash, got["pass_hash"].Source)
	require.Equal(t, []string{"argon2id", "bcrypt"}, got["pass_hash"].As)
	require.Equal(t, 5*time.Second, got["agreed_at"].Within)
	require.Equal(t, "true", got["agreed"].Value)
	require.Equal(t, "holder", got["role"].Value)
	require.Equal(t, "Welcome, maple-row. You are on the waiting list.", e.Reply)
	require.Equal(t, "/waiting-list", e.To)
	require.Equal(t, []string{"password", "again"}, e.Secrets)
}

const reporting = `form: f
page: /
fields:
  - {name: a, rules: [{length: {min: 3, max: 5, message: length}}, {pattern: {is: '[a-z]*', message: letters, dialect: u}}]}
  - {name: b, rules: [{required: {message: {en: b please, cy: b os gwelwch}}}]}
  - {name: n, kind: number}
across:
  - {id: both, must_hold: 'a != b', message: not the same, place: summary}
  - {id: more, must_hold: 'n > 2 || a == "abc"'}
accepted: {reply: [{when: n > 10, text: "Many, {a}"}, {otherwise: "Few, {b}"}]}
stored: [{insert: t, columns: {double: {cel: 'n * 2'}, typed: {from: a, as_sent: true}, b: {from: b}}}]
`

func TestHowMuchIsReported(t *testing.T) {
	t.Parallel()
	sub := &submission.Submission{Pairs: []submission.Pair{{Name: "a", Value: "A"}, {Name: "b"}}}
	for report, want := range map[string][]string{
		"every_failing_rule":  {"a.length", "a.pattern", "b.required"},
		"first_of_each_field": {"a.length", "b.required"},
		"first_of_all":        {"a.length"},
	} {
		e := oracle.Expect(prepare(t, reporting+"rejected: {report: "+report+"}\n"), world(), sub)
		var got []string
		for _, m := range e.Messages {
			got = append(got, m.Rule)
		}
		require.Equal(t, want, got, report)
	}
}

func TestLanguagesOfMessages(t *testing.T) {
	t.Parallel()
	sub := &submission.Submission{Pairs: []submission.Pair{{Name: "a", Value: "abc"}, {Name: "b"}}}
	w := world()
	w.Language = "cy"
	e := oracle.Expect(prepare(t, reporting), w, sub)
	require.Equal(t, "b os gwelwch", e.Messages[0].Text)
	w.Language = "fr"
	e = oracle.Expect(prepare(t, reporting), w, sub)
	require.Equal(t, "b please", e.Messages[0].Text)
}

func TestExpressions(t *testing.T) {
	t.Parallel()
	p := prepare(t, reporting)
	expect := func(a, b, n string) *oracle.Expectation {
		return oracle.Expect(p, world(), &submission.Submission{Pairs: []submission.Pair{{Name: "a", Value: a}, {Name: "b", Value: b}, {Name: "n", Value: n}}})
	}
	require.Equal(t, "across.both", failing(expect("abc", "abc", "3")))
	require.Equal(t, spec.InSummary, expect("abc", "abc", "3").Messages[0].Place)
	require.Equal(t, "across.more", failing(expect("abd", "x", "2")))
	require.Empty(t, failing(expect("abd", "x", "")), "a rule passes where a number it needs is blank")
	require.Equal(t, "Many, abd", expect("abd", "x", "11").Reply)
	require.Equal(t, "Few, x", expect("abd", "x", "3").Reply)
	columns := expect("abd", "x", "3").Rows[0].Columns
	require.Equal(t, []string{"b", "double", "typed"}, []string{columns[0].Name, columns[1].Name, columns[2].Name})
	require.Equal(t, "6", columns[1].Value)
}

func TestBrowserRulesOnlyCountInABrowser(t *testing.T) {
	t.Parallel()
	p := prepare(t, "form: f\npage: /\nfields: [{name: a, rules: [{length: {max: 3, layers: [browser]}}, {length: {max: 9}}, {length: {max: 5, layers: [database]}}]}]\n")
	s := &submission.Submission{Pairs: []submission.Pair{{Name: "a", Value: "abcdefg"}}}
	require.Equal(t, oracle.Accepted, oracle.Expect(p, world(), s).Outcome, "the column's limit is not a rule: what breaks it must be stored whole")
	w := world()
	w.Driver = submission.Browser
	require.Equal(t, oracle.RejectedByBrowser, oracle.Expect(p, w, s).Outcome)
}

func TestRefilling(t *testing.T) {
	t.Parallel()
	e := oracle.Expect(join(t), world(), sent(map[string]string{"username": " x "}))
	got := map[string]oracle.Refilled{}
	for _, r := range e.Refilled {
		got[r.Field] = r
	}
	require.Equal(t, oracle.Refilled{Field: "username", Sent: " x ", Normal: "x"}, got["username"])
	require.Equal(t, oracle.Refilled{Field: "password", Blank: true}, got["password"])
	require.True(t, got["terms"].Checked)
	require.NotContains(t, got, "referral")
	nothing := oracle.Expect(prepare(t, reporting+"rejected: {values_kept: none}\n"), world(), &submission.Submission{})
	for _, r := range nothing.Refilled {
		require.True(t, r.Blank)
	}
}

func TestPhasesTogether(t *testing.T) {
	t.Parallel()
	p := prepare(t, strings.Replace(reporting, "page: /\n", "page: /\nphases: together\n", 1))
	e := oracle.Expect(p, world(), &submission.Submission{Pairs: []submission.Pair{{Name: "a", Value: "AAAAAAA"}, {Name: "b", Value: "AAAAAAA"}}})
	require.Equal(t, "a.length a.pattern across.both", failing(e))
}

func BenchmarkExpect(b *testing.B) {
	p, w, s := join(b), world(), sent(nil)
	for b.Loop() {
		oracle.Expect(p, w, s)
	}
}

func TestTheBrowsersOwnChecksMayBeSwitchedOff(t *testing.T) {
	t.Parallel()
	p := prepare(t, "form: f\npage: /\nfields:\n  - {name: a, rules: [{required: {}}, {length: {id: narrow, layers: [browser], max: 3}}]}\n")
	long := &submission.Submission{Driver: submission.Browser, Pairs: []submission.Pair{{Name: "a", Value: "four"}}}
	blank := &submission.Submission{Driver: submission.Browser, Pairs: []submission.Pair{{Name: "a"}}}
	for _, test := range []struct {
		s         *submission.Submission
		unchecked bool
		want      oracle.Outcome
	}{{long, false, oracle.RejectedByBrowser}, {long, true, oracle.Accepted}, {blank, false, oracle.RejectedByServer}, {blank, true, oracle.RejectedByServer}} {
		w := &oracle.World{Now: time.Now(), Driver: submission.Browser, Unchecked: test.unchecked}
		require.Equal(t, test.want, oracle.Expect(p, w, test.s).Outcome)
	}
}

// Fields are found whatever the order in which their parameters come.
func TestParametersMayComeInAnyOrder(t *testing.T) {
	t.Parallel()
	p := join(t)
	s := sent(map[string]string{"plots": "9", "member_no": "-"})
	want := oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, s)
	for i := range s.Pairs {
		turned := &submission.Submission{Driver: s.Driver, Pairs: append(append([]submission.Pair{}, s.Pairs[i:]...), s.Pairs[:i]...)}
		require.Equal(t, want, oracle.Expect(p, &oracle.World{Now: time.Now(), Driver: submission.HTTP}, turned))
	}
}
