package design_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"oddtick/core/design"
	"oddtick/core/design/decision"
	"oddtick/core/oracle"
	"oddtick/core/spec"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const beds = `form: beds
page: /beds
fields:
  - {name: crop, kind: single_choice, options: [{value: bean}, {value: leek}, {value: kale}]}
  - {name: rows, kind: number, rules: [{required: {}}, {range: {min: 1, max: 6}}, {step: {by: 1}}]}
  - {name: shade, kind: checkbox, value: "1"}
  - {name: net, kind: single_choice, when: 'crop == "kale"', options: [{value: fine}, {value: coarse}]}
accepted: {status: 303}
`

func tables(t require.TestingT, text string) map[string]*decision.Table {
	set := designer(t, prepared(t, text)).Design(design.Plan{Depth: testcase.Thorough})
	out := map[string]*decision.Table{}
	for _, table := range set.Tables {
		out[table.ID] = table
	}
	return out
}

func columnsOf(table *decision.Table) []string {
	var out []string
	for _, c := range table.Columns {
		text := decision.ColumnText(c.Entries) + " " + c.Outcome
		if c.Infeasible != "" {
			text += " (" + string(c.Infeasible) + ")"
		}
		out = append(out, text)
	}
	return out
}

func TestColumnsAreMergedAndTheInfeasibleTold(t *testing.T) {
	t.Parallel()
	all := tables(t, beds+`across:
  - {id: light, must_hold: 'crop != "bean" || !shade'}
  - {id: room, must_hold: 'crop == "bean" ? crop != "leek" : rows <= 4'}
`)
	assert.Equal(t, []string{"yy fails", "yn holds", "n- holds"}, columnsOf(all["across.light"]))
	assert.Equal(t, []string{
		`yy- fails (crop == "bean" and crop == "leek" never hold together: all 24 combinations of the fields' values were tried)`,
		"yn- holds", "n-y holds", "n-n fails",
	}, columnsOf(all["across.room"]))
	assert.Equal(t, []string{"y asked", "n not asked"}, columnsOf(all["net.when"]))
	for _, e := range all["across.light"].Effects {
		assert.Empty(t, e.Why, e.Condition)
	}
}

func TestARuleIsBrokenAloneThoughItsValuesBreakAnother(t *testing.T) {
	t.Parallel()
	set := designer(t, prepared(t, beds+`across:
  - {id: room, must_hold: 'rows <= 4 || shade'}
  - {id: kale, must_hold: 'crop != "kale" || rows <= 4'}
`)).Design(design.Plan{Depth: testcase.Quick})
	require.Empty(t, set.Omitted)
	require.True(t, slices.ContainsFunc(set.Cases, func(c *testcase.Case) bool { return slices.Equal(c.Last().Breaks, []string{"across.kale"}) }))
}

func TestRepliesAreToldApart(t *testing.T) {
	t.Parallel()
	text := strings.Replace(beds, "accepted: {status: 303}", `accepted:
  status: 303
  reply: [{when: 'rows > 4', text: "Much."}, {when: 'shade', text: "Cool."}, {otherwise: "Well."}]`, 1)
	assert.Equal(t, []string{"y- reply 1: Much.", "ny reply 2: Cool.", "nn reply 3: Well."}, columnsOf(tables(t, text)["replies"]))
}

func TestTooManyConditionsAreNotDrawnButTested(t *testing.T) {
	t.Parallel()
	var parts []string
	for n := 1; n <= 4; n++ {
		parts = append(parts, fmt.Sprintf("rows == %d && shade", n), fmt.Sprintf("rows == %d && crop == \"leek\"", n+1))
	}
	table := tables(t, beds+"across:\n  - {id: many, must_hold: '"+strings.Join(parts[:7], " || ")+" || crop == \"bean\" || crop == \"kale\"'}\n")["across.many"]
	require.NotEmpty(t, table.Limit)
	require.Empty(t, table.Columns)
	require.NotEmpty(t, table.Effects)
}

// RuleOf draws an expression over the form's fields.
func RuleOf(t *rapid.T) string {
	leaves := []string{`crop == "bean"`, `crop != "leek"`, `crop == "kale"`, `rows <= 2`, `rows > 4`, `rows == 3`, `shade`}
	var build func(depth int) string
	build = func(depth int) string {
		kind := rapid.IntRange(0, 4).Draw(t, "kind")
		switch {
		case depth == 0 || kind < 2:
			return rapid.SampledFrom(leaves).Draw(t, "leaf")
		case kind == 2:
			return "(" + build(depth-1) + " && " + build(depth-1) + ")"
		case kind == 3:
			return "(" + build(depth-1) + " || " + build(depth-1) + ")"
		}
		return "!(" + build(depth-1) + ")"
	}
	return build(3)
}

// Every input there is goes exactly one column, and has its outcome; a column said to be infeasible is gone by none; each effect's
// two cases differ in the one condition and in the outcome.
func TestDecisionTablesByExhaustion(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		expression := RuleOf(t)
		p := prepared(t, beds+"across:\n  - {id: r, must_hold: '"+expression+"'}\n")
		d := designer(t, p)
		set := d.Design(design.Plan{Depth: testcase.Thorough})
		table := set.Tables[0]
		_, atoms, err := p.Conditions(expression)
		require.NoError(t, err)
		gone := make([]bool, len(table.Columns))
		for _, crop := range []string{"bean", "leek", "kale", ""} {
			for rows := int64(1); rows <= 6; rows++ {
				for _, shade := range []bool{true, false} {
					vars := map[string]any{"crop": crop, "rows": rows, "shade": shade, "net": ""}
					hits := 0
					for i, c := range table.Columns {
						if matches(c.Entries, atoms, vars) {
							hits++
							gone[i] = true
							require.Equal(t, p.Across[0].Holds(vars), c.Outcome == "holds", "%s with %v", expression, vars)
						}
					}
					require.Equal(t, 1, hits, "%s with %v", expression, vars)
				}
			}
		}
		for i, c := range table.Columns {
			require.Equal(t, gone[i], c.Infeasible == "", "%s: column %v %s", expression, c.Entries, c.Infeasible)
			require.Equal(t, gone[i], c.Case != "", "%s: column %v", expression, c.Entries)
		}
		byID := map[string]*testcase.Case{}
		for _, c := range set.Cases {
			byID[c.ID] = c
		}
		reader := d.Reader()
		for i, e := range table.Effects {
			if e.Why != "" {
				continue
			}
			holds, fails := truths(t, d, reader, byID[e.Holds], atoms), truths(t, d, reader, byID[e.Fails], atoms)
			for k := range atoms {
				require.Equal(t, k == i, holds[k] != fails[k], "%s: %s in condition %d", expression, e.Condition, k)
			}
			require.NotEqual(t, slices.Contains(byID[e.Holds].Last().Breaks, "across.r"), slices.Contains(byID[e.Fails].Last().Breaks, "across.r"))
		}
	})
}

func matches(entries []decision.Entry, atoms []*spec.Atom, vars map[string]any) bool {
	for i, e := range entries {
		truth, known := atoms[i].True(vars)
		if !known || e == decision.Yes && !truth || e == decision.No && truth {
			return false
		}
	}
	return true
}

func truths(t require.TestingT, d *design.Designer, reader *testcase.Reader, c *testcase.Case, atoms []*spec.Atom) []bool {
	require.NotNil(t, c)
	sent, err := reader.Values(c, 0)
	require.NoError(t, err)
	list, filled := sent.Values, sent.Filled
	vars := map[string]any{}
	for i, f := range d.Prepared().Fields {
		if !filled[i] {
			list[i] = spec.Value{Blank: true}
		}
		vars[f.ID] = f.Var(&list[i])
	}
	out := make([]bool, len(atoms))
	for i, a := range atoms {
		truth, known := a.True(vars)
		require.True(t, known, c.ID)
		out[i] = truth
	}
	return out
}

// Every pair of levels that the rules let stand together is in some row, by the values that the rows really send.
func TestRowsHoldEveryFeasiblePair(t *testing.T) {
	t.Parallel()
	d := designer(t, prepared(t, beds+`across:
  - {id: room, must_hold: 'crop != "bean" || rows <= 4'}
`))
	set := d.Design(design.Plan{Depth: testcase.Standard})
	reader := d.Reader()
	type sent struct{ crop, rows, shade, net string }
	var rows []sent
	for _, c := range set.Cases {
		if c.Technique != testcase.Combination {
			continue
		}
		require.Equal(t, oracle.Accepted, c.Last().Expect, c.ID)
		values, err := reader.Values(c, 0)
		require.NoError(t, err)
		list, filled := values.Values, values.Filled
		s := sent{list[0].Normal, list[1].Normal, fmt.Sprint(!list[2].Blank), list[3].Normal}
		if !filled[3] {
			s.net = "not asked"
		}
		rows = append(rows, s)
	}
	require.Len(t, set.Combined.Rows, len(rows))
	has := func(test func(sent) bool) bool { return slices.ContainsFunc(rows, test) }
	for _, crop := range []string{"bean", "leek", "kale", ""} {
		for _, n := range []string{"1", "2", "6"} {
			feasible := crop != "bean" || n != "6"
			assert.Equal(t, feasible, has(func(s sent) bool { return s.crop == crop && s.rows == n }), "%s %s", crop, n)
		}
		for _, net := range []string{"fine", "coarse", "", "not asked"} {
			feasible := (crop == "kale") == (net != "not asked")
			assert.Equal(t, feasible, has(func(s sent) bool { return s.crop == crop && s.net == net }), "%s %s", crop, net)
		}
	}
	for _, n := range []string{"1", "2", "6"} {
		for _, shade := range []string{"true", "false"} {
			assert.True(t, has(func(s sent) bool { return s.rows == n && s.shade == shade }))
		}
	}
	assert.Equal(t, set.Combined.Tuples, len(set.Combined.Covered()))
	growth, err := d.Growth(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	require.Len(t, growth, 4)
	for i, size := range growth[1:] {
		assert.GreaterOrEqual(t, size.Rows, growth[i].Rows, "a strength more takes no fewer rows")
	}
	assert.Greater(t, len(d.Design(design.Plan{Depth: testcase.Standard, Strength: 3}).Combined.Rows), len(rows))
}

func TestRulesThatLeaveNothingAreTold(t *testing.T) {
	t.Parallel()
	set := designer(t, prepared(t, beds+"across: [{id: never, must_hold: 'rows > 6'}]\n")).Design(design.Plan{Depth: testcase.Standard})
	require.Contains(t, set.Combined.Why, "the constraints leave no row at all")
	require.Empty(t, set.Combined.Rows)
}
