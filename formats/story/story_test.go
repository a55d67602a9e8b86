package story_test

import (
	"strings"
	"testing"

	"oddtick/core/document"
	"oddtick/core/spec"
	"oddtick/formats/story"

	"github.com/stretchr/testify/require"
)

const form = `form: join
page: /join
fields:
  - {name: username, label: Username}
  - {name: mail, label: E-mail address, kind: email}
  - {name: pw, label: Password, kind: password}
  - {name: pw2, label: Password again, kind: password}
  - {name: born, label: Date of birth, kind: date}
  - {name: plots, label: Number of plots, kind: number}
  - {name: member_no, label: Membership number}
  - {name: rules, label: Rules of the association, kind: checkbox}
stored: [{insert: members, columns: {username: {from: username}}}]
`

const german = `form: join
page: /join
fields:
  - {name: nutzername, label: Nutzername}
  - {name: passwort, label: Passwort, kind: password}
  - {name: geboren, label: Geburtstag, kind: date}
  - {name: beete, label: Anzahl der Beete, kind: number}
`

func read(t *testing.T, document, text string) *story.Text {
	t.Helper()
	f, err := spec.ReadForm("", []byte(document))
	require.NoError(t, err)
	_, err = f.Prepare()
	require.NoError(t, err)
	got, err := story.Read(f, text)
	require.NoError(t, err)
	return got
}

// rules are what a text says of each field, as documents write it.
func rules(t *testing.T, of, text string) []string {
	t.Helper()
	var out []string
	for _, f := range read(t, of, text).Draft.Fields {
		for i := range f.Rules {
			out = append(out, f.ID+" "+string(document.Rule(&f.Rules[i].Rule)))
		}
	}
	return out
}

func TestWhatSentencesSayOfAField(t *testing.T) {
	t.Parallel()
	for text, want := range map[string][]string{
		"The username is required.":                    {`username {"required":{}}`},
		"Username: 3 to 20 letters, digits or hyphens": {`username {"length":{"min":3,"max":20}}`, `username {"characters":{"of":"a-zA-Z0-9\\-"}}`},
		"Usernames must not be taken already.":         {`username {"unique":{"column":"members.username"}}`},
		"The password has at least ten characters. It must contain a digit and a capital letter.": {`pw {"length":{"min":10}}`, `pw {"pattern":{"is":"(?=.*[A-Z])(?=.*[0-9]).*"}}`},
		"Password again must be the same as the password.":                                        {`pw2 {"same_as":{"field":"pw"}}`},
		"Date of birth: you must be 18 or over":                                                   {`born {"range":{"max":"today - 18 years"}}`},
		"You must be 16 or over to join.":                                                         {`born {"range":{"max":"today - 16 years"}}`},
		"The date of birth must not be in the future.":                                            {`born {"range":{"max":"today"}}`},
		"Number of plots: a whole number from 1 to 4":                                             {`plots {"step":{"by":1}}`, `plots {"range":{"min":1,"max":4}}`},
		"Membership number (format: OS-1234)":                                                     {`member_no {"pattern":{"is":"OS-\\d{4}"}}`},
		"The e-mail address must be a valid e-mail address, at most 190 characters.":              {`mail {"email":{}}`, `mail {"length":{"max":190}}`},
		"You must accept the Rules of the association.":                                           {`rules {"must_be_checked":{}}`},
		"The membership number is optional.":                                                      nil,
		"Nothing here is about a field with 3 to 20 characters.":                                  nil,
		"The usernames of 3 to 20 people were drawn.":                                             nil,
	} {
		require.Equal(t, want, rules(t, form, text), text)
	}
}

func TestWhatGermanSentencesSay(t *testing.T) {
	t.Parallel()
	for text, want := range map[string][]string{
		"Der Nutzername ist ein Pflichtfeld.":                                      {`nutzername {"required":{}}`},
		"Nutzername: 3 bis 20 Buchstaben, Ziffern oder Bindestriche":               {`nutzername {"length":{"min":3,"max":20}}`, `nutzername {"characters":{"of":"a-zA-Z0-9\\-"}}`},
		"Das Passwort hat mindestens zehn Zeichen. Es muss eine Ziffer enthalten.": {`passwort {"length":{"min":10}}`, `passwort {"pattern":{"is":"(?=.*[0-9]).*"}}`},
		"Geburtstag: mindestens 18 Jahre alt":                                      {`geboren {"range":{"max":"today - 18 years"}}`},
		"Die Anzahl der Beete ist eine ganze Zahl zwischen 1 und 4.":               {`beete {"step":{"by":1}}`, `beete {"range":{"min":1,"max":4}}`},
	} {
		require.Equal(t, want, rules(t, german, text), text)
	}
}

func TestCriteriaBelongTogether(t *testing.T) {
	t.Parallel()
	got := read(t, form, "Given I am on the page Join\nWhen I leave the username blank\nThen I see “Choose a username.”\n\nAnd something else.\n")
	require.Len(t, got.Sentences, 2)
	require.Equal(t, "username", got.Sentences[0].Field)
	require.Equal(t, 1, got.Sentences[0].Rules)
	require.Zero(t, got.Sentences[1].Rules)
	require.Equal(t, []string{`username {"required":{"message":"Choose a username."}}`}, rules(t, form, "When I leave the username blank\nThen I see “Choose a username.”"))
}

func TestALaterSentenceAddsItsMessage(t *testing.T) {
	t.Parallel()
	require.Equal(t, []string{`username {"required":{"message":"Choose a username."}}`}, rules(t, form, "The username is required. If the username cannot be blank, the message “Choose a username.” appears."))
}

func TestATextHasABound(t *testing.T) {
	t.Parallel()
	f, err := spec.ReadForm("", []byte(form))
	require.NoError(t, err)
	_, err = story.Read(f, strings.Repeat("a", story.MaxText+1))
	require.ErrorContains(t, err, "at most")
	got, err := story.Read(f, strings.Repeat("The username is required. ", story.MaxText/30))
	require.NoError(t, err)
	require.Len(t, got.Draft.Fields, 1)
	require.Len(t, got.Draft.Fields[0].Rules, 1)
}

func FuzzReadText(f *testing.F) {
	f.Add("The username has 3 to 20 letters.")
	f.Add("When\nGiven\nThen “")
	doc, err := spec.ReadForm("", []byte(form))
	require.NoError(f, err)
	f.Fuzz(func(t *testing.T, text string) {
		got, err := story.Read(doc, text)
		if err == nil {
			for _, s := range got.Sentences {
				require.NotEmpty(t, s.Text)
			}
		}
	})
}
