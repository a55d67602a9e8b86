package draft_test

import (
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/spec"
	"oddtick/core/submission"

	"github.com/stretchr/testify/require"
)

// TestWhatAScriptSendsIsLearned: names by values, then by what they are called; what cannot be told is said.
func TestWhatAScriptSendsIsLearned(t *testing.T) {
	t.Parallel()
	form := &spec.Form{Form: "keys", Page: "/keys", Fields: []spec.Field{
		{ID: "full_name", Name: "fullName", Label: "Full name"},
		{ID: "mail", Name: "eMailAddress", Label: "E-mail address", Kind: spec.Email},
		{ID: "phone", Name: "telephone", Label: "Telephone", Kind: spec.Tel},
		{ID: "plot", Name: "plot", Label: "Plot", Kind: spec.SingleChoice, Options: []spec.Option{{Value: "Brook 4"}}},
		{ID: "accept", Name: "iAcceptTheRules", Label: "I accept the rules", Kind: spec.Checkbox},
		{ID: "size", Name: "size", Label: "Size"},
	}}
	step := &observation.Step{
		Before:    &observation.Page{URL: "http://sheds.test/keys", Form: &observation.Form{}},
		Exchanges: []observation.Exchange{{Method: "PUT", URL: "http://sheds.test/api/keys", Status: 201}},
		Left: &submission.Submission{Encoding: "json", Pairs: []submission.Pair{
			{Name: "email", Value: "fern@shed.test"}, {Name: "fullName", Value: "Fern"}, {Name: "phoneNumber", Value: "01632960123"}, {Name: "plot", Value: "b04"}, {Name: "rules", Value: "true"},
		}},
	}
	values := map[string][]string{"full_name": {"Fern"}, "mail": {"fern@shed.test"}, "phone": {"01632 960 123"}, "plot": {"Brook 4"}, "accept": {"on"}, "size": {"L"}}
	traced := draft.FromTrace(form, []draft.Probe{{Kind: draft.WatchProbe, Values: values, Step: step}}, nil, nil)
	require.Equal(t, 201, traced.Status)
	names := map[string]string{}
	for _, p := range draft.Propose(form, traced.Draft) {
		require.True(t, p.Chosen, p.Words)
		for _, e := range p.Edits {
			require.Equal(t, document.Set, e.Do)
			names[e.Path] = string(e.Value)
		}
	}
	require.JSONEq(t, `{"method":"PUT","to":"/api/keys","encoding":"json"}`, names["submit"])
	delete(names, "submit")
	require.Equal(t, map[string]string{"fields[mail].name": `"email"`, "fields[phone].name": `"phoneNumber"`, "fields[accept].name": `"rules"`}, names)
	var notes string
	for _, n := range traced.Draft.Notes {
		notes += string(n) + "\n"
	}
	require.Contains(t, notes, "Plot: the script sends b04 for Brook 4.")
	require.Contains(t, notes, "Size: nothing in the request is like it.")

	step.Exchanges, step.Left = nil, nil
	require.Contains(t, string(draft.FromTrace(form, []draft.Probe{{Kind: draft.WatchProbe, Values: values, Step: step}}, nil, nil).Draft.Notes[0]), "The page sent nothing for these values")
}
