package spec_test

import (
	"os"
	"strings"
	"testing"

	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

const small = `form: join
page: /join
fields:
  - name: user
    rules:
      - required: {message: Choose one.}
      - length: {min: 3, max: 20}
`

func TestReadsWhatIsWritten(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("join.yaml", []byte(small+`  - name: e_mail
    kind: email
    normalize: [trim, lower]
    rules:
      - email: {message: {en: Not an address., cy: Nid cyfeiriad.}}
      - unique: {column: plot_holders.mail, ignoring: [case]}
  - {name: plots, kind: number, rules: [{range: {min: 1, max: 4}}, {step: {by: 1}}]}
  - {name: born-on, kind: date}
across:
  - must_hold: plots <= 2 || user != "x"
stored:
  - insert: plot_holders
    columns: {login: {from: user}, no: {from: plots, blank: null}, at: {now: {within: 5s}}, role: {is: 7}}
`))
	require.NoError(t, err)
	require.Equal(t, "Choose one.", f.Fields[0].Rules[0].Required.Message.Text)
	require.Equal(t, 20, *f.Fields[0].Rules[1].Length.Max)
	text, ok := f.Fields[1].Rules[0].Email.Message.In("cy")
	require.True(t, ok)
	require.Equal(t, "Nid cyfeiriad.", text)
	require.Equal(t, spec.BlankNull, f.Stored[0].Columns["no"].Blank)
	require.Equal(t, spec.Scalar("7"), *f.Stored[0].Columns["role"].Is)
	require.Equal(t, "born_on", f.Fields[3].ID)
	require.Equal(t, spec.RuleDate, f.Fields[3].Rules[0].Kind(), "a date is implied to be one")
	p, err := f.Prepare()
	require.NoError(t, err)
	require.Equal(t, []string{"user.required", "user.length", "e_mail.email", "e_mail.unique", "plots.range", "plots.step", "plots.number", "born_on.date", "across.across_1"}, ids(p.Rules))
	require.Len(t, p.Across[0].Names, 2)
}

func ids(rules []*spec.PreparedRule) []string {
	out := make([]string, len(rules))
	for i, r := range rules {
		out[i] = r.ID
	}
	return out
}

func TestReadsJSONAlike(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("join.json", []byte(`{"form": "join", "page": "/join", "fields": [{"name": "user", "rules": [{"required": {"message": "Choose one."}}, {"length": {"min": 3, "max": 20}}]}]}`))
	require.NoError(t, err)
	y, err := spec.ReadForm("join.yaml", []byte(small))
	require.NoError(t, err)
	require.Equal(t, y.Fields, f.Fields)
}

// TestBadInput: every problem names file, line, column and path, and what to do.
func TestBadInput(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ text, says string }{
		"no YAML":            {"form: [join\npage: x", "f.yaml:2:1: this is not YAML"},
		"unknown key":        {strings.Replace(small, "page:", "pages:", 1), `f.yaml:2:1: pages: the key "pages" is not known here; did you mean "page"?`},
		"unknown rule":       {strings.Replace(small, "length:", "lenght:", 1), `f.yaml:7:9: fields[0].rules[1].lenght: the key "lenght" is not known here; did you mean "length"?`},
		"wrong type":         {strings.Replace(small, "min: 3", "min: three", 1), "f.yaml:7:18: fields[0].rules[1].length.min: a whole number is expected, not a text"},
		"list for map":       {"form: join\npage: /j\nfields: {a: b}\n", "f.yaml:3:1: fields: a list is expected, not a map of keys"},
		"unreadable pattern": {small + "      - pattern: {is: '[a-'}\n", `fields[0].rules[2].pattern.is: pattern "[a-", character`},
		"message's pattern":  {strings.Replace(small, "message: Choose one.", "message: {pattern: 'a (name'}", 1), "fields[0].rules[0].required.message.pattern: the pattern cannot be read: error parsing regexp: missing closing ): `a (name`; write it in RE2's syntax"},
		"no such field":      {small + "      - same_as: {field: nobody}\n", `fields[0].rules[2].same_as.field: there is no field "nobody"; the fields' ids are: user`},
		"two kinds at once":  {small + "      - {required: {}, email: {}}\n", "one kind of rule is expected here, found several"},
		"nothing":            {small + "      - email:\n", "f.yaml:8:9: fields[0].rules[2].email: nothing stands here; write {}"},
		"unknown kind":       {small + "  - {name: a, kind: colour}\n", `the kind "colour" is not known; write one of: text`},
		"word outside list":  {small + "      - unique: {column: t.c, ignoring: [colour]}\n", `fields[0].rules[2].unique.ignoring[0]: "colour" is not known here; write one of: case, accents, spaces`},
		"bad expression":     {small + "across:\n  - must_hold: user ==\n", "f.yaml:9:5: across[0].must_hold: the expression cannot be read"},
		"unknown variable":   {small + "across:\n  - must_hold: nobody == user\n", "undeclared reference to 'nobody'"},
		"no truth value":     {small + "across:\n  - must_hold: user + user\n", "the expression gives a string, not a truth value"},
		"same id twice":      {small + "  - name: user\n", `there are two fields with the id "user"`},
		"column":             {small + "      - unique: {column: mail}\n", `"mail" names no column; write table.column`},
		"neither":            {"colour: red\n", "f.yaml:1:7: this is neither a form nor a site document"},
		"empty":              {"# nothing\n", "f.yaml: the file holds no document"},
		"two sources":        {small + "stored:\n  - insert: t\n    columns: {c: {from: user, null: true}}\n", "a column has one source, found 2"},
		"range of text":      {small + "      - range: {min: 1}\n", "a range needs a number, a date or a time"},
		"date bound":         {small + "  - {name: d, kind: date, rules: [{range: {max: yesterday}}]}\n", "write 2026-04-01, today, or today - 18 years"},
		"template":           {small + "accepted: {reply: 'Welcome, {nobody}.'}\n", `there is no field "nobody"`},
	} {
		_, err := spec.ReadForm("f.yaml", []byte(c.text))
		require.ErrorContains(t, err, c.says, name)
		require.IsType(t, spec.Problems{}, err, name)
	}
}

// TestACodesPatternIsReadWithTheJourney, not when the mail is there.
func TestACodesPatternIsReadWithTheJourney(t *testing.T) {
	t.Parallel()
	_, err := spec.ReadProject([]spec.File{{Name: "site.yaml", Text: []byte("site: ost\naddress: http://127.0.0.1:1\njourneys:\n  - {id: whole, steps: [{submit: join}, {wait_for: mail, code: '('}]}\n---\n" + small)}})
	require.ErrorContains(t, err, "site.yaml:4:58: journeys[0].steps[1].code: the pattern cannot be read: error parsing regexp: missing closing )")
}

func TestAllProblemsAreToldAtOnce(t *testing.T) {
	t.Parallel()
	_, err := spec.ReadForm("f.yaml", []byte("form: join\npage: [x]\nfields: 7\ncolour: red\n"))
	require.Len(t, err, 3)
}

func TestProjectKeepsFormsApart(t *testing.T) {
	t.Parallel()
	p, err := spec.ReadProject([]spec.File{
		{Name: "site.yaml", Text: []byte("site: ost\naddress: http://127.0.0.1:1\ndatabases: [{id: main, dsn: x, ignore: [log]}]\n---\n" + small)},
		{Name: "b.yaml", Text: []byte(strings.Replace(small, "form: join", "form: other", 1))},
	})
	require.NoError(t, err)
	require.Equal(t, "ost", p.Site.Site)
	require.Len(t, p.Forms, 2)
	_, err = spec.ReadProject([]spec.File{{Name: "a.yaml", Text: []byte(small)}, {Name: "b.yaml", Text: []byte(small)}})
	require.ErrorContains(t, err, `b.yaml:1:1: form: the form "join" is described twice`)
}

func TestExampleProjectIsReadable(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../../examples/ostlewick/join.yaml")
	require.NoError(t, err)
	_, err = spec.ReadForm("join.yaml", text)
	require.NoError(t, err)
}

func FuzzReadForm(f *testing.F) {
	f.Add([]byte(small))
	f.Add([]byte(`{"form": "a", "fields": [{"rules": [null]}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		form, err := spec.ReadForm("f.yaml", text)
		if err == nil && form.Form == "" {
			t.Fatal("a form without an id was read")
		}
	})
}
