package design_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"oddtick/core/design"
	"oddtick/core/oracle"
	"oddtick/core/scale"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func prepared(t require.TestingT, text string) *spec.Prepared {
	f, err := spec.ReadForm("form.yaml", []byte(text))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func join(t require.TestingT) *spec.Prepared {
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	return prepared(t, string(text))
}

func designer(t require.TestingT, p *spec.Prepared) *design.Designer {
	d, err := design.New(p, nil)
	require.NoError(t, err)
	return d
}

// resolve makes all submissions of a case on a day, as an engine would, and asks the oracle about each.
func resolve(t require.TestingT, d *design.Designer, c *testcase.Case, run int64, now time.Time) ([]*submission.Submission, []*oracle.Expectation) {
	env := &testcase.Env{Run: run, Now: now, OnPage: map[string]string{"ref": "r"}}
	var subs []*submission.Submission
	var out []*oracle.Expectation
	stored := map[string]map[string]bool{}
	for i := range c.Steps {
		if c.Steps[i].Do != testcase.Submit {
			continue
		}
		r, err := d.Resolve(c, i, env)
		require.NoError(t, err, c.ID)
		env.Earlier = append(env.Earlier, r)
		sub := d.Submission(&c.Steps[i], r)
		if !slices.Contains(c.Steps[i].Without, "_token") {
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: "_token", Value: "t"})
		}
		w := &oracle.World{Now: now, Driver: submission.HTTP, LookupResults: map[string]bool{}}
		for _, need := range oracle.Needs(d.Prepared(), sub) {
			value := need.Value
			if slices.Contains(need.Ignoring, "case") {
				value = strings.ToLower(value)
			}
			w.LookupResults[need.Rule] = stored[need.Rule][value]
			if stored[need.Rule] == nil {
				stored[need.Rule] = map[string]bool{}
			}
			stored[need.Rule][value] = true
		}
		subs = append(subs, sub)
		out = append(out, oracle.Expect(d.Prepared(), w, sub))
	}
	return subs, out
}

func TestCasesAreTheSameEveryTime(t *testing.T) {
	t.Parallel()
	write := func() []byte {
		cases, omitted := designer(t, join(t)).Cases(testcase.Thorough)
		require.Empty(t, omitted)
		text, err := json.Marshal(cases)
		require.NoError(t, err)
		return text
	}
	require.Equal(t, string(write()), string(write()))
}

func TestDepthsContainEachOther(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	var last []string
	for _, depth := range testcase.Depths {
		cases, _ := d.Cases(depth)
		var ids []string
		for _, c := range cases {
			require.NotContains(t, ids, c.ID, "ids are unique")
			ids = append(ids, c.ID)
		}
		require.Subset(t, ids, last)
		require.Greater(t, len(ids), len(last))
		last = ids
	}
}

// TestExactlyOneRuleIsBroken: whatever a case sends, on any day and in any run, breaks what the case is about and nothing else.
func TestExactlyOneRuleIsBroken(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	cases, _ := d.Cases(testcase.Thorough)
	rapid.Check(t, func(t *rapid.T) {
		c := rapid.SampledFrom(cases).Draw(t, "case")
		run := rapid.Int64Range(1, 1<<40).Draw(t, "run")
		day := time.Unix(rapid.Int64Range(1_700_000_000, 2_200_000_000).Draw(t, "now"), 0)
		_, expectations := resolve(t, d, c, run, day)
		last := expectations[len(expectations)-1]
		var broken []string
		for _, f := range last.Failing {
			broken = append(broken, f.Rule)
		}
		step := c.Steps[len(expectations)-1]
		require.Equal(t, step.Breaks, broken, c.ID)
		require.Equal(t, step.Expect, last.Outcome, c.ID)
		if c.Row != testcase.RowForm {
			require.LessOrEqual(t, len(broken), 1, c.ID)
		}
	})
}

func TestEveryRuleIsBrokenAndEveryBoundaryTouched(t *testing.T) {
	t.Parallel()
	p := join(t)
	cases, _ := designer(t, p).Cases(testcase.Quick)
	broken, covered := map[string]bool{}, map[string]bool{}
	for _, c := range cases {
		for _, rule := range c.Last().Breaks {
			broken[rule] = true
		}
		for _, what := range c.Covers {
			covered[what.String()] = true
		}
	}
	for _, r := range p.Rules {
		require.True(t, broken[r.ID], "no case breaks %s", r.ID)
	}
	for _, boundary := range []string{"username.length min-1", "username.length min", "username.length max", "username.length max+1", "password.length max+1", "born.range max", "born.range max+1", "plots.range min-1", "plots.range max+1"} {
		require.True(t, covered["boundary "+boundary], boundary)
	}
}

func TestReRunsUseNewValues(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	cases, _ := d.Cases(testcase.Standard)
	seen := map[string]string{}
	for run := range int64(20) {
		for _, c := range cases {
			if !strings.HasPrefix(c.ID, "join/form.") {
				continue
			}
			subs, _ := resolve(t, d, c, run+1, time.Now())
			for i, sub := range subs {
				name, _ := sub.Value("username")
				if name == "" {
					continue
				}
				who := c.ID + string(rune('0'+i))
				require.Empty(t, seen[name], "%s of %s was used before", name, who)
				seen[name] = who
			}
		}
	}
}

func TestBoundaryValuesLieWhereTheySay(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	cases, _ := d.Cases(testcase.Standard)
	now := time.Date(2027, 3, 1, 0, 30, 0, 0, time.UTC)
	for id, want := range map[string]func(string) bool{
		"join/username.length.max+1/http": func(v string) bool { return len(v) == 21 },
		"join/username.length.min/http":   func(v string) bool { return len(v) == 3 },
		"join/email.length.max/http": func(v string) bool {
			return len(v) == 190 && strings.HasSuffix(v, "@example.test") || strings.HasSuffix(v, ".example.test")
		},
		"join/password.length.max+1/http":         func(v string) bool { return len(v) == 73 },
		"join/password.length.max.wide/http":      func(v string) bool { return len(v) == 72 && len([]rune(v)) < 60 },
		"join/born.range.max/http":                func(v string) bool { return v == "2009-03-01" },
		"join/born.range.max+1/http":              func(v string) bool { return v == "2009-03-02" },
		"join/plots.step.half/http":               func(v string) bool { return v == "2.5" },
		"join/membership.guess.zeros/http":        func(v string) bool { return strings.HasPrefix(v, "OS-0") },
		"join/membership.pattern.miss.fewer/http": func(v string) bool { return len(v) == 6 && strings.HasPrefix(v, "OS-") },
	} {
		i := slices.IndexFunc(cases, func(c *testcase.Case) bool { return c.ID == id })
		require.GreaterOrEqual(t, i, 0, "there is no case %s", id)
		subs, _ := resolve(t, d, cases[i], 3, now)
		name := d.Prepared().Field(cases[i].Row).Name
		v, _ := subs[0].Value(name)
		require.True(t, want(v), "%s sends %q", id, v)
	}
}

func TestWhatHasNoCaseIsTold(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /f
fields:
  - name: code
    rules:
      - pattern: {is: '[A-Z]{2}'}
      - length: {min: 2, max: 2}
`))
	cases, omitted := d.Cases(testcase.Standard)
	require.NotEmpty(t, cases)
	require.NotEmpty(t, omitted, "a length that the pattern fixes cannot be broken alone")
	require.Contains(t, omitted[0].About, "code.length")
}

func TestRulesAcrossFieldsAreBrokenAlone(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, `form: f
page: /f
fields:
  - {name: plots, kind: number, rules: [{range: {min: 1, max: 4}}, {step: {by: 1}}]}
  - {name: helper, kind: single_choice, options: [{value: "yes"}, {value: "no"}]}
across:
  - {id: help, must_hold: 'plots <= 2 || helper == "yes"'}
`))
	cases, _ := d.Cases(testcase.Quick)
	var got []string
	for _, c := range cases {
		if c.Row == testcase.RowAcross {
			got = append(got, c.ID+" "+string(c.Last().Expect)+" "+strings.Join(c.Last().Breaks, ","))
		}
	}
	require.Equal(t, []string{"f/across.help.given:plots<=2,!helper==yes/http accepted ", "f/across.help.given:!plots<=2,!helper==yes/http rejected by the server across.help"}, got)
}

func TestScalesOpenAndCloseWhereValuesAreAccepted(t *testing.T) {
	t.Parallel()
	p := join(t)
	cases, _ := designer(t, p).Cases(testcase.Standard)
	rows := scale.Rows(p, cases)
	i := slices.IndexFunc(rows, func(r scale.Row) bool { return r.ID == "plots" })
	var drawn []string
	for _, tick := range rows[i].Scales[0].Ticks {
		mark := tick.Label
		if tick.Opens {
			mark = "[" + mark
		}
		if tick.Closes {
			mark += "]"
		}
		drawn = append(drawn, mark)
	}
	require.Equal(t, "blank -1 0 [1 2] 2.5 [3 4] 5 1e9", strings.Join(drawn, " "))
	total := 0
	for _, r := range rows {
		for _, s := range r.Scales {
			for _, tick := range s.Ticks {
				total += len(tick.Cases)
			}
		}
	}
	require.Equal(t, len(cases), total, "every case has its tick")
}

// TestSeveralMayResolveAtOnce: a designer is shared by the cases of a batch; each must get what it would get alone.
func TestSeveralMayResolveAtOnce(t *testing.T) {
	t.Parallel()
	d := designer(t, join(t))
	cases, _ := d.Cases(testcase.Standard)
	alone := make([]testcase.Resolved, len(cases))
	together := make([]testcase.Resolved, len(cases))
	env := func() *testcase.Env {
		return &testcase.Env{Run: 5, Now: time.Unix(1_800_000_000, 0), OnPage: map[string]string{"ref": "r"}}
	}
	var wg sync.WaitGroup
	for i, c := range cases {
		wg.Go(func() { together[i], _ = d.Resolve(c, 0, env()) })
	}
	wg.Wait()
	for i, c := range cases {
		var err error
		alone[i], err = d.Resolve(c, 0, env())
		require.NoError(t, err)
		require.Equal(t, alone[i], together[i], c.ID)
	}
}
