package spec_test

import (
	"testing"

	"cel.dev/cel-go/cel"

	"oddtick/core/expression"
	"oddtick/core/spec"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

const patch = `
form: patch
page: /patch
fields:
  - {id: crop, name: crop, kind: single_choice, options: [{value: bean}, {value: leek}, {value: kale}]}
  - {id: beds, name: beds, kind: number}
  - {id: shade, name: shade, kind: checkbox, value: "1"}
  - {id: note, name: note}
accepted: {status: 303}
`

func patchForm(t require.TestingT) *spec.Prepared {
	f, err := spec.ReadForm("patch.yaml", []byte(patch))
	require.NoError(t, err)
	p, err := f.Prepare()
	require.NoError(t, err)
	return p
}

func TestConditionsShareTheirAtoms(t *testing.T) {
	p := patchForm(t)
	_, atoms, err := p.Conditions(`crop == "bean" && (beds <= 2 || shade)`, `crop != "bean" || beds > 2 || note.startsWith("a")`)
	require.NoError(t, err)
	var texts []string
	for _, a := range atoms {
		texts = append(texts, a.Text)
	}
	assert.Equal(t, []string{`crop == "bean"`, `beds <= 2`, `shade`, `note.startsWith("a")`}, texts)
	assert.Equal(t, []*spec.PreparedField{p.Field("beds")}, atoms[1].Names)
	truth, known := atoms[1].True(map[string]any{"beds": 1.5})
	assert.True(t, truth && known, "numbers with decimals compare too")
	_, known = atoms[1].True(map[string]any{})
	assert.False(t, known, "what is blank cannot be compared")
}

// The condition over its atoms and CEL over the values say the same of every input.
func TestConditionsAgreeWithTheExpression(t *testing.T) {
	p := patchForm(t)
	env, err := cel.NewEnv(cel.Variable("crop", cel.StringType), cel.Variable("beds", cel.DynType), cel.Variable("shade", cel.BoolType), cel.Variable("note", cel.StringType))
	require.NoError(t, err)
	leaves := []string{`crop == "bean"`, `crop != "leek"`, `beds <= 2`, `beds > 2`, `beds == 3`, `shade`, `note == ""`, `true`, `false`}
	rapid.Check(t, func(t *rapid.T) {
		var build func(depth int) string
		build = func(depth int) string {
			kind := rapid.IntRange(0, 5).Draw(t, "kind")
			if depth == 0 || kind < 2 {
				return rapid.SampledFrom(leaves).Draw(t, "leaf")
			}
			switch kind {
			case 2:
				return "(" + build(depth-1) + " && " + build(depth-1) + ")"
			case 3:
				return "(" + build(depth-1) + " || " + build(depth-1) + ")"
			case 4:
				return "!(" + build(depth-1) + ")"
			}
			return "(" + build(depth-1) + " ? " + build(depth-1) + " : " + build(depth-1) + ")"
		}
		text := build(4)
		conditions, atoms, err := p.Conditions(text)
		require.NoError(t, err)
		checked, issues := env.Compile(text)
		require.NoError(t, issues.Err())
		whole, err := expression.New(env, checked, text)
		require.NoError(t, err)
		vars := map[string]any{
			"crop": rapid.SampledFrom([]string{"bean", "leek", "kale"}).Draw(t, "crop"), "beds": int64(rapid.IntRange(1, 4).Draw(t, "beds")),
			"shade": rapid.Bool().Draw(t, "shade"), "note": rapid.SampledFrom([]string{"", "a"}).Draw(t, "note"),
		}
		want, ok := whole.Eval(vars)
		require.True(t, ok)
		got := conditions[0].Holds(func(i int) bool {
			truth, known := atoms[i].True(vars)
			require.True(t, known)
			return truth
		})
		require.Equal(t, want, got, "%s with %v", text, vars)
	})
}
