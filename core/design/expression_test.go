package design_test

import (
	"testing"

	"oddtick/core/design"
	"oddtick/core/design/decision"
	"oddtick/core/testcase"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestATableIsWrittenAsTheShorterExpression(t *testing.T) {
	t.Parallel()
	column := func(entries, outcome string) decision.Column {
		c := decision.Column{Outcome: outcome}
		for _, e := range entries {
			c.Entries = append(c.Entries, map[rune]decision.Entry{'y': decision.Yes, 'n': decision.No, '-': decision.Either}[e])
		}
		return c
	}
	conditions := []string{`crop == "bean"`, "rows <= 4", "shade"}
	for _, test := range []struct {
		columns []decision.Column
		want    string
	}{
		{[]decision.Column{column("yy-", "holds"), column("yn-", "fails"), column("n--", "holds")}, `crop != "bean" || rows <= 4`},
		{[]decision.Column{column("--y", "fails"), column("--n", "holds")}, "!shade"},
		{[]decision.Column{column("---", "holds")}, "true"},
		{[]decision.Column{column("---", "fails")}, "false"},
	} {
		got, err := decision.Expression(conditions, test.columns, "holds")
		require.NoError(t, err)
		assert.Equal(t, test.want, got)
	}
	_, err := decision.Expression(conditions, []decision.Column{column("y--", "holds")}, "holds")
	assert.ErrorContains(t, err, "do not say what happens")
	_, err = decision.Expression(conditions, []decision.Column{column("y-", "holds")}, "holds")
	assert.ErrorContains(t, err, "2 entries for 3 conditions")
}

// What is written of a table has the same table, also with one outcome turned round.
func TestAnExpressionGivesItsTableBack(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := prepared(t, beds+"across:\n  - {id: r, must_hold: '"+RuleOf(t)+"'}\n")
		table := designer(t, p).Design(design.Plan{Depth: testcase.Quick}).Tables[0]
		turned := rapid.IntRange(-1, len(table.Columns)-1).Draw(t, "turned")
		if turned >= 0 {
			c := &table.Columns[turned]
			c.Outcome = map[string]string{"holds": "fails", "fails": "holds"}[c.Outcome]
		}
		text, err := decision.Expression(table.Conditions, table.Columns, "holds")
		require.NoError(t, err)
		conditions, atoms, err := p.Conditions(text)
		require.NoError(t, err, text)
		for mask := range 1 << len(table.Conditions) {
			of := map[string]bool{}
			for i, c := range table.Conditions {
				of[c] = mask>>i&1 == 1
			}
			known := true
			for _, a := range atoms {
				_, ok := of[a.Text]
				known = known && ok
			}
			if !known {
				continue // an opposite comparison; the values themselves are compared elsewhere
			}
			want := ""
			for _, c := range table.Columns {
				hit := true
				for i, e := range c.Entries {
					hit = hit && (e == decision.Either || (e == decision.Yes) == (mask>>i&1 == 1))
				}
				if hit {
					want = c.Outcome
				}
			}
			require.Equal(t, want == "holds", conditions[0].Holds(func(i int) bool { return of[atoms[i].Text] }), text)
		}
	})
}
