package spec_test

import (
	"os"
	"strings"
	"testing"
	"time"

	"oddtick/core/document"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

// TestWhatADocumentCannotSay: each wrong statement of the further parts is told with its path and what to do.
func TestWhatADocumentCannotSay(t *testing.T) {
	t.Parallel()
	for text, says := range map[string]string{
		"fields: [{name: a, when: 'b'}]":                                                    "fields[0].when: the expression cannot be read at character 1: undeclared reference to 'b'",
		"fields: [{name: a, when: 'a + a'}]":                                                "fields[0].when: the expression gives a string, not a truth value",
		"fields: [{name: a, rules: [{required: {when: 'size('}}]}]":                         "fields[0].rules[0].required.when",
		"fields: [{name: a, kind: multiple_choice}]":                                        "a choice needs its options",
		"fields: [{name: a, kind: number, rules: [{url: {}}, {pattern: {is: x}}]}]":         "a number takes no pattern",
		"fields: [{name: a, kind: date, rules: [{range: {min: soon}}]}]":                    "write 2026-04-01, today, or today - 18 years",
		"fields: [{name: a, kind: time, rules: [{range: {min: soon}}]}]":                    "write 09:30",
		"fields: [{name: a, rules: [{exists_in: {column: t}}]}]":                            "fields[0].rules[0].exists_in.column: \"t\" names no column",
		"fields: [{name: a, rules: [{matches_secret: {stored: a.b.c}}]}]":                   "fields[0].rules[0].matches_secret.stored",
		"fields: [{name: a, rules: [{range: {min: 1, zone: Mars/Olympus}}]}]":               "the time zone \"Mars/Olympus\" is not known",
		"stored: [{columns: {a: {is: 1}}}]":                                                 "stored[0]: no table is named; write insert: or update:",
		"stored: [{insert: t, update: t}]":                                                  "a row is either inserted or updated",
		"stored: [{insert: t, when: 'x'}]":                                                  "stored[0].when",
		"stored: [{insert: t, columns: {a: {}}}]":                                           "a column has one source, found 0",
		"stored: [{insert: t, columns: {a: {generated: number}}}]":                          `"number" is not known here; write one of: uuid, sequence`,
		"fields: [{name: a}]\nstored: [{insert: t, columns: {a: {from: a, option: both}}}]": "write one of: label, value",
		"accepted: {reply: [{when: 'nobody', text: x}]}":                                    "accepted.reply[0].when",
		"across: [{must_hold: '1 + 1'}]":                                                    "across[0].must_hold: the expression gives a int, not a truth value",
		"across: [{id: Rule, must_hold: 'true', when: 'x'}]":                                "across[0].when",
		"fields: [{name: a, control: {role: dial}}]":                                        "write one of: switch, checkbox, combobox, listbox, radiogroup, group, slider, spinbutton, textbox, typed_date, calendar",
		"before: {rows: [{table: t, columns: [x]}]}":                                        "before.rows[0].columns: a map of keys is expected",
		"before: {rows: [{columns: {x: 1}}]}":                                               "before.rows[0]: which row must exist is not said",
		"before: {rows: [{table: t, columns: {x: 1}, by: {page: /x}}]}":                     "before.rows[0].by: what is to be filled in is not said",
		"fields: [{name: a}]\nstages: [{fields: [b], next: Go}, {}]":                        "\"b\" is not a field of the form",
		"fields: [{name: a}, {name: c}]\nstages: [{fields: [a], next: Go}, {}]":             "the field c stands on no step",
		"fields: [{name: a}]\nstages: [{fields: [a], next: Go}, {fields: [a]}]":             "the field a stands on step 1 already",
		"fields: [{name: a}]\nstages: [{fields: [a]}, {}]":                                  "nothing leads to the next step",
		"fields: [{name: a}]\nstages: [{fields: [a], next: Go}]":                            "the last step leads to no other",
		"requests: {signed_out: {status: 401}}":                                             "the form is not for those who are signed in",
		"submit: {encoding: xml}":                                                           "write one of: urlencoded, multipart, json",
	} {
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\n"+text+"\n"))
		require.ErrorContains(t, err, says, text)
		require.Contains(t, err.Error(), "f.yaml:", text)
	}
}

func TestProblemsAreFoundByIDs(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../document/testdata/shed.yaml")
	require.NoError(t, err)
	f, err := spec.ReadForm("f.yaml", text)
	require.NoError(t, err)
	for path, line := range map[string]int{"fields[who].rules[length].max": 12, "fields[who].rules[pattern]": 14, "fields[tool].options": 15, "fields[note]": 17, "stored[loans].columns.tool_code": 31, "fields[nobody]": 5, "accepted.to": 26} {
		p := f.Problem(path, "mend it", "this is %s", "wrong")
		require.Equal(t, line, p.Line, path)
		require.Equal(t, path, p.Path)
		require.Contains(t, p.Error(), "this is wrong; mend it")
	}
}

func TestARuleIsWrittenAsADocumentHasIt(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("f.yaml", []byte(`form: f
page: /
fields:
  - name: a
    rules:
      - required: {message: Please.}
      - length: {message: {en: Long., cy: Hir.}, max: 9, min: 2, layers: [browser], place: summary, in: bytes}
      - length: {max: 20}
      - pattern: {message: {part: wrong}, is: x, rejected: {status: 400}}
`))
	require.NoError(t, err)
	written := []string{}
	for i := range f.Fields[0].Rules {
		written = append(written, string(document.Rule(&f.Fields[0].Rules[i])))
	}
	require.Equal(t, []string{
		`{"required":{"message":"Please."}}`,
		`{"length":{"layers":["browser"],"min":2,"max":9,"in":"bytes","message":{"cy":"Hir.","en":"Long."},"place":"summary"}}`,
		`{"length":{"id":"length_2","max":20}}`,
		`{"pattern":{"is":"x","message":{"part":"wrong"},"rejected":{"status":400}}}`,
	}, written)
}

func TestExpressionsSeeFieldsByTheirKinds(t *testing.T) {
	t.Parallel()
	p := Prepared(t, `form: f
page: /
fields:
  - {name: t}
  - {name: n, kind: number}
  - {name: c, kind: checkbox}
  - {name: s, kind: multiple_choice, options: [{value: a}, {value: b}]}
  - {name: d, kind: date}
across:
  - {must_hold: 't.startsWith("x")'}
  - {must_hold: 'n * 2 < 9'}
  - {must_hold: '!c'}
  - {must_hold: '"a" in s && size(s) == 1'}
  - {must_hold: 'd < "2026-01-01"'}
`)
	vars := func(text, number string, ticked bool, chosen []string, day string) map[string]any {
		out := map[string]any{}
		for i, sent := range []string{text, number, "on", strings.Join(chosen, ""), day} {
			f := p.Fields[i]
			v := f.ValueOf(sent, f.Kind != spec.Checkbox || ticked)
			if f.Kind == spec.MultipleChoice {
				v.Choose(chosen)
			}
			out[f.ID] = f.Var(&v)
		}
		return out
	}
	holds := func(v map[string]any) string {
		out := ""
		for _, r := range p.Across {
			out += map[bool]string{true: "1", false: "0"}[r.Holds(v)]
		}
		return out
	}
	require.Equal(t, "11111", holds(vars("xy", "4", false, []string{"a"}, "2025-12-31")))
	require.Equal(t, "00000", holds(vars("y", "4.5", true, []string{"a", "b"}, "2026-01-01")))
	require.Equal(t, "1", holds(vars("", "", false, nil, ""))[1:2], "a rule passes where a number it needs is blank")
	for i, want := range [][]string{{"t"}, {"n"}, {"c"}, {"s"}, {"d"}} {
		names := []string{}
		for _, f := range p.Across[i].Names {
			names = append(names, f.ID)
		}
		require.Equal(t, want, names)
	}
}

func TestRelativeBoundsMoveWithTheClock(t *testing.T) {
	t.Parallel()
	p := Prepared(t, "form: f\npage: /\nfields: [{name: a, kind: datetime, rules: [{range: {min: now - 1 hour, max: now, zone: Europe/London}}]}]\n")
	r := p.Rules[0]
	now := time.Date(2026, 7, 1, 12, 0, 0, 0, time.UTC) // 13:00 in London
	for text, want := range map[string]bool{"2026-07-01T13:00": true, "2026-07-01T12:00": true, "2026-07-01T11:59": false, "2026-07-01T13:01": false} {
		v := p.Fields[0].ValueOf(text, true)
		require.Equal(t, want, r.Passes(&v, now), text)
	}
}
