package draft_test

import (
	"testing"

	"oddtick/core/document"
	"oddtick/core/draft"
	"oddtick/core/observation"
	"oddtick/core/prose"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func number(n int) *int { return &n }

var onThePage = &observation.FormOnPage{
	Title: "Borrow", Method: "POST", Action: "http://site.test/borrow", Encoding: "multipart",
	Fields: []observation.FieldOnPage{
		{Name: "csrf", Type: "hidden", Token: true},
		{Name: "tool", Type: "text", Label: "Tool", LabelFrom: "label for", Required: true, MaxLength: number(6), Pattern: `[a-z]{3}-\d{2}`},
		{Name: "days", Type: "number", Label: "Days", Min: "1", Max: "14"},
		{Name: "size", Type: "select", Label: "Size", Options: []observation.OptionOnPage{{Label: "Choose", Value: ""}, {Label: "Small", Value: "s"}, {Label: "l", Value: "l", Selected: true}, {Label: "Gone", Value: "g", Disabled: true}}},
		{Name: "ok", Type: "checkbox", Label: "I agree", Value: "1", Required: true, Checked: true},
		{Name: "steward", Type: "text", ReadOnly: true, Value: "M. Pell"},
		{Name: "hp", Type: "text", Honeypot: true},
		{Name: "off", Type: "text", Label: "Old", Disabled: true},
		{Name: "", Type: "text", Label: "Nameless", Notes: []string{"It has no name."}},
		{Name: "picture", Type: "file", Accept: "image/png, .jpg"},
	},
}

func TestAPageBecomesADocument(t *testing.T) {
	t.Parallel()
	d := draft.FromPage(onThePage, "http://site.test/borrow?x=1")
	text := []byte("form: borrow\npage: /borrow\n")
	form := read(t, string(text))
	var err error
	for _, p := range draft.Propose(form, d) {
		require.NotEmpty(t, p.From, p.Words)
		if p.Chosen {
			text, err = document.Apply(text, p.Edits)
			require.NoError(t, err)
		}
	}
	require.Equal(t, `form: borrow
page: /borrow
title: Borrow
submit: {method: POST, to: /borrow, encoding: multipart}
token: csrf
fields:
  - id: tool
    name: tool
    label: Tool
    rules:
      - required: {layers: [browser, server]}
      - length: {layers: [browser, server], max: 6}
      - pattern: {layers: [browser, server], is: '[a-z]{3}-\d{2}'}
  - id: days
    name: days
    label: Days
    kind: number
    rules:
      - range: {layers: [browser, server], min: 1, max: 14}
      - step: {layers: [browser, server], by: 1, from: 1}
  - id: size
    name: size
    label: Size
    kind: single_choice
    options:
      - {label: Small, value: s}
      - {value: l}
    initial: l
  - id: ok
    name: ok
    label: I agree
    kind: checkbox
    value: "1"
    initial: "true"
    rules:
      - must_be_checked: {layers: [browser, server]}
  - {id: steward, name: steward, kind: readonly, initial: M. Pell}
  - {id: hp, name: hp, kind: honeypot}
  - id: picture
    name: picture
    kind: file
    rules:
      - file: {layers: [browser], types: [image/png, ".jpg"]}
`, string(text))
	require.Equal(t, []prose.Text{"Old is disabled and was left out.", "Nameless: It has no name."}, d.Notes)
	again := draft.Propose(read(t, string(text)), d)
	require.Len(t, again, 1, "what is there already is not proposed: %v", again)
	require.EqualValues(t, "page: /borrow?x=1", again[0].Words)
	require.True(t, again[0].Differs)
	require.False(t, again[0].Chosen, "nothing is overwritten unasked")
}

func TestWhatDiffersIsShownAndNotChosen(t *testing.T) {
	t.Parallel()
	form := read(t, "form: borrow\npage: /borrow?x=1\ntitle: Borrow it\nfields:\n  - {name: tool, label: Implement, rules: [{length: {id: b, layers: [browser], max: 8, in: utf-16_units}}]}\n")
	byWords := map[string]draft.Proposal{}
	for _, p := range draft.Propose(form, draft.FromPage(onThePage, "http://site.test/borrow?x=1")) {
		byWords[string(p.Words)] = p
	}
	title := byWords["title: Borrow"]
	require.True(t, title.Differs)
	require.EqualValues(t, "Borrow it", title.Was)
	require.False(t, title.Chosen)
	require.True(t, byWords["label: Tool"].Differs)
	length := byWords["Browser: at most 6 characters."]
	require.True(t, length.Differs)
	require.EqualValues(t, "Browser: at most 8 UTF-16 units.", length.Was)
	require.Equal(t, "fields[tool].rules[b].max", length.Edits[0].Path)
	days, known := byWords["a field: number; Browser and server: 1 to 14, a whole number."]
	require.True(t, known)
	require.True(t, days.Chosen)
}

// TestWhatAPageRepeatsAndCounts: a second secret must be the same; a length of any characters is counted as each layer counts; what
// a page says of its server never stands against what is promised there.
func TestWhatAPageRepeatsAndCounts(t *testing.T) {
	t.Parallel()
	page := &observation.FormOnPage{Method: "POST", Action: "http://site.test/crew", Fields: []observation.FieldOnPage{
		{Name: "secret", Type: "password", Label: "Passphrase", Required: true, MinLength: number(12)},
		{Name: "secret_confirmation", Type: "password", Label: "And again", Required: true},
		{Name: "berth", Type: "text", Label: "Berth", MaxLength: number(9)},
		{Name: "confirmed_by", Type: "text", Label: "Confirmed by"},
		{Name: "fit", Type: "checkbox", Label: "I confirm that I can swim", Required: true},
	}}
	text := []byte("form: crew\npage: /crew\nfields:\n  - {name: berth, label: Berth, rules: [{length: {max: 5}}]}\n")
	var err error
	for _, p := range draft.Propose(read(t, string(text)), draft.FromPage(page, "http://site.test/crew")) {
		require.NotContains(t, p.Edits[0].Path, "fields[berth].rules[length]")
		if text, err = document.Apply(text, p.Edits); err != nil {
			t.Fatal(err)
		}
	}
	for _, rule := range []string{
		"- required: {layers: [browser, server]}", "- length: {layers: [browser], min: 12, in: utf-16_units}", "- length: {min: 12}", "- same_as: {field: secret}",
		"- must_be_checked: {layers: [browser, server]}", "{length: {layers: [browser], max: 9, in: utf-16_units}}",
	} {
		require.Contains(t, string(text), rule)
	}
	require.NotContains(t, string(text), "same_as: {field: berth}")
}

// TestProposalsCanBeTakenInAnyChoice: each for itself and any of them together leave a document that can be read.
func TestProposalsCanBeTakenInAnyChoice(t *testing.T) {
	t.Parallel()
	const base = "form: borrow\npage: /borrow\nfields:\n  - {name: tool, label: Implement}\n"
	value := spec.Scalar("x")
	d := draft.FromPage(onThePage, "http://site.test/borrow")
	for _, c := range []string{"a", "b", "c"} {
		d.Columns = append(d.Columns, draft.Column{Table: "loans", Column: c, Source: spec.Source{Is: &value}, Sure: 1})
	}
	list := draft.Propose(read(t, base), d)
	rapid.Check(t, func(rt *rapid.T) {
		text := []byte(base)
		for i, p := range list {
			if !rapid.Bool().Draw(rt, "take") {
				continue
			}
			next, err := document.Apply(text, p.Edits)
			require.NoError(rt, err, "%d %s\n%s", i, p.Words, text)
			text = next
		}
		_, err := spec.ReadForm("f.yaml", text)
		require.NoError(rt, err, "%s", text)
	})
}

func TestLabelsInAnotherLanguage(t *testing.T) {
	t.Parallel()
	text := []byte("form: f\npage: /\nfields: [{name: tool, label: Tool}, {name: days, label: Days, labels: {de: Tage}}]\n")
	page := &observation.FormOnPage{Fields: []observation.FieldOnPage{{Name: "tool", Label: "Offeryn"}, {Name: "days", Label: "Dyddiau"}, {Name: "other", Label: "Arall"}}}
	list := draft.Propose(read(t, string(text)), draft.Labels(page, "http://site.test/cy", "cy"))
	require.Len(t, list, 2)
	var err error
	for _, p := range list {
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	form := read(t, string(text))
	require.Equal(t, map[string]string{"cy": "Offeryn"}, form.Fields[0].Labels)
	require.Equal(t, map[string]string{"cy": "Dyddiau", "de": "Tage"}, form.Fields[1].Labels)
}

// TestControlsOfOneName become a field each, once.
func TestControlsOfOneName(t *testing.T) {
	t.Parallel()
	page := &observation.FormOnPage{Title: "Knots", Method: "POST", Action: "http://site.test/knots", Fields: []observation.FieldOnPage{
		{Name: "knot[]", Type: "text", Label: "First knot"}, {Name: "knot[]", Type: "text", Label: "Second knot"},
	}}
	d := draft.FromPage(page, "http://site.test/knots")
	text := []byte("form: knots\npage: /knots\n")
	for _, p := range draft.Propose(read(t, string(text)), d) {
		var err error
		text, err = document.Apply(text, p.Edits)
		require.NoError(t, err)
	}
	form := read(t, string(text))
	require.Len(t, form.Fields, 2)
	require.Equal(t, []string{"First knot", "Second knot"}, []string{form.Fields[0].Label, form.Fields[1].Label})
	require.NotEqual(t, form.Fields[0].ID, form.Fields[1].ID)
	for _, p := range draft.Propose(form, d) {
		require.NotContains(t, string(p.Words), "knot", "read again, nothing of them is new")
	}
}
