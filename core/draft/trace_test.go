package draft_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

const shed = `form: f
page: /f
fields:
  - {name: who, label: Name}
  - {name: mail, kind: email, label: E-mail}
  - {name: pw, kind: password, label: Password}
  - {name: pw2, kind: password, label: Password again}
  - {name: days, kind: number, label: Days}
  - {name: on, id: day, kind: date, label: First day}
  - {name: size, kind: single_choice, label: Size, options: [{label: Small, value: s}, {label: Large, value: l}]}
  - {name: ok, kind: checkbox, label: Agreed}
  - {name: note, kind: textarea, label: Note}
`

var at = time.Date(2026, 6, 15, 12, 0, 0, 0, time.UTC)

// probe is a submission with what was seen of it.
func probe(kind draft.ProbeKind, values map[string][]string, status int, texts []observation.Text, changes ...observation.Change) draft.Probe {
	sub := &submission.Submission{}
	for _, id := range []string{"who", "mail", "pw", "pw2", "days", "day", "size", "ok", "note"} {
		for _, v := range values[id] {
			name := id
			if id == "day" {
				name = "on"
			}
			sub.Pairs = append(sub.Pairs, submission.Pair{Name: name, Value: v})
		}
	}
	x := observation.Exchange{Method: "POST", URL: "http://s.test/f", Status: status}
	if status == 303 {
		x.Location = "http://s.test/done"
	}
	return draft.Probe{Kind: kind, Values: values, Step: &observation.Step{
		Sent: sub, At: at, Exchanges: []observation.Exchange{x}, Before: &observation.Page{}, After: &observation.Page{Texts: texts, Form: &observation.Form{}}, Watched: []string{"t"}, Changes: changes,
	}}
}

func inserted(cells ...string) observation.Change {
	c := observation.Change{Table: "t", Kind: observation.Inserted, Key: "5"}
	for i := 0; i < len(cells); i += 2 {
		c.After = append(c.After, observation.Cell{Column: cells[i], Value: cells[i+1], Null: cells[i+1] == "NULL"})
	}
	return c
}

var sent = map[string][]string{
	"who": {" Moss Gate "}, "mail": {" Moss@bed.test "}, "pw": {"brook-side-42"}, "pw2": {"brook-side-42"}, "days": {"3"}, "day": {"2026-04-01"}, "size": {"l"}, "ok": {"on"}, "note": {""},
}

func fates(t *draft.Traced) map[string]string {
	out := map[string]string{}
	for _, f := range t.Fields {
		for _, s := range f.Stored {
			out[f.Field] = s.Column + ": " + string(s.Change)
		}
	}
	return out
}

// TestWhatHappenedToAValueOnItsWay: each change that sites make of values is told by its name.
func TestWhatHappenedToAValueOnItsWay(t *testing.T) {
	t.Parallel()
	row := inserted("id", "5", "name", "Moss Gate", "email", "moss@bed.test", "pass_hash", "$argon2id$v=19$x", "days", "3.00", "first_day", "2026-04-01 00:00:00", "size_label", "Large", "agreed", "1", "note", "NULL", "made", "2026-06-15 12:00:01", "role", "user")
	got := draft.FromTrace(read(t, shed), []draft.Probe{probe(draft.ValidProbe, sent, 303, nil, row)}, nil, nil)
	require.True(t, got.Accepted)
	require.Equal(t, map[string]string{
		"who": "t.name: trim", "mail": "t.email: trim, then lower", "pw": "t.pass_hash: stored argon2id", "days": "t.days: as the number 3.00", "day": "t.first_day: as 2026-04-01 00:00:00", "size": "t.size_label: the label of l",
		"ok": "t.agreed: checked as 1", "note": "t.note: blank as NULL",
	}, fates(got))
	rest := map[string]string{}
	for _, s := range got.UnmappedColumns {
		rest[s.Column] = string(s.Change)
	}
	require.Equal(t, map[string]string{"t.id": "the row's key", "t.made": "the time it was stored", "t.role": "not from a field; a constant?"}, rest)
	for _, c := range got.Draft.Columns {
		if c.Column == "role" {
			require.Less(t, c.Sure, 0.5, "one row does not make a constant")
		}
		if c.Column == "size_label" {
			require.Equal(t, "label", c.Source.Option)
		}
	}

	cut := inserted("name", "Moss", "email", "Moss@bed.test", "secret", "brook-side-42")
	got = draft.FromTrace(read(t, shed), []draft.Probe{probe(draft.ValidProbe, map[string][]string{"who": {"Moss Gate Brook"}, "mail": {"moss@bed.test"}, "pw": {"brook-side-42"}}, 303, nil, cut)}, nil, nil)
	require.Equal(t, "t.name: cut to 4 characters", fates(got)["who"])
	require.Equal(t, "t.email: changed: “moss@bed.test” sent, “Moss@bed.test” stored", fates(got)["mail"])
	require.Equal(t, "t.secret: stored in plain text", fates(got)["pw"])
	for _, f := range got.Fields {
		if f.Secret {
			require.Empty(t, f.Sent, "a secret is not shown")
		}
	}
}

func TestTheReplyIsWhatASecondLookDoesNotShow(t *testing.T) {
	t.Parallel()
	texts := []observation.Text{{Text: "Welcome, Moss Gate"}, {Text: "Opening hours"}}
	p := probe(draft.ValidProbe, sent, 303, texts, inserted("name", "Moss Gate"))
	p.Step.Shown = []observation.ShownAt{{Texts: []string{"Opening hours"}}}
	got := draft.FromTrace(read(t, shed), []draft.Probe{p}, nil, nil)
	require.Equal(t, "Welcome, {who}", got.Reply)
	require.Equal(t, "/done", got.To)
}

func at2(field, text string) observation.Text {
	return observation.Text{Text: text, Field: field, Alarm: true, Linked: true}
}

// TestWhatIsSaidForBlankWrongAndTheSameAgain becomes rules with their messages.
func TestWhatIsSaidForBlankWrongAndTheSameAgain(t *testing.T) {
	t.Parallel()
	blank := probe(draft.BlankProbe, map[string][]string{"who": {""}}, 422, []observation.Text{at2("who", "Who?"), at2("ok", "Please agree."), at2("pw", "A password.")})
	wrong := probe(draft.WrongProbe, map[string][]string{"who": {"?"}, "mail": {"no address"}, "days": {"many"}, "day": {"soon"}}, 422, []observation.Text{at2("mail", "No address."), at2("days", "No number."), at2("on", "No day."), at2("size", "Not offered."), at2("who", "Use letters.")})
	differs := probe(draft.DiffersProbe, sent, 422, []observation.Text{at2("pw2", "They differ.")})
	valid := probe(draft.ValidProbe, sent, 303, nil, inserted("id", "5", "name", "Moss Gate", "email", "moss@bed.test"))
	again := probe(draft.AgainProbe, sent, 422, []observation.Text{at2("mail", "Taken.")})
	got := draft.FromTrace(read(t, shed), []draft.Probe{blank, wrong, differs, valid, again}, nil, nil)
	rules := map[string][]string{}
	for _, f := range got.Draft.Fields {
		for i := range f.Rules {
			rules[f.ID] = append(rules[f.ID], string(document.Rule(&f.Rules[i].Rule)))
		}
	}
	require.Equal(t, map[string][]string{
		"who": {`{"required":{"message":"Who?"}}`}, "pw": {`{"required":{"message":"A password."}}`}, "ok": {`{"must_be_checked":{"message":"Please agree."}}`}, "pw2": {`{"same_as":{"field":"pw","message":"They differ."}}`},
		"mail": {`{"email":{"message":"No address."}}`, `{"unique":{"column":"t.email","message":"Taken."}}`}, "days": {`{"number":{"message":"No number."}}`}, "day": {`{"date":{"message":"No day."}}`}, "size": {`{"one_of_options":{"message":"Not offered."}}`},
	}, rules)
	said := map[string]any{}
	for _, s := range got.Draft.Form {
		said[s.Path] = s.Value
	}
	require.Equal(t, 422, said["rejected.status"])
	require.Equal(t, "field", said["rejected.place"])
	require.Equal(t, true, said["rejected.linked"])
	require.Contains(t, got.Draft.Notes[0], "Message “Use letters.” appeared for “?” in Name")
}

// TestWhatIsSaidBeyondALimit is the message of the rule that the value breaks; two messages of one rule are left to the tester.
func TestWhatIsSaidBeyondALimit(t *testing.T) {
	t.Parallel()
	form := read(t, "form: f\npage: /\nfields:\n  - {name: who, label: Name, rules: [{length: {layers: [browser, server], min: 2, max: 5}}, {pattern: {is: '[a-z]+'}}]}\n  - {name: born, label: Born, kind: number, rules: [{range: {min: 1920, max: 2010}}]}\n")
	limit := func(who, born, of string, texts ...observation.Text) draft.Probe {
		p := probe(draft.LimitProbe, map[string][]string{"who": {who}, "born": {born}}, 422, texts)
		p.Breaks = map[string]string{"who": of, "born": "born.range"}
		return p
	}
	got := draft.FromTrace(form, []draft.Probe{
		limit("a", "1919", "who.length", at2("who", "2 to 5."), at2("born", "Too old.")), limit("abcdef", "2011", "who.length", at2("who", "2 to 5."), at2("born", "Too young.")),
		limit("a1", "2011", "who.pattern", at2("who", "Letters only.")),
	}, nil, nil)
	text := []byte("form: f\npage: /\nfields:\n  - {name: who, label: Name, rules: [{length: {layers: [browser, server], min: 2, max: 5}}, {pattern: {is: '[a-z]+'}}]}\n  - {name: born, label: Born, kind: number, rules: [{range: {min: 1920, max: 2010}}]}\n")
	var err error
	for _, p := range draft.Propose(form, got.Draft) {
		require.True(t, p.Chosen, p.Words)
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	require.Contains(t, string(text), "rules: [{length: {layers: [browser, server], min: 2, max: 5, message: \"2 to 5.\"}}, {pattern: {is: '[a-z]+', message: Letters only.}}]}")
	require.Contains(t, string(text), "{range: {min: 1920, max: 2010}}")
	require.Len(t, got.Draft.Notes, 2, "%v", got.Draft.Notes)
	require.Contains(t, got.Draft.Notes[1], "“Too young.” appeared beyond one of the two limits of Born")
}

// TestASiteThatTakesWhatItShouldRefuse is traced by what it took: the valid values may be refused after that, as taken.
func TestASiteThatTakesWhatItShouldRefuse(t *testing.T) {
	t.Parallel()
	wrongly := maps.Clone(sent)
	wrongly["pw2"] = []string{"another one"}
	differs := probe(draft.DiffersProbe, wrongly, 303, nil, inserted("id", "5", "name", "Moss Gate", "email", "moss@bed.test"))
	valid := probe(draft.ValidProbe, sent, 422, []observation.Text{at2("mail", "Taken.")})
	got := draft.FromTrace(read(t, shed), []draft.Probe{differs, valid, probe(draft.AgainProbe, sent, 422, []observation.Text{at2("mail", "Taken.")})}, nil, nil)
	require.True(t, got.Accepted)
	require.Equal(t, "t.name: trim", fates(got)["who"])
	require.EqualValues(t, "The site accepted a Password again that is not the same as Password.", got.Draft.Notes[0])
	at := slices.IndexFunc(got.Draft.Fields, func(f draft.Field) bool { return f.ID == "mail" })
	require.Equal(t, `{"unique":{"column":"t.email","message":"Taken."}}`, string(document.Rule(&got.Draft.Fields[at].Rules[0].Rule)))
}

func TestARejectedTraceProposesNothingOfAcceptance(t *testing.T) {
	t.Parallel()
	got := draft.FromTrace(read(t, shed), []draft.Probe{probe(draft.ValidProbe, sent, 422, []observation.Text{at2("who", "Too short.")})}, nil, nil)
	require.False(t, got.Accepted)
	require.Equal(t, []draft.SeenMessage{{Field: "who", Text: "Too short.", Linked: true}}, got.Messages)
	require.Empty(t, got.Draft.Form)
	require.Empty(t, got.Draft.Columns)
}

// TestAReplyIsProposedWithPlaces: for values of fields, and for what the site made anew.
func TestAReplyIsProposedWithPlaces(t *testing.T) {
	t.Parallel()
	for said, want := range map[string]string{
		"Thank you, Moss Gate. Your code is 9f86d081884c7d65.": "Thank you, {who}. Your code is {any}.",
		"Bed 1042 is yours.": "Bed {any} is yours.",
		"9f86d081884c7d65":   "",
	} {
		got := draft.FromTrace(read(t, shed), []draft.Probe{probe(draft.ValidProbe, sent, 303, []observation.Text{{Text: said}}, inserted("id", "5", "name", "Moss Gate"))}, nil, nil)
		require.Equal(t, want, got.Reply, said)
	}
}

// TestWhereATraceLeads: what the site makes anew has places, the key of the row that the form writes by its name.
func TestWhereATraceLeads(t *testing.T) {
	t.Parallel()
	const stored = "stored: [{insert: t, columns: {name: {from: who}}}]\n"
	for _, c := range []struct{ more, to, want string }{
		{stored, "/done", "/done"},
		{stored, "/beds/5/edit?new=1#top", "/beds/{key}/edit?new=1"},
		{"", "/beds/5/edit", "/beds/{any}/edit"},
		{stored, "/beds/9f86d081884c7d65/5?bed=5", "/beds/{any}/{key}"},
		{stored, "/5", ""},
	} {
		p := probe(draft.ValidProbe, sent, 303, nil, inserted("id", "5", "name", "Moss Gate"))
		p.Step.Exchanges[0].Location = "http://s.test" + c.to
		got := draft.FromTrace(read(t, shed+c.more), []draft.Probe{p}, nil, nil)
		said := ""
		for _, s := range got.Draft.Form {
			if s.Path == "accepted.to" {
				said = fmt.Sprint(s.Value)
			}
		}
		require.Equal(t, c.want, said, c.to)
	}
}
