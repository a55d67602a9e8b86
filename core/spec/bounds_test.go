package spec_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestAttackByDocumentsWithoutEnd: each is refused at once, with the bound and what to do.
func TestAttackByDocumentsWithoutEnd(t *testing.T) {
	t.Parallel()
	var indented strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&indented, "%sa:\n", strings.Repeat(" ", i))
	}
	form := func(rules, rest string) string {
		return "form: f\npage: /f\nfields:\n  - {id: a, name: a, kind: text, rules: [" + rules + "]}\n  - {id: b, name: b, kind: multiple_choice, options: [{label: x, value: x}]}\n  - {id: c, name: c, kind: file, rules: [{file: {max: 10}}]}\n" + rest
	}
	for name, c := range map[string]struct{ text, says string }{
		"nested lists":         {"form: f\nfields: " + strings.Repeat("[", 60_000), "more than 100 levels"},
		"nested maps":          {"form: f\nfields: " + strings.Repeat("{a: ", 30_000), "more than 100 levels"},
		"nested entries":       {"form: f\nfields:\n  " + strings.Repeat("- ", 60_000) + "a", "more than 100 levels"},
		"indented":             {indented.String(), "more than 100 levels"},
		"too long":             {"form: f\n#" + strings.Repeat("x", 9<<20), "at most 8388608 are read"},
		"a length":             {form("{length: {max: 2000000000}}", ""), "lengths beyond 1000000 are not tried"},
		"a least length":       {form("{length: {min: 2000000000}}", ""), "lengths beyond 1000000 are not tried"},
		"a file":               {strings.Replace(form("", ""), "max: 10}", "max: 9999999999}", 1), "files of more than"},
		"a loop in a loop":     {form("", "across:\n  - {id: x, must_hold: 'b.all(i, b.all(j, i == j))'}\n"), "within another one"},
		"a loop in a list":     {form("", "across:\n  - {id: x, must_hold: '[1, 2].exists(i, [3, 4].exists(j, i < j)) || a == \"\"'}\n"), "within another one"},
		"an expression":        {form("", "across:\n  - {id: x, must_hold: 'a == \""+strings.Repeat("x", 5000)+"\"'}\n"), "at most 4000 are computed"},
		"nested parentheses":   {form("", "across:\n  - {id: x, must_hold: '"+strings.Repeat("(", 3000)+"a"+strings.Repeat(")", 3000)+"'}\n"), "cannot be read"},
		"aliases upon aliases": {"form: f\na: &a [x, x]\nb: &b [*a, *a]\nfields: [*b, *b]\n", ""},
	} {
		begun := time.Now()
		f, err := spec.ReadForm("f.yaml", []byte(c.text))
		if err == nil {
			_, err = f.Prepare()
		}
		require.ErrorContains(t, err, c.says, name)
		require.Less(t, time.Since(begun), 20*time.Second, name)
	}
	f, err := spec.ReadForm("f.yaml", []byte(form("{length: {max: 1000000}}", "across:\n  - {id: x, must_hold: 'b.all(i, i != a) && b.exists(i, i == a)'}\n")))
	require.NoError(t, err)
	_, err = f.Prepare()
	require.NoError(t, err)
	_, err = spec.ParseAttachment("a.png, image/png, 9999999999 bytes")
	require.ErrorContains(t, err, "is not made")
}
