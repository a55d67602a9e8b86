package contradiction_test

import (
	"strings"
	"testing"

	"oddtick/core/contradiction"

	"github.com/stretchr/testify/require"
)

func kindsOf(list []contradiction.Contradiction) []string {
	out := []string{}
	for _, c := range list {
		out = append(out, string(c.Kind))
	}
	return out
}

// TestWhatIsNoContradiction: each stands near to one, and a false alarm costs more trust than a missed one.
func TestWhatIsNoContradiction(t *testing.T) {
	t.Parallel()
	const stored = "stored: [{insert: t, columns: {a: {from: a}}}]\n"
	for name, c := range map[string]struct{ form, html, sql string }{
		"a page that marks nothing":              {"fields: [{name: a, rules: [{required: {}}, {length: {max: 9}}]}]\n", "<form action=/form><input name=a></form>", ""},
		"a repetition of a required field":       {"fields: [{name: a, kind: password, rules: [{required: {}}, {length: {max: 9}}]}, {name: b, kind: password, rules: [{same_as: {field: a}}]}]\n", "<form action=/form><input name=a required><input name=b required></form>", ""},
		"a conditional field marked as required": {"fields: [{name: c, kind: checkbox}, {name: a, when: c, rules: [{required: {}}, {length: {max: 9}}]}]\n", "<form action=/form><input name=c type=checkbox><input name=a required></form>", ""},
		"a blank text in a NOT NULL column":      {"fields: [{name: a, rules: [{length: {max: 9}}]}]\n" + stored, "", "CREATE TABLE t (a VARCHAR(9) NOT NULL)"},
		"a blank number where a default stands":  {"fields: [{name: a, kind: number, rules: [{range: {max: 9}}, {step: {by: 1}}]}]\n" + stored, "", "CREATE TABLE t (a INT NOT NULL DEFAULT 0)"},
		"a column that is filled by the server":  {"fields: [{name: a, rules: [{length: {max: 9}}]}]\n" + stored, "", "CREATE TABLE t (id INT AUTO_INCREMENT PRIMARY KEY, a VARCHAR(9), made TIMESTAMP NOT NULL DEFAULT CURRENT_TIMESTAMP, both VARCHAR(20) AS (CONCAT(a, 'x')))"},
		"an update that names few columns":       {"fields: [{name: a, rules: [{length: {max: 9}}]}]\nstored: [{update: t, columns: {a: {from: a}}}]\n", "", "CREATE TABLE t (a VARCHAR(9), b INT NOT NULL)"},
		"a secret longer than its hash's column": {"fields: [{name: a, kind: password, rules: [{length: {max: 300}}]}]\nstored: [{insert: t, columns: {a: {secret: a}}}]\n", "", "CREATE TABLE t (a CHAR(97))"},
		"the same text at two fields":            {"fields: [{name: a, rules: [{required: {message: Please.}}, {length: {max: 9}}]}, {name: b, rules: [{required: {message: Please.}}, {length: {max: 9}}]}]\n", "", ""},
		"a target with a query":                  {"fields: [{name: a, rules: [{length: {max: 9}}]}]\nsubmit: {to: /there}\n", "<form action='/there?x=1'><input name=a></form>", ""},
		"a limit that only the column sets":      {"fields: [{name: a}]\n" + stored, "", "CREATE TABLE t (a VARCHAR(9))"},
		"a browser's rule as strict":             {"fields: [{name: a, rules: [{length: {min: 2, max: 9}}, {length: {id: b, layers: [browser], min: 2, max: 18, in: utf-16_units}}]}]\n", "", ""},
		"a browser's step that divides":          {"fields: [{name: a, kind: number, rules: [{range: {min: 0, max: 9}}, {step: {by: 1}}, {step: {id: b, layers: [browser], by: 0.5}}]}]\n", "", ""},
		"an option's label stored":               {"fields: [{name: a, kind: single_choice, options: [{label: Near, value: n}]}]\nstored: [{insert: t, columns: {a: {from: a, option: label}}}]\n", "", "CREATE TABLE t (a ENUM('Near'))"},
		"a blank initial value":                  {"fields: [{name: a, initial: '', rules: [{required: {}}, {length: {max: 9}}]}]\n", "", ""},
		"replies that both can come":             {"fields: [{name: n, kind: number, rules: [{range: {min: 1, max: 4}}, {step: {by: 1}}]}]\naccepted: {reply: [{when: 'n > 3', text: many}, {when: 'n > 1', text: some}, {otherwise: few}]}\n", "", ""},
		"a trap that stays blank":                {"fields: [{name: a, rules: [{length: {max: 9}}]}, {name: w, kind: honeypot}]\n", "<form action=/form><input name=a><div class=trap><input name=w></div></form>", ""},
		"a secret without a page or a table":     {"fields: [{name: a, kind: password, rules: [{length: {max: 72, in: bytes}}]}]\n", "", ""},
	} {
		got := contradiction.Find(prepare(t, "form: f\npage: /form\n"+c.form), contradiction.Against{Page: onPage(t, c.html), Schema: tables(t, c.sql), Now: now})
		require.Empty(t, kindsOf(got), "%s: %v", name, got)
	}
}

// TestSeveralAreToldAtOnce, in the order of the fields, then those of the form as a whole.
func TestSeveralAreToldAtOnce(t *testing.T) {
	t.Parallel()
	form := `form: f
page: /form
submit: {method: GET, to: /other}
fields:
  - {name: a, rules: [{length: {min: 9, max: 3}}]}
  - {name: b, initial: x, rules: [{pattern: {is: "[0-9]{2}"}}, {pattern: {id: p, layers: [browser], is: "[0-4]{2}"}}]}
  - {name: c}
across: [{must_hold: 'b == "no"'}]
accepted: {reply: [{otherwise: first}, {when: 'c == "x"', text: never}]}
stored: [{insert: t, columns: {b: {from: b}, none: {is: 1}}}, {insert: gone, columns: {x: {is: 1}}}]
`
	got := contradiction.Find(prepare(t, form), contradiction.Against{
		Page: onPage(t, "<form action=/form method=post><input name=a required><input name=b><input name=c><input></form>"), Schema: tables(t, "CREATE TABLE t (b CHAR(1), must INT NOT NULL)"), Now: now,
	})
	require.Equal(t, []string{
		"minimum above maximum", "required mark that differs from the rule", "initial value that is rejected", "browser rule stricter than the server's", "column shorter than the rule", "field with no limit anywhere",
		"rules that exclude each other", "success reply that no input reaches", "control without a request name", "another form target than said", "another form target than said", "column that does not exist",
		"NOT NULL without control or default", "column that does not exist",
	}, kindsOf(got), "%v", got)
	impassable := []string{}
	for _, c := range got {
		require.NotEmpty(t, c.Proof, c.Kind)
		require.NotEmpty(t, c.Remedy, c.Kind)
		require.True(t, strings.HasSuffix(string(c.Words), "."), c.Words)
		if c.Impassable() {
			impassable = append(impassable, string(c.Kind))
		}
	}
	require.Equal(t, []string{"minimum above maximum"}, impassable, "an undecided one does not keep a form from being run")
}
