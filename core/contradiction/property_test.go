package contradiction_test

import (
	"fmt"
	"strings"
	"testing"

	"oddtick/core/contradiction"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// consistent draws a form whose rules can all be kept, with a table wide enough for what they let through.
func consistent(t *rapid.T) (form, sql string) {
	var fields, stored, columns, across []string
	n := rapid.IntRange(1, 6).Draw(t, "fields")
	for i := range n {
		id := fmt.Sprintf("f%d", i)
		var rules []string
		null := "NULL"
		if rapid.Bool().Draw(t, "required") {
			rules = append(rules, fmt.Sprintf("required: {message: R%d}", i))
			null = "NOT NULL"
		}
		kind, column := "text", ""
		switch rapid.IntRange(0, 4).Draw(t, "kind") {
		case 0:
			lo := rapid.IntRange(0, 20).Draw(t, "min")
			hi := lo + rapid.IntRange(1, 40).Draw(t, "more")
			rules = append(rules, fmt.Sprintf("length: {min: %d, max: %d, message: L%d}", lo, hi, i), fmt.Sprintf("length: {id: b, layers: [browser], max: %d, in: utf-16_units}", hi*2))
			if rapid.Bool().Draw(t, "pattern") {
				rules = append(rules, fmt.Sprintf("pattern: {is: '[a-z]{%d,}', message: P%d}", lo, i))
			}
			column = fmt.Sprintf("VARCHAR(%d)", hi+rapid.IntRange(0, 5).Draw(t, "spare"))
		case 1:
			kind = "number"
			lo := rapid.IntRange(-50, 50).Draw(t, "min")
			hi := lo + rapid.IntRange(1, 60).Draw(t, "more")
			rules = append(rules, fmt.Sprintf("range: {min: %d, max: %d, message: N%d}", lo, hi, i), fmt.Sprintf("step: {by: 1, message: S%d}", i), fmt.Sprintf("range: {id: b, layers: [browser], min: %d, max: %d}", lo-1, hi+1))
			column = "SMALLINT"
			across = append(across, fmt.Sprintf("%s <= %d", id, hi-1))
		case 2:
			kind = "date"
			rules = append(rules, fmt.Sprintf(`range: {min: "today - %d years", max: "today - %d years", message: D%d}`, rapid.IntRange(50, 100).Draw(t, "old"), rapid.IntRange(0, 50).Draw(t, "young"), i))
			column = "DATE"
		case 3:
			kind = "checkbox"
			column, null = "BOOLEAN", "NOT NULL"
			rules = nil
		default:
			kind = "single_choice, options: [{value: a}, {value: bb}, {value: ccc}]"
			column = "VARCHAR(3)"
			across = append(across, fmt.Sprintf("%s != \"bb\"", id))
		}
		fields = append(fields, fmt.Sprintf("  - {name: %s, kind: %s, rules: [{%s}]}", id, kind, strings.Join(rules, "}, {")))
		if len(rules) == 0 {
			fields[i] = fmt.Sprintf("  - {name: %s, kind: %s}", id, kind)
		}
		stored = append(stored, fmt.Sprintf("%s: {from: %s}", id, id))
		columns = append(columns, fmt.Sprintf("%s %s %s", id, column, null))
	}
	form = "form: f\npage: /\nfields:\n" + strings.Join(fields, "\n") + "\nstored: [{insert: t, columns: {" + strings.Join(stored, ", ") + "}}]\n"
	if len(across) > 0 {
		form += "across: [{must_hold: '" + rapid.SampledFrom(across).Draw(t, "across") + "'}]\n"
	}
	return form, "CREATE TABLE t (" + strings.Join(columns, ", ") + ")"
}

func TestConsistentSpecificationsHaveNone(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(rt *rapid.T) {
		form, sql := consistent(rt)
		require.Empty(rt, contradiction.Find(prepare(rt, form), contradiction.Against{Schema: tables(t, sql), Now: now}), "%s\n%s", form, sql)
	})
}
