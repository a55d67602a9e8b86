package document_test

import (
	"testing"

	"oddtick/core/document"
	"oddtick/core/prose"
	"oddtick/core/spec"

	"github.com/stretchr/testify/require"
)

func TestDifferencesInWords(t *testing.T) {
	t.Parallel()
	read := func(text string) *spec.Form {
		f, err := spec.ReadForm("f.yaml", []byte(text))
		require.NoError(t, err)
		return f
	}
	was := read(commented)
	require.Empty(t, document.Differences(was, read(commented)))
	text, err := document.Apply([]byte(commented), []document.Edit{
		{Do: document.Set, Path: "fields[who].rules[length].max", Value: []byte("60")},
		{Do: document.Set, Path: "fields[who].label", Value: []byte(`"Your name"`)},
		{Do: document.Remove, Path: "fields[who].rules[pattern]"},
		{Do: document.Insert, Path: "fields[note].rules", Value: []byte(`{"length":{"max":500}}`), At: -1},
		{Do: document.Insert, Path: "fields", Value: []byte(`{"name":"on","kind":"date"}`), At: -1},
		{Do: document.Set, Path: "accepted.to", Value: []byte(`"/thanks"`)},
		{Do: document.Move, Path: "fields[note]", At: 0},
	})
	require.NoError(t, err)
	require.Equal(t, []prose.Text{
		"Your name, label: “Your name” instead of “Name & \"title\"”",
		"Your name, length, max: 60 instead of 40",
		"Your name: rule pattern removed",
		"A long label: new rule length max: 500",
		"on: new field",
		"fields reordered",
		"accepted, to: “/thanks” instead of “/done”",
	}, document.Differences(was, read(string(text))))
}
