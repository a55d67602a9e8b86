package spec_test

import (
	"testing"

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
	require.Empty(t, spec.Differences(was, read(commented)))
	text, err := spec.Apply([]byte(commented), []spec.Edit{
		{Do: spec.Set, Path: "fields[who].rules[length].max", Value: []byte("60")},
		{Do: spec.Set, Path: "fields[who].label", Value: []byte(`"Your name"`)},
		{Do: spec.Remove, Path: "fields[who].rules[pattern]"},
		{Do: spec.Insert, Path: "fields[note].rules", Value: []byte(`{"length":{"max":500}}`), At: -1},
		{Do: spec.Insert, Path: "fields", Value: []byte(`{"name":"on","kind":"date"}`), At: -1},
		{Do: spec.Set, Path: "accepted.to", Value: []byte(`"/thanks"`)},
		{Do: spec.Move, Path: "fields[note]", At: 0},
	})
	require.NoError(t, err)
	require.Equal(t, []string{
		"Your name, label: “Your name” instead of “Name & \"title\"”",
		"Your name, length, max: 60 instead of 40",
		"Your name: the rule pattern is gone",
		"A long label: a new rule, length max: 500",
		"on: a new field",
		"the fields stand in another order",
		"accepted, to: “/thanks” instead of “/done”",
	}, spec.Differences(was, read(string(text))))
}
