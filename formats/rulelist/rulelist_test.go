package rulelist_test

import (
	"errors"
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/spec"
	"oddtick/formats/csvfile"
	"oddtick/formats/rulelist"

	"github.com/stretchr/testify/require"
)

const sheet = "\ufeffField;Technical name;Type;Mandatory;Min length;Max length;Regex;Options;Error message;DB column;Unique\r\n" +
	"User name;user;;yes;3;20;^[a-z]+$;;\"Use letters; 3 to 20.\";members.login;yes\r\n" +
	"Area;area;dropdown;no;;;;East=e|West=w;;members.area;\r\n" +
	";;;;;;;;;;\r\n" +
	"E-mail;mail;e-mail;x;;190;;;;members.mail;\r\n"

func TestASheetBecomesFields(t *testing.T) {
	t.Parallel()
	l, err := rulelist.Parse(sheet, nil)
	require.NoError(t, err)
	require.Equal(t, []string{"label", "request name", "kind", "required", "least length", "greatest length", "pattern", "options", "message", "stored in", "unique"}, l.Columns)
	require.Equal(t, "User name", l.First[0])
	form, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\n"))
	require.NoError(t, err)
	text := []byte("form: f\npage: /\n")
	for _, p := range draft.Propose(form, l.Draft) {
		require.True(t, p.Chosen, p.Words)
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	require.Equal(t, `form: f
page: /
fields:
  - id: user
    name: user
    label: User name
    rules:
      - required: {}
      - length: {min: 3, max: 20, message: "Use letters; 3 to 20."}
      - pattern: {is: "[a-z]+", dialect: u, message: "Use letters; 3 to 20."}
      - unique: {column: members.login}
  - id: area
    name: area
    label: Area
    kind: single_choice
    options:
      - {label: East, value: e}
      - {label: West, value: w}
  - id: mail
    name: mail
    label: E-mail
    kind: email
    rules:
      - required: {}
      - length: {max: 190}
      - email: {}
stored:
  - insert: members
    columns:
      login: {from: user}
      area: {from: area}
      mail: {from: mail}
`, string(text))
	_, err = spec.ReadForm("f.yaml", text)
	require.NoError(t, err)
}

func TestTheColumnsCanBeChosen(t *testing.T) {
	t.Parallel()
	l, err := rulelist.Parse("a,b\nx,y\n", []string{"", "request name"})
	require.NoError(t, err)
	require.Equal(t, "y", l.Draft.Fields[0].Name)
	l, err = rulelist.Parse("a,b\nx,y\n", nil)
	require.NoError(t, err)
	require.Contains(t, l.Draft.Notes[0], "choose the one that does")
}

func TestWhatIsWrongIsSaidWithItsLine(t *testing.T) {
	t.Parallel()
	for text, says := range map[string]string{
		"":                              "line 1: the list is empty",
		"name,max length\na,long\n":     `line 2: "long" is not a length`,
		"name,kind\na,text\nb,colour\n": `line 3: the kind "colour" is not known`,
		"name,x\n\"a,b\n":               "line 2: extraneous or missing",
		"name,unique\na,yes\n":          "line 2: a unique value needs its column",
		"name\n\xff\xfe\n":              "line 1: the text is not UTF-8",
	} {
		_, err := rulelist.Parse(text, nil)
		var wrong *csvfile.Error
		require.True(t, errors.As(err, &wrong), "%q: %v", text, err)
		require.Contains(t, err.Error(), says)
	}
	_, err := rulelist.Parse("a\nb\n", []string{"colour"})
	require.ErrorContains(t, err, "a column cannot hold")
}

func FuzzReadList(f *testing.F) {
	f.Add(sheet)
	f.Add("name\tkind\na\tb")
	f.Fuzz(func(t *testing.T, text string) {
		l, err := rulelist.Parse(text, nil)
		if err == nil && l.Draft == nil {
			t.Fatal("neither a draft nor an error")
		}
	})
}

func TestTheSignBetweenColumnsIsFound(t *testing.T) {
	t.Parallel()
	for _, sign := range []string{",", ";", "\t", "|"} {
		l, err := rulelist.Parse("name"+sign+"max length\na"+sign+"9\n", nil)
		require.NoError(t, err)
		require.Equal(t, []string{"request name", "greatest length"}, l.Columns, "%q", sign)
		require.Equal(t, 9, *l.Draft.Fields[0].Rules[0].Rule.Length.Max)
	}
}

func TestLinesBetweenFieldsArePassedOver(t *testing.T) {
	t.Parallel()
	l, err := rulelist.Parse("name,required\na,yes\n,\n,no\nb,no\n", nil)
	require.NoError(t, err)
	require.Len(t, l.Draft.Fields, 2)
	require.Empty(t, l.Draft.Fields[1].Rules)
}
