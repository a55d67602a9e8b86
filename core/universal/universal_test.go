package universal_test

import (
	"encoding/base64"
	"slices"
	"strings"
	"testing"

	"oddtick/core/judge"
	"oddtick/core/observation"
	"oddtick/core/oracle"
	"oddtick/core/schema"
	"oddtick/core/spec"
	"oddtick/core/submission"
	"oddtick/core/universal"

	"github.com/stretchr/testify/require"
)

const shedForm = `
form: shed
page: /sheds/new
fields:
  - {name: shed_name, id: name, label: Name}
  - {name: code, id: code, label: Code}
  - {name: height, id: height, label: Height, kind: number}
  - {name: built, id: built, label: Built on, kind: date}
  - {name: opens, id: opens, label: Opens at, kind: time}
  - {name: key, id: key, label: Key word, kind: password}
`

func shed(t *testing.T) *spec.Prepared {
	t.Helper()
	form, err := spec.ReadForm("shed.yaml", []byte(shedForm))
	require.NoError(t, err)
	p, err := form.Prepare()
	require.NoError(t, err)
	return p
}

// made is a submission of the shed form with values by request name, a row as it was written (nil for none), and an ending. It is answered by
// a redirect where it was accepted, and by the page with the form where it was not.
func made(t *testing.T, ending universal.Ending, values map[string]string, row map[string]string) *universal.Submitted {
	t.Helper()
	form := &observation.Form{Method: "POST", Controls: []observation.Control{{Name: "token", Type: "hidden", Value: "abc"}}}
	after := &observation.Form{Method: "POST", Controls: []observation.Control{{Name: "token", Type: "hidden", Value: "def"}}}
	sent := &submission.Submission{Encoding: "urlencoded", Pairs: []submission.Pair{{Name: "token", Value: "abc"}}}
	for _, name := range []string{"shed_name", "code", "height", "built", "opens", "key"} {
		value, is := values[name]
		if !is {
			continue
		}
		sent.Pairs = append(sent.Pairs, submission.Pair{Name: name, Value: value})
		form.Controls = append(form.Controls, observation.Control{Name: name, Type: "text"})
		again := observation.Control{Name: name, Type: "text", Value: value}
		if name == "key" {
			again.Value = ""
		}
		after.Controls = append(after.Controls, again)
	}
	o := &observation.Step{Sent: sent, Watched: []string{"sheds"}, Before: &observation.Page{Form: form}}
	first := observation.Exchange{Method: "POST", URL: "http://127.0.0.1/sheds", Status: 303, Location: "http://127.0.0.1/sheds", ResponseHeader: []observation.Header{{Name: "Content-Type", Value: "text/html"}}}
	o.Exchanges = []observation.Exchange{first, {Method: "GET", URL: "http://127.0.0.1/sheds", Status: 200, ResponseHeader: first.ResponseHeader}}
	if ending == universal.Rejected {
		first.Status, first.Location = 422, ""
		o.Exchanges = []observation.Exchange{first}
		o.After = &observation.Page{Form: after, Texts: []observation.Text{{Text: "Too long.", Field: "shed_name", Linked: true}}}
	}
	if row != nil {
		change := observation.Change{Table: "sheds", Kind: observation.Inserted, Key: values["shed_name"]}
		for _, column := range []string{"name", "code", "height", "built", "opens", "key_hash", "note"} {
			if value, is := row[column]; is {
				change.After = append(change.After, observation.Cell{Column: column, Value: value})
			}
		}
		o.Changes = []observation.Change{change}
	}
	columns := map[string]string{"name": "sheds.name", "code": "sheds.code", "height": "sheds.height", "built": "sheds.built", "opens": "sheds.opens"}
	return &universal.Submitted{Form: shed(t), Step: o, Ending: ending, Columns: columns}
}

// broken are the promises that are broken, each with the field that it is about.
func broken(list []universal.Unusual) []string {
	out := []string{}
	for _, u := range list {
		out = append(out, strings.TrimSpace(string(u.Promise)+" "+u.Field))
	}
	slices.Sort(out)
	return out
}

func TestAnOrdinarySubmissionIsNotUnusual(t *testing.T) {
	t.Parallel()
	good := made(t, universal.Accepted, map[string]string{"shed_name": " Fern  Shed ", "code": "007", "height": "2.50", "built": "1974-03-07", "opens": "09:30", "key": "Fern-4711-moss"},
		map[string]string{"name": "fern shed", "code": "007", "height": "2.5", "built": "1974-03-07 00:00:00", "opens": "9:30:00", "key_hash": "$2a$10$abcdefghijklmnopqrstuvwxyzabcdefghijklmnopqrstuvwxyzabcde"})
	require.Empty(t, universal.Step(good))
	require.Empty(t, universal.Several([]*universal.Submitted{good}))
	refused := made(t, universal.Rejected, map[string]string{"shed_name": "x", "code": "7", "key": "Fern-4711-moss"}, nil)
	require.Empty(t, universal.Step(refused))
}

func TestWhatIsStoredOtherwiseThanItWasAccepted(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ field, column, sent, stored, want string }{
		{"shed_name", "name", "Fern shed by the brook", "Fern shed", "stored_cut name"},
		{"shed_name", "name", "one\r\ntwo", "one\ntwo", ""},
		{"shed_name", "name", "moss \U0001F331 row", "moss ? row", "stored_altered name"},
		{"shed_name", "name", "Fern & Moss", "Fern &amp; Moss", "stored_altered name"},
		{"code", "code", "007", "7", "stored_altered code"},
		{"code", "code", "OS-4711", "OS4711", ""},
		{"code", "code", "0.50", "0.5", ""},
		{"code", "code", "2,125", "2.1", "stored_rounded code"},
		{"height", "height", "2.5", "2", "stored_rounded height"},
		{"height", "height", "2,5", "2.50", ""},
		{"built", "built", "1974-03-07", "1974-07-03", "stored_other_day built"},
		{"opens", "opens", "09:30", "10:30:00", "stored_other_time opens"},
	} {
		s := made(t, universal.Accepted, map[string]string{c.field: c.sent}, map[string]string{c.column: c.stored})
		want := []string{}
		if c.want != "" {
			want = append(want, c.want)
		}
		require.Equal(t, want, broken(universal.Writes([]*universal.Submitted{s})), "%s became %s", c.sent, c.stored)
	}
}

func TestSecretsThatAreStoredOrShown(t *testing.T) {
	t.Parallel()
	const secret = "Fern-4711-moss"
	values := map[string]string{"shed_name": "a", "key": secret}
	for stored, want := range map[string]string{
		secret: "secret_stored_plain key",
		base64.StdEncoding.EncodeToString([]byte(secret)): "secret_stored_reversible key",
		"key is " + secret: "secret_stored_elsewhere key",
		"fa6164cfe5b5aa8b1ddd7e6bb2c8e8d9ec5f1cf7d2e8a8b9d3ac9b7a2a1f0b9e": "",
	} {
		got := broken(universal.Step(made(t, universal.Accepted, values, map[string]string{"key_hash": stored})))
		if want == "" {
			require.Empty(t, got, stored)
			continue
		}
		require.Equal(t, []string{want}, got, stored)
	}
	shown := made(t, universal.Accepted, values, nil)
	shown.Step.Exchanges[0].Location += "?key=" + secret
	require.Equal(t, []string{"secret_shown key"}, broken(universal.Step(shown)))
	shown.Step.Sent.Pairs = append(shown.Step.Sent.Pairs, submission.Pair{Name: "code", Value: "I like " + secret})
	require.Empty(t, universal.Step(shown), "it stands in another value, too")

	salted := func(key, salt string) *universal.Submitted {
		return made(t, universal.Accepted, map[string]string{"shed_name": key, "key": key}, map[string]string{"key_hash": "$2a$10$" + salt + "ghijklmnopqrstuvwxyzabcdefghijk"})
	}
	one, same, other := salted("Fern-4711-moss", "abcdefghijklmnopqrstuv"), salted("Moss-4711-fern", "abcdefghijklmnopqrstuv"), salted("Reed-4711-fern", "bbcdefghijklmnopqrstuv")
	require.Equal(t, []string{"secret_salt_shared key"}, broken(universal.Several([]*universal.Submitted{one, same})))
	require.Empty(t, universal.Several([]*universal.Submitted{one, other}))
}

func TestAnswersAndRejections(t *testing.T) {
	t.Parallel()
	values := map[string]string{"shed_name": "x", "code": "<b>moss", "key": "Fern-4711-moss"}
	for name, c := range map[string]struct {
		ending universal.Ending
		change func(s *universal.Submitted)
		want   []string
	}{
		"it fails":                   {universal.Unclear, func(s *universal.Submitted) { s.Step.Exchanges[0].Status = 500 }, []string{"server_error"}},
		"its inside is shown":        {universal.Accepted, func(s *universal.Submitted) { s.Step.Exchanges[1].Body = "Traceback (most recent call last)" }, []string{"internals_shown"}},
		"the redirect leads nowhere": {universal.Accepted, func(s *universal.Submitted) { s.Step.Exchanges[1].Status = 404 }, []string{"redirect_broken"}},
		"it is submitted by GET": {universal.Unclear, func(s *universal.Submitted) {
			s.Step.Exchanges[0].Method, s.Step.Changes = "GET", []observation.Change{{Table: "sheds"}}
		}, []string{"get_writes"}},
		"scripts can read the session":     {universal.Accepted, func(s *universal.Submitted) { setCookie(s, "sid=…; Path=/") }, []string{"session_cookie_readable"}},
		"they cannot":                      {universal.Accepted, func(s *universal.Submitted) { setCookie(s, "sid=…; HttpOnly") }, []string{}},
		"it is a token for scripts":        {universal.Accepted, func(s *universal.Submitted) { setCookie(s, "csrf_session=…") }, []string{}},
		"markup comes back as it was sent": {universal.Rejected, func(s *universal.Submitted) { s.Step.Exchanges[0].Body = "You sent <b>moss." }, []string{"markup_unescaped code"}},
		"nothing is said":                  {universal.Rejected, func(s *universal.Submitted) { s.Step.After.Texts = nil }, []string{"message_missing"}},
		"what is said cannot be seen":      {universal.Rejected, func(s *universal.Submitted) { s.Step.After.Texts[0].Hidden = true }, []string{"message_hidden"}},
		"all values are lost":              {universal.Rejected, func(s *universal.Submitted) { clearControls(s, "shed_name", "code") }, []string{"values_lost"}},
		"one value is lost":                {universal.Rejected, func(s *universal.Submitted) { clearControls(s, "code") }, []string{"values_lost code"}},
		"the wrong one is taken away":      {universal.Rejected, func(s *universal.Submitted) { s.Field = "code"; clearControls(s, "code") }, []string{}},
		"the secret is filled in again":    {universal.Rejected, func(s *universal.Submitted) { s.Step.After.Form.Control("key").Value = "Fern-4711-moss" }, []string{"secret_filled_in_again key"}},
		"the token is lost":                {universal.Rejected, func(s *universal.Submitted) { clearControls(s, "token") }, []string{"hidden_control_lost"}},
		"no page sends that":               {universal.Rejected, func(s *universal.Submitted) { s.Step.Sent.Forged = submission.AsLists; s.Step.After.Texts = nil }, []string{}},
	} {
		s := made(t, c.ending, values, nil)
		c.change(s)
		require.Equal(t, c.want, broken(universal.Step(s)), name)
	}
	page := made(t, universal.Accepted, values, map[string]string{"name": "x"})
	page.Step.Exchanges = page.Step.Exchanges[:1]
	page.Step.Exchanges[0].Status = 200
	require.Equal(t, []string{"reload_repeats"}, broken(universal.Step(page)))
	require.Empty(t, universal.Step(&universal.Submitted{Form: shed(t), Step: &observation.Step{}}), "nothing was sent")
}

func setCookie(s *universal.Submitted, line string) {
	s.Step.Exchanges[0].ResponseHeader = append(slices.Clone(s.Step.Exchanges[0].ResponseHeader), observation.Header{Name: "Set-Cookie", Value: line})
}

func clearControls(s *universal.Submitted, names ...string) {
	for _, name := range names {
		s.Step.After.Form.Control(name).Value = ""
	}
}

func TestWhatOnlySeveralSubmissionsShow(t *testing.T) {
	t.Parallel()
	values := map[string]string{"shed_name": "x", "code": "7"}
	rejected := func(field, at string, linked bool) *universal.Submitted {
		s := made(t, universal.Rejected, values, nil)
		s.Field = field
		s.Step.After.Texts = []observation.Text{{Text: "Wrong.", Field: at, Linked: linked}}
		return s
	}
	require.Equal(t, []string{"message_at_other_field code"}, broken(universal.Several([]*universal.Submitted{rejected("code", "shed_name", true), rejected("code", "shed_name", true)})))
	require.Empty(t, universal.Several([]*universal.Submitted{rejected("code", "shed_name", true)}), "once, it may be about another value")
	require.Empty(t, universal.Several([]*universal.Submitted{
		rejected("code", "shed_name", true), rejected("code", "shed_name", true), rejected("height", "shed_name", true), rejected("height", "shed_name", true),
	}), "it is the name that is wrong, whatever else is sent")
	require.Equal(t, []string{"message_not_linked code"}, broken(universal.Several([]*universal.Submitted{rejected("code", "code", false), rejected("name", "shed_name", true)})))
	require.Empty(t, universal.Several([]*universal.Submitted{rejected("code", "code", false)}), "none is linked")

	good := made(t, universal.Accepted, values, map[string]string{"name": "x"})
	bad := made(t, universal.Rejected, values, map[string]string{"name": "x"})
	require.Equal(t, []string{"rejected_and_stored"}, broken(universal.Several([]*universal.Submitted{good, bad})))
	silent := made(t, universal.Unclear, values, nil)
	require.Equal(t, []string{"accepted_and_not_stored"}, broken(universal.Several([]*universal.Submitted{good, silent})))

	five := made(t, universal.Accepted, map[string]string{"height": "5"}, map[string]string{"height": "5"})
	five.Field, five.Rule = "height", "height.range"
	require.Equal(t, []string{"page_limit_ignored height"}, broken(universal.Writes([]*universal.Submitted{five})))
	five.Step.Changes[0].After = nil
	require.Empty(t, universal.Writes([]*universal.Submitted{five}), "it does not count")

	several := made(t, universal.Accepted, values, map[string]string{"name": "x"})
	several.Step.Changes = []observation.Change{{Table: "sheds", Kind: observation.Changed, Key: "1"}, {Table: "sheds", Kind: observation.Changed, Key: "2"}}
	require.Equal(t, []string{"other_rows_changed"}, broken(universal.Writes([]*universal.Submitted{several})))
}

func TestUniqueValues(t *testing.T) {
	t.Parallel()
	db := &schema.Database{Tables: []schema.Table{{Name: "sheds", Columns: []schema.Column{{Name: "id"}, {Name: "name"}, {Name: "mail"}, {Name: "mail_key", Generated: "lower(mail)"}}, Primary: []string{"id"}, Uniques: []schema.Unique{{Columns: []string{"mail_key"}}}}}}
	require.Empty(t, universal.Unique(universal.Uniqueness{Field: "mail", Kind: spec.Email, Column: "sheds.mail"}, db))
	require.Equal(t, []string{"unique_but_for_capitals mail", "unique_but_for_spaces mail"}, broken(universal.Unique(universal.Uniqueness{Field: "mail", Kind: spec.Email, Column: "sheds.mail", InCapitals: true, WithSpaces: true}, db)))
	require.Equal(t, []string{"unique_without_index name"}, broken(universal.Unique(universal.Uniqueness{Field: "name", Kind: spec.Text, Name: "shed", Column: "sheds.name", InCapitals: true}, db)), "the name of a shed may differ in capitals")
	require.Equal(t, []string{"unique_but_for_capitals name"}, broken(universal.Unique(universal.Uniqueness{Field: "name", Kind: spec.Text, Name: "user-name", InCapitals: true}, nil)))
}

func TestAPageBeforeAnythingIsSubmitted(t *testing.T) {
	t.Parallel()
	form := &observation.FormOnPage{Fields: []observation.FieldOnPage{{Name: "a", Label: "A"}, {Name: "b"}, {Name: "c", Label: "C", LabelFrom: "placeholder"}, {Name: "d", Type: "hidden"}, {Name: "e", Honeypot: true}}}
	require.Equal(t, []string{"label_missing b", "label_missing c"}, broken(universal.Page(form, "en")))
	require.Equal(t, []string{"language_missing"}, broken(universal.Page(&observation.FormOnPage{}, "")))
}

func TestWhatADocumentSpeaksOfIsJudgedByItAlone(t *testing.T) {
	t.Parallel()
	list := []universal.Unusual{{Promise: universal.SecretPlain, Field: "key"}, {Promise: universal.ServerError}, {Promise: universal.ReloadRepeats}}
	require.Equal(t, list, universal.Unwritten(slices.Clone(list), &oracle.Expectation{}, &judge.Judgement{}))
	written := &judge.Judgement{Checks: []judge.Check{{Check: judge.Secrets, Verdict: judge.AsExpected}, {Check: judge.Outcome, Verdict: judge.AsExpected}}}
	require.Equal(t, []string{"reload_repeats", "server_error"}, broken(universal.Unwritten(slices.Clone(list), &oracle.Expectation{}, written)))
	written.Checks[1].Verdict = judge.Odd
	require.Empty(t, universal.Unwritten(slices.Clone(list), &oracle.Expectation{Status: 200}, written))
}

// TestThePromises: the documents' schema names each of them, and none twice.
func TestThePromises(t *testing.T) {
	t.Parallel()
	for _, p := range universal.Promises {
		known, is := universal.Of(p.ID)
		require.True(t, is)
		require.Equal(t, p, known, "no other has its name")
		require.Contains(t, judge.Checks, p.Check)
		_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nunusual: [{promise: "+string(p.ID)+", is: usual}]\n"))
		require.NoError(t, err, p.ID)
	}
	_, err := spec.ReadForm("f.yaml", []byte("form: f\npage: /\nunusual: [{promise: another, is: usual}]\n"))
	require.ErrorContains(t, err, "another")
	list := []universal.Unusual{{Promise: universal.ValuesLost}, {Promise: universal.SecretPlain}}
	require.Equal(t, []int{1, 0}, universal.Order(list))
	universal.Sort(list)
	require.Equal(t, universal.SecretPlain, list[0].Promise)
	require.Len(t, universal.Add(list, universal.Unusual{Promise: universal.SecretPlain, Sent: "another value"}), 2)
}
