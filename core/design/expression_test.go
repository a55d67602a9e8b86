package design_test

import (
	"testing"

	"oddtick/core/design"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestATableIsWrittenAsTheShorterExpression(t *testing.T) {
	t.Parallel()
	column := func(entries, outcome string) design.Column {
		c := design.Column{Outcome: outcome}
		for _, e := range entries {
			c.Entries = append(c.Entries, map[rune]design.Entry{'y': design.Yes, 'n': design.No, '-': design.Either}[e])
		}
		return c
	}
	conditions := []string{`crop == "bean"`, "rows <= 4", "shade"}
	for _, test := range []struct {
		columns []design.Column
		want    string
	}{
		{[]design.Column{column("yy-", "holds"), column("yn-", "fails"), column("n--", "holds")}, `crop != "bean" || rows <= 4`},
		{[]design.Column{column("--y", "fails"), column("--n", "holds")}, "!shade"},
		{[]design.Column{column("---", "holds")}, "true"},
		{[]design.Column{column("---", "fails")}, "false"},
	} {
		got, err := design.Expression(conditions, test.columns, "holds")
		require.NoError(t, err)
		assert.Equal(t, test.want, got)
	}
	_, err := design.Expression(conditions, []design.Column{column("y--", "holds")}, "holds")
	assert.ErrorContains(t, err, "do not say what happens")
	_, err = design.Expression(conditions, []design.Column{column("y-", "holds")}, "holds")
	assert.ErrorContains(t, err, "2 entries for 3 conditions")
}

// What is written of a table has the same table, also with one outcome turned round.
func TestAnExpressionGivesItsTableBack(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		p := prepared(t, beds+"across:\n  - {id: r, holds: '"+rule(t)+"'}\n")
		table := designer(t, p).Design(design.Plan{Depth: design.Quick}).Tables[0]
		turned := rapid.IntRange(-1, len(table.Columns)-1).Draw(t, "turned")
		if turned >= 0 {
			c := &table.Columns[turned]
			c.Outcome = map[string]string{"holds": "fails", "fails": "holds"}[c.Outcome]
		}
		text, err := design.Expression(table.Conditions, table.Columns, "holds")
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
					hit = hit && (e == design.Either || (e == design.Yes) == (mask>>i&1 == 1))
				}
				if hit {
					want = c.Outcome
				}
			}
			require.Equal(t, want == "holds", conditions[0].Holds(func(i int) bool { return of[atoms[i].Text] }), text)
		}
	})
}
